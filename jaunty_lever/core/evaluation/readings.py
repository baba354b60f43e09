"""What is read off copies: what it needs to be known, before anything is worked out."""

from collections.abc import Callable, Iterator

from ..document.arrangement import Emitter, Letters, Order
from ..document.base_layer import BaseLayer
from ..document.gauge import ALONG_LINES, ColumnGauge, Gauge, NoiseGauge, RandomGauge, Zone
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.modifier import Modifier
from ..document.node_tables import parameters_of
from ..document.nodes import ParameterNode, Reading
from ..document.parameter import stands_out
from ..document.references import CIRCLE, LENGTH, Taken, parted
from ..document.specs import specs_of
from .listening import by_rank, listening
from .structure import (
    LAYS,
    copy_parameters,
    edged,
    outline_written,
    placing_parameters,
    point_parameters,
    points_written,
    text_in,
)

Needs = Callable[[SceneIndex, Reading], Iterator[str]]
Standing = Callable[[SceneIndex, ParameterNode], Iterator[str]]

_COUNTS = ("count", "columns", "rows", *specs_of(Emitter))


def array_of(index: SceneIndex, array: str) -> ArrayLayer:
    """An array layer by id."""
    layer = index.layers[array]
    assert isinstance(layer, ArrayLayer)
    return layer


def needed(index: SceneIndex, reads: Reading) -> Iterator[str]:
    """The parameters that decide what is read."""
    yield from firmly_needed(index, reads)
    if isinstance(reads.what, Zone) and reads_moved(index, reads.what.id, reads.array):
        yield from _moved(reads.array)


def _moved(array: str) -> tuple[str, ...]:
    return f"{array}.copy_position", f"{array}.copy_depth"


def reads_moved(index: SceneIndex, zone: str, array: str) -> bool:
    """Whether a zone reads where the copies of its array stand: else, since it has a part in that itself, their
    places."""
    known: dict[str, bool] = index.carried("zones reading moved", dict, listening)
    if zone not in known:
        goal = f"{zone}.value"

        def pushing(index: SceneIndex, node: ParameterNode) -> Iterator[str]:
            yield from stage_parameters(index, node)
            if any(getattr(step, "zone", None) == zone for step in node.parameter.chain):
                # What it pushes it has a part in, though no link says so.
                yield goal

        known[zone] = goal not in _reached(index, _moved(array), {goal}, _all_needed, pushing)
    return known[zone]


def heard(index: SceneIndex, node: ParameterNode, modifier: Modifier, stage: Standing | None = None) -> Iterator[str]:
    """Ids of what a modifier of a parameter listens to, and of what decides which copies it hears."""
    for reference in modifier.references():
        meant = index.heard(node, reference)
        yield meant
        if "@" in reference and (target := index.target(meant)) is not None:
            yield from taking(index, node, target, parted(reference)[1])
    if modifier.stands:
        yield from (stage or stage_parameters)(index, node)


def listened(
    index: SceneIndex, node: ParameterNode, read: Needs = needed, stage: Standing | None = None
) -> Iterator[str]:
    """Ids of the parameters that a parameter's value needs: what it reads, its modifiers' settings and drivers."""
    if node.reads is not None:
        yield from read(index, node.reads)
    for modifier in node.stations:
        yield from heard(index, node, modifier, stage)
        for name in specs_of(type(modifier)):
            if f"{modifier.id}.{name}" in index.parameters:
                yield f"{modifier.id}.{name}"


def firmly_needed(index: SceneIndex, reads: Reading) -> Iterator[str]:
    """The same without where the copies stand that a zone reads."""
    what, edge = reads.what, edged(index, reads.array)
    if edge is not None:
        if what not in ("i", "rank", "col", "row"):
            yield from point_parameters(index, edge)
        return
    layer = array_of(index, reads.array)
    if isinstance(what, Gauge):
        yield from (f"{what.id}.{name}" for name in specs_of(type(what)))
        if isinstance(what, RandomGauge):
            return
        yield from arrangement_parameters(index, layer)
        if isinstance(what, Zone):
            yield from world_parameters(index, layer.id)
            yield from line_parameters(index, what)
            if index.solid_zone(what.id):
                yield from deep_parameters(index, layer.id)
        yield from order_parameters(index, layer.id, _order_of(layer, what)) if _goes_by(what) else ()
        return
    if what == "i":
        return
    if what == "n" and isinstance(layer.arrangement, Letters):
        yield from arrangement_parameters(index, layer)
        return
    if what == "n":
        yield from (f"{layer.id}.arrangement.{n}" for n in specs_of(type(layer.arrangement)) if n in _COUNTS)
        return
    yield from arrangement_parameters(index, layer)
    if what in ("u", "rank", CIRCLE, LENGTH):
        yield from order_parameters(index, layer.id, f"{layer.id}.order")


