"""How much is a little, for a parameter; and stretches of time seen through another clock."""

from ..document.cycle import Stretch
from ..document.parameter import Parameter
from ..document.slots import Slot


def tenth_of(slot: Slot) -> float:
    """A tenth of a parameter's useful range, to two figures; 10 where the range is open."""
    if slot.kind == "colour":
        return 0.1
    if slot.low is None or slot.high is None:
        return 10.0
    return float(f"{(slot.high - slot.low) / 10:.2g}")


def earlier(stretch: Stretch | None, speed: Parameter, delay: Parameter) -> Stretch | None:
    """When something is felt that happens within a stretch, at the time speed·t − delay; None: at any time."""
    if speed.moves or delay.moves or stretch is None:
        return stretch if stretch and stretch[0] > stretch[1] else None
    rate, wait = speed.only, delay.only
    if not isinstance(rate, int | float) or not isinstance(wait, int | float) or rate == 0 or stretch[0] > stretch[1]:
        return (float("inf"), float("-inf"))
    ends = sorted((end + wait) / rate for end in stretch)
    return ends[0], ends[1]
