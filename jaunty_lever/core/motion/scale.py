"""How much is a little, for a parameter; and stretches of time seen through another clock."""

from ..document.parameter import Parameter
from ..document.periodicity import Stretch
from ..document.specs import ParameterSpec


def tenth_of(spec: ParameterSpec) -> float:
    """A tenth of a parameter's useful range, to two figures; 10 where the range is open."""
    if spec.kind == "colour":
        return 0.1
    if spec.low is None or spec.high is None:
        return 10.0
    return float(f"{(spec.high - spec.low) / 10:.2g}")


def without_alpha() -> Parameter:
    """Shares for a motion that is new on a colour: how far one sees through it stays as it is, unless that is asked
    for."""
    return Parameter(rest=(1.0, 1.0, 1.0, 0.0))


def earlier(stretch: Stretch | None, speed: Parameter, delay: Parameter) -> Stretch | None:
    """When something is felt that happens within a stretch, at the time speed·t − delay; None: at any time."""
    if speed.moves or delay.moves or stretch is None:
        return stretch if stretch and stretch[0] > stretch[1] else None
    rate, wait = speed.constant_value, delay.constant_value
    if not isinstance(rate, int | float) or not isinstance(wait, int | float) or rate == 0 or stretch[0] > stretch[1]:
        return (float("inf"), float("-inf"))
    ends = sorted((end + wait) / rate for end in stretch)
    return ends[0], ends[1]
