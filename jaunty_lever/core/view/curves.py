"""Curves of parameters over a whole scene, those of a chain's outputs, and what its stations tell."""

from collections.abc import Callable
from typing import Any

import numpy as np

from ..display.channels import Channel, channel
from ..document.nodes import ParameterNode
from ..document.notes import Note
from ..edits.base import with_parameter
from ..evaluation.notes import beyond_ends, notes
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.trains import turns_a_minute
from ..geometry.matrices import applied
from .copies import MOST_BARS, Copies, spread_of, whole
from .question import Curves
from .sending import Sending


def _result(sampler: Sampler, node: ParameterNode, samples: SampleTimes, shown: Copies) -> Channel:
    return channel(sampler.evaluate(node.id, shown.of(sampler, node, samples))[0])


def _source(sampler: Sampler, node: ParameterNode, samples: SampleTimes, shown: Copies) -> Channel:
    return channel(sampler.after(node.id, 0, shown.of(sampler, node, samples))[0])


def _awake(sampler: Sampler, node: ParameterNode, samples: SampleTimes, shown: Copies) -> Channel:
    chain = tuple(modifier.changed(bypassed=False) for modifier in node.parameter.chain)
    awake = Sampler(with_parameter(sampler.scene, node.id, bypassed=False, chain=chain), sampler.cache)
    return channel(awake.evaluate(node.id, shown.of(awake, node, samples))[0])


def _turning(sampler: Sampler, node: ParameterNode, samples: SampleTimes, shown: Copies) -> Channel | None:
    if node.spec.kind != "angle" or sampler.index.arrays_of(node):
        return None
    return channel(turns_a_minute(sampler, node.id, samples))


def _each(sampler: Sampler, node: ParameterNode, samples: SampleTimes, shown: Copies) -> Channel | None:
    if not sampler.index.arrays_of(node):
        return None
    where = shown.some(sampler, node, samples, MOST_BARS)
    return channel(whole(sampler.evaluate(node.id, where), where))


_WAYS: dict[str, Callable[[Sampler, ParameterNode, SampleTimes, Copies], Channel | None]] = {
    "result": _result,
    "source": _source,
    "awake": _awake,
    "turning": _turning,
    "each": _each,
}


def curves(
    sampler: Sampler, asked: Curves, samples: SampleTimes, shown: Copies, sent: Sending
) -> dict[str, dict[str, str]]:
    """By what was asked and by parameter, the channel's hash; what is not there is left out."""
    made: dict[str, dict[str, str]] = {}
    for name, way in _WAYS.items():
        found = made[name] = {}
        for parameter in getattr(asked, name):
            node = sampler.index.target(parameter)
            one = way(sampler, node, samples, shown) if node else None
            if one is not None:
                found[parameter] = sent.put(one)
    return made


def chain(
    sampler: Sampler, chosen: str | None, samples: SampleTimes, shown: Copies, spread: str, sent: Sending
) -> dict[str, Any] | None:
    """The chosen parameter's chain: what each station gives, what it tells, a text parameter's runs, and its copies."""
    if chosen is None or chosen not in sampler.index.parameters:
        return None
    told = [[_told(note) for note in some] for some in notes(sampler, chosen)]
    beyond = beyond_ends(sampler, chosen)
    node = sampler.index.parameters[chosen]
    where = shown.of(sampler, node, samples)
    if where is samples:
        outputs = [sent.put(channel(values)) for values in sampler.chain_outputs(chosen, samples)]
    else:
        outputs = [sent.put(channel(values[0])) for values in sampler.chain_of_copies(chosen, where)]
    return {
        "parameter": chosen,
        "outputs": outputs,
        "notes": told,
        "beyond": _told(beyond) if beyond is not None else None,
        "texts": _texts(sampler, chosen, where),
        "copies": spread_of(sampler, node, samples, shown, spread, sent),
    }


def _told(note: Note) -> dict[str, Any]:
    mends = [[mend.label, list(mend.edits)] for mend in note.mends]
    return {"text": note.text, "warn": note.warn, "mends": mends}


def _texts(sampler: Sampler, chosen: str, samples: SampleTimes) -> list[Any] | None:
    """A text parameter's runs: [first frame, text], as far as they can be told apart at a glance."""
    if sampler.index.parameters[chosen].spec.kind != "text":
        return None
    words, which = sampler.texts(chosen, samples)
    which = np.broadcast_to(which, (samples.shape[1],)) if len(which) == 1 else which
    starts = [0, *(np.flatnonzero(np.diff(which)) + 1).tolist()]
    return [[k, words[which[k]]] for k in starts[:2000]]


def path(sampler: Sampler, layer: str | None, samples: SampleTimes, shown: Copies, sent: Sending) -> str | None:
    """Where the layer's pivot is on the stage, at every frame: x y."""
    if layer is None or layer not in sampler.index.layers:
        return None
    where = shown.of(sampler, sampler.index.parameters[f"{layer}.pivot"], samples)
    pivot = sampler.evaluate(f"{layer}.pivot", where)
    x, y = applied(world_matrix(sampler, layer, where), pivot[..., 0], pivot[..., 1])
    return sent.put(channel(np.stack(np.broadcast_arrays(x, y), axis=-1)[0]))
