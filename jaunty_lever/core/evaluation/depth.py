"""Where layers stand in space: the parameters that lead there, what is in depth at all, and the scene's perspective."""

import numpy as np

from ..document.arrangement import leads_out
from ..document.base_layer import BaseLayer
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer, TraceLayer
from ..document.parameter import stands_out
from ..document.scene import Scene
from ..document.space import CameraLayer, LightLayer, Solid
from ..geometry.outline import Floats
from ..geometry.solid import UNIT, layer_solid, looking, plane_of, solid_product, tangent, through, turned_about
from .elements import Elements
from .placing import outwards
from .sample_times import SampleTimes
from .sampling import Sampling

_NO_PIVOT = np.zeros((1, 1, 2))
OWN, OF_COPIES = ("depth", "tilt"), ("copy_depth", "copy_tilt")


def has_depth(layer: BaseLayer) -> bool:
    """Whether a layer, or its copies, lie out of the plane that they are drawn in; remembered on the layer, which never
    changes."""
    known: bool | None = layer.__dict__.get("_has_depth")
    if known is None:
        names = (*OWN, *OF_COPIES) if isinstance(layer, ArrayLayer) else OWN
        known = isinstance(layer, Solid) or any(stands_out(getattr(layer, name)) for name in names)
        known = layer.__dict__["_has_depth"] = known or (isinstance(layer, ArrayLayer) and leads_out(layer.arrangement))
    return known


def uses_depth(index: SceneIndex) -> bool:
    """Whether depth and tilt are of use in a scene: it has a perspective, or something in it lies in depth already."""
    return stands_out(index.scene.perspective) or camera_in(index) is not None or bool(deep_in(index))


def camera_of(scene: Scene) -> CameraLayer | None:
    """The camera that a scene is seen by: the topmost one that is shown."""
    return camera_in(scene.index)


def camera_in(index: SceneIndex) -> CameraLayer | None:
    """The same, by the scene's index."""
    found = _topmost(index, CameraLayer)
    assert found is None or isinstance(found, CameraLayer)
    return found


def light_of(scene: Scene) -> LightLayer | None:
    """What lights a scene: the topmost light that is shown."""
    found = _topmost(scene.index, LightLayer)
    assert found is None or isinstance(found, LightLayer)
    return found


def _topmost(index: SceneIndex, kind: type[BaseLayer]) -> BaseLayer | None:
    def found() -> str | None:
        for name in (one.id for one in reversed(index.of_kind(kind))):
            here: str | None = name
            while here is not None and not index.layers[here].hidden:
                here = index.parents[here]
            if here is None:
                return name
        return None

    name = index.carried(f"topmost {kind.__name__}", found, _hidden)
    return None if name is None else index.layers[name]


def _hidden(index: SceneIndex, top: str) -> bool:
    layer = index.layers.get(top)
    return layer is not None and layer.hidden


def in_depth(scene: Scene) -> frozenset[str]:
    """The layers of a scene that lie in depth: those that say so, and all inside them."""
    return deep_in(scene.index)


def deep_in(index: SceneIndex) -> frozenset[str]:
    """The same, by the scene's index."""

    def found() -> frozenset[str]:
        made: set[str] = set()
        viewed = camera_in(index) is not None
        # Groups come before what they hold.
        for layer in index.layers.values():
            parent = index.parents[layer.id]
            seen = viewed and parent is None and is_viewed(layer)
            if layer.drawn and (seen or _leaves(index, layer) or parent in made):
                made.add(layer.id)
        return frozenset(made)

    return index.carried("in depth", found, _in_depth)


def _leaves(index: SceneIndex, layer: BaseLayer) -> bool:
    return has_depth(layer) or f"{layer.id}.own_depth" in index.own_depths


def _in_depth(index: SceneIndex, top: str) -> tuple[bool, ...]:
    """What of a layer decides whether it, or another, lies in depth."""
    layer = index.layers.get(top)
    return () if layer is None else (layer.hidden, layer.stays, _leaves(index, layer))


def is_viewed(layer: BaseLayer) -> bool:
    """Whether a layer that stands in no group is looked at by the camera. A trace tells where something was seen."""
    return layer.drawn and not layer.stays and not isinstance(layer, TraceLayer)


def lens_at(sampler: Sampling, samples: SampleTimes) -> Floats:
    """The scene's perspective and its origin, px, (elements or 1, times or 1, 3); no perspective is 0."""
    scene = sampler.scene
    camera = camera_of(scene)
    perspective = sampler.evaluate(f"{scene.id if camera is None else camera.id}.perspective", samples)[..., :1]
    origin = sampler.evaluate(f"{scene.id}.perspective_origin", samples) / 100 * [scene.width, scene.height]
    whole = np.broadcast_arrays(perspective[..., 0], origin[..., 0], origin[..., 1])
    made = np.nan_to_num(np.stack(whole, axis=-1))
    made[..., 0] = np.clip(np.where(made[..., 0] > 0, np.maximum(made[..., 0], 1.0), 0.0), 0, 1e9)
    return np.asarray(made)


