"""What the panels and the stage show of gauges."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from jaunty_lever.core.document.arrangement import AlongPath, Emitter, Order, Rails, Scatter
from jaunty_lever.core.document.gauge import Gauge, NoiseGauge, Sweep, Zone
from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.nodes import ModifierNode
from jaunty_lever.core.document.parameter import Parameter, stands_out
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.evaluation.readings import lined, reads_moved
from jaunty_lever.core.motion import Push
from jaunty_lever.core.motion.field import hidden_of_field

from .array_views import OrderView, counted_by, deep_settings, outlines_for, unasked_of_order
from .fields import Field, field_of
from .profiles import Point, path_of, points_of


@dataclass(frozen=True)
class LineView:
    """What a zone has the shape of that is drawn: the layers that there are (id, name), which one it is, or the path
    data."""

    outlines: tuple[tuple[str, str], ...]
    outline: str
    data: str


@dataclass(frozen=True)
class GaugeView:
    """A gauge beside the levers."""

    gauge: Gauge
    title: str
    value: Field
    travel: Field | None
    main: tuple[Field, ...]
    more: tuple[Field, ...]
    order: tuple[Field, ...] | None
    ordered: bool
    followers: tuple[tuple[str, str], ...]
    numbers: tuple[tuple[str, str, bool], ...]
    chosen: bool
    keys: list[Point]
    reads: str = ""
    line: LineView | None = None
    counted: OrderView | None = None

    @property
    def path(self) -> str:
        """The curve of its profile as SVG path data."""
        return path_of(self.keys)


def gauge_views(
    scene: Scene, chosen: tuple[str, ...], parameter: str | None
) -> tuple[ArrayLayer, list[GaugeView], dict[str, Any]] | None:
    """The array that is chosen, or in which what is chosen stands, its gauges, and what the stage draws of them; None
    outside arrays."""
    index = scene.index
    node = index.parameters.get(parameter or "")
    here = [node.top] if node is not None and node.top in index.layers else []
    for layer in [*here, *reversed(chosen)]:
        around = (*index.arrays.get(layer, ()), *([layer] if isinstance(index.layers[layer], ArrayLayer) else []))
        array = index.layers[around[-1]] if around else None
        if isinstance(array, ArrayLayer):
            return array, [gauge_view(index, gauge, parameter) for gauge in array.gauges], _on_stage(array)
    return None


_DRAGGED = {
    "row": ("count", "fit", "gap", "span"),
    "grid": ("columns", "rows", "fit", "gap", "span"),
    "ground": ("columns", "rows", "fit", "gap", "span", "brick"),
    "ring": ("count", "radius", "start"),
    "path": (),
    "rails": (),
    "letters": (),
    "scatter": ("area",),
    "emitter": ("origin", "direction", "spread", "speed", "shape", "size"),
}
_DRAWN = {"zone": ("centre", "size", "angle", "shape", "inner", "hollow"), "sweep": ("travel", "soft", "width", "way")}


def _on_stage(array: ArrayLayer) -> dict[str, Any]:
    """What the handles on the stage need to know of an array: its ids, and the parameters that they stand on."""
    kind = array.arrangement
    values = [f"{array.id}.arrangement.{name}" for name in _DRAGGED[kind.kind]]
    values += [f"{array.id}.order.{name}" for name in ("measure", "origin", "backwards")]
    gauges = []
    for gauge in array.gauges:
        own = getattr(gauge, "order", None) is not None
        told = {"id": gauge.id, "kind": gauge.kind, "name": gauge.name, "ordered": own}
        if isinstance(gauge, Zone):
            told |= {"outline": gauge.outline, "data": gauge.data}
        gauges.append(told)
        values += [f"{gauge.id}.{name}" for name in _DRAWN.get(gauge.kind, ())]
        if own:
            values += [f"{gauge.id}.order.{name}" for name in ("measure", "origin", "backwards")]
    outlined = getattr(kind, "outline", None) is not None
    if isinstance(kind, Emitter):
        return {
            "id": array.id,
            "kind": kind.kind,
            "outlined": outlined,
            "data": None,
            "values": values,
            "gauges": gauges,
        }
    along = isinstance(kind, AlongPath | Rails) or (
        isinstance(kind, Scatter) and kind.shape.constant_value == "outline"
    )
    data = getattr(kind, "data", None) if along and not outlined else None
    return {
        "id": array.id,
        "kind": kind.kind,
        "outlined": along,
        "points": array.order.points,
        "data": data,
        "other": kind.other_data if isinstance(kind, Rails) and kind.other_outline is None else None,
        "values": values,
        "gauges": gauges,
    }


def gauge_view(index: SceneIndex, gauge: Gauge, parameter: str | None) -> GaugeView:
    """A gauge, its settings in the order of their use."""
    specs = specs_of(type(gauge))
    hidden = {"profile"} | deep_settings(index, gauge)
    if isinstance(gauge, NoiseGauge):
        hidden |= hidden_of_field(gauge.over)
    if isinstance(gauge, Zone):
        hidden |= _unasked_of(gauge)
    edge = getattr(gauge, "edge", None)
    if edge is not None and not edge.moves and edge.rest != "cubic-bezier":
        hidden |= {"x1", "y1", "x2", "y2"}
    if isinstance(gauge, Sweep):
        hidden.add("travel")
        if not gauge.way.moves and gauge.way.rest in ("enter", "leave"):
            hidden |= {"width", "circle"}
        if gauge.profile.keys:
            hidden |= {"edge", "x1", "y1", "x2", "y2"}
    fields = {
        name: field_of(index, index.parameters[f"{gauge.id}.{name}"], parameter) for name in specs if name not in hidden
    }
    own: Order | None = getattr(gauge, "order", None)
    order = None
    if own is not None:
        names = [name for name in specs_of(type(own)) if name not in unasked_of_order(own)]
        order = tuple(field_of(index, index.parameters[f"{gauge.id}.order.{name}"], parameter) for name in names)
    at = f"{gauge.id}.value"
    node = index.parameters[at]
    travel = index.parameters.get(f"{gauge.id}.travel")
    chosen = parameter in {f"{gauge.id}.{name}" for name in (*specs, *gauge.numbers)}
    profile: Parameter | None = getattr(gauge, "profile", None)
    return GaugeView(
        gauge=gauge,
        title=gauge.title,
        value=field_of(index, node, parameter, gauge.name),
        travel=field_of(index, travel, parameter) if travel else None,
        main=tuple(field for name, field in fields.items() if specs[name].main),
        more=tuple(field for name, field in fields.items() if not specs[name].main),
        order=order,
        ordered="order" in type(gauge).model_fields,
        followers=gauge_followers(index, gauge),
        numbers=tuple(
            (f"{gauge.id}.{name}", axis, parameter == f"{gauge.id}.{name}")
            for name, axis in zip(gauge.numbers, ("x", *gauge.others), strict=True)
            if gauge.others
        ),
        chosen=chosen,
        keys=points_of(profile, specs["profile"]) if profile else [],
        reads=_reads(index, gauge),
        line=_line_of(index, gauge),
        counted=None if own is None else counted_by(index, index.layers[node.top], own, gauge.id),  # type: ignore[arg-type]
    )


def _unasked_of(zone: Zone) -> set[str]:
    """Settings that have no say in a zone as it is."""
    hidden = set() if stands_out(zone.size_depth) else {"turn"}
    if not zone.shape.moves and lined(zone):
        # What is drawn has its own place.
        hidden |= {"centre", "angle", "turn"}
    return hidden


def _line_of(index: SceneIndex, gauge: Gauge) -> LineView | None:
    """What a zone has the shape of that is drawn; nothing for others."""
    if not isinstance(gauge, Zone) or not lined(gauge):
        return None
    array = index.parameters[f"{gauge.id}.value"].top
    return LineView(outlines_for(index, array), gauge.outline or "", gauge.data)


def _reads(index: SceneIndex, gauge: Gauge) -> str:
    """From where a zone reads, in words; nothing for other gauges."""
    if not isinstance(gauge, Zone):
        return ""
    if lined(gauge) and not gauge.outline and not gauge.data:
        return "Nothing is drawn yet: choose the layer whose outline it has, or type a path."
    array = index.parameters[f"{gauge.id}.value"].top
    if reads_moved(index, gauge.id, array):
        return "Reads where copies stand now."
    return "Reads the places of copies: where they stand goes by this zone itself."


def gauge_followers(index: SceneIndex, gauge: Gauge) -> tuple[tuple[str, str], ...]:
    """(parameter, label) of all that a gauge drives: what follows it, and what a zone pushes."""
    listening = [entry for name in gauge.numbers for entry in index.followers.get(f"{gauge.id}.{name}", [])]
    if isinstance(gauge, Zone):
        known = [e for e in index.modifiers.values() if isinstance(e.modifier, Push) and e.modifier.zone == gauge.id]
        listening += known
    return shown_followers(index, listening)


def shown_followers(index: SceneIndex, listening: Iterable[ModifierNode]) -> tuple[tuple[str, str], ...]:
    """(parameter, label) of what listens; what blends two values by an amount stands for that amount."""
    found = {}
    for entry in listening:
        node = index.parameters[entry.parameter]
        host = index.modifiers.get(node.modifier or "")
        shown = index.parameters[host.parameter] if host is not None and node.field == "amount" else node
        found[shown.id] = shown.label
    return tuple(found.items())
