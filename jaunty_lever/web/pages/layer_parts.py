"""What the list shows of an opened layer besides its own values: its line and edge, and how it is laid over the
others."""

from dataclasses import dataclass

from jaunty_lever.core.display.compositing import is_composited
from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.compositing import FILTERS, Matte
from jaunty_lever.core.document.edge import Edge
from jaunty_lever.core.document.fills import Stop
from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.layers import ArrayLayer, ClipLayer, ShapeLayer, TextureLayer, TraceLayer
from jaunty_lever.core.document.line_style import LineStyle
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.soundness.arrays import around_of

from .fields import Field, field_of
from .profiles import Point, points_of

Stops = tuple[tuple[str, Field, Field], ...]


@dataclass(frozen=True)
class PartView:
    """What an opened shape has besides outline and fill: its fields, and the colours of its shells where it has
    some."""

    part: str
    title: str
    off: str
    fields: tuple[Field, ...]
    stops: Stops = ()
    profile: tuple[str, list[Point]] | None = None


def parts_of(index: SceneIndex, layer: BaseLayer, chosen: str | None) -> tuple[PartView, ...]:
    if not isinstance(layer, ShapeLayer):
        return ()
    made = []

    def fields(part: str, model: type[Model], hidden: set[str]) -> tuple[Field, ...]:
        names = [name for name in specs_of(model) if name not in hidden]
        return tuple(field_of(index, index.parameters[f"{layer.id}.{part}.{name}"], chosen) for name in names)

    line, edge = layer.line, layer.edge
    if line is not None:
        whole = not line.dash.moves and not line.dash.rest
        # Along a line whose width changes there are no dashes.
        off = (
            {"profile"}
            | ({"gap", "offset"} if whole else set())
            | ({"dash", "cap", "join"} if line.profile.keys else set())
        )
        spec = specs_of(LineStyle)["profile"]
        profile = f"{layer.id}.line.profile", points_of(line.profile, spec)
        made.append(PartView("line", "Line", "Draw the line whole", fields("line", LineStyle, off), profile=profile))
    if edge is not None:
        some = edge.shells.moves or bool(edge.shells.rest)
        shown = fields("edge", Edge, set() if some else {"innermost", "share", "about"})
        stops = stops_of(index, edge.stops, chosen) if some else ()
        made.append(PartView("edge", "Outline, point by point", "Take the edge off", shown, stops))
    return tuple(made)


def stops_of(index: SceneIndex, stops: tuple[Stop, ...], chosen: str | None) -> Stops:
    def of(stop: Stop, name: str) -> Field:
        return field_of(index, index.parameters[f"{stop.id}.{name}"], chosen)

    return tuple((stop.id, of(stop, "offset"), of(stop, "colour")) for stop in stops)


@dataclass(frozen=True)
class FilterView:
    """A filter of an opened layer."""

    id: str
    title: str
    does: str
    bypassed: bool
    fields: tuple[Field, ...]


@dataclass(frozen=True)
class CompositingView:
    """How an opened layer is laid over what is below: its blend, its filters, and where it shows."""

    blend: Field
    filters: tuple[FilterView, ...]
    matte: str
    matte_name: str
    matte_fields: tuple[Field, ...]
    used: bool


def compositing_of(index: SceneIndex, layer: BaseLayer, chosen: str | None) -> CompositingView:
    """What the list shows of that."""

    def fields(owner: str, model: type[Model]) -> tuple[Field, ...]:
        return tuple(field_of(index, index.parameters[f"{owner}.{name}"], chosen) for name in specs_of(model))

    matte = layer.matte.layer if layer.matte is not None else ""
    return CompositingView(
        field_of(index, index.parameters[f"{layer.id}.blend"], chosen),
        tuple(FilterView(f.id, f.title, f.does, f.bypassed, fields(f.id, type(f))) for f in layer.filters),
        matte,
        index.layers[matte].name if matte in index.layers else "",
        fields(f"{layer.id}.matte", Matte) if layer.matte is not None else (),
        is_composited(layer),
    )


def mattes_for(index: SceneIndex, layer: str) -> list[tuple[str, str]]:
    """(id, name) of the layers where another one may show."""
    around = index.arrays.get(layer, ())
    barred = {layer, *around_of(index, layer)}
    return [
        (one.id, one.name)
        for one in index.layers.values()
        if one.id not in barred and one.drawn and (mine := index.arrays.get(one.id, ())) == around[: len(mine)]
    ]


FILTER_KINDS = tuple((kind, cls.title, cls.does) for kind, cls in FILTERS.items())
"""Filters to put on, by kind: what each is called and does."""


@dataclass(frozen=True)
class ClipView:
    """What the list shows of an opened clip."""

    id: str
    words: str
    told: dict[str, float]
    sound: bool
    sounds: bool


def clip_of(layer: BaseLayer) -> ClipView | None:
    """That of a clip layer."""
    if not isinstance(layer, ClipLayer):
        return None
    timing = layer.timing
    rate = timing.frames / timing.seconds
    even = len(timing.runs) == 1
    words = (
        f"{layer.width:,} × {layer.height:,} · {plain_number(timing.seconds, 2)} s · {timing.frames:,} "
        f"frame{'' if timing.frames == 1 else 's'} at {'' if even else 'about '}{plain_number(rate, 2)} a second"
        f"{'' if layer.sound else ' · silent'}"
    )

    def rest(name: str) -> float:
        value = getattr(layer, name).rest
        return float(value) if isinstance(value, int | float) else 0.0

    told = {
        "width": layer.width,
        "height": layer.height,
        "seconds": timing.seconds,
        "frames": timing.frames,
        "start": min(rest("start"), timing.seconds),
        "stop": rest("stop"),
    }
    return ClipView(layer.clip, words, told, layer.sound, layer.sounds)


def traceable(index: SceneIndex, layer: BaseLayer) -> tuple[tuple[str, str], ...]:
    """What may leave a trace: layers, and the vectors of levers and layers that are places."""
    layers = [
        (one.id, _in_words(index, one))
        for one in index.layers.values()
        if one.id != layer.id and one.drawn and not isinstance(one, TraceLayer)
    ]
    places = [
        (node.id, node.label)
        for node in index.parameters.values()
        if node.within is None
        and node.spec.kind == "vector"
        and node.spec.components == 2
        and node.spec.unit != "%"
        and not index.arrays_of(node)
        and node.top != layer.id
        and (node.top in index.levers or node.parameter.moves)
    ]
    return (*layers, *places)


def _in_words(index: SceneIndex, layer: BaseLayer) -> str:
    """A layer that leaves a trace: as one, or each of its copies."""
    if isinstance(layer, ArrayLayer):
        return f"{layer.name}, as a whole"
    return f"{layer.name}, each copy" if index.arrays.get(layer.id) else layer.name


def on_stage(layer: BaseLayer) -> tuple[str, ...]:
    """The parameters on which the handles of an opened layer stand."""
    if isinstance(layer, TextureLayer):
        return tuple(f"{layer.id}.{name}" for name in ("zoom", "scroll"))
    if not layer.drawn:
        return tuple(f"{layer.id}.{name}" for name in ("position", "depth", "aim", "aim_depth") if hasattr(layer, name))
    if isinstance(layer, ShapeLayer) and layer.line is not None:
        return tuple(f"{layer.id}.line.{name}" for name in ("start", "end", "turn"))
    return ()
