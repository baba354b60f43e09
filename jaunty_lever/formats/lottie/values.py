"""Values of a Lottie file as those of layers; one that makes no sense is remarked on and takes on what is usual."""

from collections.abc import Callable
from typing import Any

from .moving import Clock, Moving, NoValue, Numbers, heading, moving, still


class Values:
    """Reads them; `remark` is told of what is not read."""

    def __init__(self, remark: Callable[[str], None]) -> None:
        self.remark = remark

    def moving(self, given: Any, clock: Clock, wide: int, default: Numbers) -> Moving:
        """A property of so many numbers, over time."""
        try:
            return moving(given, clock, wide, self.remark, default)
        except NoValue as error:
            self.remark(f"Values that make no sense: {error}")
            return still(*default)

    def pair(self, given: Any, clock: Clock, default: Numbers) -> Any:
        """A property of two numbers, as a parameter."""
        return pairs(self.moving(given, clock, 2, default))

    def one(self, given: Any, clock: Clock, default: float) -> Any:
        """A property of one number, as a parameter."""
        return self.moving(given, clock, 1, (default,)).parameter(lambda value: value[0])

    def share(self, given: Any, clock: Clock) -> Any:
        """A property in percent, as a parameter."""
        return self.moving(given, clock, 1, (100.0,)).parameter(lambda value: min(max(value[0], 0.0), 100.0))

    def place(self, ks: Any, clock: Clock, opacity: bool = True, heads: bool = False) -> dict[str, Any]:
        """A transform as fields of a layer; `heads`: it turns to where it goes."""
        given = ks if isinstance(ks, dict) else {}
        skew = self.moving(given.get("sk"), clock, 1, (0.0,))
        if not skew.still or skew.first != (0.0,):
            self.remark("Slants: what is slanted stands upright")
        if any(axis in given for axis in ("rx", "ry", "or")):
            self.remark("Turns in space: only those on the stage are read")
        position = self.moving(given.get("p"), clock, 2, (0.0, 0.0))
        turn = self.moving(given.get("rz" if "rz" in given else "r"), clock, 1, (0.0,))
        if heads and not position.still:
            try:
                turn = heading(position, turn)
            except NoValue as error:
                self.remark(f"Layers that turn to where they go: {error}")
        fields = {
            "position": pairs(position),
            "scale": self.pair(given.get("s"), clock, (100.0, 100.0)),
            "pivot": self.pair(given.get("a"), clock, (0.0, 0.0)),
            "rotation": turn.parameter(lambda value: value[0]),
        }
        return fields | {"opacity": self.share(given.get("o"), clock)} if opacity else fields


def pairs(given: Moving) -> Any:
    """Two numbers over time as a parameter."""
    return given.parameter(lambda pair: (pair[0], pair[1]))
