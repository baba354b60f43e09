"""Finding things in a scene: by id for the program, by name for people."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

from .keys import Value
from .layers import BaseLayer, Group
from .lever import Lever
from .model import Model, Route, at_route
from .modifier import Modifier
from .parameter import Parameter
from .specs import ParameterSpec, specs_of

if TYPE_CHECKING:
    from .scene import Scene


@dataclass(frozen=True)
class ParameterNode:
    """Where a parameter stands.

    `trail` leads from its layer or lever to it, as (id, label) pairs; `within` is the parameter
    whose modifier it is a setting of, `modifier` that modifier's id, `unset` what it rests at when nobody has set it.
    """

    id: str
    parameter: Parameter
    spec: ParameterSpec
    route: Route
    trail: tuple[tuple[str, str], ...]
    top: str
    field: str
    within: str | None = None
    modifier: str | None = None
    unset: Value | None = None

    @property
    def label(self) -> str:
        """Such as `Lantern 3 / opacity / Wiggle / amplitude`."""
        return " / ".join(label for _, label in self.trail)


@dataclass(frozen=True)
class ModifierNode:
    """Where a modifier stands: in which parameter's chain, and at which position."""

    modifier: Modifier
    parameter: str
    position: int


Found = tuple[dict[str, ParameterNode], dict[str, ModifierNode]]
"""Parameters and modifiers by id: tables, since a scene's are joined out of its layers' after every edit."""


def _parameter(
    found: Found,
    node_id: str,
    parameter: Parameter,
    spec: ParameterSpec,
    route: Route,
    trail: tuple[tuple[str, str], ...],
    top: str,
    field: str,
    within: str | None = None,
    modifier: str | None = None,
    unset: Value | None = None,
) -> None:
    found[0][node_id] = ParameterNode(node_id, parameter, spec, route, trail, top, field, within, modifier, unset)
    for k, step in enumerate(parameter.chain):
        found[1][step.id] = ModifierNode(step, node_id, k)
        here = (*trail, (step.id, step.title))
        for name, setting in specs_of(type(step)).items():
            _parameter(
                found,
                f"{step.id}.{name}",
                getattr(step, name),
                setting.fitted(spec),
                (*route, "chain", k, name),
                (*here, (f"{step.id}.{name}", setting.label.lower())),
                top,
                name,
                node_id,
                step.id,
                setting.default,
            )


def _own(found: Found, owner: Model, owner_id: str, route: Route, trail: tuple[tuple[str, str], ...], top: str) -> None:
    for name, spec in specs_of(type(owner)).items():
        node_id = f"{owner_id}.{name}"
        _parameter(
            found,
            node_id,
            getattr(owner, name),
            spec,
            (*route, name),
            (*trail, (node_id, spec.label.lower())),
            top,
            name,
        )


def _layer_places(layer: BaseLayer) -> Found:
    found: Found = ({}, {})
    trail = ((layer.id, layer.name),)
    _own(found, layer, layer.id, (), trail, layer.id)
    fill = getattr(layer, "fill", None)
    if fill is not None:
        _own(found, fill, f"{layer.id}.fill", ("fill",), trail, layer.id)
        for k, stop in enumerate(getattr(fill, "stops", ())):
            _own(found, stop, stop.id, ("fill", "stops", k), (*trail, (stop.id, f"stop {k + 1}")), layer.id)
    return found


def _lever_places(lever: Lever) -> Found:
    found: Found = ({}, {})
    trail = ((f"{lever.id}.value", lever.name),)
    _parameter(found, f"{lever.id}.value", lever.value, lever.spec, ("value",), trail, lever.id, "value")
    return found


def nodes_of(node: BaseLayer | Lever) -> Found:
    """The places inside a layer or lever; worked out once for each immutable object."""
    cached: Found | None = node.__dict__.get("_places")
    if cached is None:
        cached = _layer_places(node) if isinstance(node, BaseLayer) else _lever_places(node)
        node.__dict__["_places"] = cached
    return cached


