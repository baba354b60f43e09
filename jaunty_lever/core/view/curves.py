"""Curves of parameters over a whole scene, those of a chain's outputs, and what its stations tell."""

from collections.abc import Callable
from typing import Any

import numpy as np

from ..display.channels import Channel, channel
from ..display.matrices import world_matrix
from ..document.index import ParameterNode
from ..edits.base import with_parameter
from ..evaluation.notes import notes
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.trains import turns_a_minute
from .channels_sent import ChannelsSent
from .question import Curves


def _result(sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> Channel:
    return channel(sampler.track(node.id, samples))


def _source(sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> Channel:
    return channel(sampler.output(node, 0, samples)[0])


def _awake(sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> Channel:
    chain = tuple(modifier.changed(bypassed=False) for modifier in node.parameter.chain)
    awake = with_parameter(sampler.scene, node.id, bypassed=False, chain=chain)
    return channel(Sampler(awake, sampler.cache).track(node.id, samples))


def _turning(sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> Channel | None:
    return channel(turns_a_minute(sampler, node.id, samples)) if node.spec.kind == "angle" else None


_WAYS: dict[str, Callable[[Sampler, ParameterNode, SampleTimes], Channel | None]] = {
    "result": _result,
    "source": _source,
    "awake": _awake,
    "turning": _turning,
}


def curves(sampler: Sampler, asked: Curves, samples: SampleTimes, sent: ChannelsSent) -> dict[str, dict[str, str]]:
    """By what was asked and by parameter, the channel's hash; what is not there is left out."""
    made: dict[str, dict[str, str]] = {}
    for name, way in _WAYS.items():
        found = made[name] = {}
        for parameter in getattr(asked, name):
            node = sampler.index.parameters.get(parameter)
            one = way(sampler, node, samples) if node else None
            if one is not None:
                found[parameter] = sent.put(one)
    return made


def chain(sampler: Sampler, chosen: str | None, samples: SampleTimes, sent: ChannelsSent) -> dict[str, Any] | None:
    """The chosen parameter's chain: what each station gives, what it tells, and a text parameter's runs."""
    if chosen is None or chosen not in sampler.index.parameters:
        return None
    told = [
        [
            {"text": note.text, "warn": note.warn, "mends": [[mend.label, list(mend.edits)] for mend in note.mends]}
            for note in some
        ]
        for some in notes(sampler, chosen)
    ]
    outputs = [sent.put(channel(values)) for values in sampler.chain_outputs(chosen, samples)]
    return {"parameter": chosen, "outputs": outputs, "notes": told, "texts": _texts(sampler, chosen, samples)}


def _texts(sampler: Sampler, chosen: str, samples: SampleTimes) -> list[Any] | None:
    """A text parameter's runs: [first frame, text], as far as they can be told apart at a glance."""
    if sampler.index.parameters[chosen].spec.kind != "text":
        return None
    words, which = sampler.texts(chosen, samples)
    starts = [0, *(np.flatnonzero(np.diff(which)) + 1).tolist()]
    return [[k, words[which[k]]] for k in starts[:2000]]


def path(sampler: Sampler, layer: str | None, samples: SampleTimes, sent: ChannelsSent) -> str | None:
    """Where the layer's pivot is on the stage, at every frame: x y."""
    if layer is None or layer not in sampler.index.layers:
        return None
    a, b, c, d, e, f = world_matrix(sampler, layer, samples).T
    x, y = sampler.track(f"{layer}.pivot", samples).T
    return sent.put(channel(np.stack(np.broadcast_arrays(a * x + c * y + e, b * x + d * y + f), axis=1)))
