"""What the panels show of arrays: their arrangement, order and values in the list, and their gauges beside the
levers."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from jaunty_lever.core.arrays_in_words import array_sentence
from jaunty_lever.core.document.arrangement import (
    ARRANGEMENTS,
    AlongPath,
    Emitter,
    Grid,
    Order,
    Rails,
    Scatter,
    leads_out,
)
from jaunty_lever.core.document.counts import resting_count
from jaunty_lever.core.document.gauge import Gauge, NoiseGauge, Sweep, Zone
from jaunty_lever.core.document.index import SceneIndex, walk
from jaunty_lever.core.document.layers import ArrayLayer, ShapeLayer
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.nodes import ModifierNode
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.edits.gauges import later_of
from jaunty_lever.core.evaluation.depth import OF_COPIES, uses_depth
from jaunty_lever.core.evaluation.readings import reads_moved
from jaunty_lever.core.motion import Push
from jaunty_lever.core.motion.field import hidden_of_field

from .fields import Field, field_of, folding
from .profiles import Point, path_of, points_of


@dataclass(frozen=True)
class ArrayView:
    """An array in the list of layers, opened."""

    id: str
    sentence: str
    kind: str
    kinds: tuple[tuple[str, str], ...]
    placed: tuple[tuple[str, tuple[Field, ...]], ...]
    outlines: tuple[tuple[str, str], ...] | None
    outline: str
    data: str | None
    other: tuple[str, str | None] | None
    timed: tuple[Field, ...]
    """Their order, and when each is."""
    copies: tuple[Field, ...]


def array_view(scene: Scene, layer: ArrayLayer, chosen: str | None) -> ArrayView:
    """What the list shows of an opened array."""
    index, kind = scene.index, layer.arrangement

    def fields(owner: str, model: Model, hidden: set[str]) -> tuple[Field, ...]:
        names = [name for name in specs_of(type(model)) if name not in hidden]
        return tuple(_shown(index, f"{owner}.{name}", chosen) for name in names)

    hidden: set[str] = set()
    if isinstance(kind, Emitter):
        return _emitter_view(scene, layer, kind, fields, chosen)
    if (fit := getattr(kind, "fit", None)) is not None and not fit.moves:
        hidden |= {"gap", "gap_depth"} if fit.rest == "span" else {"span", "span_depth"}
    hidden |= deep_settings(scene.index, kind)
    if isinstance(kind, Grid) and not leads_out(kind):
        hidden |= {"gap_depth", "span_depth"}
    if isinstance(kind, Scatter) and kind.shape.rest == "outline":
        hidden.add("area")
    along = isinstance(kind, AlongPath | Rails) or (isinstance(kind, Scatter) and kind.shape.rest == "outline")
    shuffled = layer.order.measure.moves or layer.order.measure.rest == "shuffled"
    order_hidden = {"seed"} if not shuffled else {"origin"}
    times = ["later", "random_later", "lives"]
    if layer.random_later.moves or layer.random_later.rest:
        times.insert(2, "random_seed")
    if layer.lives.moves or layer.lives.rest != "on":
        times.append("moment")
    return ArrayView(
        id=layer.id,
        sentence=array_sentence(scene, layer),
        kind=kind.kind,
        kinds=_KINDS,
        placed=(("", fields(f"{layer.id}.arrangement", kind, hidden)),),
        outlines=_outlines(scene, layer) if along else None,
        outline=getattr(kind, "outline", None) or "",
        data=getattr(kind, "data", None) if along and not getattr(kind, "outline", None) else None,
        other=(kind.other_outline or "", None if kind.other_outline else kind.other_data)
        if isinstance(kind, Rails)
        else None,
        timed=(
            *(_shown(index, f"{layer.id}.{name}", chosen) for name in times),
            *fields(f"{layer.id}.order", layer.order, order_hidden),
        ),
        copies=tuple(_shown(index, f"{layer.id}.{name}", chosen) for name in _COPY_VALUES),
    )


_ALWAYS = frozenset(
    {"later", "copy_position", "copy_rotation", "copy_scale", "copy_opacity"}
    | {"rate", "lifetime", "shape", "origin", "direction", "spread", "speed", "gravity", "facing"}
)
"""What is in sight although nobody has set it."""


def _shown(index: SceneIndex, parameter: str, chosen: str | None) -> Field:
    field = field_of(index, index.parameters[parameter], chosen)
    name = parameter.rpartition(".")[2]
    return folding(field, not (name in _ALWAYS or (name in OF_COPIES and uses_depth(index))))


_PARTS_OF_FLIGHT = (
    ("Births", ("rate", "lifetime", "lifetime_random", "births", "pre_roll", "repeat")),
    ("Start", ("shape", "origin", "size", "size_depth")),
    ("Flight", ("direction", "spread", "speed", "speed_random", "speed_depth", "spread_depth", "gravity", "drag")),
    ("Turning and seed", ("facing", "spin", "spin_random", "on_top", "seed")),
)


def _emitter_view(
    scene: Scene,
    layer: ArrayLayer,
    kind: Emitter,
    fields: Callable[[str, Model, set[str]], tuple[Field, ...]],
    chosen: str | None,
) -> ArrayView:
    """What the list shows of an emitter: its settings by what they are for; it has no order and no stagger."""
    shape = "" if kind.shape.moves else str(kind.shape.rest)
    hidden = ({"size"} if shape in ("point", "outline") else set()) | deep_settings(scene.index, kind)
    if kind.repeat.rest and not kind.repeat.moves:
        hidden.add("pre_roll")
    if not kind.spin.moves and not kind.spin.rest:
        hidden.add("spin_random")
    known = dict(zip((n for n in specs_of(Emitter)), fields(f"{layer.id}.arrangement", kind, set()), strict=True))
    placed = tuple(
        (title, tuple(known[name] for name in names if name not in hidden)) for title, names in _PARTS_OF_FLIGHT
    )
    index = scene.index
    inside = {inner.id for inner, _, _ in walk(layer.layers)}
    leads = tuple(
        (other.id, other.name)
        for other in index.layers.values()
        if other.id not in {layer.id, *inside}
        and (shape != "outline" or isinstance(other, ShapeLayer))
        and (mine := index.arrays.get(other.id, ())) == index.arrays.get(layer.id, ())[: len(mine)]
    )
    return ArrayView(
        id=layer.id,
        sentence=array_sentence(scene, layer),
        kind=kind.kind,
        kinds=_KINDS,
        placed=placed,
        outlines=leads,
        outline=kind.outline or "",
        data=kind.data if shape == "outline" and not kind.outline else None,
        other=None,
        timed=(_shown(index, f"{layer.id}.random_later", chosen),)
        if layer.random_later.moves or layer.random_later.rest
        else (),
        copies=tuple(
            _shown(index, f"{layer.id}.{name}", chosen)
            for name in _COPY_VALUES
            if name not in OF_COPIES or uses_depth(scene.index)
        ),
    )


_KINDS = tuple((name, getattr(cls, "title", name)) for name, cls in ARRANGEMENTS.items())
_COPY_VALUES = ("copy_position", "copy_rotation", "copy_scale", "copy_depth", "copy_tilt", "copy_opacity")


def later_each(scene: Scene, parameter: str) -> str:
    """By how much each copy's value comes later than that of the one before, as it is typed; nothing when it does
    not."""
    node = scene.index.parameters[parameter]
    for modifier in node.parameter.chain:
        seconds = later_of(modifier)
        if seconds is not None:
            return f"{round(seconds * scene.fps, 3):g}f"
    return ""


def _outlines(scene: Scene, layer: ArrayLayer) -> tuple[tuple[str, str], ...]:
    """The layers whose outline an array's copies may stand along."""
    around = scene.index.arrays.get(layer.id, ())
    return tuple(
        (other.id, other.name)
        for other in scene.index.layers.values()
        if isinstance(other, ShapeLayer) and (mine := scene.index.arrays.get(other.id, ())) == around[: len(mine)]
    )


