"""The kernel behind Wiggle: octaves of seeded noise, over the moments of one thing after the other."""

import numpy as np

from .compiled import Filled, Floats, Integer, Whole, inlined, inner, kernel
from .noise import BILLOW, RIDGED, SMOOTH, STEPPED, cell, even, place, spread, stream_of

BOTH, ABOVE, BELOW = 0, 1, 2

_BLOCK, _RUN = 1024, 16
_SHORT = 64
"""Samples in a cell, on the average, below which the cells of a stretch are tabled."""
MOST_CELLS = _BLOCK // 2


@inner
def spreads(persistence: float, octaves: int) -> float:
    """How often a sum of octaves is spread, so that it reaches both ends as often as one octave does; 0 for one.

    The more octaves have a say, the narrower is their sum: by the root of the sum of their squared weights.
    """
    weights, squares = 0.0, 0.0
    for o in range(octaves):
        weights += persistence**o
        squares += persistence ** (2 * o)
    return min(4.0 * (1.0 - np.sqrt(squares) / weights), 2.0)


@inner
def spread_often(x: float, times: float) -> float:
    """x in −1..1 spread so many times, the last of them in part."""
    whole = int(times)
    for _ in range(whole):
        x = spread(x)
    return x + (times - whole) * (spread(x) - x)


@inner
def _cubic(x: Floats, n: Floats, scale: float, k: float, a: float, b: float, c: float, d: float) -> None:
    for j in range(len(x)):
        f = x[j] * scale - k
        n[j] = a + f * (b + f * (c + f * d))


@inlined
def _run_end(floors: Floats, start: int, size: int) -> int:
    """Where the run of samples in the cell of floors[start] ends."""
    k = floors[start]
    stop = start + 1
    # Most stretches lie in one cell for a long while: ask for a whole run at once, then one by one.
    while stop + _RUN <= size:
        ahead = floors[stop : stop + _RUN]
        other = 0
        for j in range(_RUN):
            other |= ahead[j] != k
        if other:
            break
        stop += _RUN
    while stop < size and floors[stop] == k:
        stop += 1
    return stop


@inner
def cells_from(stream: np.uint64, low: Integer, count: Integer, lapse: Integer, table: Floats) -> None:
    """The coefficients of smooth noise on `count` cells from low on, (4, count): each whole phase is asked for once."""
    for j in range(count + 3):
        k = low + j - 1
        if lapse > 0:
            k %= lapse
        table[4, j], table[5, j] = place(stream, k), even(~stream, k)
    for j in range(count):
        v0, v1 = table[4, j + 1], table[4, j + 2]
        m0 = 0.5 * (v1 - table[4, j]) + table[5, j + 1]
        m1 = 0.5 * (table[4, j + 3] - v0) + table[5, j + 2]
        table[0, j], table[1, j] = v0 / 1.5, m0 / 1.5
        table[2, j] = (3.0 * (v1 - v0) - 2.0 * m0 - m1) / 1.5
        table[3, j] = (2.0 * (v0 - v1) + m0 + m1) / 1.5


@inner
def _from_cells(x: Floats, floors: Floats, scale: float, low: float, table: Floats, n: Floats) -> None:
    a, b, c, d = table[0], table[1], table[2], table[3]
    for j in range(len(n)):
        f, k = x[j] * scale - floors[j], np.uint32(floors[j] - low)
        n[j] = a[k] + f * (b[k] + f * (c[k] + f * d[k]))


@inlined
def _tabled(floors: Floats, size: int, character: int) -> int:
    """How many cells samples on a way ahead lie in, where a table of them is worth while; else 0."""
    if character == STEPPED or size < _RUN:
        return 0
    low, high, falls = floors[0], floors[size - 1], 0
    for j in range(size - 1):
        falls |= floors[j + 1] < floors[j]
    # So far out, whole phases are no longer told apart.
    if abs(low) > 1e15 or abs(high) > 1e15 or falls or high - low >= MOST_CELLS:
        return 0
    count = int(high - low) + 1
    return count if count * 2 <= size <= count * _SHORT else 0


