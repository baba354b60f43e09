"""What must hold of arrays: how many copies there are, what they stand along, their gauges."""

from collections.abc import Iterator

from ..document.arrangement import AlongPath, Emitter, Order, Rails, Scatter
from ..document.counts import resting_copies, resting_count
from ..document.gauge import Zone
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer, ShapeLayer
from ..document.limits import MOST_ARRAYS_DEEP, MOST_COPIES, MOST_GAUGES
from ..document.nodes import ParameterNode
from ..document.scene import Scene
from ..geometry.paths import path_outline
from ..motion.push import Push
from .problem import Problem


def array_problems(index: SceneIndex, layer: ArrayLayer) -> Iterator[Problem]:
    """What is wrong with an array by itself."""
    if len(layer.gauges) > MOST_GAUGES:
        yield Problem(f"{layer.name}: an array has at most {MOST_GAUGES} gauges.", layer.id)
    kind = layer.arrangement
    if isinstance(kind, AlongPath | Scatter | Emitter | Rails):
        yield from _outline(index, layer, kind.data, kind.outline)
    if isinstance(kind, Rails):
        yield from _outline(index, layer, kind.other_data, kind.other_outline)
    yield from _order(index, layer, layer.order, layer.name)
    for gauge in layer.gauges:
        if (own := getattr(gauge, "order", None)) is not None:
            yield from _order(index, layer, own, gauge.name)
        if isinstance(gauge, Zone) and (gauge.data or gauge.outline is not None):
            yield from _outline(index, layer, gauge.data, gauge.outline, gauge.name)


def _order(index: SceneIndex, layer: ArrayLayer, order: Order, name: str) -> Iterator[Problem]:
    """What is wrong with what copies are counted along or by."""
    if order.data or order.outline is not None:
        yield from _outline(index, layer, order.data, order.outline, name)
    if order.gauge is not None and order.gauge not in {gauge.id for gauge in layer.gauges}:
        told = f"{name}: “{order.gauge}”, by which its copies are sorted, is no gauge of {layer.name}."
        yield Problem(told, layer.id)


def _outline(
    index: SceneIndex, layer: ArrayLayer, data: str, outline: str | None, of: str | None = None
) -> Iterator[Problem]:
    """What is wrong with the path or the layer that copies stand along, inside, or are thrown from; or `of` what else
    it is: a zone that has its shape, an order that goes along it."""
    kind, name = layer.arrangement, of or layer.name
    try:
        if data or of is None:
            path_outline(data)
    except ValueError as error:
        yield Problem(f"{name}: {error}", layer.id)
    if outline is None:
        return
    lead = index.layers.get(outline)
    if lead is None:
        yield Problem(f"{name}: the layer whose outline it takes, “{outline}”, is not there.", layer.id)
    elif of is not None and layer.id in (*around_of(index, lead.id), lead.id):
        yield Problem(f"{name} cannot take the outline of {lead.name}, which is in its own array.", layer.id)
    elif of is None and isinstance(kind, Emitter) and layer.id in around_of(index, lead.id):
        yield Problem(f"{layer.name} cannot throw sparks from {lead.name}, which is one of them.", layer.id)
    elif not isinstance(lead, ShapeLayer) and (of is not None or not isinstance(kind, Emitter)):
        yield Problem(f"{name} cannot take the outline of {lead.name}: it has none. Shapes have.", layer.id)
    elif index.arrays.get(lead.id, ()) != index.arrays.get(layer.id, ())[: len(index.arrays.get(lead.id, ()))]:
        yield Problem(f"{name} cannot take the outline of {lead.name}, which stands in an array of its own.", layer.id)


def around_of(index: SceneIndex, layer: str) -> tuple[str, ...]:
    """The layers around a layer, from the innermost out."""
    found = []
    here = index.parents.get(layer)
    while here is not None:
        found.append(here)
        here = index.parents.get(here)
    return tuple(found)


def push_problems(index: SceneIndex, node: ParameterNode, push: Push) -> Iterator[Problem]:
    """Whether what pushes copies is a zone of their own array, or of one around it."""
    centre = index.parameters.get(f"{push.zone}.centre")
    layer = index.layers.get(centre.top) if centre else None
    gauges = layer.gauges if isinstance(layer, ArrayLayer) else ()
    if not any(isinstance(gauge, Zone) and gauge.id == push.zone for gauge in gauges):
        yield Problem(f"{node.label} is pushed by “{push.zone}”, which is no zone.", node.id)
    elif layer is not None and layer.id not in index.arrays_of(node):
        yield Problem(f"{node.label} cannot be pushed by a zone of {layer.name}, in which it does not stand.", node.id)


def copies_problems(scene: Scene) -> Iterator[Problem]:
    """Whether a scene's arrays, at rest, have more copies than there may be, or are nested too deep."""
    index, whole = scene.index, 0
    for layer in index.of_kind(ArrayLayer):
        around = index.arrays.get(layer.id, ())
        if len(around) >= MOST_ARRAYS_DEEP:
            yield Problem(
                f"{layer.name}: arrays stand at most {MOST_ARRAYS_DEEP} deep, one inside the other.", layer.id
            )
            return
        whole += resting_count(layer) * resting_copies(index, layer.id)
    if whole > MOST_COPIES:
        yield Problem(f"A scene has at most {MOST_COPIES:,} copies; this would have {whole:,}.")
