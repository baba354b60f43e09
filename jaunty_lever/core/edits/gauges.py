"""Edits of gauges: added, changed, deleted; what follows them, and copies that come later."""

from typing import Any, Literal

from pydantic import Field

from ..document.gauge import GAUGES, MOST_GRID, Gauge, PictureGauge, Zone
from ..document.ids import Id, OneLine, Seed, new_id, new_seed
from ..document.keys import Finite, Frame
from ..document.layers import ArrayLayer
from ..document.modifier import Modifier
from ..document.parameter import Parameter
from ..document.references import RANK
from ..document.scene import Scene
from ..document.specs import components, specs_of
from ..evaluation.readings import lined
from ..motion import Follow, Push, Shift, Steer
from ..motion.steer import LED_BY
from .base import Gone, Refused, SceneEdit, fresh_id, layer_of, place_of, with_node, with_parameter
from .deleting import without_links_to
from .linking import LinkTo
from .new_gauge import with_gauge
from .orders import without_gauge
from .removing import without_modifiers
from .steering import Steering, read_value


class AddGauge(SceneEdit):
    """Add a gauge to an array: a sweep keyed through it over the scene, a zone where its copies stand, a noise …"""

    kind: Literal["add gauge"] = "add gauge"
    array: str
    gauge: str
    id: Id = Field(default_factory=lambda: new_id("gauge"))
    name: OneLine | None = Field(default=None, max_length=80)
    seed: Seed = Field(default_factory=new_seed)
    fields: dict[str, Any] = Field(default_factory=dict, description="Further fields of the gauge, as in a file.")

    def apply_to(self, scene: Scene) -> Scene:
        fresh_id(scene, self.id)
        return with_gauge(scene, self.array, self.gauge, self.id, self.seed, self.name, self.fields)

    def label_in(self, scene: Scene) -> str:
        cls = GAUGES.get(self.gauge)
        return f"{layer_of(scene, self.array).name}: {self.name or (cls.title if cls else self.gauge)} added"


def gauge_in(scene: Scene, gauge: str) -> tuple[ArrayLayer, int]:
    """The array that a gauge belongs to, and its position there. Raises Gone."""
    node = scene.index.parameters.get(f"{gauge}.value")
    layer = scene.index.layers.get(node.top) if node else None
    if isinstance(layer, ArrayLayer):
        for k, one in enumerate(layer.gauges):
            if one.id == gauge:
                return layer, k
    raise Gone("This gauge has been deleted.", gauge)


def _with_gauge(scene: Scene, layer: ArrayLayer, position: int, gauge: Gauge) -> Scene:
    gauges: Any = (*layer.gauges[:position], gauge, *layer.gauges[position + 1 :])
    return with_node(scene, layer.id, layer.changed(gauges=gauges))


class ChangeGauge(SceneEdit):
    """A gauge's name, whether it has an order of its own, or what is drawn that a zone has the shape of."""

    kind: Literal["change gauge"] = "change gauge"
    gauge: str
    name: OneLine | None = Field(default=None, max_length=80)
    own_order: bool | None = None
    outline: str | None = Field(default=None, description="The layer whose outline a zone has; empty: the path data.")
    data: str | None = Field(default=None, max_length=100_000, description="SVG path data of a zone, on the stage.")
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        layer, position = gauge_in(scene, self.gauge)
        gauge: Gauge = layer.gauges[position]
        if self.name is not None:
            name = self.name.strip()
            if not 0 < len(name) <= 80:
                raise Refused("A gauge's name has 1 to 80 letters.", self.gauge)
            gauge = gauge.changed(name=name)
        if self.own_order is not None:
            if "order" not in type(gauge).model_fields:
                raise Refused(f"{gauge.name} goes by no order.", self.gauge)
            if not self.own_order:
                scene = without_links_to(scene, _inside(scene, f"{gauge.id}.order"), self.frame)
                layer, position = gauge_in(scene, self.gauge)
            gauge = gauge.changed(order=layer.order if self.own_order else None)
        if self.outline is not None or self.data is not None:
            gauge = self._drawn(gauge)
        return _with_gauge(scene, layer, position, gauge)

    def _drawn(self, gauge: Gauge) -> Gauge:
        """A zone with another layer's outline, or with path data."""
        if not isinstance(gauge, Zone):
            raise Refused(f"{gauge.name} has no shape: it is no zone.", self.gauge)
        updates: dict[str, Any] = {}
        if self.outline is not None:
            updates["outline"] = self.outline or None
        if self.data is not None:
            updates["data"] = self.data
        if not lined(gauge):
            updates["shape"] = gauge.shape.changed(rest="outline", keys=(), typed=())
        return gauge.changed(**updates)

    def label_in(self, scene: Scene) -> str:
        layer, position = gauge_in(scene, self.gauge)
        gauge = layer.gauges[position]
        if self.outline is not None or self.data is not None:
            lead = scene.index.layers.get(self.outline or "")
            return f"{gauge.name}: the outline of {lead.name}" if lead else f"{gauge.name}: path data"
        if self.name is not None:
            return f"{gauge.name} renamed {self.name.strip()}"
        return f"{gauge.name}: {'an order of its own' if self.own_order else f'the order of {layer.name}'}"


