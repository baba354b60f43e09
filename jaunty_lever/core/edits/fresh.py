"""What a new layer has where it is added: what its kind says of itself, and what suits the stage and the group."""

from typing import Any

import numpy as np

from ..document.base_layer import BaseLayer
from ..document.keys import Value
from ..document.layers import ArrayLayer, Group, TextureLayer
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.space import PERSPECTIVE, Block, CameraLayer, LightLayer
from ..document.specs import components, specs_of
from ..evaluation.extent import extent_of
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.matrices import applied, inverted

Place = tuple[float, float]
_SEEN_FROM_ABOVE = (-24.0, 32.0)


def looking_at_all(scene: Scene) -> dict[str, Any]:
    """The settings of a new camera, through which a scene is seen as without it."""
    across, down = components(scene.perspective_origin.rest, specs_of(Scene)["perspective_origin"])
    far = scene.perspective.constant_value
    far = float(far) if isinstance(far, int | float) and far > 0 else PERSPECTIVE
    place = (scene.width * across / 100, scene.height * down / 100)
    return {"position": place, "aim": place, "depth": far, "perspective": far}


def fresh_fields(scene: Scene, cls: type[BaseLayer], parent: str | None) -> dict[str, Any]:
    """What a new layer of a kind has there besides the defaults of its kind."""
    given: dict[str, Any] = {"position": place_in(scene, parent)}
    if issubclass(cls, TextureLayer):
        given["size"] = (float(scene.width), float(scene.height))
    if issubclass(cls, Block) and not _on_ground(scene, parent):
        # Seen a little from above and from the side, so that it is no rectangle; on a ground it stands straight.
        given["tilt"] = _SEEN_FROM_ABOVE
    if issubclass(cls, LightLayer):
        given |= {"position": (scene.width * 0.2, -scene.height * 0.4), "depth": 500.0}
    if issubclass(cls, CameraLayer):
        given |= looking_at_all(scene)
    return given


def fresh_value(scene: Scene, node: ParameterNode) -> Value:
    """What a value rests at on a new layer, lever or modifier of its kind."""
    layer = scene.index.layers.get(node.top)
    if layer is not None and len(node.route) == 1 and node.modifier is None:
        found: Value = fresh_fields(scene, type(layer), scene.index.parents[layer.id]).get(
            node.field, node.spec.default
        )
        return found
    return node.spec.default


def _on_ground(scene: Scene, parent: str | None) -> bool:
    holder = scene.index.layers.get(parent or "")
    return isinstance(holder, ArrayLayer) and holder.arrangement.kind == "ground"


def upright(layer: BaseLayer) -> BaseLayer:
    """A layer as it stands on a ground: blocks in it that are tilted as new ones are stand straight there."""
    if isinstance(layer, Group):
        return layer.changed(layers=tuple(upright(inner) for inner in layer.layers))
    if not isinstance(layer, Block) or layer.tilt.moves or layer.tilt.constant_value != _SEEN_FROM_ABOVE:
        return layer
    return layer.changed(tilt=Parameter(rest=specs_of(Block)["tilt"].default))


def place_in(scene: Scene, parent: str | None) -> Place:
    """Where a new layer lies: in the middle of the stage, or of what a group holds already, in the group's own
    measure."""
    if parent is None:
        return scene.width / 2, scene.height / 2
    holder = scene.index.layers.get(parent)
    if not isinstance(holder, Group) or isinstance(holder, ArrayLayer):
        return 0.0, 0.0
    inside = middle_of(scene, [layer.id for layer in holder.layers], parent, 0.0)
    if inside is not None:
        return inside
    pivot = components(holder.pivot.rest, specs_of(Group)["pivot"])
    return pivot[0], pivot[1]


def middle_of(scene: Scene, layers: list[str], parent: str | None, frame: float) -> Place | None:
    """The middle of what layers cover at a frame, in the measure of the group they lie in; None where they cover
    nothing."""
    sampler, now = Sampler(scene), SampleTimes(np.array([frame / scene.fps]))
    box = extent_of(sampler, layers, now)
    if box is None:
        return None
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    if parent is not None:
        back = inverted(world_matrix(sampler, parent, now)[0, 0])
        if not back.any():
            return None
        x, y = (float(v) for v in applied(back, np.array(x), np.array(y)))
    return round(x, 3), round(y, 3)
