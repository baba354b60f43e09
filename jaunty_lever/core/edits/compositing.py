"""Edits of how layers go together: filters added, moved, switched off and taken off; mattes."""

from typing import Any, Literal

from pydantic import Field

from ..document.base_layer import BaseLayer
from ..document.compositing import FILTERS, Filter, Matte
from ..document.ids import Id, new_id
from ..document.keys import Frame
from ..document.limits import MOST_FILTERS
from ..document.parameter import Parameter
from ..document.scene import Scene
from .base import Gone, Refused, SceneEdit, fresh_id, layer_of, with_node
from .deleting import without_links_to
from .steps import put_elsewhere, put_in


def filter_in(scene: Scene, wanted: str) -> tuple[BaseLayer, int]:
    """The layer that a filter belongs to, and its position there. Raises Gone."""
    for layer in scene.index.layers.values():
        for k, one in enumerate(layer.filters):
            if one.id == wanted:
                return layer, k
    raise Gone("This filter has been taken off.", wanted)


class AddFilter(SceneEdit):
    """Put a filter on a layer, behind those that it has when no position is given."""

    kind: Literal["add filter"] = "add filter"
    layer: str
    filter: str
    id: Id = Field(default_factory=lambda: new_id("filter"))
    position: int | None = None

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if self.filter not in FILTERS:
            raise Refused(f"There is no filter “{self.filter}”. There are: {', '.join(FILTERS)}.", self.layer)
        if len(layer.filters) >= MOST_FILTERS:
            raise Refused(f"A layer has at most {MOST_FILTERS} filters.", self.layer)
        fresh_id(scene, self.id)
        cls = FILTERS[self.filter]
        begins: Any = {name: Parameter(rest=value) for name, value in cls.begins.items()}
        made: Any = cls(id=self.id, kind=self.filter, **begins)
        return with_node(scene, self.layer, layer.changed(filters=put_in(layer.filters, made, self.position)))

    def label_in(self, scene: Scene) -> str:
        title = FILTERS[self.filter].title if self.filter in FILTERS else self.filter
        return f"{layer_of(scene, self.layer).name}: {title} put on"


class _OfFilter(SceneEdit):
    filter: str

    def _with(self, scene: Scene, layer: BaseLayer, filters: tuple[Filter, ...]) -> Scene:
        return with_node(scene, layer.id, layer_of(scene, layer.id).changed(filters=filters))

    def _told(self, scene: Scene, what: str) -> str:
        layer, position = filter_in(scene, self.filter)
        return f"{layer.name}: {layer.filters[position].title} {what}"


class RemoveFilter(_OfFilter):
    """Take a filter off its layer; what followed its settings rests where it was."""

    kind: Literal["remove filter"] = "remove filter"
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        layer, position = filter_in(scene, self.filter)
        gone = {
            p.id for p in scene.index.parameters.values() if p.route[:2] == ("filters", position) and p.top == layer.id
        }
        scene = without_links_to(scene, gone, self.frame)
        left = layer_of(scene, layer.id).filters
        return self._with(scene, layer, left[:position] + left[position + 1 :])

    def label_in(self, scene: Scene) -> str:
        return self._told(scene, "taken off")


class MoveFilter(_OfFilter):
    """Let a filter act earlier or later."""

    kind: Literal["move filter"] = "move filter"
    position: int

    def apply_to(self, scene: Scene) -> Scene:
        layer, position = filter_in(scene, self.filter)
        return self._with(scene, layer, put_elsewhere(layer.filters, position, self.position))

    def label_in(self, scene: Scene) -> str:
        return self._told(scene, "moved")


class BypassFilter(_OfFilter):
    """Switch a filter off or on."""

    kind: Literal["bypass filter"] = "bypass filter"
    bypassed: bool

    def apply_to(self, scene: Scene) -> Scene:
        layer, position = filter_in(scene, self.filter)
        changed = layer.filters[position].changed(bypassed=self.bypassed)
        return self._with(scene, layer, (*layer.filters[:position], changed, *layer.filters[position + 1 :]))

    def label_in(self, scene: Scene) -> str:
        return self._told(scene, "bypassed" if self.bypassed else "switched on")


class SetMatte(SceneEdit):
    """Let a layer show only where another one is, which is hidden by itself from then on unless it is to be seen; or
    everywhere again."""

    kind: Literal["set matte"] = "set matte"
    layer: str
    matte: str | None = None
    hide: bool = True
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if self.matte is None:
            gone = {p.id for p in scene.index.parameters.values() if p.top == self.layer and p.route[:1] == ("matte",)}
            scene = without_links_to(scene, gone, self.frame)
            return with_node(scene, self.layer, layer_of(scene, self.layer).changed(matte=None))
        other = layer_of(scene, self.matte)
        if other.id == layer.id:
            raise Refused(f"{layer.name} cannot show where it is itself.", self.layer)
        made = layer.matte.changed(layer=self.matte) if layer.matte is not None else Matte(layer=self.matte)
        scene = with_node(scene, self.layer, layer.changed(matte=made))
        if self.hide and not other.hidden:
            scene = with_node(scene, other.id, layer_of(scene, other.id).changed(hidden=True))
        return scene

    def label_in(self, scene: Scene) -> str:
        name = layer_of(scene, self.layer).name
        return (
            f"{name} shows everywhere"
            if self.matte is None
            else f"{name} shows where {layer_of(scene, self.matte).name} is"
        )