class SetGaugePicture(SceneEdit):
    """The brightness that a gauge of the kind Picture reads."""

    kind: Literal["set gauge picture"] = "set gauge picture"
    gauge: str
    source: OneLine = Field(default="", max_length=200)
    wide: int = Field(ge=1, le=MOST_GRID)
    high: int = Field(ge=1, le=MOST_GRID)
    data: str = Field(max_length=4 * MOST_GRID**2)

    def apply_to(self, scene: Scene) -> Scene:
        layer, position = gauge_in(scene, self.gauge)
        gauge = layer.gauges[position]
        if not isinstance(gauge, PictureGauge):
            raise Refused(f"{gauge.name} reads no picture.", self.gauge)
        changed = gauge.changed(source=self.source, wide=self.wide, high=self.high, data=self.data)
        return _with_gauge(scene, layer, position, changed)

    def label_in(self, scene: Scene) -> str:
        layer, position = gauge_in(scene, self.gauge)
        return f"{layer.gauges[position].name} reads {self.source or 'a picture'}"


class RemoveGauge(SceneEdit):
    """Delete a gauge; what followed it rests where its first copy stood at `frame`, and what was pushed is no
    longer."""

    kind: Literal["remove gauge"] = "remove gauge"
    gauge: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        gauge_in(scene, self.gauge)
        scene = without_links_to(scene, _inside(scene, self.gauge), self.frame)
        for entry in list(scene.index.modifiers.values()):
            if isinstance(entry.modifier, Push) and entry.modifier.zone == self.gauge:
                scene = without_modifiers(scene, entry.parameter, {entry.modifier.id}, self.frame)
        layer, position = gauge_in(scene, self.gauge)
        others = (*layer.gauges[:position], *layer.gauges[position + 1 :])
        gauges: Any = tuple(
            one if (own := getattr(one, "order", None)) is None else one.changed(order=without_gauge(own, self.gauge))
            for one in others
        )
        order = without_gauge(layer.order, self.gauge)
        return with_node(scene, layer.id, layer.changed(gauges=gauges, order=order))

    def label_in(self, scene: Scene) -> str:
        layer, position = gauge_in(scene, self.gauge)
        return f"{layer.name}: {layer.gauges[position].name} deleted"


def _inside(scene: Scene, part: str) -> set[str]:
    """The parameters of a gauge or of its order, with all settings in their chains."""
    return scene.index.with_settings(one for one in scene.index.parameters if one.startswith(f"{part}."))


Part = Literal["x", "y", "z", "each"]


