"""Edits of layers."""

from typing import Any, Literal

import numpy as np
from pydantic import Field, ValidationError

from ..document.base_layer import BaseLayer
from ..document.edge import Edge
from ..document.fills import ConicFill, Gradient, LinearFill, NoFill, RadialFill, SolidFill, Stop
from ..document.ids import Id, OneLine, new_id
from ..document.keys import Finite, Frame, Value
from ..document.layers import (
    LAYER_KINDS,
    ArrayLayer,
    ClipLayer,
    Group,
    Path,
    ShapeLayer,
    TextureLayer,
    TraceLayer,
)
from ..document.model import with_route
from ..document.parameter import Parameter, mapped
from ..document.scene import Scene
from ..document.space import CameraLayer
from ..document.specs import components, specs_of
from ..geometry.paths import path_outline
from .base import Refused, SceneEdit, free_name, fresh_id, layer_of, with_node
from .deleting import without_links_to
from .fresh import fresh_fields, middle_of, place_in
from .leads import without_leads
from .renumber import renumbered


def taken_names(scene: Scene) -> list[str]:
    return [layer.name for layer in scene.index.layers.values()]


def renamed(layer: BaseLayer, taken: list[str]) -> BaseLayer:
    """The layer with names of its own, inside it too; the names it takes are added to `taken`."""
    name = free_name(layer.name, taken)
    taken.append(name)
    if isinstance(layer, Group):
        return layer.changed(name=name, layers=tuple(renamed(child, taken) for child in layer.layers))
    return layer.changed(name=name)


def put(scene: Scene, layer: BaseLayer, parent: str | None, position: int | None) -> Scene:
    """The scene with a layer put into a group (or the scene itself), on top when no position is given."""
    if parent is None:
        layers = scene.layers
    else:
        group = layer_of(scene, parent)
        if not isinstance(group, Group):
            raise Refused(f"{group.name} is not a group.", parent)
        layers = group.layers
    at = len(layers) if position is None else min(max(position, 0), len(layers))
    changed: Any = (*layers[:at], layer, *layers[at:])
    if parent is None:
        return scene.changed(layers=changed)
    result: Scene = with_route(scene, (*scene.index.layer_routes[parent], "layers"), changed)
    return result


def taken_out(scene: Scene, layer: str) -> Scene:
    """The scene without a layer; links to it are not looked at."""
    route = scene.index.layer_routes[layer]
    holder = scene.index.node(route[:-1])
    kept = tuple(child for child in holder if child.id != layer)
    result: Scene = with_route(scene, route[:-1], kept)
    return result


class AddLayer(SceneEdit):
    """Add a new layer; at the centre of the stage unless a position is given."""

    kind: Literal["add layer"] = "add layer"
    id: Id = Field(default_factory=lambda: new_id("layer"))
    layer: str
    name: OneLine | None = Field(default=None, max_length=120)
    parent: str | None = None
    position: tuple[Finite, Finite] | None = None
    fields: dict[str, Any] = Field(default_factory=dict, description="Further fields of the layer, as in a file.")
    traces: str | None = Field(
        default=None, description="The layer whose way a trace draws; of an array, the way of each copy."
    )

    def apply_to(self, scene: Scene) -> Scene:
        if self.layer not in LAYER_KINDS:
            raise Refused(f"There is no layer called “{self.layer}”. There are: {', '.join(LAYER_KINDS)}.")
        fresh_id(scene, self.id)
        cls = LAYER_KINDS[self.layer]
        name = free_name((self.name or cls.title).strip() or cls.title, taken_names(scene))
        given: dict[str, Any] = {"id": self.id, "name": name, **fresh_fields(scene, cls, self.parent)}
        if self.position is not None:
            given["position"] = self.position
        if self.traces is not None:
            given["follows"] = _leaving(layer_of(scene, self.traces)).id
        if cls is TextureLayer:
            # Ids of its own stops, the same however often the edit is tried.
            fog = TextureLayer(id=self.id, name=name).stops
            given["stops"] = tuple(
                one.changed(id=f"{self.id[:34]}-{end}") for one, end in zip(fog, ("dark", "light"), strict=True)
            )
        try:
            made = cls.model_validate(given | self.fields)
        except ValidationError as error:
            raise Refused(f"This layer cannot be made: {error.errors()[0]['msg']}.", self.id) from None
        return put(scene, made, self.parent, None)

    def label_in(self, scene: Scene) -> str:
        cls = LAYER_KINDS.get(self.layer)
        return f"{self.name or (cls.title if cls else self.layer)} added"


