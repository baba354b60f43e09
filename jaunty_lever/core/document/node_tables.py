"""The parameters and modifiers inside one layer or lever, each with its place."""

from .base_layer import BaseLayer
from .keys import Value
from .layers import ArrayLayer, TextureLayer
from .lever import Lever
from .model import Model, Route
from .nodes import ModifierNode, ParameterNode, Reading
from .parameter import Parameter
from .references import ALL_TOLD
from .specs import ParameterSpec, specs_of

Found = tuple[dict[str, ParameterNode], dict[str, ModifierNode]]
"""Parameters and modifiers by id."""


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
    known: dict[tuple[type, Value], Parameter] = own.__dict__.setdefault("_rested", {})
    asked = type(fitted.default), fitted.default
    if asked not in known:
        known[asked] = own.changed(rest=fitted.default)
    return known[asked]


def add_own(
    found: Found, owner: Model, owner_id: str, route: Route, trail: tuple[tuple[str, str], ...], top: str
) -> None:
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
    add_own(found, layer, layer.id, (), trail, layer.id)
    fill = getattr(layer, "fill", None)
    if fill is not None:
        add_own(found, fill, f"{layer.id}.fill", ("fill",), trail, layer.id)
        for k, stop in enumerate(getattr(fill, "stops", ())):
            add_own(found, stop, stop.id, ("fill", "stops", k), (*trail, (stop.id, f"stop {k + 1}")), layer.id)
    for k, one in enumerate(layer.filters):
        add_own(
            found,
            one,
            one.id,
            ("filters", k),
            (*trail, (next(f"{one.id}.{name}" for name in specs_of(type(one))), one.title)),
            layer.id,
        )
    if layer.matte is not None:
        add_own(found, layer.matte, f"{layer.id}.matte", ("matte",), trail, layer.id)
    line = getattr(layer, "line", None)
    if line is not None:
        add_own(found, line, f"{layer.id}.line", ("line",), trail, layer.id)
    if isinstance(layer, TextureLayer):
        for k, stop in enumerate(layer.stops):
            add_own(found, stop, stop.id, ("stops", k), (*trail, (f"{stop.id}.colour", f"colour {k + 1}")), layer.id)
    edge = getattr(layer, "edge", None)
    if edge is not None:
        add_own(found, edge, f"{layer.id}.edge", ("edge",), trail, layer.id)
        for k, stop in enumerate(edge.stops):
            add_own(found, stop, stop.id, ("edge", "stops", k), (*trail, (stop.id, f"shell colour {k + 1}")), layer.id)
    if isinstance(layer, ArrayLayer):
        _array_places(found, layer, trail)
    return found


def _array_places(found: Found, layer: ArrayLayer, trail: tuple[tuple[str, str], ...]) -> None:
    for part in ("arrangement", "order"):
        add_own(found, getattr(layer, part), f"{layer.id}.{part}", (part,), trail, layer.id)
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
        for number, name in enumerate(gauge.others, 1):
            there = (*here, (f"{gauge.id}.{name}", name))
            own = (getattr(gauge, name), gauge.spec_of(name), (*route, name), there, layer.id, name)
            _parameter(found, f"{gauge.id}.{name}", *own, reads=Reading(layer.id, gauge, number))
        add_own(found, gauge, gauge.id, route, here, layer.id)
        order = getattr(gauge, "order", None)
        if order is not None:
            add_own(found, order, f"{gauge.id}.order", (*route, "order"), here, layer.id)


_OF_COPIES: dict[str, tuple[str, tuple[float, ...]]] = {
    **{name: (name, rest) for name, rest in ALL_TOLD.items()},
    "facing": ("facing", (0.0,)),
    "place": ("place", (0.0, 0.0)),
}


def known_of(array: BaseLayer) -> dict[str, ParameterNode]:
    """What each copy of an array, or each point of an edge, knows of itself, as values that can be followed and sampled
    but not set."""
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
