"""Finding things in a scene: by id for the program, by name for people."""

from collections.abc import Iterable, Iterator
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

from .base_layer import BaseLayer
from .brought import Brought
from .keys import Value
from .layers import ArrayLayer, Group, ShapeLayer, TextureLayer
from .lever import Lever
from .model import Model, Route, at_route
from .nodes import ModifierNode, ParameterNode, Reading
from .parameter import Parameter, stands_out
from .references import ALL_TOLD, bare, known_name
from .specs import ParameterSpec, specs_of

if TYPE_CHECKING:
    from .scene import Scene


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
    each: bool = False,
    reads: Reading | None = None,
) -> None:
    each = each or spec.each
    found[0][node_id] = ParameterNode(
        node_id, parameter, spec, route, trail, top, field, within, modifier, unset, each, reads
    )
    for k, step in enumerate(parameter.chain):
        found[1][step.id] = ModifierNode(step, node_id, k)
        here = (*trail, (step.id, step.title))
        for name, setting in specs_of(type(step)).items():
            fitted = setting.fitted(spec)
            _parameter(
                found,
                f"{step.id}.{name}",
                _rested(getattr(step, name), setting, fitted),
                fitted,
                (*route, "chain", k, name),
                (*here, (f"{step.id}.{name}", setting.label.lower())),
                top,
                name,
                node_id,
                step.id,
                setting.default,
                each,
            )


def _rested(own: Parameter, setting: ParameterSpec, fitted: ParameterSpec) -> Parameter:
    """A setting as it stands in a chain: one that nobody has set rests at what suits the parameter it is for."""
    if fitted.kind == setting.kind or fitted.kind in ("number", "vector") or own.rest != setting.default:
        return own
    return own.changed(rest=fitted.default)


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
    for k, one in enumerate(layer.filters):
        _own(
            found,
            one,
            one.id,
            ("filters", k),
            (*trail, (next(f"{one.id}.{name}" for name in specs_of(type(one))), one.title)),
            layer.id,
        )
    if layer.matte is not None:
        _own(found, layer.matte, f"{layer.id}.matte", ("matte",), trail, layer.id)
    line = getattr(layer, "line", None)
    if line is not None:
        _own(found, line, f"{layer.id}.line", ("line",), trail, layer.id)
    if isinstance(layer, TextureLayer):
        for k, stop in enumerate(layer.stops):
            _own(found, stop, stop.id, ("stops", k), (*trail, (f"{stop.id}.colour", f"colour {k + 1}")), layer.id)
    edge = getattr(layer, "edge", None)
    if edge is not None:
        _own(found, edge, f"{layer.id}.edge", ("edge",), trail, layer.id)
        for k, stop in enumerate(edge.stops):
            _own(found, stop, stop.id, ("edge", "stops", k), (*trail, (stop.id, f"shell colour {k + 1}")), layer.id)
    if isinstance(layer, ArrayLayer):
        _array_places(found, layer, trail)
    return found


def _array_places(found: Found, layer: ArrayLayer, trail: tuple[tuple[str, str], ...]) -> None:
    for part in ("arrangement", "order"):
        _own(found, getattr(layer, part), f"{layer.id}.{part}", (part,), trail, layer.id)
    for k, gauge in enumerate(layer.gauges):
        route, here = ("gauges", k), (*trail, (f"{gauge.id}.value", gauge.name))
        _parameter(
            found,
            f"{gauge.id}.value",
            gauge.value,
            gauge.spec,
            (*route, "value"),
            here,
            layer.id,
            "value",
            reads=Reading(layer.id, gauge),
        )
        _own(found, gauge, gauge.id, route, here, layer.id)
        order = getattr(gauge, "order", None)
        if order is not None:
            _own(found, order, f"{gauge.id}.order", (*route, "order"), here, layer.id)


_OF_COPIES: dict[str, tuple[str, tuple[float, ...]]] = {
    **{name: (name, rest) for name, rest in ALL_TOLD.items()},
    "facing": ("facing", (0.0,)),
    "place": ("place", (0.0, 0.0)),
}