def parameters_of(layer: BaseLayer) -> tuple[str, ...]:
    """The ids of a layer's own parameters, its fill's included, without those of its modifiers."""
    known: tuple[str, ...] | None = layer.__dict__.get("_parameters")
    if known is None:
        known = tuple(node.id for node in nodes_of(layer)[0].values() if node.within is None)
        layer.__dict__["_parameters"] = known
    return known


class SceneIndex:
    """Every parameter and modifier of one scene, with its place."""

    def __init__(self, scene: "Scene") -> None:
        self.scene = scene
        self.parameters: dict[str, ParameterNode] = {}
        self.modifiers: dict[str, ModifierNode] = {}
        self.layers: dict[str, BaseLayer] = {}
        self.layer_routes: dict[str, Route] = {}
        self.parents: dict[str, str | None] = {}
        self.levers: dict[str, Lever] = {lever.id: lever for lever in scene.levers}
        self._routes: dict[str, Route] = {}
        background: Found = ({}, {})
        _own(background, scene, scene.id, (), ((scene.id, "Scene"),), scene.id)
        self._add(background, scene.id, ())
        for layer, route, parent in walk(scene.layers, ("layers",), None):
            self.layers[layer.id] = layer
            self.layer_routes[layer.id] = route
            self.parents[layer.id] = parent
            self._add(nodes_of(layer), layer.id, route)
        for k, lever in enumerate(scene.levers):
            self._add(nodes_of(lever), lever.id, ("levers", k))

    def _add(self, found: Found, top: str, route: Route) -> None:
        self._routes[top] = route
        self.parameters.update(found[0])
        self.modifiers.update(found[1])

    def route(self, node: ParameterNode) -> Route:
        """The route from the scene to a parameter."""
        return self._routes[node.top] + node.route

    def node_route(self, top: str) -> Route:
        """The route from the scene to a layer or lever."""
        return self._routes[top]

    def node(self, route: Route) -> Any:
        """What stands at a route."""
        return at_route(self.scene, route)

    @cached_property
    def followers(self) -> dict[str, list[ModifierNode]]:
        """Which modifiers listen to each parameter."""
        found: dict[str, list[ModifierNode]] = {}
        for entry in self.modifiers.values():
            for reference in entry.modifier.references():
                found.setdefault(reference, []).append(entry)
        return found

    @cached_property
    def by_trail(self) -> dict[tuple[str, ...], ParameterNode]:
        """Parameters by the plain names that lead to them."""
        return {tuple(plain_name(label) for _, label in node.trail): node for node in self.parameters.values()}

    def by_name(self, text: str) -> tuple[ParameterNode, int | None]:
        """The parameter called `Lantern 3/opacity`, `Wind` or `Boat/position.x`, and its component.

        Letter case does not matter, and spaces may be written `_`. Raises LookupError, in the
        artist's words, when there is none.
        """
        wanted, component = _name(text), None
        table = {"/".join(trail): node for trail, node in self.by_trail.items()}
        node = table.get(wanted)
        if node is None and "." in wanted:
            stem, axis = wanted.rsplit(".", 1)
            node = table.get(stem)
            if node is not None and axis in node.spec.component_names:
                component = node.spec.component_names.index(axis)
            else:
                node = None
        if node is None:
            from difflib import get_close_matches

            near = get_close_matches(wanted, table, n=1, cutoff=0.5)
            hint = f" Did you mean “{table[near[0]].label.replace(' / ', '/')}”?" if near else ""
            raise LookupError(f"There is no parameter “{text}” in {self.scene.name}.{hint}")
        return node, component


def plain_name(name: str) -> str:
    """A name without what does not matter: letter case, and spaces written as _."""
    return name.strip().replace("_", " ").casefold()


def _name(text: str) -> str:
    return "/".join(plain_name(part) for part in text.split("/"))


def walk(
    layers: tuple[Any, ...], route: Route = (), parent: str | None = None
) -> Iterator[tuple[BaseLayer, Route, str | None]]:
    """Layers with their groups' before their own, each with its route and its group's id."""
    for k, layer in enumerate(layers):
        here = (*route, k)
        yield layer, here, parent
        if isinstance(layer, Group):
            yield from walk(layer.layers, (*here, "layers"), layer.id)
