"""Stretches of frames in words, and ranges that suit a parameter."""

import numpy as np
from numpy.typing import NDArray

from ..document.keys import Value
from ..document.specs import ParameterSpec


def spans_in_words(true: NDArray[np.bool_], most: int = 3) -> str:
    """Such as `frame 12`, `frames 3–9, 40–52 and 4 more stretches`; nothing when it is never true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], true, [False]]).astype(np.int8)))
    spans = [(int(a), int(b) - 1) for a, b in edges.reshape(-1, 2)]
    if not spans:
        return ""
    if spans == [(0, len(true) - 1)]:
        return "all frames"
    said = ", ".join(str(a) if a == b else f"{a}–{b}" for a, b in spans[:most])
    more = len(spans) - most
    if more > 0:
        said += f" and {more} more {'stretch' if more == 1 else 'stretches'}"
    return f"frame {said}" if len(spans) == 1 and spans[0][0] == spans[0][1] else f"frames {said}"


def missed(frequency: NDArray[np.float64], fps: float) -> str:
    """Why what swings so often is not seen as it is: between two frames it is back again; nothing where it is slow
    enough."""
    most = float(np.abs(frequency).max(initial=0.0))
    if most <= fps / 2 + 1e-9:
        return ""
    return f"{most:.4g} times a second: beyond {fps / 2:.4g} a second frames miss it, at {fps:.4g} frames a second."


def around(spec: ParameterSpec, value: tuple[float, ...], reach: float = 50.0) -> tuple[Value, Value]:
    """A low and a high end that suit a parameter: its useful range, else `reach` to either side of its value."""
    if spec.low is not None and spec.high is not None:
        ends = [(spec.low,) * len(value), (spec.high,) * len(value)]
    else:
        ends = [tuple(v - reach for v in value), tuple(v + reach for v in value)]
    low, high = (end[0] if len(end) == 1 else end for end in ends)
    return low, high
