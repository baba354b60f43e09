"""What the panels show of arrays: their arrangement, order and values in the list, and their gauges beside the
levers."""

from collections.abc import Callable
from dataclasses import dataclass

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
from jaunty_lever.core.document.index import SceneIndex, walk
from jaunty_lever.core.document.layers import ArrayLayer, ShapeLayer
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.edits.gauges import later_of
from jaunty_lever.core.evaluation.depth import OF_COPIES, uses_depth

from .fields import Field, field_of, folding


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
    counted: "OrderView | None" = None


@dataclass(frozen=True)
class OrderView:
    """What copies are counted along, from or by, besides a point: a line (of a layer or as path data), a gauge of the
    array, further points. `of`: the gauge whose own order it is."""

    array: str
    of: str
    measure: str
    outlines: tuple[tuple[str, str], ...]
    outline: str
    data: str
    gauges: tuple[tuple[str, str], ...]
    gauge: str
    points: str


def counted_by(index: SceneIndex, layer: ArrayLayer, order: Order, of: str = "") -> OrderView | None:
    """What an order goes by that is no number; nothing where it goes by a point alone."""
    measure = "" if order.measure.moves else str(order.measure.constant_value)
    if measure not in ("points", "line", "gauge"):
        return None
    points = ", ".join(f"{plain_number(x)} {plain_number(y)}" for x, y in order.points)
    gauges = tuple((gauge.id, gauge.name) for gauge in layer.gauges if gauge.id != of)
    line = outlines_for(index, layer.id), order.outline or "", order.data
    return OrderView(layer.id, of, measure, *line, gauges, order.gauge or "", points)


def unasked_of_order(order: Order) -> set[str]:
    """Settings that have no say in an order as it is."""
    if order.measure.moves or order.measure.rest == "shuffled":
        return {"origin"}
    return {"seed", "origin"} if order.measure.rest in ("line", "gauge") else {"seed"}


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
        outlines=outlines_for(scene.index, layer.id) if along else None,
        outline=getattr(kind, "outline", None) or "",
        data=getattr(kind, "data", None) if along and not getattr(kind, "outline", None) else None,
        other=(kind.other_outline or "", None if kind.other_outline else kind.other_data)
        if isinstance(kind, Rails)
        else None,
        timed=(
            *(_shown(index, f"{layer.id}.{name}", chosen) for name in times),
            *fields(f"{layer.id}.order", layer.order, unasked_of_order(layer.order)),
        ),
        counted=counted_by(index, layer, layer.order),
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


def outlines_for(index: SceneIndex, array: str) -> tuple[tuple[str, str], ...]:
    """The layers whose outline an array's copies may stand along, or its zones have."""
    around = index.arrays.get(array, ())
    return tuple(
        (other.id, other.name)
        for other in index.layers.values()
        if isinstance(other, ShapeLayer) and (mine := index.arrays.get(other.id, ())) == around[: len(mine)]
    )


def count_of(layer: ArrayLayer) -> str:
    """How many copies stand behind its name in the list; nothing where that is no one number."""
    if isinstance(layer.arrangement, Emitter):
        return ""
    return f"{resting_count(layer):,}".replace(",", "\u2009")


def deep_settings(index: SceneIndex, owner: Model) -> set[str]:
    """Settings that mean nothing in a scene that is not seen in depth."""
    return set() if uses_depth(index) else {name for name, spec in specs_of(type(owner)).items() if spec.deep}
