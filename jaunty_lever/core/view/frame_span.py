"""Frames as they are written, in one way everywhere: first:end, the end not included."""

FIRST_END = "first:end, the end not included, such as 0:120"


def frames_in(text: str) -> tuple[float, float]:
    """The first frame and the one after the last of what was written. Raises ValueError, in words."""
    try:
        first, last = (float(part) for part in text.split(":"))
    except ValueError:
        raise ValueError(f"Write the frames as first:end, such as 0:120; “{text}” is not.") from None
    return first, last


def whole_frames_in(text: str, start: object, stop: object) -> tuple[int, int]:
    """The same where only whole frames will do, and where `start` and `stop` may have been told instead. Raises
    ValueError."""
    if start or stop is not None:
        raise ValueError("Give frames, or start and stop, and not both.")
    first, last = frames_in(text)
    if not (first.is_integer() and last.is_integer()):
        raise ValueError(f"Whole frames are taken; “{text}” has others.")
    return int(first), int(last)