@inlined
def _octave(
    x: Floats,
    floors: Floats,
    n: Floats,
    size: int,
    scale: float,
    stream: np.uint64,
    lapse: Integer,
    character: int,
    curve: Floats,
    table: Floats,
) -> None:
    """n[j] = one octave of noise at x[j] · scale. Samples that share a cell are worked out in one stretch."""
    for j in range(size):
        floors[j] = np.floor(x[j] * scale)
    count = _tabled(floors, size, character)
    if count:
        cells_from(stream, np.int64(floors[0]), count, lapse, table)
        _from_cells(x[:size], floors[:size], scale, floors[0], table, n[:size])
        return
    start = 0
    while start < size:
        k = floors[start]
        stop = _run_end(floors, start, size)
        cell(stream, k, lapse, character, curve)
        _cubic(x[start:stop], n[start:stop], scale, k, curve[0], curve[1], curve[2], curve[3])
        start = stop


@inner
def _smooth_cell(
    x: Floats, out: Floats, k: float, a: float, b: float, c: float, d: float, base: float, gain: float
) -> None:
    for j in range(len(x)):
        f = x[j] - k
        n = spread(a + f * (b + f * (c + f * d)))
        out[j] = base + gain * min(1.0, max(-1.0, n))


@inner
def _smooth_once(
    first: int,
    last: int,
    shift: int,
    phase: Floats,
    rate: float,
    lapse: Integer,
    base: float,
    gain: float,
    stream: np.uint64,
    out: Floats,
) -> None:
    """One octave of smooth noise around a still value: the same arithmetic as `wiggle`, in fewer passes."""
    x, floors = np.empty(_BLOCK), np.empty(_BLOCK)
    curve = np.zeros(4)
    for begin in range(first, last, _BLOCK):
        size = min(_BLOCK, last - begin)
        ahead = phase[begin - shift : begin - shift + size]
        for j in range(size):
            x[j] = ahead[j] * rate
            floors[j] = np.floor(x[j])
        result = out[begin : begin + size]
        start = 0
        while start < size:
            k = floors[start]
            stop = _run_end(floors, start, size)
            cell(stream, k, lapse, SMOOTH, curve)
            _smooth_cell(x[start:stop], result[start:stop], k, curve[0], curve[1], curve[2], curve[3], base, gain)
            start = stop


@inner
def reach(total: Floats, octaves: int, persistence: Floats, character: int, direction: int) -> None:
    """Spreads a sum of octaves over the whole of −1..1, or of the side that is wanted; persistence (1,) or (n,)."""
    if character == SMOOTH:
        for _ in range(1 if octaves == 1 else 2):
            for j in range(len(total)):
                total[j] = spread(total[j])
    else:
        lifted = character != STEPPED
        if octaves > 1:
            for j in range(len(total)):
                if j == 0 or persistence.shape[0] > 1:
                    times = spreads(persistence[j], octaves)
                y = spread_often(2.0 * total[j] - 1.0 if lifted else total[j], times)
                total[j] = 0.5 * (y + 1.0) if lifted else y
        if lifted and direction == BOTH:
            for j in range(len(total)):
                total[j] = 2.0 * total[j] - 1.0
    if direction != BOTH:
        sign = 1.0 if direction == ABOVE else -1.0
        for j in range(len(total)):
            total[j] = sign * abs(total[j])


@inner
def put(total: Floats, base: Floats, gain: Floats, at: int, result: Floats) -> None:
    """result[j] = base + gain · total[j], for the samples from `at` on."""
    if base.shape[0] == 1 and gain.shape[0] == 1:
        b, g = base[0], gain[0]
        for j in range(len(total)):
            result[j] = b + g * min(1.0, max(-1.0, total[j]))
    else:
        for j in range(len(total)):
            b = base[0] if base.shape[0] == 1 else base[at + j]
            g = gain[0] if gain.shape[0] == 1 else gain[at + j]
            result[j] = b + g * min(1.0, max(-1.0, total[j]))


