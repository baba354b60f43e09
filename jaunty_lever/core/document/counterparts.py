"""What corresponds to a value or a modifier of one layer in another: it stands at the same place there."""

from collections.abc import Iterable, Iterator
from typing import Any

from .index import SceneIndex
from .model import Route
from .modifier import Modifier
from .parameter import Parameter


def _along(layer: Any, other: Any, route: Route) -> tuple[Any, str] | None:
    """What stands in `other` where the route leads in `layer`, and its id; None where there is no such thing.

    In a list, what corresponds to the third Wiggle is the third Wiggle, whatever stands between them.
    """
    owner, names = other.id, list[str]()
    for step in route:
        if isinstance(step, int):
            mine = layer[step]
            number = sum(1 for one in layer[:step] if type(one) is type(mine))
            alike = [one for one in other if type(one) is type(mine)]
            if number >= len(alike):
                return None
            layer, other = mine, alike[number]
        else:
            if not hasattr(other, step):
                return None
            layer, other = getattr(layer, step), getattr(other, step)
            names.append(step)
            if other is None or (isinstance(layer, Parameter) is not isinstance(other, Parameter)):
                return None
        if getattr(other, "id", None) is not None:
            owner, names = other.id, []
    return other, ".".join([owner, *names])


def counterpart(index: SceneIndex, parameter: str, layer: str) -> str | None:
    """The value of a layer that corresponds to a value of another one, by id; None when it has no such value."""
    node, other = index.parameters.get(parameter), index.layers.get(layer)
    if node is None or other is None or node.top not in index.layers:
        return None
    if node.top == layer:
        return parameter
    found = _along(index.layers[node.top], other, node.route)
    return found[1] if found is not None and found[1] in index.parameters else None


def counterpart_modifier(index: SceneIndex, modifier: str, layer: str) -> str | None:
    """The modifier of a layer that corresponds to a modifier of another one, by id; None when it has no such
    modifier."""
    entry, other = index.modifiers.get(modifier), index.layers.get(layer)
    node = index.parameters[entry.parameter] if entry is not None else None
    if entry is None or node is None or other is None or node.top not in index.layers:
        return None
    found = _along(index.layers[node.top], other, (*node.route, "chain", entry.position))
    return found[0].id if found is not None and isinstance(found[0], Modifier) else None


def counterparts(index: SceneIndex, parameter: str, layers: Iterable[str]) -> list[str]:
    """Those of some layers that correspond to a value of one of them, without itself; none when it belongs to none of
    them."""
    node = index.parameters.get(parameter)
    some = list(dict.fromkeys(layers))
    if node is None or node.top not in some:
        return []
    found = (counterpart(index, parameter, layer) for layer in some if layer != node.top)
    return [one for one in found if one is not None]


def parameters_like(index: SceneIndex, parameter: str, layers: Iterable[str]) -> Iterator[Parameter]:
    """The parameters of the counterparts, one after the other."""
    node = index.parameters.get(parameter)
    mine = index.layers.get(node.top) if node is not None else None
    if node is None or mine is None:
        return
    single = node.route[0] if len(node.route) == 1 else None
    for layer in layers:
        if layer == node.top or layer not in index.layers:
            continue
        if isinstance(single, str):
            # Values of the layer itself, of which there are most.
            own = getattr(index.layers[layer], single, None)
            if isinstance(own, Parameter):
                yield own
            continue
        found = _along(mine, index.layers[layer], node.route)
        if found is not None:
            yield found[0]
