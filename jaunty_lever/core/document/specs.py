"""What a parameter is for: kind, unit, useful range, name and help.

A `ParameterSpec` is declared once, on the field of the model that owns the parameter. Forms, reference pages,
the file's schema and all checks of input are made from it.
"""

from dataclasses import dataclass, replace
from functools import cache
from typing import Literal

from pydantic import BaseModel

from .colours import parse_colour
from .keys import Value

Kind = Literal[
    "number",
    "angle",
    "percentage",
    "length",
    "time",
    "frequency",
    "switch",
    "choice",
    "vector",
    "colour",
    "text",
]

AXES = ("x", "y", "z")
CHANNELS = ("r", "g", "b", "a")
STEPPED_KINDS = ("switch", "choice", "text")


_MOST_FITTED = 200


@dataclass(frozen=True)
class ParameterSpec:
    """What one parameter of a model is for.

    `low` and `high` bound the useful range (None: open); nothing is taken in outside `limits`. `owner` says how a
    setting takes after the parameter it belongs to: "value" (a value of the same kind), "same" (that too, of choices
    and switches), "step" (a difference of such values), "rate" (such a difference a second), "span" (a single
    difference, whatever the number of components), "acceleration" (a span a second, each second), "factor" or "weights"
    (one plain number per component, of a colour for "factor" one for all). `each`: it has a value for each copy of its
    array. `travels`: whole when typed, it may lie between on the way from key to key, and is rounded where it is used.
    `copies`: it means something for the copies of an array only. `stands`: it is where copies stand. `passage`: its
    keys stand at percents of a passage, not at frames. `deep`: it means something only where a scene is seen in depth.
    `ends`: beyond these (None: open) the picture shows it as at the end.
    """

    kind: Kind
    default: Value
    label: str
    unit: str = ""
    help: str = ""
    components: int = 1
    low: float | None = None
    high: float | None = None
    step: float | None = None
    options: tuple[str, ...] = ()
    main: bool = False
    whole: bool = False
    limits: tuple[float, float] | None = None
    owner: str = ""
    each: bool = False
    passage: bool = False
    travels: bool = False
    copies: bool = False
    stands: bool = False
    deep: bool = False
    ends: tuple[float | None, float | None] | None = None

    @property
    def stepped(self) -> bool:
        """Whether the value jumps from one whole thing to the next and is never in between."""
        return (self.whole and not self.travels) or self.kind in STEPPED_KINDS

    @property
    def numeric(self) -> bool:
        """Whether the values are numbers that a number can drive."""
        return self.kind not in ("colour", "choice", "text")

    @property
    def component_names(self) -> tuple[str, ...]:
        """Names of the components: x, y for a vector, r, g, b, a for a colour, none for a number."""
        if self.components == len(CHANNELS):
            return CHANNELS
        return AXES[: self.components] if self.components > 1 else ()

    def fitted(self, owner: "ParameterSpec") -> "ParameterSpec":
        """This spec for a setting of a modifier on a parameter with the spec `owner`."""
        if not self.owner:
            return self
        known: dict[int, tuple[ParameterSpec, ParameterSpec]] = self.__dict__.setdefault("_fitted", {})
        entry = known.get(id(owner))
        if entry is None or entry[0] is not owner:
            if len(known) >= _MOST_FITTED:
                known.clear()
            entry = known[id(owner)] = owner, self._fitted_to(owner)
        return entry[1]

    def _fitted_to(self, owner: "ParameterSpec") -> "ParameterSpec":
        if self.owner == "weights":
            return replace(self, components=owner.components)
        if self.owner == "same" and owner.kind in STEPPED_KINDS:
            return replace(self, kind=owner.kind, options=owner.options, default=owner.default, step=owner.step)
        if self.owner in ("span", "acceleration"):
            return replace(self, unit=owner.unit if self.owner == "span" else f"{owner.unit}/s²")
        if self.owner == "rate":
            kind: Kind = "vector" if owner.components > 1 else "number"
            return replace(self, kind=kind, unit=f"{owner.unit}/s", components=owner.components)
        if self.owner == "factor":
            many = owner.components if owner.kind == "vector" else 1
            return replace(self, kind="vector" if many > 1 else "number", components=many)
        if owner.kind in STEPPED_KINDS:
            return replace(self, kind="number", unit="", components=1)
        if owner.kind == "colour" and self.owner == "step":
            return replace(self, kind="number", unit="", default=0.1, low=0.0, high=1.0, step=0.01)
        default: Value = "#808080" if owner.kind == "colour" else self.default
        step = owner.step if owner.step is not None and not owner.whole else self.step
        return replace(self, kind=owner.kind, unit=owner.unit, components=owner.components, default=default, step=step)


@cache
def specs_of(model: type[BaseModel]) -> dict[str, ParameterSpec]:
    """The specs that a model declares, by field name, in the order of declaration."""
    found = {}
    for name, field in model.model_fields.items():
        for entry in field.metadata:
            if isinstance(entry, ParameterSpec):
                found[name] = entry
    return found


def components(value: Value, spec: ParameterSpec) -> tuple[float, ...]:
    """The numbers behind a value: one per component; a choice gives its position.

    Raises ValueError, in the artist's words, when the value is not of the spec's kind or outside its limits.
    """
    if spec.limits and isinstance(value, float | int) and not isinstance(value, bool):
        least, most = spec.limits
        if spec.whole and value != round(value):
            raise ValueError(f"{spec.label}: {value:g} is not a whole number")
        if not least <= value <= most:
            raise ValueError(f"{spec.label}: {value:,.10g} does not lie between {least:,.10g} and {most:,.10g}")
    return numbers(value, spec)


def numbers(value: Value, spec: ParameterSpec) -> tuple[float, ...]:
    """The same for evaluation, where a value outside its limits is no reason to stop."""
    if spec.kind == "text":
        if not isinstance(value, str):
            raise ValueError(f"{spec.label} needs a text")
        return (0.0,)
    if spec.kind == "choice":
        if value not in spec.options:
            raise ValueError(f"{spec.label} must be one of: {', '.join(spec.options)}")
        return (float(spec.options.index(str(value))),)
    if spec.kind == "colour" and isinstance(value, str):
        return parse_colour(value)
    if spec.kind == "switch":
        if isinstance(value, bool | float | int):
            return (float(bool(value)),)
        raise ValueError(f"{spec.label} is a switch: true or false")
    if isinstance(value, str | bool):
        raise ValueError(f"{spec.label} needs {'components' if spec.components > 1 else 'a number'}, not {value!r:.40}")
    if isinstance(value, float | int):
        if spec.kind == "colour":
            raise ValueError(f"{spec.label} needs a colour such as #e0b050")
        return (float(value),) * spec.components
    if len(value) != spec.components:
        raise ValueError(f"{spec.label} needs {spec.components} component(s), not {len(value)}")
    return tuple(float(v) for v in value)


def value_of(numbers: tuple[float, ...], spec: ParameterSpec) -> Value:
    """The document value for the numbers of a parameter: the inverse of `components`."""
    if spec.kind == "choice":
        return spec.options[min(max(round(numbers[0]), 0), len(spec.options) - 1)]
    if spec.kind == "switch":
        return numbers[0] >= 0.5
    return numbers[0] if spec.components == 1 else numbers
