"""New gauges of arrays."""

from typing import Any

import numpy as np
from pydantic import ValidationError

from ..document.gauge import GAUGES, Sweep, Zone
from ..document.layers import ArrayLayer
from ..document.scene import Scene
from ..document.specs import specs_of
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.taking import copies_at
from .base import Refused, free_name, layer_of, with_node


def array_of(scene: Scene, layer: str) -> ArrayLayer:
    """An array layer, or refused."""
    found = layer_of(scene, layer)
    if not isinstance(found, ArrayLayer):
        raise Refused(f"{found.name} is no array. Choose Repeat on it to make one.", layer)
    return found


def with_gauge(
    scene: Scene,
    array: str,
    kind: str,
    new: str,
    seed: int,
    name: str | None = None,
    fields: dict[str, Any] | None = None,
) -> Scene:
    """The scene with a new gauge on an array: a sweep is keyed through it, a zone stands in its middle. Raises
    Refused."""
    layer = array_of(scene, array)
    if kind not in GAUGES:
        raise Refused(f"There is no gauge “{kind}”. There are: {', '.join(GAUGES)}.", array)
    cls = GAUGES[kind]
    called = free_name((name or cls.title).strip() or cls.title, [one.name for one in layer.gauges], 80)
    given: dict[str, Any] = {"id": new, "name": called}
    if cls is Sweep:
        ends = [
            {"frame": 0, "value": 0, "ease": "linear"},
            {"frame": max(scene.length - 1, 1), "value": 100, "ease": "linear"},
        ]
        given["travel"] = {"rest": 0, "keys": ends}
    elif cls is Zone:
        sampler = Sampler(scene)
        a, b, c, d, e, f = (float(v) for v in world_matrix(sampler, array, SampleTimes(np.zeros(1)))[0, 0])
        given["centre"] = (round(e, 1), round(f, 1))
        size = _reach(sampler, layer)
        given["size"] = (size, size)
    elif "seed" in specs_of(cls):
        given["seed"] = seed
    try:
        made = cls.model_validate(given | (fields or {}))
    except ValidationError as error:
        raise Refused(f"This gauge cannot be made: {error.errors()[0]['msg']}.", array) from None
    gauges: Any = (*layer.gauges, made)
    return with_node(scene, array, layer.changed(gauges=gauges))


def _reach(sampler: Sampler, layer: ArrayLayer) -> float:
    """A size for a new zone: a third of the array's extent."""
    copies = copies_at(sampler, layer.id, SampleTimes(np.zeros(1)))
    if copies.elements is None or not len(copies.elements):
        return 160.0
    place = sampler.evaluate(f"{layer.id}.place", copies)
    return float(max(60.0, round(np.ptp(place[:, 0], axis=0).max() / 3, -1)))