def _leaving(layer: BaseLayer) -> BaseLayer:
    """The layer whose way is drawn where that of a layer is asked for: inside an array, where each copy has its own."""
    while isinstance(layer, ArrayLayer) and layer.layers:
        layer = layer.layers[0]
    return layer


def names_of(scene: Scene, layers: tuple[str, ...]) -> str:
    """A layer's name, or how many they are."""
    return layer_of(scene, layers[0]).name if len(layers) == 1 else f"{len(layers)} layers"


def outermost(scene: Scene, layers: tuple[str, ...]) -> list[str]:
    """The chosen layers without those inside a chosen group, from the lowest up."""
    chosen, parents = set(layers), scene.index.parents
    for layer in layers:
        layer_of(scene, layer)
    return [one for one in scene.index.layers if one in chosen and not _within(scene, parents[one], chosen)]


class RemoveLayers(SceneEdit):
    """Delete layers; what followed them rests where it stood at `frame`."""

    kind: Literal["remove layers"] = "remove layers"
    layers: tuple[str, ...] = Field(min_length=1)
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        outer = outermost(scene, self.layers)
        within = set(outer)
        gone_layers = {layer for layer in scene.index.layers if _within(scene, layer, within)}
        gone = {target.id for target in scene.index.parameters.values() if target.top in gone_layers}
        scene = without_links_to(scene, gone, self.frame)
        scene = without_leads(scene, gone_layers, self.frame)
        for layer in outer:
            scene = taken_out(scene, layer)
        return scene

    def label_in(self, scene: Scene) -> str:
        return f"{names_of(scene, self.layers)} deleted"


def _within(scene: Scene, layer: str | None, groups: set[str]) -> bool:
    while layer is not None:
        if layer in groups:
            return True
        layer = scene.index.parents[layer]
    return False


class ChangeLayer(SceneEdit):
    """A layer's name, whether it is hidden, whether its motion blurs, whether the camera moves it, whether a clip is
    heard, whether a group is drawn by depth, or a path's data."""

    kind: Literal["change layer"] = "change layer"
    layer: str
    name: OneLine | None = None
    hidden: bool | None = None
    blurs: bool | None = None
    stays: bool | None = None
    sounds: bool | None = None
    by_depth: bool | None = None
    data: str | None = Field(default=None, max_length=100_000)

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        updates: dict[str, Any] = {}
        if self.name is not None:
            name = self.name.strip()
            if not 0 < len(name) <= 120:
                raise Refused("A layer's name has 1 to 120 letters.", self.layer)
            updates["name"] = name
        if self.hidden is not None:
            updates["hidden"] = self.hidden
        if self.blurs is not None:
            updates["blurs"] = self.blurs
        if self.stays is not None:
            updates["stays"] = self.stays
        if self.sounds is not None:
            if not isinstance(layer, ClipLayer):
                raise Refused(f"{layer.name} is not a clip.", self.layer)
            updates["sounds"] = self.sounds
        if self.by_depth is not None:
            if not isinstance(layer, Group):
                raise Refused(f"{layer.name} holds no layers.", self.layer)
            updates["by_depth"] = self.by_depth
        if self.data is not None:
            if not isinstance(layer, Path):
                raise Refused(f"{layer.name} is not a path.", self.layer)
            try:
                path_outline(self.data)
            except ValueError as error:
                raise Refused(str(error), self.layer) from None
            updates["data"] = self.data
        return with_node(scene, self.layer, layer.changed(**updates))

    def label_in(self, scene: Scene) -> str:
        name = layer_of(scene, self.layer).name
        if self.name is not None:
            return f"{name} renamed {self.name.strip()}"
        if self.hidden is not None:
            return f"{name} {'hidden' if self.hidden else 'shown'}"
        if self.blurs is not None:
            return f"{name} {'blurs' if self.blurs else 'stays sharp'}"
        if self.stays is not None:
            return f"{name} {'stays on the stage' if self.stays else 'is seen by the camera'}"
        if self.sounds is not None:
            return f"{name} {'is heard' if self.sounds else 'is silent'} in films"
        if self.by_depth is not None:
            return f"{name} is drawn {'by depth' if self.by_depth else 'in its order'}"
        return f"{name}: outline changed"