def _goes_by(gauge: Gauge) -> bool:
    """Whether a gauge goes by an order: a column only where its rows are told by rank."""
    if isinstance(gauge, ColumnGauge):
        return by_rank(gauge)
    return "order" in type(gauge).model_fields


def _order_of(layer: ArrayLayer, gauge: Gauge) -> str:
    """The id of the order by which a gauge of an array goes."""
    return f"{layer.id if getattr(gauge, 'order', None) is None else gauge.id}.order"


def order_by(index: SceneIndex, owner: str) -> Order:
    """An order by the id of what it is of, `array.order` or `gauge.order`."""
    name = owner.removesuffix(".order")
    if name in index.layers:
        return array_of(index, name).order
    node = index.parameters[f"{name}.value"]
    assert node.reads is not None
    made: Order | None = getattr(node.reads.what, "order", None)
    return Order() if made is None else made


def order_parameters(index: SceneIndex, array: str, owner: str) -> Iterator[str]:
    """What decides an order of an array's copies, besides where they stand."""
    yield from (f"{owner}.{name}" for name in specs_of(Order))
    own = order_by(index, owner)
    if own.outline is not None and (lead := index.layers.get(own.outline)) is not None:
        yield from lead_parameters(index, lead)
        yield from world_parameters(index, array)
    if own.gauge is not None:
        yield f"{own.gauge}.value"


def order_written(index: SceneIndex, own: Order) -> str:
    """What decides an order besides parameters, as text."""
    return f"{own.points} {_drawn_written(index.layers.get(own.outline or ''), own.data)} {own.gauge}"


def arrangement_parameters(index: SceneIndex, layer: ArrayLayer) -> Iterator[str]:
    """The parameters that decide where an array's copies stand."""
    yield from (f"{layer.id}.arrangement.{name}" for name in specs_of(type(layer.arrangement)))
    text = text_in(index, layer.id)
    if text is not None:
        yield from (f"{text.id}.{name}" for name in LAYS)
    for lead in outline_layers(index, layer):
        yield from lead_parameters(index, lead)
        yield from world_parameters(index, layer.id)


def outline_layers(index: SceneIndex, layer: ArrayLayer) -> list[BaseLayer]:
    """The layers along or inside whose outlines an array's copies stand, or that its sparks go with."""
    named = (getattr(layer.arrangement, name, None) for name in ("outline", "other_outline"))
    return [index.layers[one] for one in named if one in index.layers]


def lead_parameters(index: SceneIndex, lead: BaseLayer) -> Iterator[str]:
    """The parameters that decide where the outline of a layer lies on the stage."""
    yield from parameters_of(lead)
    yield from world_parameters(index, lead.id)


def zone_of(index: SceneIndex, zone: str) -> Zone | None:
    """A zone by id."""
    node = index.parameters.get(f"{zone}.value")
    found = None if node is None or node.reads is None else node.reads.what
    return found if isinstance(found, Zone) else None


def line_layer(index: SceneIndex, zone: Zone) -> BaseLayer | None:
    """The layer whose outline a zone has; of what is measured by no line: none."""
    return index.layers.get(zone.outline) if zone.outline and lined(zone) else None


def lined(zone: Zone) -> bool:
    """Whether a zone may have the shape of something that is drawn."""
    return zone.shape.moves or zone.shape.constant_value in ALONG_LINES


def line_parameters(index: SceneIndex, zone: Zone) -> Iterator[str]:
    """The parameters that decide where the line of a zone lies."""
    if (lead := line_layer(index, zone)) is not None:
        yield from lead_parameters(index, lead)


def line_written(index: SceneIndex, zone: Zone | None) -> str:
    """What decides the line of a zone besides parameters, as text."""
    return "" if zone is None or not lined(zone) else _drawn_written(line_layer(index, zone), zone.data)


def _drawn_written(lead: BaseLayer | None, data: str) -> str:
    """What decides a line besides parameters, as text: that of a layer, or else of path data."""
    return data if lead is None else f"{lead.id} {lead.kind} {outline_written(lead)}"


def by_its_line(index: SceneIndex, zone: str) -> bool:
    """Whether a zone is measured, and pushes, from a ring or a line rather than from its centre."""
    own = zone_of(index, zone)
    return own is not None and (lined(own) or stands_out(own.hollow))


def world_parameters(index: SceneIndex, layer: str) -> Iterator[str]:
    """The parameters that decide where a layer lies on the stage."""
    here: str | None = layer
    while here is not None:
        yield from placing_parameters(here)
        here = index.parents[here]
        if here is not None and isinstance(index.layers[here], ArrayLayer):
            yield from copy_parameters(here)


def stage_parameters(index: SceneIndex, node: ParameterNode) -> Iterator[str]:
    """What decides where copies stand on the stage before a copy position, or a copy depth, is added."""
    yield from _standing(index, node, node.spec.components == 1 and stands_moved(index, node.top))


