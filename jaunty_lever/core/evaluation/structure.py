"""What decides about outlines, letters, the points of edges and places: known from a scene alone, before anything is
worked out."""

from collections.abc import Iterator

from ..document.arrangement import Letters
from ..document.base_layer import BaseLayer
from ..document.counts import resting_copies
from ..document.index import SceneIndex, walk
from ..document.layers import ArrayLayer, ShapeLayer, Text
from ..document.limits import LEAST_POINTS, MOST_POINTS, MOST_POINTS_OF_COPIES
from ..document.specs import specs_of
from ..geometry.letters import BY, PIVOTS

_NOT_OUTLINE = set(specs_of(BaseLayer)) | {"stroke", "stroke_width"}
LAYS = ("text", "font", "font_size", "tracking", "leading", "align")
"""What of a text decides where its parts stand. Its weight may differ from part to part: that at rest lays them out."""


def text_in(index: SceneIndex, array: str) -> Text | None:
    """The text that an array takes apart: the first one in it that stands in no other array."""
    layer = index.layers[array]
    if not isinstance(layer, ArrayLayer) or not isinstance(layer.arrangement, Letters):
        return None
    inner = (one for one, _, _ in walk(layer.layers) if isinstance(one, Text))
    return next((one for one in inner if index.arrays.get(one.id, ())[-1:] == (array,)), None)


def taken_apart(index: SceneIndex, layer: BaseLayer) -> str | None:
    """The array that takes a text apart; None for any other layer."""
    around = index.arrays.get(layer.id, ()) if isinstance(layer, Text) else ()
    if not around:
        return None
    found = text_in(index, around[-1])
    return around[-1] if found is not None and found.id == layer.id else None


def ways(layer: ArrayLayer) -> tuple[str, str]:
    """By what a text is taken apart, and about what its parts turn."""
    kind = layer.arrangement
    assert isinstance(kind, Letters)
    by, pivot = kind.by.constant_value, kind.pivot.constant_value
    return (str(by) if by in BY else BY[0]), (str(pivot) if pivot in PIVOTS else PIVOTS[0])


def way_parameters(index: SceneIndex, layer: BaseLayer) -> tuple[str, ...]:
    """What besides its own parameters decides the outline of a text that is taken apart."""
    array = taken_apart(index, layer)
    return (f"{array}.arrangement.by", f"{array}.arrangement.pivot") if array else ()


def outline_names(layer: ShapeLayer) -> list[str]:
    """The parameters that decide a layer's outline."""
    return [name for name in specs_of(type(layer)) if name not in _NOT_OUTLINE]


def outline_written(layer: BaseLayer) -> str:
    """What decides a layer's outline besides parameters, as text."""
    return f"{getattr(layer, 'data', '')} {getattr(layer, 'typeface', '')}"


def edged(index: SceneIndex, layer: str) -> ShapeLayer | None:
    """The shape of that id whose outline is moved point by point; None for any other layer."""
    found = index.layers.get(layer)
    return found if isinstance(found, ShapeLayer) and found.edge is not None else None


def point_parameters(index: SceneIndex, layer: ShapeLayer) -> Iterator[str]:
    """The parameters that decide where the points of an edge lie."""
    yield from (f"{layer.id}.{name}" for name in outline_names(layer))
    yield from way_parameters(index, layer)
    yield from (f"{layer.id}.edge.{name}" for name in ("detail", "corners"))


def points_written(index: SceneIndex, layer: ShapeLayer) -> str:
    """What decides that besides parameters, as text."""
    return f"edge {layer.kind} {outline_written(layer)} {taken_apart(index, layer)} {most_points(index, layer)}"


def most_points(index: SceneIndex, layer: ShapeLayer) -> int:
    """How many points one outline may have: fewer where it stands in arrays of many copies."""
    return max(LEAST_POINTS, min(MOST_POINTS, MOST_POINTS_OF_COPIES // max(resting_copies(index, layer.id), 1)))


def placing_parameters(layer: str) -> tuple[str, ...]:
    """The parameters that decide where a layer lies in its parent."""
    return tuple(f"{layer}.{name}" for name in ("position", "rotation", "scale", "pivot"))


def copy_parameters(array: str) -> tuple[str, ...]:
    """What decides where the copies of an array lie in it."""
    return tuple(f"{array}.{name}" for name in ("copy_position", "copy_rotation", "copy_scale", "place", "facing"))