def _known(array: BaseLayer) -> dict[str, ParameterNode]:
    """What each copy of an array, or each point of an edge, knows of itself, as values that can be followed and sampled but
    not set."""
    made = {}
    for name, (label, rest) in _OF_COPIES.items():
        value: Value = rest[0] if len(rest) == 1 else rest
        px = "px" if name in ("x", "y", "z", "place", "across") else ""
        spec = ParameterSpec(
            "number" if len(rest) == 1 else "vector", value, label, px, components=len(rest), each=True
        )
        trail = ((array.id, array.name), (f"{array.id}.{name}", label))
        own = Parameter(rest=value)
        made[f"{array.id}.{name}"] = ParameterNode(
            f"{array.id}.{name}", own, spec, (), trail, array.id, name, each=True, reads=Reading(array.id, name)
        )
    return made


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
        self.arrays: dict[str, tuple[str, ...]] = {}
        """The arrays around each layer that stands in one, from the outermost in."""
        self.known: dict[str, ParameterNode] = {}
        """What copies, and points of edges, know of themselves, by id such as `pennants.rank`."""
        self._routes: dict[str, Route] = {}
        background: Found = ({}, {})
        _own(background, scene, scene.id, (), ((scene.id, "Scene"),), scene.id)
        self._add(background, scene.id, ())
        for layer, route, parent in walk(scene.layers, ("layers",), None):
            self.layers[layer.id] = layer
            self.layer_routes[layer.id] = route
            self.parents[layer.id] = parent
            self._add(nodes_of(layer), layer.id, route)
            if parent is not None:
                around = self.arrays.get(parent, ())
                if isinstance(self.layers[parent], ArrayLayer):
                    around = (*around, parent)
                if around:
                    self.arrays[layer.id] = around
            if isinstance(layer, ArrayLayer) or (isinstance(layer, ShapeLayer) and layer.edge is not None):
                self.known.update(_known(layer))
        for k, lever in enumerate(scene.levers):
            self._add(nodes_of(lever), lever.id, ("levers", k))
        self.own_depths: dict[str, ParameterNode] = {}
        """The copy depths of arrays whose positions are pushed in depth too, as they are before that, by id."""
        for layer in self.layers.values():
            if isinstance(layer, ArrayLayer) and self._pushes_in_depth(layer):
                self._bring(layer.id)

    def _pushes_in_depth(self, array: ArrayLayer) -> bool:
        own = array.copy_position
        return not own.bypassed and any(
            step.stands and not step.bypassed and self.solid_zone(getattr(step, "zone", "")) for step in own.chain
        )

    def _bring(self, array: str) -> None:
        depth = self.parameters[f"{array}.copy_depth"]
        before = replace(depth, id=f"{array}.own_depth")
        self.own_depths[before.id] = before
        self.parameters[depth.id] = replace(depth, brought=(Brought.of(array),))

    def solid_zone(self, zone: str) -> bool:
        """Whether a zone has an end in depth, so that what it pushes goes nearer or further away too."""
        size = self.parameters.get(f"{zone}.size_depth")
        return size is not None and stands_out(size.parameter)

    def own_depth(self, array: str) -> str:
        """The id of the depth that an array's copies have of their own, before their position is pushed."""
        own = f"{array}.own_depth"
        return own if own in self.own_depths else f"{array}.copy_depth"

    def _add(self, found: Found, top: str, route: Route) -> None:
        self._routes[top] = route
        self.parameters.update(found[0])
        self.modifiers.update(found[1])

    def target(self, parameter: str) -> ParameterNode | None:
        """A parameter, or something that copies know of themselves, by id."""
        return self.parameters.get(parameter) or self.known.get(parameter) or self.own_depths.get(parameter)

    def with_settings(self, parameters: Iterable[str]) -> set[str]:
        """Parameters, by id, with the settings of all modifiers in their chains, and of those in the chains of these."""
        found = set(parameters)
        for node in self.parameters.values():
            # A setting comes after what it is a setting of.
            if node.within in found:
                found.add(node.id)
        return found

    def arrays_of(self, node: ParameterNode) -> tuple[str, ...]:
        """The arrays for whose copies a value may differ, from the outermost in."""
        if not self.known:
            return ()
        around = self.arrays.get(node.top, ())
        return (*around, node.top) if node.each else around

    def around(self, array: str) -> str:
        """Some parameter of an array, or of a shape whose edge is moved, that has no value for each copy or point."""
        layer = self.layers[array]
        part = "arrangement" if isinstance(layer, ArrayLayer) else "edge"
        owner: Model = getattr(layer, part)
        return next(f"{array}.{part}.{name}" for name, spec in specs_of(type(owner)).items() if not spec.each)

    def heard(self, node: ParameterNode, reference: str) -> str:
        """The id of what a parameter means by a reference; what stands in no array keeps the reference."""
        asked = known_name(reference)
        if asked is None:
            return bare(reference)
        name, outwards = asked
        arrays = self.arrays_of(node)
        return f"{arrays[-1 - outwards]}.{name}" if outwards < len(arrays) else reference

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
            node = self.parameters[entry.parameter]
            for reference in entry.modifier.references():
                found.setdefault(self.heard(node, reference), []).append(entry)
        return found

    @cached_property
    def by_trail(self) -> dict[tuple[str, ...], ParameterNode]:
        """Parameters by the plain names that lead to them."""
        nodes = [*self.known.values(), *self.parameters.values()]
        return {tuple(plain_name(label) for _, label in node.trail): node for node in nodes}

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


_INSIDE = {"layers", "levers", "snapshots"}


def same_itself(one: Model, other: Model) -> bool:
    """Whether two states of a scene, a layer or a lever are the same but for the layers, levers and snapshots in it."""
    if one is other:
        return True
    if type(one) is not type(other):
        return False
    return all(getattr(one, name) is getattr(other, name) for name in type(one).model_fields if name not in _INSIDE)


def walk(
    layers: tuple[Any, ...], route: Route = (), parent: str | None = None
) -> Iterator[tuple[BaseLayer, Route, str | None]]:
    """Layers with their groups' before their own, each with its route and its group's id."""
    for k, layer in enumerate(layers):
        here = (*route, k)
        yield layer, here, parent
        if isinstance(layer, Group):
            yield from walk(layer.layers, (*here, "layers"), layer.id)
