"""Fields: one value to be shown and set, and what drives it."""

from dataclasses import dataclass, fields, is_dataclass, replace
from typing import TypeVar

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.counterparts import parameters_like
from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.specs import ParameterSpec, components
from jaunty_lever.core.ties import deciding

from .addresses import about


@dataclass(frozen=True)
class Driven:
    """What drives a value: words for the field, and where the driver is to be found."""

    words: str
    driver: str
    modifier: str
    formula: bool = False


@dataclass(frozen=True)
class Field:
    """One value to be shown and set: a parameter, or one component of it."""

    parameter: str
    label: str
    kind: str
    unit: str
    help: str
    texts: tuple[str, ...]
    axes: tuple[str, ...]
    step: float
    low: float | None
    high: float | None
    options: tuple[str, ...]
    keyed: bool
    chained: bool
    driven: Driven | None
    chosen: bool
    key_frames: tuple[float, ...]
    about: str = ""
    """Where its paragraph in the help is."""
    parts: tuple[Driven | None, ...] = ()
    """What drives components by themselves, where not all are driven by the same."""
    several: tuple[bool, ...] = ()
    """Where chosen layers differ in it: of each component, or of the whole."""
    folds: bool = False
    """Whether it may be folded away: nobody has set it, and it is not the one that is chosen."""


def fields_unit(spec: ParameterSpec) -> str:
    """A unit as it stands behind a field: frequencies read "a second"."""
    return {"Hz": "/s", "s": "s"}.get(spec.unit, spec.unit)


def field_of(index: SceneIndex, node: ParameterNode, chosen: str | None, label: str | None = None) -> Field:
    """The field for a parameter."""
    spec, own = node.spec, node.parameter
    value = own.keys[0].value if own.keys else own.rest
    if spec.kind == "text":
        texts: tuple[str, ...] = (str(value),)
    elif spec.kind == "choice":
        texts = (str(value),)
    elif spec.kind == "colour":
        texts = (hex_colour(components(value, spec)),)
    else:
        numbers = components(value, spec)
        typed = own.typed if len(own.typed) == len(numbers) and not own.keys else ("",) * len(numbers)
        texts = tuple(t or plain_number(n, 3).replace("−", "-") for t, n in zip(typed, numbers, strict=True))
    name = label or spec.label
    if spec.kind == "number" and spec.components == 4:
        name += f" {' '.join(spec.component_names)}"
    driven = driven_of(index, node)
    alone = driven is None and spec.components > 1 and spec.kind != "colour" and own.chain
    parts = tuple(driven_of(index, node, k) for k in range(spec.components)) if alone else ()
    return Field(
        parameter=node.id,
        label=name,
        kind=spec.kind,
        unit=fields_unit(spec),
        help=spec.help,
        texts=texts,
        axes=spec.component_names if spec.kind != "colour" else (),
        step=spec.step or 1.0,
        low=spec.low,
        high=spec.high,
        options=spec.options,
        keyed=bool(own.keys),
        chained=bool(own.chain),
        driven=driven,
        about=about(index, node),
        parts=parts if any(parts) else (),
        chosen=node.id == chosen,
        key_frames=tuple(key.frame for key in own.keys),
        folds=node.id != chosen and not touched(node),
    )


def folding(field: Field, may: bool) -> Field:
    """A field that folds away, if nobody has set it, only where it may."""
    return field if may or not field.folds else replace(field, folds=False)


def touched(node: ParameterNode) -> bool:
    """Whether a value is something else than it is made with. Its seed is drawn: that says nothing; nor does a setting
    of a modifier that rests at what suits the value it is for."""
    if node.field == "seed":
        return False
    own = node.parameter
    if own.keys or own.chain:
        return True
    return own.rest != node.made and not (node.modifier and own.rest == node.spec.default)


def driven_of(index: SceneIndex, node: ParameterNode, component: int | None = None) -> Driven | None:
    """The link that decides a value (or a component) alone, said in words; None when the value is its own."""
    tie = deciding(index, node, component)
    return Driven(tie.words, tie.driver, tie.modifier, tie.written) if tie else None


View = TypeVar("View")


def of_several(index: SceneIndex, layers: tuple[str, ...], view: View) -> View:
    """A view (or several in a tuple) with its fields told where the chosen layers differ in them."""
    if isinstance(view, Field):
        apart = _apart(index, index.parameters[view.parameter], layers) if view.parameter in index.parameters else ()
        return replace(view, several=apart) if any(apart) else view
    if isinstance(view, tuple):
        return type(view)(of_several(index, layers, one) for one in view)
    if is_dataclass(view) and not isinstance(view, type):
        made = {f.name: of_several(index, layers, getattr(view, f.name)) for f in fields(view)}
        return replace(view, **made)
    return view


def _apart(index: SceneIndex, node: ParameterNode, layers: tuple[str, ...]) -> tuple[bool, ...]:
    """In which components the values of chosen layers differ."""
    spec = node.spec

    def value(one: Parameter) -> tuple[object, ...]:
        rest = one.keys[0].value if one.keys else one.rest
        return components(rest, spec) if spec.numeric else (rest,)

    mine = value(node.parameter)
    apart = [False] * len(mine)
    for other in parameters_like(index, node.id, layers):
        if other is node.parameter or (
            not other.keys and other.rest == node.parameter.rest and not node.parameter.keys
        ):
            continue
        try:
            theirs = value(other)
        except ValueError:
            theirs = ()
        for k, one in enumerate(mine):
            apart[k] |= k >= len(theirs) or theirs[k] != one
        if all(apart):
            break
    return tuple(apart)