@inlined
def _roughened(target: Floats, size: int, character: int) -> None:
    for j in range(size):
        rough = abs(spread(target[j]))
        target[j] = rough if character == BILLOW else 1.0 - rough


@inner
def _wiggle(
    first: int,
    last: int,
    shift: int,
    phase: Floats,
    rate: float,
    period: Floats,
    base: Floats,
    gain: Floats,
    seed: Integer,
    component: Integer,
    element: Integer,
    octaves: int,
    persistence: Floats,
    character: int,
    direction: int,
    out: Floats,
) -> None:
    """The same for samples of one element.

    phase (n,), the first of them at the sample `shift`; out (n,); period (whole phases after which N repeats, 0:
    never), base, gain and persistence (1,) or (n,). Worked in blocks that fit the nearest cache.
    """
    if (
        octaves == 1
        and character == SMOOTH
        and direction == BOTH
        and base.shape[0] == gain.shape[0] == period.shape[0] == 1
    ):
        stream = stream_of(seed, component, 0, element)
        _smooth_once(first, last, shift, phase, rate, np.int64(period[0]), base[0], gain[0], stream, out)
        return
    x, n, floors = np.empty(_BLOCK), np.empty(_BLOCK), np.empty(_BLOCK)
    total = np.empty(_BLOCK)
    curve, table = np.zeros(4), np.empty((6, MOST_CELLS + 3))
    lasting = period.shape[0] == 1
    steady = persistence.shape[0] == 1
    whole = 0.0
    for o in range(octaves):
        whole += persistence[0] ** o
    for begin in range(first, last, _BLOCK):
        most = min(_BLOCK, last - begin)
        offset = 0
        while offset < most:
            here = begin + offset
            lapse = period[0] if lasting else period[here]
            size = most - offset
            if not lasting:
                size = 1
                while offset + size < most and period[here + size] == lapse:
                    size += 1
            ahead = phase[here - shift : here - shift + size]
            for j in range(size):
                x[j] = ahead[j] * rate
            scale = 1.0
            for o in range(octaves):
                stream = stream_of(seed, component, o, element)
                target = total if octaves == 1 else n
                _octave(x, floors, target, size, scale, stream, np.int64(lapse * scale), character, curve, table)
                if character in (BILLOW, RIDGED):
                    _roughened(target, size, character)
                if octaves > 1 and steady:
                    share = persistence[0] ** o / whole
                    if o == 0:
                        total[:size] = 0.0
                    for j in range(size):
                        total[j] += n[j] * share
                elif octaves > 1:
                    for j in range(size):
                        p = persistence[here + j]
                        every = 0.0
                        for q in range(octaves):
                            every += p**q
                        total[j] = (0.0 if o == 0 else total[j]) + n[j] * (p**o / every)
                scale *= 2.0
            reach(total[:size], octaves, persistence[:1] if steady else persistence[here:], character, direction)
            put(total[:size], base, gain, here, out[here : here + size])
            offset += size


@kernel
def wiggle(
    first: int,
    last: int,
    each: int,
    elements: Whole,
    phase: Floats,
    rate: float,
    period: Floats,
    base: Floats,
    gain: Floats,
    seed: Integer,
    component: Integer,
    octaves: int,
    persistence: Floats,
    character: int,
    direction: int,
    out: Filled,
) -> None:
    """out[i] = base + gain · N(phase[i] · rate) for one component, for the samples first..last.

    Each of the `elements` (their numbers, (e,)) has `each` samples, side by side, and a stream of its own. phase
    (samples,), or (each,) where that is the same for all of them.
    """
    start, alike = first, len(phase) < len(out)
    while start < last:
        stop = min((start // each + 1) * each, last)
        element = elements[start // each]
        shift = start // each * each if alike else 0
        rest = (seed, component, element, octaves, persistence, character, direction, out)
        _wiggle(start, stop, shift, phase, rate, period, base, gain, *rest)
        start = stop
