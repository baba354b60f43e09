"""SVG path data read and written. Read by regular expressions, command by command: drawings bring thousands of paths at
once.

Source: Scalable Vector Graphics 2, section 9.3, with its rule for mistakes: what stands before one is drawn.
"""

import re
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

from fontTools.pens.basePen import BasePen
from fontTools.svgLib.path.arc import EllipticalArc

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_COMMAND = re.compile(r"\s*([MmLlHhVvCcSsQqTtAaZz])([^MmLlHhVvCcSsQqTtAaZz]*)")
_NUMBERS = re.compile(_NUMBER)
_ALL_NUMBERS = re.compile(rf"(?:[\s,]*{_NUMBER})*[\s,]*")
# The two flags of an arc may stand without anything between them and what follows.
_ARC = re.compile(
    rf"[\s,]*({_NUMBER})[\s,]*({_NUMBER})[\s,]*({_NUMBER})[\s,]*([01])[\s,]*([01])[\s,]*({_NUMBER})[\s,]*({_NUMBER})"
)
_FAR = 1e12
"""Beyond that nothing of an arc is to be believed."""
_TAKES = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "Z": 0}


@dataclass
class PathData:
    """Verbs such as "MLLCZ" and their points one after another, in the coordinates of the data; arcs are cubics.

    `problem` says what could not be read; what stands before it is here.
    """

    verbs: list[str] = field(default_factory=list)
    points: list[float] = field(default_factory=list)
    problem: str = ""


def read(data: str) -> PathData:
    """Path data as verbs and points."""
    made, at, place = PathData(), 0, _Place()
    while match := _COMMAND.match(data, at):
        command, text = match[1], match[2]
        at = match.end()
        if not made.verbs and command not in "Mm":
            made.problem = f"it begins with {command}, and not with a move"
            return made
        if command in "Aa":
            made.problem = _arcs(made, place, text, command == "a")
        else:
            given, end = _numbers(text)
            _put(made, place, command, given)
            takes = _TAKES[command.upper()]
            if end != len(text):
                made.problem = f"it has “{text[end : end + 12].strip()}” after {command}"
            elif takes and (not given or len(given) % takes):
                made.problem = f"{command} takes numbers by {takes}, and {len(given)} are there"
            elif not takes and given:
                made.problem = f"{command} takes no numbers"
        if made.problem:
            return made
    if data[at:].strip():
        made.problem = f"it has “{data[at : at + 12].strip()}” where a command belongs"
    return made


def _numbers(text: str) -> tuple[list[float], int]:
    """The numbers that a text begins with, and where they end."""
    if "_" not in text:
        # Numbers between spaces and commas are the usual case, and this is several times as quick.
        with suppress(ValueError):
            return [float(one) for one in text.replace(",", " ").split()], len(text)
    whole = _ALL_NUMBERS.match(text)
    end = whole.end() if whole else 0
    return [float(one) for one in _NUMBERS.findall(text, 0, end)], end


@dataclass
class _Place:
    x: float = 0.0
    y: float = 0.0
    start: tuple[float, float] = (0.0, 0.0)
    control: tuple[float, float] | None = None
    """The last control point of the curve before, for one that goes on smoothly."""
    curve: str = ""