def count_of(layer: ArrayLayer) -> str:
    """How many copies stand behind its name in the list; nothing where that is no one number."""
    if isinstance(layer.arrangement, Emitter):
        return ""
    return f"{resting_count(layer):,}".replace(",", "\u2009")


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
_DRAWN = {"zone": ("centre", "size", "angle", "shape", "inner"), "sweep": ("travel", "soft", "width", "way")}


def _on_stage(array: ArrayLayer) -> dict[str, Any]:
    """What the handles on the stage need to know of an array: its ids, and the parameters that they stand on."""
    kind = array.arrangement
    values = [f"{array.id}.arrangement.{name}" for name in _DRAGGED[kind.kind]]
    values += [f"{array.id}.order.{name}" for name in ("measure", "origin", "backwards")]
    gauges = []
    for gauge in array.gauges:
        own = getattr(gauge, "order", None) is not None
        gauges.append({"id": gauge.id, "kind": gauge.kind, "name": gauge.name, "ordered": own})
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
        "data": data,
        "other": kind.other_data if isinstance(kind, Rails) and kind.other_outline is None else None,
        "values": values,
        "gauges": gauges,
    }


def deep_settings(index: SceneIndex, owner: Model) -> set[str]:
    """Settings that mean nothing in a scene that is not seen in depth."""
    return set() if uses_depth(index) else {name for name, spec in specs_of(type(owner)).items() if spec.deep}


def gauge_view(index: SceneIndex, gauge: Gauge, parameter: str | None) -> GaugeView:
    """A gauge, its settings in the order of their use."""
    specs = specs_of(type(gauge))
    hidden = {"profile"} | deep_settings(index, gauge)
    if isinstance(gauge, NoiseGauge):
        hidden |= hidden_of_field(gauge.over)
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
        shuffled = own.measure.moves or own.measure.rest == "shuffled"
        names = [name for name in specs_of(type(own)) if name != ("origin" if shuffled else "seed")]
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
    )


def _reads(index: SceneIndex, gauge: Gauge) -> str:
    """From where a zone reads, in words; nothing for other gauges."""
    if not isinstance(gauge, Zone):
        return ""
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
