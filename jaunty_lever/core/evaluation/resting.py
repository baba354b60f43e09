"""What a parameter gives that nothing moves."""

import numpy as np

from ..document.parameter import Parameter
from ..document.protocols import Values
from ..document.specs import ParameterSpec, numbers


def resting(own: Parameter, spec: ParameterSpec) -> Values:
    """The resting value as (1, 1, components); remembered on the parameter, which never changes."""
    known: tuple[tuple[str, int], Values] | None = own.__dict__.get("_resting")
    asked = (spec.kind, spec.components)
    if known is None or known[0] != asked:
        known = (asked, np.array([[_numbers_at_rest(own, spec)]]))
        known[1].setflags(write=False)
        own.__dict__["_resting"] = known
    return known[1]


def _numbers_at_rest(own: Parameter, spec: ParameterSpec) -> tuple[float, ...]:
    try:
        return numbers(own.rest, spec)
    except ValueError:
        # A setting that nobody has set, of a modifier on a parameter of another kind.
        return numbers(spec.default, spec)
