"""Affine transforms as (a, b, c, d, e, f), as in SVG's matrix(a b c d e f)."""

import math
import re

Affine = tuple[float, float, float, float, float, float]
Point = tuple[float, float]

IDENTITY: Affine = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
_FUNCTION = re.compile(r"\s*,?\s*([a-zA-Z]+)\s*\(([^)]*)\)")
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")


def times(outer: Affine, inner: Affine) -> Affine:
    """outer · inner."""
    a, b, c, d, e, f = outer
    g, h, i, j, k, m = inner
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def through(matrix: Affine, x: float, y: float) -> Point:
    """A point through a transform."""
    a, b, c, d, e, f = matrix
    return a * x + c * y + e, b * x + d * y + f


def inverse(matrix: Affine) -> Affine:
    """The transform back. Raises ZeroDivisionError where there is none."""
    a, b, c, d, e, f = matrix
    over = size_of(matrix)
    return (d / over, -b / over, -c / over, a / over, (c * f - d * e) / over, (b * e - a * f) / over)


def size_of(matrix: Affine) -> float:
    """By how much areas grow, with its sign."""
    return matrix[0] * matrix[3] - matrix[1] * matrix[2]


def numbers(text: str) -> list[float]:
    """All numbers in a text; those beyond what can be drawn are left out by raising ValueError."""
    found = [float(one) for one in _NUMBER.findall(text)]
    if any(not math.isfinite(one) or abs(one) > 1e7 for one in found):
        raise ValueError("A number is too large.")
    return found


def parse(text: str) -> Affine:
    """A transform list of SVG or CSS. Raises ValueError for what is none."""
    matrix, at = IDENTITY, 0
    while match := _FUNCTION.match(text, at):
        at = match.end()
        matrix = times(matrix, _one(match[1].lower(), numbers(match[2])))
    if text[at:].strip(" ,\n\t\r;") and text.strip() != "none":
        raise ValueError(f"“{text[:40]}” is no transform.")
    return matrix


def _one(name: str, given: list[float]) -> Affine:
    n = len(given)
    if name == "matrix" and n == 6:
        return (given[0], given[1], given[2], given[3], given[4], given[5])
    if name in ("translate", "translatex") and n in (1, 2):
        return (1, 0, 0, 1, given[0], given[1] if n == 2 else 0)
    if name == "translatey" and n == 1:
        return (1, 0, 0, 1, 0, given[0])
    if name == "scale" and n in (1, 2):
        return (given[0], 0, 0, given[-1], 0, 0)
    if name == "rotate" and n in (1, 3):
        turn = math.radians(given[0])
        made: Affine = (math.cos(turn), math.sin(turn), -math.sin(turn), math.cos(turn), 0, 0)
        if n == 1:
            return made
        x, y = given[1:]
        return times(times((1, 0, 0, 1, x, y), made), (1, 0, 0, 1, -x, -y))
    if name in ("skewx", "skewy") and n == 1:
        slant = math.tan(math.radians(given[0]))
        return (1, 0, slant, 1, 0, 0) if name == "skewx" else (1, slant, 0, 1, 0, 0)
    raise ValueError(f"“{name}” with {n} numbers is no transform.")


def placed(matrix: Affine) -> tuple[float, tuple[float, float]] | None:
    """Rotation in degrees and scale in percent of a transform that has no skew; None for one that has."""
    a, b, c, d, _, _ = matrix
    wide, high = math.hypot(a, b), math.hypot(c, d)
    if wide < 1e-9 or high < 1e-9:
        return None
    if abs(a * c + b * d) > 1e-5 * wide * high:
        return None
    return math.degrees(math.atan2(b, a)), (wide * 100, math.copysign(high, size_of(matrix)) * 100)
