"""Pictures that cover the stage, and whose motion lets an edge show."""

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.layers import PictureLayer
from ..document.notes import Mend
from ..document.quantity import plain_number
from ..document.specs import specs_of
from ..edits.base import with_node
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .check import Check

SPARE = 1.002
"""A hair more than just enough."""


def needed(sampler: Sampler, layer: PictureLayer, samples: SampleTimes) -> NDArray[np.float64]:
    """By which factor the picture has to be scaled about its pivot to cover the stage, at each moment; (n,).

    1 and below: it covers. Infinity: no scale can, since the pivot itself has left the picture's plane.
    """
    scene = sampler.scene
    a, b, c, d, e, f = world_matrix(sampler, layer.id, samples)[0].T
    size = a * d - b * c
    pivot = sampler.track(f"{layer.id}.pivot", samples)
    most = np.zeros(1)
    with np.errstate(divide="ignore", invalid="ignore"):
        for x, y in ((0.0, 0.0), (scene.width, 0.0), (0.0, scene.height), (scene.width, scene.height)):
            inside = np.stack([(d * (x - e) - c * (y - f)) / size, (a * (y - f) - b * (x - e)) / size], axis=-1)
            for axis, half in ((0, layer.width / 2), (1, layer.height / 2)):
                away = inside[:, axis] - pivot[:, axis]
                room = np.where(away >= 0, half - pivot[:, axis], half + pivot[:, axis])
                most = np.maximum(most, np.where(away == 0, 0.0, np.where(room > 0, np.abs(away) / room, np.inf)))
    return np.where(size == 0, np.inf, most)


def _at_rest(sampler: Sampler, layer: PictureLayer) -> Sampler:
    still: dict[str, Any] = {
        n: p.changed(bypassed=True) for n in specs_of(type(layer)) if (p := getattr(layer, n)).chain
    }
    return Sampler(with_node(sampler.scene, layer.id, layer.changed(**still)))


def checks(sampler: Sampler) -> Iterator[Check]:
    """A check, with the scale that hides it, for every picture meant to cover the stage whose edge shows."""
    scene = sampler.scene
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    for layer in sampler.index.layers.values():
        if not isinstance(layer, PictureLayer) or layer.hidden or layer.beyond.constant_value != "nothing":
            continue
        first = SampleTimes(np.zeros(1))
        if needed(_at_rest(sampler, layer), layer, first)[0] > 1 + 1e-9:
            continue
        wanted = needed(sampler, layer, everywhere)
        most = float(wanted.max())
        if most <= 1 + 1e-9:
            continue
        frames = np.flatnonzero(wanted > 1 + 1e-9)
        share = f"{len(frames)} of {scene.length} frames" if len(wanted) > 1 else "all frames"
        mends: list[Mend] = []
        scale = layer.scale
        if np.isfinite(most) and not scale.chain and not scale.keys and isinstance(scale.rest, tuple):
            larger = tuple(float(np.ceil(v * most * SPARE * 100) / 100) for v in scale.rest)
            edit = {"kind": "set value", "parameter": f"{layer.id}.scale", "value": larger, "frame": 0}
            mends.append(Mend(f"Scale it to {plain_number(larger[0], 2)} %", (edit,)))
        mirrored = {"kind": "set value", "parameter": f"{layer.id}.beyond", "value": "mirrored", "frame": 0}
        mends.append(Mend("Mirror it beyond its edge", (mirrored,)))
        yield Check(
            "edge",
            f"{layer.name} covers the stage at rest, but its motion lets an edge show in {share}.",
            f"{layer.id}.position",
            float(frames[0]),
            tuple(mends),
        )
