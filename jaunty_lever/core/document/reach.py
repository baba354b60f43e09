"""How far a value usually goes: what an amplitude is large or small against."""

from .keys import Value
from .parameter import Parameter, mapped
from .specs import ParameterSpec, components, value_of

_BY_UNIT = {"px": 400.0, "°": 360.0, "%": 100.0, "s": 2.0, "Hz": 5.0}
_DIFFERENCES = ("step", "span", "rate", "acceleration")
_DIGITS = 3


def reach(spec: ParameterSpec) -> float:
    """The length of its useful range; of one that is open, what is usual for its unit, and of a plain number a hundred
    steps."""
    if spec.kind == "colour":
        return 1.0
    if spec.low is not None and spec.high is not None and spec.high > spec.low:
        return spec.high - spec.low
    return _BY_UNIT.get(spec.unit, 100.0 * (spec.step or 1.0))


def carried(old: ParameterSpec, new: ParameterSpec) -> float:
    """By what a difference of values, such as an amplitude, is multiplied when it goes from one value over to another:
    to 3 digits."""
    if (old.kind, old.unit) == (new.kind, new.unit) and old.kind in ("vector", "angle"):
        return 1.0
    ratio = reach(new) / reach(old)
    return 1.0 if not new.numeric and new.kind != "colour" else float(f"{ratio:.{_DIGITS}g}")


def is_difference(setting: ParameterSpec) -> bool:
    """Whether a setting tells how far a value goes, or how fast, and not where it stands."""
    return setting.owner in _DIFFERENCES and setting.kind not in ("choice", "switch", "text")


def scaled(setting: Parameter, spec: ParameterSpec, ratio: float) -> Parameter:
    """A setting with its resting value and keys multiplied, to 3 digits more than the ratio has."""
    if ratio == 1:
        return setting

    def times(value: Value) -> Value:
        return value_of(tuple(float(f"{n * ratio:.{2 * _DIGITS}g}") for n in components(value, spec)), spec)

    return mapped(setting, times)
