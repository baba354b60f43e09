"""What must hold of filters and mattes."""

from collections.abc import Iterable, Iterator

from ..document.base_layer import BaseLayer
from ..document.index import SceneIndex, walk
from ..document.layers import Group
from ..document.limits import MOST_FILTERS
from .arrays import around_of
from .problem import Problem


def compositing_problems(index: SceneIndex, layers: Iterable[BaseLayer]) -> Iterator[Problem]:
    """What is wrong with the filters and mattes of some of a scene's layers."""
    for layer in layers:
        if len(layer.filters) > MOST_FILTERS:
            yield Problem(f"{layer.name}: a layer has at most {MOST_FILTERS} filters.", layer.id)
        if layer.matte is None:
            continue
        other = index.layers.get(layer.matte.layer)
        if other is None:
            yield Problem(f"{layer.name}: the layer where it shows, “{layer.matte.layer}”, is not there.", layer.id)
            continue
        if other.id in around_of(index, layer.id):
            yield Problem(f"{layer.name} cannot show where {other.name} is, in which it stands.", layer.id)
            continue
        theirs = index.arrays.get(other.id, ())
        if index.arrays.get(layer.id, ())[: len(theirs)] != theirs:
            yield Problem(
                f"{layer.name} cannot show where {other.name} is, which stands in an array of its own.", layer.id
            )
            continue
        way = _round_to(index, layer.id)
        if way:
            yield Problem(f"{layer.name} would show where it shows itself: {' → '.join(way)}.", layer.id)


def _round_to(index: SceneIndex, layer: str) -> list[str]:
    """The names of the layers by which one's matte leads back to it; none when it does not."""

    def shown(one: str) -> list[str]:
        """Whose mattes a layer needs when it is drawn."""
        found = index.layers[one]
        inner = [each.id for each, _, _ in walk(found.layers)] if isinstance(found, Group) else []
        return [
            matte.layer for each in (one, *inner) if (matte := index.layers[each].matte) and matte.layer in index.layers
        ]

    came: dict[str, str | None] = {layer: None}
    waiting = [layer]
    while waiting:
        here = waiting.pop()
        for step in shown(here):
            found = index.layers[step]
            inside = {each.id for each, _, _ in walk(found.layers)} if isinstance(found, Group) else set()
            if step == layer or layer in inside:
                names, back = [index.layers[layer].name, found.name], here
                while back != layer and back is not None:
                    names.insert(1, index.layers[back].name)
                    back = came[back] or layer
                return [*names, index.layers[layer].name] if step != layer else names
            if step not in came:
                came[step] = here
                waiting.append(step)
    return []
