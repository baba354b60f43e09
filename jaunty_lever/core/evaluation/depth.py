"""Where layers stand in space: the parameters that lead there, what is in depth at all, and the scene's perspective."""

from typing import TYPE_CHECKING

import numpy as np

from ..document.layers import ArrayLayer, BaseLayer
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..geometry.outline import Floats
from ..geometry.solid import UNIT, layer_solid, plane_of, solid_product, tangent
from .elements import Elements
from .sample_times import SampleTimes

if TYPE_CHECKING:
    from .sampler import Sampler

_NO_PIVOT = np.zeros((1, 1, 2))
OWN, OF_COPIES = ("depth", "tilt"), ("copy_depth", "copy_tilt")


def _stands(own: Parameter) -> bool:
    rest = own.rest if isinstance(own.rest, tuple) else (own.rest,)
    return own.moves or any(isinstance(one, int | float) and one for one in rest)


def has_depth(layer: BaseLayer) -> bool:
    """Whether a layer, or its copies, lie out of the plane that they are drawn in."""
    names = (*OWN, *OF_COPIES) if isinstance(layer, ArrayLayer) else OWN
    return any(_stands(getattr(layer, name)) for name in names)


def uses_depth(scene: Scene) -> bool:
    """Whether depth and tilt are of use in a scene: it has a perspective, or something in it lies in depth already."""
    return _stands(scene.perspective) or bool(in_depth(scene))


def in_depth(scene: Scene) -> frozenset[str]:
    """The layers of a scene that lie in depth: those that say so, and all inside them; remembered on the scene."""
    known: frozenset[str] | None = scene.__dict__.get("_in_depth")
    if known is None:
        found: set[str] = set()
        index = scene.index
        # Groups come before what they hold.
        for layer in index.layers.values():
            if has_depth(layer) or index.parents[layer.id] in found:
                found.add(layer.id)
        known = scene.__dict__["_in_depth"] = frozenset(found)
    return known


def lens_at(sampler: "Sampler", samples: SampleTimes) -> Floats:
    """The scene's perspective and its origin, px, (elements or 1, times or 1, 3); no perspective is 0."""
    scene = sampler.scene
    perspective = sampler.evaluate(f"{scene.id}.perspective", samples)[..., :1]
    origin = sampler.evaluate(f"{scene.id}.perspective_origin", samples) / 100 * [scene.width, scene.height]
    whole = np.broadcast_arrays(perspective[..., 0], origin[..., 0], origin[..., 1])
    made = np.nan_to_num(np.stack(whole, axis=-1))
    made[..., 0] = np.clip(np.where(made[..., 0] > 0, np.maximum(made[..., 0], 1.0), 0.0), 0, 1e9)
    return np.asarray(made)


def solid_placing(sampler: "Sampler", layer: str, samples: SampleTimes) -> Floats:
    """From a layer's own coordinates to those of its parent, in space; (elements or 1, times or 1, 3, 4)."""
    names = ("position", "rotation", "scale", "pivot", *OWN)
    return layer_solid(*(sampler.evaluate(f"{layer}.{name}", samples) for name in names))


def hand_matrix(sampler: "Sampler", layer: str, samples: SampleTimes) -> Floats:
    """The flat matrix by which a small move of a layer that lies in depth is seen on the stage, (1, times, 6); its arrays
    are left out of account."""
    solid, parent = UNIT.copy(), sampler.index.parents[layer]
    solid[..., 2, 3] = np.clip(np.nan_to_num(sampler.evaluate(f"{layer}.depth", samples)[..., 0]), -1e6, 1e6)
    while parent is not None:
        if not isinstance(sampler.index.layers[parent], ArrayLayer):
            solid = solid_product(solid_placing(sampler, parent, samples), solid)
        parent = sampler.index.parents[parent]
    at = sampler.evaluate(f"{layer}.position", samples)
    return tangent(plane_of(solid, lens_at(sampler, samples)), at[..., 0], at[..., 1])


def solid_copy_placing(sampler: "Sampler", array: str, samples: SampleTimes) -> Floats:
    """The same from a copy's own coordinates to those of its array."""
    moved, rotation, scale, depth, tilt, place, facing = (
        sampler.evaluate(f"{array}.{name}", samples)
        for name in ("copy_position", "copy_rotation", "copy_scale", *OF_COPIES, "place", "facing")
    )
    return layer_solid(place + moved, facing + rotation, scale, _NO_PIVOT, depth, tilt)


def spread(values: Floats, elements: Elements) -> Floats:
    """Values of what stands around an array, (elements or 1, times or 1, …), for each of its copies."""
    if values.shape[0] > 1 and elements.parents is not None:
        values = values[elements.parents]
    if elements.when is not None and values.shape[1] > 1:
        rows = np.arange(len(elements)) if values.shape[0] > 1 else np.zeros(len(elements), dtype=np.int64)
        values = values[rows, elements.when][:, None]
    return values
