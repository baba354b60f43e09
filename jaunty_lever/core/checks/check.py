"""What a check says."""

from dataclasses import dataclass

from ..document.notes import Mend


@dataclass(frozen=True)
class Check:
    """Something noticed: which kind, in words, the parameter or layer it leads to, the frame, and what mends it."""

    kind: str
    text: str
    at: str
    frame: float = 0.0
    mends: tuple[Mend, ...] = ()
