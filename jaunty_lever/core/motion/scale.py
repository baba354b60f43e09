"""How much is a little, for a parameter."""

from ..document.slots import Slot


def tenth_of(slot: Slot) -> float:
    """A tenth of a parameter's useful range, to two figures; 10 where the range is open."""
    if slot.kind == "colour":
        return 0.1
    if slot.low is None or slot.high is None:
        return 10.0
    return float(f"{(slot.high - slot.low) / 10:.2g}")
