"""A scene that is seen in depth, from above: where its layers and copies stand, its camera and its light."""

from typing import Any

import numpy as np

from ..display.channels import channel
from ..display.laying import lay_of
from ..document.layers import ArrayLayer, Group
from ..evaluation.depth import (
    camera_of,
    copy_solid,
    in_depth,
    light_of,
    solid_placing,
    spot_at,
    turned_eye,
    uses_depth,
)
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.sparks import is_emitter
from ..geometry.outline import Floats
from ..geometry.solid import through
from .copies import Copies, evenly, whole
from .sending import Sending
from .zones import zones_from_above

MOST_SPOTS, MOST_LAYERS = 400, 200
"""Copies of an array, and layers, that are shown."""


def plan_of(
    sampler: Sampler, wanted: bool, samples: SampleTimes, shown: Copies, sent: Sending
) -> dict[str, Any] | None:
    """x, depth and height (x z y) of all that lies in depth, px, at the frames of the display list; none where nothing
    does."""
    scene, index = sampler.scene, sampler.index
    if not wanted or not uses_depth(scene.index):
        return None

    def told(spots: Floats) -> str:
        return sent.put(channel(np.ascontiguousarray(spots[..., [0, 2, 1]])))

    things: list[dict[str, Any]] = []
    sparks: list[dict[str, Any]] = []
    for layer in index.layers.values():
        parent = index.parents[layer.id]
        if layer.id not in in_depth(scene) or layer.hidden or index.arrays.get(layer.id) or len(things) >= MOST_LAYERS:
            continue
        if isinstance(layer, ArrayLayer) and not is_emitter(sampler, layer.id):
            spots = _copies(sampler, layer.id, samples)
        elif isinstance(layer, Group) and not isinstance(layer, ArrayLayer):
            continue
        else:
            spots = spot_at(sampler, layer.id, samples, "position", "depth")
        if is_emitter(sampler, layer.id):
            sparks.append({"id": layer.id, **_sparks(sampler, layer.id, samples, shown, sent)})
        things.append({"id": layer.id, "name": layer.name, "free": parent is None, "spots": told(spots)})
    camera, light = camera_of(scene), light_of(scene)
    zones = zones_from_above(sampler, samples, shown, sent)
    made: dict[str, Any] = {"things": things, "sparks": sparks, "zones": zones, "camera": None, "light": None}
    if camera is not None:
        eye, aim = turned_eye(sampler, samples)
        lens = sampler.evaluate(f"{camera.id}.perspective", samples)
        made["camera"] = {
            "id": camera.id,
            "name": camera.name,
            "free": index.parents[camera.id] is None,
            "eye": told(eye),
            "aim": told(aim),
            "perspective": sent.put(channel(lens)),
        }
    if light is not None:
        spot = spot_at(sampler, light.id, samples, "position", "depth")
        free = index.parents[light.id] is None
        made["light"] = {"id": light.id, "name": light.name, "free": free, "spots": told(spot)}
    return made


def _copies(sampler: Sampler, array: str, samples: SampleTimes) -> Floats:
    """Where copies of an array stand, some of very many: (copies, times or 1, 3)."""
    node = sampler.index.known[f"{array}.place"]
    shown = Copies({})
    count = shown.count(sampler, node, samples)
    if not count:
        return np.zeros((1, 1, 3))
    where = shown.numbered(sampler, node, samples, evenly(count, MOST_SPOTS))
    spots = whole(copy_solid(sampler, array, where)[..., 3], where)
    return _in_scene(sampler, array, samples, spots)


def _in_scene(sampler: Sampler, array: str, samples: SampleTimes, spots: Floats) -> Floats:
    """Points in the coordinates of an array that stands in no other as points of the scene."""
    here: str | None = array
    while here is not None:
        spots = through(solid_placing(sampler, here, samples), spots)
        here = sampler.index.parents[here]
    return spots


def _sparks(sampler: Sampler, array: str, samples: SampleTimes, shown: Copies, sent: Sending) -> dict[str, str]:
    """Where the sparks of an emitter are (x z y), as many side by side as are alive at once, and how many that are."""
    counts = sampler.layouts.count(array, samples)
    many = int(counts.max(initial=0))
    where = shown.alive(sampler, sampler.index.known[f"{array}.place"], samples)
    spots = np.zeros((1, 1, 3))
    lay = lay_of(samples, None, where, many) if many else None
    if lay is not None:
        spots = whole(_in_scene(sampler, array, where, copy_solid(sampler, array, where)[..., 3]), where)
    spots = np.ascontiguousarray(spots[..., [0, 2, 1]])
    return {
        "spots": sent.put(channel(spots) if lay is None else lay.channel(spots)),
        "counts": sent.put(channel(counts[..., None].astype(np.float64))),
    }
