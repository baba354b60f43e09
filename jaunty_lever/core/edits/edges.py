"""Edits of what a shape may have besides its outline and fill: an edge that moves point by point, a line that is drawn
in part."""

from typing import Literal

from pydantic import Field

from ..document.colours import hex_colour
from ..document.edge import Edge
from ..document.fills import SolidFill, Stop
from ..document.ids import Id, new_id
from ..document.keys import Frame, Value
from ..document.layers import ShapeLayer
from ..document.line_style import LineStyle
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.specs import components, specs_of
from .base import Refused, SceneEdit, layer_of, with_node
from .deleting import without_links_to

_INNER = "#f5f1e8"
LINE_WIDTH = 4.0
"""Pixels of the line that a shape gets which had none."""


class _OfShape(SceneEdit):
    layer: str
    on: bool = True
    frame: Frame = 0.0

    def _shape(self, scene: Scene) -> ShapeLayer:
        layer = layer_of(scene, self.layer)
        if not isinstance(layer, ShapeLayer):
            raise Refused(f"{layer.name} has no outline. Shapes and texts have.", self.layer)
        return layer

    def _without(self, scene: Scene, part: Literal["edge", "line"]) -> Scene:
        """The scene without a part of the layer; what followed it rests where it was."""
        index = scene.index
        gone = {p.id for p in index.parameters.values() if p.top == self.layer and p.route[:1] == (part,)}
        if part == "edge":
            gone |= {p.id for p in index.known.values() if p.top == self.layer}
        scene = without_links_to(scene, gone, self.frame)
        return with_node(scene, self.layer, layer_of(scene, self.layer).changed(**{part: None}))


class SetEdge(_OfShape):
    """Give a shape an edge, whose points each have a value of their own, or take it off."""

    kind: Literal["set edge"] = "set edge"
    stops: tuple[Id, Id] = Field(default_factory=lambda: (new_id("stop"), new_id("stop")))

    def apply_to(self, scene: Scene) -> Scene:
        layer = self._shape(scene)
        if (layer.edge is not None) == self.on:
            return scene
        if not self.on:
            return self._without(scene, "edge")
        outer = layer.fill.colour.rest if isinstance(layer.fill, SolidFill) else "#3f7f88"
        stops = (
            Stop(id=self.stops[0], offset=0.0, colour=Parameter(rest=_between(outer, _INNER))),
            Stop(id=self.stops[1], offset=100.0, colour=_INNER),
        )
        return with_node(scene, self.layer, layer.changed(edge=Edge(stops=stops)))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: edge {'that moves' if self.on else 'at rest'}"


class SetLine(_OfShape):
    """Let a shape's line be drawn in part, in dashes, with other ends; or whole again. A shape without a line gets
    one."""

    kind: Literal["set line"] = "set line"

    def apply_to(self, scene: Scene) -> Scene:
        layer = self._shape(scene)
        if (layer.line is not None) == self.on:
            return scene
        if not self.on:
            return self._without(scene, "line")
        width = layer.stroke_width
        bare = not width.moves and not width.constant_value
        more = {"stroke_width": Parameter(rest=LINE_WIDTH)} if bare else {}
        return with_node(scene, self.layer, layer.changed(line=LineStyle(), **more))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: line {'in part' if self.on else 'as a whole'}"


def _between(one: Value, other: Value) -> str:
    """The colour half-way."""
    colour = specs_of(Stop)["colour"]
    pairs = zip(components(one, colour), components(other, colour), strict=True)
    return hex_colour([(a + b) / 2 for a, b in pairs])
