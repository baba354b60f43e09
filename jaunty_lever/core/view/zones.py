"""Where arrays that lie in depth, and their zones, are seen."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from ..display.channels import channel
from ..document.arrangement import Ground
from ..document.gauge import ALONG_LINES, Zone
from ..document.layers import ArrayLayer
from ..document.parameter import stands_out
from ..document.protocols import Values
from ..document.scene import Scene
from ..evaluation.depth import in_depth, is_looked_at, lens_at, solid_world, view_at
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.solid import UNIT, plane_of, solid_product
from .copies import Copies
from .sending import Sending

_FAR = 1e6
"""Pixels that reach beyond all that can be looked at."""


def _arrays(scene: Scene) -> Iterator[ArrayLayer]:
    """The arrays of a scene that lie in depth."""
    deep = in_depth(scene)
    return (layer for layer in scene.index.of_kind(ArrayLayer) if layer.id in deep)


def _zones(array: ArrayLayer) -> Iterator[Zone]:
    """The zones of an array."""
    return (gauge for gauge in array.gauges if isinstance(gauge, Zone))


def planes_of(sampler: Sampler, samples: SampleTimes, shown: Copies, sent: Sending) -> dict[str, str]:
    """By the ids of arrays and zones, what the stage makes of the plane in which what is dragged of each lies: nine
    numbers, from x y 1 to x′w y′w w.

    The plane of an array is the one that its copies are laid out in: on the ground, x and z. A zone with an end in
    depth is drawn in the plane of its centre, one that goes on for ever in that of its array. What does not lie in
    depth is left out.
    """
    made: dict[str, str] = {}
    lens = lens_at(sampler, samples)

    def seen_through_camera(layer: ArrayLayer, solid: Values) -> str:
        view = view_at(sampler, samples) if is_looked_at(sampler, layer.id) else UNIT
        plane = plane_of(solid_product(view, solid), lens)
        return sent.put(channel(plane.reshape(*plane.shape[:2], 9)[:1]))

    for layer in _arrays(sampler.scene):
        solid = solid_world(sampler, layer.id, shown.around(sampler, layer.id, samples))
        if isinstance(layer.arrangement, Ground):
            solid = solid[..., [0, 2, 1, 3]]
        made[layer.id] = seen_through_camera(layer, solid)
        for zone in _zones(layer):
            ends = sampler.index.solid_zone(zone.id)
            depth = _own(sampler, zone, "centre_depth", shown, samples)[..., 0] if ends else solid[..., 2, 3]
            upright = np.broadcast_to(UNIT, (*depth.shape, 3, 4)).copy()
            upright[..., 2, 3] = depth
            made[zone.id] = seen_through_camera(layer, upright)
    return made


def zones_from_above(sampler: Sampler, samples: SampleTimes, shown: Copies, sent: Sending) -> list[dict[str, Any]]:
    """The same zones over the ground: where each has its centre (x, depth, height), how far it reaches across and in
    depth, px; 0 in depth: for ever; and how it is turned there, in degrees."""
    made = []
    for layer, zone in [(array, zone) for array in _arrays(sampler.scene) for zone in _zones(array)]:
        names = ("centre", "size", "angle", "turn", "centre_depth", "size_depth")
        centre, size, angle, turn, near, deep = (_own(sampler, zone, name, shown, samples) for name in names)
        spots = np.stack(np.broadcast_arrays(centre[..., 0], near[..., 0], centre[..., 1]), axis=-1)
        across = _across(size, angle[..., 0], str(zone.shape.constant_value))
        reach = np.stack(np.broadcast_arrays(across, deep[..., 0]), axis=-1)
        told = {"id": zone.id, "name": zone.name, "array": layer.id, "disc": zone.shape.constant_value == "disc"}
        told |= {"lined": zone.shape.constant_value in ALONG_LINES, "slanted": stands_out(zone.angle)}
        some = {"spots": spots, "reach": reach, "size": size, "turn": turn if np.any(deep) else 0 * turn}
        made.append(told | {name: sent.put(channel(values)) for name, values in some.items()})
    return made


def _across(size: Values, angle: Values, shape: str) -> Values:
    """How far a zone that is turned on the stage reaches to either side of its centre, px."""
    cosine, sine = (np.abs(part(np.deg2rad(angle))) for part in (np.cos, np.sin))
    wide, high = size[..., 0], size[..., 1]
    if shape == "bar":
        # Along itself it has no end.
        return np.where(sine < 1e-9, wide, _FAR)
    return np.hypot(wide * cosine, high * sine) if shape == "disc" else wide * cosine + high * sine


def _own(sampler: Sampler, zone: Zone, name: str, shown: Copies, samples: SampleTimes) -> Values:
    """A setting of a zone, for the copies that are shown: (1, times or 1, components)."""
    node = sampler.index.parameters[f"{zone.id}.{name}"]
    values: Values = sampler.evaluate(node.id, shown.of(sampler, node, samples))
    return values[:1]