def _put(made: PathData, place: _Place, command: str, given: list[float]) -> None:
    """Draw what one command tells, as often as it has numbers for it."""
    kind, near = command.upper(), command.islower()
    verbs, points = made.verbs, made.points
    x, y = place.x, place.y
    if kind == "Z":
        if verbs[-1] != "Z":
            verbs.append("Z")
        place.x, place.y = place.start
        place.curve = ""
        return
    takes = _TAKES[kind]
    if kind != "M":
        _begun(made, place)
    for k in range(0, len(given) - takes + 1, takes):
        ox, oy = (x, y) if near else (0.0, 0.0)
        if kind == "C":
            points += (
                *(ox + given[k], oy + given[k + 1], ox + given[k + 2], oy + given[k + 3]),
                *(ox + given[k + 4], oy + given[k + 5]),
            )
        elif kind in "ML":
            points += (ox + given[k], oy + given[k + 1])
        elif kind == "H":
            points += (ox + given[k], y)
        elif kind == "V":
            points += (x, oy + given[k])
        elif kind == "Q":
            points += (ox + given[k], oy + given[k + 1], ox + given[k + 2], oy + given[k + 3])
        else:
            # S and T: the control before, turned round the place.
            smooth = place.control if place.curve == ("C" if kind == "S" else "Q") else None
            points += (2 * x - smooth[0], 2 * y - smooth[1]) if smooth else (x, y)
            points += [(oy if n % 2 else ox) + given[k + n] for n in range(takes)]
        x, y = points[-2], points[-1]
        if kind in "CSQT":
            place.curve, place.control = ("C" if kind in "CS" else "Q"), (points[-4], points[-3])
            verbs.append(place.curve)
        else:
            place.curve = ""
            verbs.append("M" if kind == "M" else "L")
        if kind == "M":
            # What follows a move without a command of its own are lines.
            place.start, kind = (x, y), "L"
    place.x, place.y = x, y


def _begun(made: PathData, place: _Place) -> None:
    """What is drawn after an end begins where that ended."""
    if made.verbs[-1] == "Z":
        made.verbs.append("M")
        made.points += (place.x, place.y)


def _arcs(made: PathData, place: _Place, text: str, near: bool) -> str:
    """Draw arcs; what is the matter with them, if anything is."""
    at = 0
    place.curve = ""
    _begun(made, place)
    while match := _ARC.match(text, at):
        at = match.end()
        rx, ry, turn, x, y = (float(match[k]) for k in (1, 2, 3, 6, 7))
        start, end = complex(place.x, place.y), complex(x, y)
        end += start if near else 0
        # An arc without a radius is a line; so is one so large or so small that there is no telling where it would go.
        if not (rx and ry and _drawn_arc(made, place, (start, rx, ry, turn, match[4] == "1", match[5] == "1", end))):
            made.verbs.append("L")
            made.points += (end.real, end.imag)
        place.x, place.y = end.real, end.imag
    return f"an arc has “{text[at : at + 12].strip()}”" if not at or text[at:].strip(" ,\t\r\n") else ""


def _drawn_arc(made: PathData, place: _Place, told: tuple[Any, ...]) -> bool:
    """Whether an arc could be drawn; where it could not, nothing is."""
    verbs, points = len(made.verbs), len(made.points)
    try:
        EllipticalArc(*told).draw(_Pen(made, place))
        if all(abs(one) < _FAR for one in made.points[points:]):
            return True
    except (ValueError, OverflowError, ZeroDivisionError):
        pass
    del made.verbs[verbs:], made.points[points:]
    return False


class _Pen(BasePen):  # type: ignore[misc]
    """Takes the curves of an arc, which has no move of its own."""

    def __init__(self, made: PathData, place: _Place) -> None:
        super().__init__(None)
        self._made = made
        self.moveTo((place.x, place.y))

    def _moveTo(self, pt: tuple[float, float]) -> None: ...

    def _lineTo(self, pt: tuple[float, float]) -> None:
        self._made.verbs.append("L")
        self._made.points += pt

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:
        self._made.verbs.append("C")
        self._made.points += (*pt1, *pt2, *pt3)


_HOLDS = {"M": 2, "L": 2, "Q": 4, "C": 6, "Z": 0}


def number(value: float, digits: int = 3) -> str:
    """A number, as short as it can be written."""
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def written(verbs: str, points: Iterable[float]) -> str:
    """An outline's verbs and numbers as path data, two decimals a number."""
    left = iter(points)
    return "".join(verb + " ".join(number(float(next(left)), 2) for _ in range(_HOLDS[verb])) for verb in verbs)