def _standing(index: SceneIndex, node: ParameterNode, moved: bool) -> Iterator[str]:
    yield f"{node.top}.place"
    yield from world_parameters(index, node.top)
    if moved:
        yield f"{node.top}.copy_position"
    for step in node.parameter.chain:
        if step.stands and (zone := zone_of(index, getattr(step, "zone", ""))) is not None:
            yield from line_parameters(index, zone)
    if any(index.solid_zone(getattr(step, "zone", "")) for step in node.parameter.chain):
        yield f"{node.top}.z"
        yield from deep_parameters(index, node.top)
        if node.spec.components > 1:
            yield index.own_depth(node.top)


def stands_moved(index: SceneIndex, array: str) -> bool:
    """Whether what pushes the depth of copies goes by where their copy position has brought them: else, since that goes
    by their depth, by their places."""
    known: dict[str, bool] = index.carried("depths pushed moved", dict, listening)
    if array not in known:

        def standing(index: SceneIndex, node: ParameterNode) -> Iterator[str]:
            return _standing(index, node, node.spec.components == 1)

        goals, starts = {f"{array}.copy_depth", f"{array}.own_depth"}, (f"{array}.copy_position",)
        known[array] = not goals & _reached(index, starts, goals, _all_needed, standing)
    return known[array]


def _all_needed(index: SceneIndex, reads: Reading) -> Iterator[str]:
    yield from firmly_needed(index, reads)
    if isinstance(reads.what, Zone):
        yield from _moved(reads.array)


def _reached(index: SceneIndex, starts: tuple[str, ...], goals: set[str], read: Needs, stage: Standing) -> set[str]:
    """What the values of parameters need, as far as none of the goals has been found."""
    found, waiting = set(starts), list(starts)
    while waiting and not found & goals:
        node = index.target(waiting.pop())
        if node is not None:
            more = set(listened(index, node, read, stage)) - found
            found |= more
            waiting += more
    return found


def deep_parameters(index: SceneIndex, layer: str) -> Iterator[str]:
    """What else decides where a layer lies in space: depth and tilt of all around it."""
    here: str | None = layer
    while here is not None:
        yield from (f"{here}.{name}" for name in ("depth", "tilt"))
        here = index.parents[here]
        if here is not None and isinstance(index.layers[here], ArrayLayer):
            yield from (f"{here}.{name}" for name in ("copy_depth", "copy_tilt", "z"))


def time_parameters(array: str) -> tuple[str, ...]:
    """What decides which moment each copy of an array shows."""
    return tuple(f"{array}.{n}" for n in ("later", "random_later", "random_seed", "lives", "moment", "rank"))


def taking(index: SceneIndex, node: ParameterNode, target: ParameterNode, taken: Taken | None) -> Iterator[str]:
    """What else a value needs that takes one of many as a number: who is there, and which moment each copy shows."""
    if taken is None:
        return
    around, theirs = index.arrays_of(node), index.arrays_of(target)
    for k, array in enumerate(theirs):
        if array not in around or k + 1 == len(theirs):
            yield f"{array}.n"
            if target.top != array:
                yield from time_parameters(array)


_STILL_OF_SPARKS = ("i", "rank", "row", "col")


def timely(index: SceneIndex, reads: Reading) -> bool:
    """Whether what is read moves although nothing that it is read from does."""
    own = reads.what
    if edged(index, reads.array) is not None:
        return False
    if isinstance(array_of(index, reads.array).arrangement, Emitter) and not isinstance(own, RandomGauge | ColumnGauge):
        return own not in _STILL_OF_SPARKS
    return isinstance(own, NoiseGauge) and (own.frequency.moves or own.frequency.constant_value != 0)


def written(index: SceneIndex, reads: Reading) -> str:
    """What decides a reading besides parameters, as text."""
    edge = edged(index, reads.array)
    if edge is not None:
        return f"{reads.array} {points_written(index, edge)} {reads.what}"
    layer, what = array_of(index, reads.array), reads.what
    kind = layer.arrangement
    own = [kind.kind, *(getattr(kind, name, None) for name in ("outline", "data", "other_outline", "other_data"))]
    text = text_in(index, layer.id)
    if text is not None:
        own += [text.typeface, text.weight.rest, text.rotation.rest, text.scale.rest]
    for lead in outline_layers(index, layer):
        own += [lead.kind, outline_written(lead)]
    if isinstance(what, Gauge):
        told = (
            f"{what.kind} {getattr(what, 'order', None) is None} {timely(index, reads)} {getattr(what, 'digest', '')}"
        )
        line = line_written(index, what) if isinstance(what, Zone) else ""
        order = order_written(index, order_by(index, _order_of(layer, what))) if _goes_by(what) else ""
        return f"{reads.array} {own} {told} {reads.part} {line} {order}"
    order = order_written(index, layer.order) if what in ("u", "rank", CIRCLE, LENGTH) else ""
    return f"{reads.array} {own} {what} {order}"