class ArrangeLayer(SceneEdit):
    """Put a layer elsewhere: into a group or out of it, lower or higher (position 0 lies lowest)."""

    kind: Literal["arrange layer"] = "arrange layer"
    layer: str
    parent: str | None = None
    position: int

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if self.parent is not None:
            layer_of(scene, self.parent)
        if _within(scene, self.parent, {self.layer}):
            raise Refused("A group cannot be put into itself.", self.layer)
        return put(taken_out(scene, self.layer), layer, self.parent, self.position)

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name} moved in the order"


class GroupLayers(SceneEdit):
    """Put layers into a new group, which stands where the topmost of them stood in the order; its pivot is in their
    middle, and nothing of them moves."""

    kind: Literal["group layers"] = "group layers"
    layers: tuple[str, ...] = Field(min_length=1)
    id: Id = Field(default_factory=lambda: new_id("layer"))
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        outer = outermost(scene, self.layers)
        if len({scene.index.parents[layer] for layer in outer}) > 1:
            raise Refused("Only layers that lie in the same group can be grouped.", self.layers[0])
        fresh_id(scene, self.id)
        parent = scene.index.parents[outer[0]]
        chosen = tuple(layer_of(scene, layer) for layer in outer)
        top = scene.index.layer_routes[outer[-1]][-1]
        assert isinstance(top, int)
        # Its position and its pivot are one and the same place: what is in it stays where it is.
        middle = Parameter(rest=middle_of(scene, outer, parent, self.frame) or place_in(scene, None))
        name = free_name("Group", taken_names(scene))
        group = Group(id=self.id, name=name, layers=chosen, position=middle, pivot=middle)
        for layer in outer:
            scene = taken_out(scene, layer)
        return put(scene, group, parent, top - len(outer) + 1)

    def label_in(self, scene: Scene) -> str:
        return f"{names_of(scene, self.layers)} grouped"


class DuplicateLayers(SceneEdit):
    """Copies of layers, right above them and so far aside of them, with ids and seeds of their own."""

    kind: Literal["duplicate layers"] = "duplicate layers"
    layers: tuple[str, ...] = Field(min_length=1)
    aside: tuple[Finite, Finite] = (0.0, 0.0)
    salt: str = Field(default_factory=lambda: new_id("copy"))

    def apply_to(self, scene: Scene) -> Scene:
        layers = outermost(scene, self.layers)
        # All at once: what is linked among them is linked among the copies.
        copies: Any = renumbered(tuple(layer_of(scene, layer) for layer in layers), self.salt)
        for layer, copy in zip(layers, copies, strict=True):
            copy = _aside(renamed(copy, taken_names(scene)), self.aside)
            position = scene.index.layer_routes[layer][-1]
            assert isinstance(position, int)
            scene = put(scene, copy, scene.index.parents[layer], position + 1)
        return scene

    def label_in(self, scene: Scene) -> str:
        return f"{names_of(scene, self.layers)} duplicated"


def _aside(layer: BaseLayer, by: tuple[float, float]) -> BaseLayer:
    """The layer moved aside; a trace lies where its way leads, and a camera where it looks from."""
    return layer if isinstance(layer, TraceLayer | CameraLayer) else lying_elsewhere(layer, by)


def lying_elsewhere(layer: BaseLayer, by: tuple[float, float]) -> BaseLayer:
    """The layer with its position, and all the keys of that, moved in the measure of what it lies in."""
    if by == (0.0, 0.0):
        return layer
    spec = specs_of(type(layer))["position"]

    def moved(value: Value) -> Value:
        return tuple(round(v + d, 6) for v, d in zip(components(value, spec), by, strict=True))

    return layer.changed(position=mapped(layer.position, moved))


