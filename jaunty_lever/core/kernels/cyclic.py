"""Waves of a phase, ranges that come round, steps and ranges led over: the arithmetic of modifiers and formulas alike.

The functions of one number are inlined into kernels; `each` works one of them out for whole arrays.
"""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .compiled import Filled, Floats, inlined, kernel
from .sine import sine

NEAREST, DOWN, UP = 0, 1, 2


@inlined
def triangle(turns: float) -> float:
    """From 0 up to 1 after a quarter turn, down to −1, and back."""
    x = turns - np.floor(turns)
    return 4.0 * x if x < 0.25 else (2.0 - 4.0 * x if x < 0.75 else 4.0 * x - 4.0)


@inlined
def saw(turns: float) -> float:
    """From 0 up to 1 after half a turn, then from −1 up again."""
    x = turns - np.floor(turns)
    return 2.0 * x if x < 0.5 else 2.0 * x - 2.0


@inlined
def square(turns: float, duty: float) -> float:
    """1 for the share `duty` of each turn, else −1."""
    return 1.0 if turns - np.floor(turns) < duty else -1.0


@inlined
def wrapped(x: float, span: float) -> float:
    """What is left of x after whole spans; of the sign of the span."""
    return x - np.floor(x / span) * span


@inlined
def folded(x: float, span: float) -> float:
    """x led there and back over a span."""
    return abs(x - 2.0 * span * np.floor(x / (2.0 * span) + 0.5))


@inlined
def whole_steps(steps: float, way: int) -> float:
    """A number of steps as a whole one; what is whole but for the rounding of its division counts as whole."""
    if way == NEAREST:
        return np.floor(steps + (0.5 + 1e-9))
    return np.floor(steps + 1e-9) if way == DOWN else np.ceil(steps - 1e-9)


@inlined
def led_over(x: float, start: float, end: float, low: float, high: float) -> float:
    """x from one range to another. Multiplied before it is divided: whole ratios stay whole."""
    return low + (high - low) * (x - start) / (end - start)


@kernel
def sines(turns: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = sine(turns[i])


@kernel
def triangles(turns: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = triangle(turns[i])


@kernel
def saws(turns: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = saw(turns[i])


@kernel
def squares(turns: Floats, duty: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = square(turns[i], duty[i])


@kernel
def wraps(x: Floats, span: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = wrapped(x[i], span[i])


@kernel
def folds(x: Floats, span: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = folded(x[i], span[i])


@kernel
def rounds(steps: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = whole_steps(steps[i], NEAREST)


@kernel
def remaps(x: Floats, start: Floats, end: Floats, low: Floats, high: Floats, out: Filled) -> None:
    for i in range(len(out)):
        out[i] = led_over(x[i], start[i], end[i], low[i], high[i])


def each(kernel: Callable[..., Any], *parts: NDArray[Any]) -> NDArray[np.float64]:
    """A kernel over arrays of any shapes that go together."""
    whole = np.broadcast_arrays(*parts)
    flat = [np.ascontiguousarray(part, dtype=np.float64).ravel() for part in whole]
    out = np.empty(flat[0].size)
    kernel(*flat, out)
    return out.reshape(whole[0].shape)
