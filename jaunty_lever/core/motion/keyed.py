"""What the modifiers that read their parameter's keys have to say when there are none, or none that serve."""

from ..document.notes import Mend, Note
from ..document.protocols import Seen


def without_keys(what: str, *mends: Mend) -> Note:
    """That there is nothing to work on."""
    return Note(f"There is {what}: set two keys or more on this value.", warn=True, mends=mends)


def ease_mends(seen: Seen, position: int) -> tuple[Mend, ...]:
    """Ways to make the value arrive at the key at `position` with speed: another ease before it."""
    frame = seen.own.keys[position - 1].frame
    edit = {"kind": "set ease", "parameter": seen.parameter, "frame": frame}
    return (
        Mend("Make the last ease accelerate", ({**edit, "ease": "ease-in"},)),
        Mend("Make it linear", ({**edit, "ease": "linear"},)),
    )
