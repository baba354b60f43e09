"""The functions of the formula language: what each is called with, what it gives, and its arithmetic.

Arrays have a row for each moment (or one row) and a column for each component. A function reports the
moments at which it has no answer through `fault(mask, message)` and goes on with the rest.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..kernels.cyclic import each, folds, remaps, rounds, saws, sines, squares, triangles, wraps
from ..kernels.field import noise_field
from ..kernels.noise import SMOOTH, even_at
from ..kernels.parallel import laid_out, over
from .format import number_text

Array = NDArray[Any]
Report = Callable[[Array, str], None]


@dataclass(frozen=True)
class Function:
    """`parts` names what it takes (those in [ ] may be left out); `takes` is "each" for functions that work
    component by component, "numbers", or "any"; `gives` is "same" or a kind."""

    name: str
    parts: str
    help: str
    run: Callable[..., Array]
    takes: str = "each"
    gives: str = "same"
    least: int = 1
    most: int = 1

    @property
    def signature(self) -> str:
        """Such as `clamp(x, low, high)`."""
        return f"{self.name}({self.parts})"


def _divide(fault: Report, a: Array, b: Array) -> Array:
    zero = b == 0
    if zero.any():
        fault(zero, "Division by 0")
        b = np.where(zero, 1.0, b)
    return np.asarray(a / b)


def _remainder(fault: Report, a: Array, b: Array) -> Array:
    zero = b == 0
    if zero.any():
        fault(zero, "Remainder of a division by 0")
        b = np.where(zero, 1.0, b)
    return np.asarray(np.mod(a, b))


def _power(fault: Report, a: Array, b: Array) -> Array:
    wrong = ((a < 0) & (b != np.rint(b))) | ((a == 0) & (b < 0))
    if wrong.any():
        fault(wrong, "A power that does not exist: a negative number to a fraction, or 0 to a negative one")
        a = np.where(wrong, 1.0, a)
    return np.asarray(np.power(a, b))


def _sqrt(fault: Report, x: Array) -> Array:
    if (x < 0).any():
        fault(x < 0, "The root of a negative number")
    return np.sqrt(np.maximum(x, 0))


def _log(fault: Report, x: Array) -> Array:
    if (x <= 0).any():
        fault(x <= 0, "The logarithm of a number that is not above 0")
    return np.log(np.where(x > 0, x, 1.0))


def _arc(inverse: Callable[[Array], Array], name: str) -> Callable[[Report, Array], Array]:
    def run(fault: Report, x: Array) -> Array:
        outside = np.abs(x) > 1
        if outside.any():
            fault(outside, f"{name} of a number that is not between −1 and 1")
        return np.rad2deg(inverse(np.clip(x, -1, 1)))

    return run


def _atan(fault: Report, y: Array, x: Array | None = None) -> Array:
    return np.rad2deg(np.arctan(y) if x is None else np.arctan2(y, x))


def _mix(fault: Report, a: Array, b: Array, t: Array) -> Array:
    return np.asarray(a + (b - a) * t)


def _smoothstep(fault: Report, low: Array, high: Array, x: Array) -> Array:
    span = high - low
    t = np.where(span == 0, (x >= high) * 1.0, np.clip((x - low) / np.where(span == 0, 1.0, span), 0, 1))
    return np.asarray(t * t * (3 - 2 * t))


def _remap(fault: Report, x: Array, a: Array, b: Array, c: Array, d: Array) -> Array:
    empty = a == b
    if empty.any():
        fault(empty, "The range to remap from is empty")
        b = np.where(empty, a + 1.0, b)
    return each(remaps, x, a, b, c, d)


def _round(fault: Report, x: Array, step: Array | None = None) -> Array:
    if step is None:
        return np.floor(x + 0.5)
    steps = _divide(lambda m, _: fault(m, "Rounding to steps of 0"), x, step)
    return np.asarray(each(rounds, steps) * step)


def _wrap(fault: Report, x: Array, low: Array, high: Array) -> Array:
    return low + each(wraps, x - low, _span(fault, low, high, "The range to wrap into is empty"))


def _fold(fault: Report, x: Array, low: Array, high: Array) -> Array:
    span = _span(fault, low, high, "The range to fold into is empty")
    return low + np.sign(span) * each(folds, x - low, span)


def _span(fault: Report, low: Array, high: Array, message: str) -> Array:
    span = np.asarray(high - low)
    empty = span == 0
    if empty.any():
        fault(empty, message)
        span = np.where(empty, 1.0, span)
    return span


def _square(fault: Report, p: Array, duty: Array | None = None) -> Array:
    return each(squares, p, np.full((1, 1), 0.5) if duty is None else duty)


_ZERO, _ONE = np.zeros((1, 1)), np.ones((1, 1))
MOST_OCTAVES = 8


def _noise(fault: Report, x: Array, y: Array = _ZERO, z: Array = _ZERO, seed: Array = _ONE) -> Array:
    return _field(x, y, z, _ONE, _ONE, seed)


def _fbm(
    fault: Report,
    x: Array,
    y: Array = _ZERO,
    z: Array = _ZERO,
    octaves: Array = 4 * _ONE,
    persistence: Array = 0.5 * _ONE,
) -> Array:
    """Noises of twice the detail each, added up: the name is that of shaders, for fractional Brownian motion."""
    fault((octaves < 1) | (octaves > MOST_OCTAVES), f"Octaves go from 1 to {MOST_OCTAVES}")
    fault((persistence < 0) | (persistence > 1), "The persistence is not between 0 and 1")
    return _field(x, y, z, np.clip(np.rint(octaves), 1, MOST_OCTAVES), np.clip(persistence, 0, 1), _ONE)


def _field(x: Array, y: Array, z: Array, octaves: Array, persistence: Array, seed: Array) -> Array:
    """Coherent noise at x, y, z with octaves, persistence and seed."""
    parts = (x, y, z, octaves, persistence, seed)
    whole = np.broadcast_shapes(*(part.shape for part in parts))
    rows = [laid_out(np.clip(part, -1e15, 1e15).astype(np.float64, copy=False), whole) for part in parts]
    out = np.empty(whole)
    never = np.zeros(1)
    over(out.size, noise_field, *rows[:3], never, *rows[3:5], never, rows[5], 0, SMOOTH, out.ravel())
    return out


def _random(fault: Report, k: Array, seed: Array = _ONE) -> Array:
    whole, seeds = np.broadcast_arrays(np.floor(k), seed)
    x, own = (np.ascontiguousarray(np.clip(part, -1e15, 1e15), dtype=np.float64).ravel() for part in (whole, seeds))
    out = np.empty(x.size)
    even_at(x, np.zeros(1), own, out)
    return out.reshape(whole.shape)


def _length(fault: Report, v: Array) -> Array:
    return np.asarray(np.sqrt((v * v).sum(axis=1, keepdims=True)))


def _stack(fault: Report, *parts: Array) -> Array:
    return np.hstack(np.broadcast_arrays(*parts))


def _rgb(fault: Report, *parts: Array) -> Array:
    return np.clip(_stack(fault, *parts, *([np.ones((1, 1))] if len(parts) == 3 else [])), 0, 1)


def _hsl(fault: Report, h: Array, s: Array, l: Array) -> Array:  # noqa: E741
    s, l = np.clip(s, 0, 1), np.clip(l, 0, 1)  # noqa: E741

    # CSS Color 4, section 7.1: the conversion of hsl() to sRGB.
    def part(k: float) -> Array:
        x = np.mod(k + h / 30, 12)
        return np.asarray(l - s * np.minimum(l, 1 - l) * np.maximum(-1, np.minimum(np.minimum(x - 3, 9 - x), 1)))

    return _stack(fault, part(0), part(8), part(4), np.ones((1, 1)))


def _text(fault: Report, x: Array, decimals: Array | None = None) -> Array:
    places = np.broadcast_to(np.full((1, 1), -1.0) if decimals is None else np.clip(np.rint(decimals), 0, 12), x.shape)
    made = np.empty(x.shape, dtype=object)
    made.ravel()[:] = [number_text(v, int(d)) for v, d in zip(x.ravel().tolist(), places.ravel().tolist(), strict=True)]
    return made


def _plain(run: Callable[..., Any]) -> Callable[..., Array]:
    return lambda fault, *parts: np.asarray(run(*parts))


def _all() -> list[Function]:
    def function(
        name: str, parts: str, help: str, run: Callable[..., Array], least: int = 1, most: int = 0
    ) -> Function:
        return Function(name, parts, help, run, "each", "same", least, most or least)

    return [
        function("abs", "x", "Without its sign.", _plain(np.abs)),
        function("sign", "x", "−1, 0 or 1.", _plain(np.sign)),
        function("floor", "x", "The whole number at or below.", _plain(np.floor)),
        function("ceil", "x", "The whole number at or above.", _plain(np.ceil)),
        function("frac", "x", "What is left after the whole number below.", _plain(lambda x: x - np.floor(x))),
        function(
            "min", "a, b, …", "The smallest.", _plain(lambda *p: np.minimum.reduce(np.broadcast_arrays(*p))), 2, 32
        ),
        function(
            "max", "a, b, …", "The largest.", _plain(lambda *p: np.maximum.reduce(np.broadcast_arrays(*p))), 2, 32
        ),
        function(
            "clamp",
            "x, low, high",
            "Kept between two ends.",
            _plain(lambda x, a, b: np.minimum(np.maximum(x, a), b)),
            3,
        ),
        function("mix", "a, b, t", "From a to b, t from 0 to 1.", _mix, 3),
        function("step", "edge, x", "0 below the edge, 1 from it on.", _plain(lambda edge, x: (x >= edge) * 1.0), 2),
        function("smoothstep", "low, high, x", "0 to 1 between two ends, gently.", _smoothstep, 3),
        function("sqrt", "x", "The square root.", _sqrt),
        function("exp", "x", "e to the power x.", _plain(np.exp)),
        function("log", "x", "The natural logarithm.", _log),
        function("pow", "x, y", "x to the power y.", _power, 2),
        function("sin", "degrees", "The sine of an angle.", _plain(lambda x: np.sin(np.deg2rad(x)))),
        function("cos", "degrees", "The cosine of an angle.", _plain(lambda x: np.cos(np.deg2rad(x)))),
        function("tan", "degrees", "The tangent of an angle.", _plain(lambda x: np.tan(np.deg2rad(x)))),
        function("asin", "x", "The angle with that sine, in degrees.", _arc(np.arcsin, "asin")),
        function("acos", "x", "The angle with that cosine, in degrees.", _arc(np.arccos, "acos")),
        function("atan", "y, [x]", "The angle of a slope, or of the point x, y, in degrees.", _atan, 1, 2),
        Function("length", "v", "How long a vector is.", _length, "vector", "number"),
        function("remap", "x, from_low, from_high, to_low, to_high", "From one range to another.", _remap, 5),
        function("round", "x, [step]", "To the nearest whole number, or multiple of a step.", _round, 1, 2),
        function("wrap", "x, low, high", "Round and round between two ends.", _wrap, 3),
        function("fold", "x, low, high", "There and back between two ends.", _fold, 3),
        function("osc", "p", "A sine wave of a phase in turns, −1 to 1.", _plain(lambda p: each(sines, p))),
        function("tri", "p", "A triangle wave of a phase in turns.", _plain(lambda p: each(triangles, p))),
        function("saw", "p", "A saw wave of a phase in turns.", _plain(lambda p: each(saws, p))),
        function("square", "p, [duty]", "1 for the first part of each turn, else −1.", _square, 1, 2),
        Function(
            "noise",
            "x, [y], [z], [seed]",
            "Smooth random values in −1 to 1, coherent in all that it takes; another seed, other values.",
            _noise,
            "numbers",
            "number",
            1,
            4,
        ),
        Function(
            "fbm",
            "x, [y], [z], [octaves], [persistence]",
            "The same with octaves: finer and finer detail, each weaker by the persistence. 4 octaves of 0.5 "
            "where not told.",
            _fbm,
            "numbers",
            "number",
            1,
            5,
        ),
        Function(
            "random",
            "k, [seed]",
            "Even in 0 to 1, the same for the same whole number.",
            _random,
            "numbers",
            "number",
            1,
            2,
        ),
        Function("rgb", "r, g, b", "A colour; each part from 0 to 1.", _rgb, "numbers", "colour", 3, 3),
        Function(
            "rgba",
            "r, g, b, a",
            "A colour that lets some through; each part from 0 to 1.",
            _rgb,
            "numbers",
            "colour",
            4,
            4,
        ),
        Function(
            "hsl",
            "hue, saturation, lightness",
            "A colour; the hue in degrees, the rest from 0 to 1.",
            _hsl,
            "numbers",
            "colour",
            3,
            3,
        ),
        Function("text", "x, [decimals]", "A number as text.", _text, "numbers", "text", 1, 2),
    ]


def _edges(x: Array, low: Array, high: Array) -> list[Array]:
    return [np.sign(x - low), np.sign(x - high)]


def _whole(x: Array, *_: Array) -> list[Array]:
    return [np.floor(x)]


def _cells_of_noise(x: Array, y: Array = _ZERO, z: Array = _ZERO, seed: Array = _ONE) -> list[Array]:
    return [np.floor(x), np.floor(y), np.floor(z), np.trunc(seed)]


def _cells_of_octaves(
    x: Array, y: Array = _ZERO, z: Array = _ZERO, octaves: Array = 4 * _ONE, persistence: Array = _ONE
) -> list[Array]:
    finest = 2 ** (np.clip(np.rint(octaves), 1, MOST_OCTAVES) - 1)
    return [np.floor(x * finest), np.floor(y * finest), np.floor(z * finest), np.rint(octaves)]


def _cells(x: Array, low: Array, high: Array) -> list[Array]:
    with np.errstate(all="ignore"):
        return [np.floor((x - low) / (high - low))]


def _least(*parts: Array) -> list[Array]:
    return [np.argmin(np.stack(np.broadcast_arrays(*parts)), axis=0)]


def _most(*parts: Array) -> list[Array]:
    return [np.argmax(np.stack(np.broadcast_arrays(*parts)), axis=0)]


def _quotient(a: Array, b: Array) -> list[Array]:
    with np.errstate(all="ignore"):
        return [np.floor(a / b)]


#: What tells on which smooth piece of its result a function (or operator) is; those not listed have one piece.
BRANCHES: dict[str, Callable[..., list[Array]]] = {
    "abs": lambda x: [np.sign(x)],
    "sign": lambda x: [np.sign(x)],
    "floor": _whole,
    "ceil": lambda x: [np.ceil(x)],
    "frac": _whole,
    "min": _least,
    "max": _most,
    "clamp": _edges,
    "step": lambda edge, x: [x >= edge],
    "smoothstep": lambda low, high, x: _edges(x, low, high),
    "round": lambda x, size=1.0: [np.floor(x / np.where(size == 0, 1, size) + 0.5)],
    "wrap": _cells,
    "fold": _cells,
    "tri": lambda p: [np.floor(2 * p + 0.5)],
    "saw": lambda p: [np.floor(p + 0.5)],
    "square": lambda p, duty=0.5: [np.floor(p), p - np.floor(p) < duty],
    "random": _whole,
    "noise": _cells_of_noise,
    "fbm": _cells_of_octaves,
    "atan": lambda y, x=1.0: [np.sign(y) * (x < 0)],
    "sqrt": lambda x: [x > 0],
    "hsl": lambda h, *_: [np.floor(h / 30)],
    "%": _quotient,
}
FUNCTIONS: dict[str, Function] = {function.name: function for function in _all()}
OPERATORS: dict[str, Callable[..., Array]] = {
    "+": _plain(np.add),
    "-": _plain(np.subtract),
    "*": _plain(np.multiply),
    "/": _divide,
    "%": _remainder,
    "^": _power,
    "<": _plain(np.less),
    "<=": _plain(np.less_equal),
    ">": _plain(np.greater),
    ">=": _plain(np.greater_equal),
    "==": _plain(lambda a, b: a == b),
    "!=": _plain(lambda a, b: a != b),
}
VALUES: dict[str, str] = {
    "base": "What the chain gave so far.",
    "t": "Seconds.",
    "f": "The frame number, which may be a fraction.",
    "fps": "Frames a second.",
    "length": "The scene's length in seconds.",
    "i": "Copy number in an array, from 0.",
    "n": "Number of copies in an array.",
    "u": "Place along an array's order, 0 to 1.",
    "rank": "A copy's place in its array's order, counted from 0.",
    "row": "Row in an array.",
    "col": "Column in an array.",
    "x": "A copy's place in its array, across, in px.",
    "y": "A copy's place in its array, downwards, in px.",
    "z": "A copy's place in its array, towards the viewer, in px.",
    "across": "Between rails: the vector from a copy to its partner on the other rail, in px.",
    "age": "Seconds that a spark of an emitter has lived.",
    "life": "How much of its life a spark has lived, 0 to 1.",
    "height": "How high up: 0 at the lowest point of an outline or copy of an array, 1 at the topmost.",
    "pi": "3.14159…",
    "true": "On.",
    "false": "Off.",
}

SPEED = "speed"
PACES: dict[str, str] = {
    SPEED: "speed(Gulls.copy_position): how fast a value moves, in its unit a second; speed(Boat.position.x) of one "
    "component.",
}
"""What asks a value at other moments. A step may have the same name."""

TAKINGS: dict[str, str] = {
    "copy": "copy(12, Gulls.copy_position.x): the value of one copy of an array, by its number.",
    "mean": "mean(Gulls.copy_position.x): the mean over all copies of an array.",
    "least": "least(Gulls.copy_position.x): the least over all copies of an array.",
    "greatest": "greatest(Gulls.copy_position.x): the greatest over all copies of an array.",
}
"""Ways to take a value of many copies as one number, from outside their array."""

LENT = {"rank", "x", "y", "z", "age", "life", "height"}
"""Names of values that a formula's own steps may have, and layers."""
