"""After which turn a thing looks the same: a wheel after a tooth, a star after a point, a ring of equal copies after
one.

Nothing is drawn for that: it follows from what a layer is made of. Where that does not tell, it is a whole turn.
"""

from fractions import Fraction
from math import gcd

from ..document.arrangement import Ring
from ..document.base_layer import BaseLayer
from ..document.compositing import DropShadow
from ..document.fills import NoFill, RadialFill, SolidFill
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer, Ellipse, GearLayer, Group, Polygon, Rectangle, ShapeLayer, Star
from ..document.node_tables import parameters_of
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.periodicity import common
from .axes import AxesOfScene
from .turning import Turning

WHOLE = Fraction(360)
_ANY = 0
"""Of a disc: it looks the same after any turn."""


def smallest_turn(index: SceneIndex, node: ParameterNode) -> Fraction:
    """After how many degrees of an angle what it turns looks the same."""
    layer = index.layers.get(node.top)
    fold = 1
    if layer is not None and node.id == f"{layer.id}.rotation":
        fold = _fold(index, layer)
    elif isinstance(layer, ArrayLayer) and node.id == f"{layer.id}.copy_rotation":
        fold = _of_all(index, layer, (0.0, 0.0))
    elif isinstance(layer, ArrayLayer) and node.id == f"{layer.id}.arrangement.start":
        fold = _of_copies(index, layer)
    return WHOLE / (fold or 1)


def turn_of_train(index: SceneIndex, node: ParameterNode) -> Fraction:
    """After how many degrees of an angle it and all that it turns look the same, when that is less than a whole
    turn."""
    trains, hearers = _trains(index)
    wheels = {node.id: Fraction(1), **trains.get(node.id, {})}
    whole = Fraction(0)
    for wheel, ratio in wheels.items():
        other = index.parameters[wheel]
        if other.top in index.layers and ratio:
            whole = common(whole, smallest_turn(index, other) / abs(ratio))
        # What hears a turn in some other way needs all of it.
        if ratio and hearers.get(wheel, set()) - wheels.keys():
            whole = common(whole, WHOLE / abs(ratio))
    return min(whole, WHOLE) or WHOLE


Trains = tuple[dict[str, dict[str, Fraction]], dict[str, set[str]]]


def _trains(index: SceneIndex) -> Trains:
    """The angles that each angle turns, with their ratios, and the parameters that hear each value; found once for a
    scene."""
    known: Trains | None = index.__dict__.get("_turned")
    if known is None:
        turning = Turning.known(index)
        trains: dict[str, dict[str, Fraction]] = {}
        hearers: dict[str, set[str]] = {}
        for node in index.parameters.values():
            if node.spec.kind == "angle" and (turned := turning.of(node.id)).first != node.id:
                trains.setdefault(turned.first, {})[node.id] = turned.ratio
        for entry in index.modifiers.values():
            for reference in entry.modifier.references():
                heard = index.heard(index.parameters[entry.parameter], reference)
                hearers.setdefault(heard, set()).add(entry.parameter)
        known = index.__dict__["_turned"] = trains, hearers
    return known


def _fold(index: SceneIndex, layer: BaseLayer) -> int:
    """How often a layer looks the same while it turns once about its pivot; _ANY for a disc."""
    if layer.matte is not None or any(isinstance(one, DropShadow) for one in layer.filters):
        return 1
    scale = _numbers(layer.scale)
    if len(set(scale)) != 1 or _numbers(layer.tilt) != (0.0, 0.0):
        return 1
    pivot = _numbers(layer.pivot)
    if isinstance(layer, ArrayLayer):
        return _of_copies(index, layer) if pivot == (0.0, 0.0) else 1
    if isinstance(layer, Group):
        return _of_all(index, layer, pivot) if len(pivot) == 2 else 1
    return _of_shape(layer) if isinstance(layer, ShapeLayer) and pivot == (0.0, 0.0) else 1


def _of_shape(layer: ShapeLayer) -> int:
    if layer.edge is not None or layer.line is not None:
        return 1
    plain = isinstance(layer.fill, NoFill | SolidFill)
    if not plain and not (
        isinstance(layer.fill, RadialFill) and _numbers(layer.fill.centre) == (0.0, 0.0) == _numbers(layer.fill.focus)
    ):
        return 1
    if isinstance(layer, Ellipse | Rectangle):
        size = _numbers(layer.size)
        equal = len(size) == 2 and size[0] == size[1]
        return (_ANY if isinstance(layer, Ellipse) else 4) if equal else 2
    if isinstance(layer, GearLayer) and layer.form.constant_value == "rack":
        return 1
    parts = {Polygon: "sides", Star: "points", GearLayer: "teeth"}.get(type(layer))
    many = _numbers(getattr(layer, parts)) if parts else ()
    if isinstance(layer, GearLayer) and layer.form.moves:
        return 1
    return max(round(many[0]), 1) if many else 1


def _of_all(index: SceneIndex, group: Group, pivot: tuple[float, ...]) -> int:
    """Of all layers inside together, about one point."""
    fold = _ANY
    for layer in group.layers:
        if layer.shown:
            fold = gcd(fold, _fold(index, layer) if _numbers(layer.position) == pivot else 1)
    return fold


def _of_copies(index: SceneIndex, array: ArrayLayer) -> int:
    """Of a whole ring of copies that are all alike."""
    ring = array.arrangement
    if not isinstance(ring, Ring) or _numbers(ring.arc) not in ((360.0,), (-360.0,)) or _numbers(ring.rise) != (0.0,):
        return 1
    count = _numbers(ring.count)
    if not count or _vary(index, array):
        return 1
    each = max(round(count[0]), 1)
    if ring.facing.moves or not ring.facing.constant_value:
        # Each keeps its way up: turned with the others it has to look the same.
        return gcd(_of_all(index, array, (0.0, 0.0)), each) or each
    return each


def _vary(index: SceneIndex, array: ArrayLayer) -> bool:
    """Whether copies differ: by what is each copy's own, or by the moments that they show."""
    if _numbers(array.later) != (0.0,) or _numbers(array.random_later) != (0.0,):
        return True
    axes, depth = AxesOfScene.known(index), len(index.arrays.get(array.id, ())) + 1
    inside, todo = [array.id], list(array.layers)
    while todo:
        layer = todo.pop()
        inside.append(layer.id)
        todo += getattr(layer, "layers", ())
    return any(axes.of(name).elements >= depth for one in inside for name in parameters_of(index.layers[one]))


def _numbers(own: Parameter) -> tuple[float, ...]:
    """The numbers of a parameter that nothing moves; none of one that may move."""
    value = own.constant_value
    if own.moves or isinstance(value, str):
        return ()
    return tuple(float(one) for one in value) if isinstance(value, list | tuple) else (float(value),)
