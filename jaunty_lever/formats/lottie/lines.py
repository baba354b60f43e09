"""How the lines of a Lottie file are drawn: which part of them, in dashes, with which ends and corners."""

import math
from dataclasses import dataclass
from typing import Any

from .moving import Clock, Moving, still
from .values import Values

_CAPS = {1: "butt", 3: "square"}
_JOINS = {1: "miter", 3: "bevel"}
_DOT = 0.01
"""The length, px, of a dash that is only its two round ends: here a dash of 0 is a whole line."""


def line_of(
    values: Values, stroke: dict[str, Any], trim: dict[str, Any] | None, clock: Clock, begins: "Beginning"
) -> dict[str, Any] | None:
    """The line of a shape, as fields; None where it is nothing but whole and round."""
    made: dict[str, Any] = {}
    for name, asked, known in (("cap", stroke.get("lc"), _CAPS), ("join", stroke.get("lj"), _JOINS)):
        if isinstance(asked, int) and asked in known:
            made[name] = known[asked]
    moved = False
    if trim is not None:
        made |= _part(values, trim, clock, begins)
        moved = made["turn"] != begins.share * 100 or made["start"] != 0
    dashes = _dashes(values, stroke.get("d"), clock, begins.along)
    if dashes and moved:
        values.remark("Dashes of lines drawn in part: they begin elsewhere")
    return made | dashes or None


def _part(values: Values, trim: dict[str, Any], clock: Clock, begins: "Beginning") -> dict[str, Any]:
    start, end = (values.moving(trim.get(name), clock, 1, (usual,)) for name, usual in (("s", 0.0), ("e", 100.0)))
    turn = values.moving(trim.get("o"), clock, 1, (0.0,)).each(lambda value: (value[0] / 3.6,))
    if begins.backwards:
        start, end = (side.each(lambda value: (100 - value[0],)) for side in (end, start))
        turn = turn.each(lambda value: (-value[0],))
    turn = turn.each(lambda value: (value[0] + begins.share * 100,))
    return {
        "start": _one(start, 0.0, 100.0),
        "end": _one(end, 0.0, 100.0),
        "turn": _one(turn, -math.inf, math.inf),
        "contours": "one after another" if trim.get("m") == 2 else "each by itself",
    }


def _one(given: Moving, low: float, high: float) -> Any:
    return given.parameter(lambda value: min(max(round(value[0], 6), low), high))


def _dashes(values: Values, given: Any, clock: Clock, begins: float) -> dict[str, Any]:
    """Dash, gap and offset. Of lengths that take turns, the first two are taken."""
    entries = [one for one in given if isinstance(one, dict)] if isinstance(given, list) else []
    found = {short: [one for one in entries if one.get("n") == short] for short in ("d", "g", "o")}
    if not found["d"]:
        return {}
    if len(found["d"]) > 1:
        values.remark("Dashes of several lengths: the first is taken")
    dash = values.moving(found["d"][0].get("v"), clock, 1, (0.0,))
    gap = values.moving(found["g"][0].get("v"), clock, 1, (0.0,)) if found["g"] else dash
    offset = values.moving(found["o"][0].get("v"), clock, 1, (0.0,)) if found["o"] else still(0.0)
    if all(value[0] <= 0 for value in dash.values) and all(value[0] <= 0 for value in gap.values):
        return {}
    return {
        "dash": _one(dash, _DOT, 100_000.0),
        "gap": _one(gap, 0.0, 100_000.0),
        "offset": _one(offset.each(lambda value: (begins - value[0],)), -math.inf, math.inf),
    }


@dataclass(frozen=True)
class Beginning:
    """Where the outline of a figure begins in such a file: as a share of the outline here, and in px along it; and
    whether it goes the other way round."""

    share: float = 0.0
    along: float = 0.0
    backwards: bool = False


def beginning_of(kind: str, figure: dict[str, Any], backwards: bool) -> Beginning:
    """There an ellipse begins at its top and a rectangle at its upper right corner; here at the right and the upper
    left.

    Of a figure whose size changes, as it is at first.
    """
    if kind not in ("el", "rc"):
        return Beginning(backwards=backwards)
    wide, high = (abs(side) for side in _at_first(figure["size"]))
    if kind == "el":
        # Ramanujan's second approximation of the circumference.
        a, b = wide / 2, high / 2
        unlike = 3 * ((a - b) / (a + b)) ** 2 if a + b > 0 else 0.0
        whole = math.pi * (a + b) * (1 + unlike / (10 + math.sqrt(4 - unlike)))
        return Beginning(-0.25, -0.25 * whole, backwards)
    corner = min(max(_at_first(figure["corner"])[0], 0.0), wide / 2, high / 2)
    rounds = math.pi * corner / 2
    top, side = wide - 2 * corner, high - 2 * corner
    whole = 2 * (top + side) + 4 * rounds
    return Beginning((top + rounds) / whole if whole > 0 else 0.0, top + rounds, backwards)


def _at_first(given: Any) -> tuple[float, ...]:
    """A parameter's field as it rests: its numbers."""
    resting = given["rest"] if isinstance(given, dict) else given
    return tuple(resting) if isinstance(resting, tuple) else (float(resting),)