class SetFill(SceneEdit):
    """The kind of a layer's fill; colours that were there are kept where they can be."""

    kind: Literal["set fill"] = "set fill"
    layer: str
    fill: Literal["none", "solid", "linear", "radial", "conic"]
    stops: tuple[Id, Id] = Field(default_factory=lambda: (new_id("stop"), new_id("stop")))
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if not isinstance(layer, ShapeLayer):
            raise Refused(f"{layer.name} has no fill.", self.layer)
        old = layer.fill
        if old.kind == self.fill:
            return scene
        gone = {p.id for p in scene.index.parameters.values() if p.top == self.layer and p.route[0] == "fill"}
        keep_stops = isinstance(old, Gradient) and self.fill in ("linear", "radial", "conic")
        first: Parameter = old.colour if isinstance(old, SolidFill) else Parameter(rest="#3f7f88")
        if isinstance(old, Gradient):
            first = old.stops[0].colour
            if keep_stops:
                gone = {p for p in gone if p.startswith(f"{self.layer}.fill.")}
        scene = without_links_to(scene, gone, self.frame)
        stops = (
            old.stops
            if isinstance(old, Gradient) and keep_stops
            else (
                Stop(id=self.stops[0], offset=0.0, colour=Parameter(rest=first.rest)),
                Stop(id=self.stops[1], offset=100.0, colour="#f5f1e8"),
            )
        )
        made: Any = NoFill()
        if self.fill == "solid":
            made = SolidFill(colour=first)
        elif self.fill != "none":
            kinds: dict[str, Any] = {"linear": LinearFill, "radial": RadialFill, "conic": ConicFill}
            made = kinds[self.fill](stops=stops)
        return with_node(scene, self.layer, layer_of(scene, self.layer).changed(fill=made))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: {self.fill} fill"


class FollowPoint(SceneEdit):
    """What a trace follows: a layer, whose pivot leaves the line, or a vector, which is a place."""

    kind: Literal["follow point"] = "follow point"
    layer: str
    follows: str = ""

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if not isinstance(layer, TraceLayer):
            raise Refused(f"{layer.name} is no trace.", self.layer)
        return with_node(scene, self.layer, layer.changed(follows=self.follows))

    def label_in(self, scene: Scene) -> str:
        index, name = scene.index, layer_of(scene, self.layer).name
        other = index.layers.get(self.follows) or index.parameters.get(self.follows)
        told = getattr(other, "name", None) or getattr(other, "label", None)
        return f"{name} follows {told or 'nothing'}"


class ChangeStops(SceneEdit):
    """Add a colour stop half-way along the widest gap of a gradient or of the shells of an edge, or remove one."""

    kind: Literal["change stops"] = "change stops"
    layer: str
    of: Literal["fill", "edge"] = "fill"
    remove: str | None = None
    id: Id = Field(default_factory=lambda: new_id("stop"))
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        fill = layer if isinstance(layer, TextureLayer) else getattr(layer, self.of, None)
        if not isinstance(fill, Gradient | Edge | TextureLayer):
            raise Refused(f"{layer.name} has no {'gradient' if self.of == 'fill' else 'edge'}.", self.layer)
        if self.remove is not None:
            if len(fill.stops) <= 2:
                raise Refused("A gradient needs two colours.", self.layer)
            scene = without_links_to(scene, {f"{self.remove}.offset", f"{self.remove}.colour"}, self.frame)
            stops = tuple(stop for stop in fill.stops if stop.id != self.remove)
        elif len(fill.stops) >= 16:
            raise Refused("A gradient has at most 16 colours.", self.layer)
        else:
            places = [components(s.offset.rest, scene.index.parameters[f"{s.id}.offset"].spec)[0] for s in fill.stops]
            gap = int(np.argmax(np.diff(places)))
            stop = Stop(
                id=self.id,
                offset=(places[gap] + places[gap + 1]) / 2,
                colour=Parameter(rest=fill.stops[gap].colour.rest),
            )
            stops = (*fill.stops[: gap + 1], stop, *fill.stops[gap + 1 :])
        if isinstance(fill, TextureLayer):
            return with_node(scene, self.layer, layer_of(scene, self.layer).changed(stops=stops))
        return with_node(scene, self.layer, layer_of(scene, self.layer).changed(**{self.of: fill.changed(stops=stops)}))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: colour {'removed' if self.remove else 'added'}"