class TieToGauge(SceneEdit):
    """Let values go on from where they are as a gauge goes from 0 to 1; all of them in one step. Each gets a station of
    its own, behind what it has already."""

    kind: Literal["tie to gauge"] = "tie to gauge"
    gauge: str
    values: dict[str, str] = Field(
        min_length=1, max_length=200, description="By parameter, what it changes to, by or times, as typed."
    )
    ways: dict[str, Steering] = Field(
        default={}, max_length=200, description="By parameter, what is typed for it; “towards” where none is."
    )
    parts: dict[str, Part] = Field(
        default={},
        max_length=200,
        description="By parameter, which of the gauge's numbers leads it, or each of its components by its own.",
    )
    id: Id = Field(default_factory=lambda: new_id("m"))

    def apply_to(self, scene: Scene) -> Scene:
        layer, position = gauge_in(scene, self.gauge)
        gauge = layer.gauges[position]
        for number, (parameter, text) in enumerate(self.values.items()):
            for axis, part in self._leads(scene, gauge, parameter, text):
                link = f"{self.id[:34]}-{number}"
                scene = LinkTo(
                    scene=scene.id,
                    parameter=parameter,
                    driver=f"{self.gauge}.{part}",
                    way="steer",
                    steers=self.ways.get(parameter, "towards"),
                    goal=text,
                    source=("0", "1"),
                    axis=axis,
                    id=f"{link[:37]}-{axis}" if axis else link,
                ).apply_to(scene)
        return scene

    def _leads(self, scene: Scene, gauge: Gauge, parameter: str, text: str) -> list[tuple[int | None, str]]:
        """Which component is led by which of the gauge's numbers; none: all of them. Components with nothing to gain
        are left out."""
        asked, numbers = self.parts.get(parameter, "x"), gauge.numbers
        if asked == "each":
            node = place_of(scene, parameter)
            many, way = node.spec.components, self.ways.get(parameter, "towards")
            if not 1 < many <= len(numbers):
                raise Refused(f"{gauge.name} has {len(numbers)} numbers: not one for each component.", parameter)
            spec = specs_of(Steer)[LED_BY.get(way, "amount")].fitted(node.spec)
            nothing = {"by": 0.0, "plays": 0.0, "times": 1.0}.get(way)
            goals = components(read_value(text, spec, scene.fps, node), spec)
            led = [(k, one) for k, one in enumerate(numbers[:many]) if goals[min(k, len(goals) - 1)] != nothing]
            return [*led] or [(0, "value")]
        if asked != "x" and asked not in gauge.others:
            raise Refused(f"{gauge.name} has one number for each copy, and no {asked}.", parameter)
        return [(None, "value" if asked == "x" else asked)]

    def label_in(self, scene: Scene) -> str:
        layer, position = gauge_in(scene, self.gauge)
        name = layer.gauges[position].name
        if len(self.values) > 1:
            return f"{len(self.values)} values follow {name}"
        return f"{place_of(scene, next(iter(self.values))).title} follows {name}"


class LaterEach(SceneEdit):
    """Let each copy's value come later than that of the one before it in the order; 0 takes that off again."""

    kind: Literal["later each"] = "later each"
    parameter: str
    seconds: Finite
    id: Id = Field(default_factory=lambda: new_id("m"))

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        if not scene.index.arrays_of(node):
            raise Refused(f"{node.label} stands in no array: it has no copies to come later.", self.parameter)
        chain = tuple(one for one in node.parameter.chain if later_of(one) is None)
        if self.seconds:
            follow = Follow(id=f"{self.id[:38]}-f", driver=RANK, times=Parameter(rest=self.seconds))
            chain = (*chain, Shift(id=self.id, delay=Parameter(rest=0.0, chain=(follow,))))
        return with_parameter(scene, self.parameter, chain=chain)

    def label_in(self, scene: Scene) -> str:
        said = f"{self.seconds * scene.fps:g} frames" if self.seconds else "no longer"
        return f"{place_of(scene, self.parameter).title}: each copy {said} later"


def later_of(modifier: Modifier) -> float | None:
    """By how many seconds a modifier lets each copy come later than the one before, when it does nothing else."""
    only = modifier.delay.chain[0] if isinstance(modifier, Shift) and len(modifier.delay.chain) == 1 else None
    if not isinstance(only, Follow) or only.driver != RANK or only.times.moves:
        return None
    return components(only.times.rest, specs_of(Follow)["times"])[0]