def view_at(sampler: Sampling, samples: SampleTimes) -> Floats:
    """From the scene's space to that before the stage, as its camera has it, (elements or 1, times or 1, 3, 4)."""
    camera = camera_of(sampler.scene)
    if camera is None:
        return UNIT
    turn, tilt = (sampler.evaluate(f"{camera.id}.{name}", samples) for name in ("rotation", "tilt"))
    place, aim = turned_eye(sampler, samples)
    lens = lens_at(sampler, samples)
    eye = np.stack(np.broadcast_arrays(lens[..., 1], lens[..., 2], lens[..., 0]), axis=-1)
    return looking(place, aim, turn[..., 0], tilt, eye)


def turned_eye(sampler: Sampling, samples: SampleTimes) -> tuple[Floats, Floats]:
    """Where the scene's camera is, carried round its aim, and its aim: (…, 3) each, px."""
    camera = camera_of(sampler.scene)
    assert camera is not None
    place, aim = (
        spot_at(sampler, camera.id, samples, *names) for names in (("position", "depth"), ("aim", "aim_depth"))
    )
    return turned_about(aim, place, sampler.evaluate(f"{camera.id}.around", samples)), aim


def spot_at(sampler: Sampling, layer: str, samples: SampleTimes, flat: str, near: str) -> Floats:
    """Where a place that a layer names by two parameters lies in the scene's space, through its groups: (…, 3), px."""
    xy, z = sampler.evaluate(f"{layer}.{flat}", samples), sampler.evaluate(f"{layer}.{near}", samples)
    spot = np.stack(np.broadcast_arrays(xy[..., 0], xy[..., 1], z[..., 0]), axis=-1)
    for around, copies, then in outwards(sampler, layer, samples):
        if not copies:
            spot = through(solid_placing(sampler, around, then), spot)
    return np.asarray(np.clip(np.nan_to_num(spot), -1e7, 1e7))


def solid_placing(sampler: Sampling, layer: str, samples: SampleTimes) -> Floats:
    """From a layer's own coordinates to those of its parent, in space; (elements or 1, times or 1, 3, 4)."""
    names = ("position", "rotation", "scale", "pivot", *OWN)
    return layer_solid(*(sampler.evaluate(f"{layer}.{name}", samples) for name in names))


def hand_matrix(sampler: Sampling, layer: str, samples: SampleTimes) -> Floats:
    """The flat matrix by which a small move of a layer that lies in depth is seen on the stage, (1, times, 6); its
    arrays are left out of account."""
    solid = UNIT.copy()
    solid[..., 2, 3] = np.clip(np.nan_to_num(sampler.evaluate(f"{layer}.depth", samples)[..., 0]), -1e6, 1e6)
    for around, _, then in outwards(sampler, layer, samples):
        if not isinstance(sampler.index.layers[around], ArrayLayer):
            solid = solid_product(solid_placing(sampler, around, then), solid)
    if is_looked_at(sampler, layer):
        solid = solid_product(view_at(sampler, samples), solid)
    at = sampler.evaluate(f"{layer}.position", samples)
    return tangent(plane_of(solid, lens_at(sampler, samples)), at[..., 0], at[..., 1])


def is_looked_at(sampler: Sampling, layer: str) -> bool:
    """Whether what a layer stands in is looked at by the camera."""
    index = sampler.index
    while (parent := index.parents[layer]) is not None:
        layer = parent
    return is_viewed(index.layers[layer])


def copy_solid(sampler: Sampling, array: str, samples: SampleTimes) -> Floats:
    """From a copy's own coordinates to those of its array, in space; (elements or 1, times or 1, 3, 4)."""
    moved, rotation, scale, depth, tilt, place, facing, z = (
        sampler.evaluate(f"{array}.{name}", samples)
        for name in ("copy_position", "copy_rotation", "copy_scale", *OF_COPIES, "place", "facing", "z")
    )
    return layer_solid(place + moved, facing + rotation, scale, _NO_PIVOT, depth + z, tilt)


def solid_world(sampler: Sampling, layer: str, samples: SampleTimes) -> Floats:
    """From a layer's own coordinates to the scene's space, through all around it; (elements or 1, times or 1, 3, 4).

    See `placing.world_matrix`.
    """
    values = solid_placing(sampler, layer, samples)
    for around, copies, then in outwards(sampler, layer, samples):
        values = solid_product((copy_solid if copies else solid_placing)(sampler, around, then), values)
    return values


def spread(values: Floats, elements: Elements) -> Floats:
    """Values of what stands around an array, (elements or 1, times or 1, …), for each of its copies."""
    if values.shape[0] > 1 and elements.parents is not None:
        values = values[elements.parents]
    if elements.when is not None and values.shape[1] > 1:
        rows = np.arange(len(elements)) if values.shape[0] > 1 else np.zeros(len(elements), dtype=np.int64)
        values = values[rows, elements.when][:, None]
    return values
