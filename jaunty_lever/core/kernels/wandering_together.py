"""The kernels behind Wiggle for many copies: those that wander at the same moments, and those that stand between
several noises."""

import numpy as np

from .compiled import Filled, Floats, Integer, Whole, inner, kernel
from .noise import RIDGED, SMOOTH, spread, stream_of
from .wandering import MOST_CELLS, cells_from, put, reach

_FEW = 4
"""Samples in a cell, on the average, below which runs of them are not worth while."""


@kernel
def stretches(phase: Floats, rate: float, shares: Filled, ends: Filled, cells: Filled, many: Filled) -> bool:
    """How moments lie in the cells of each octave, the same for all that wander at these moments: shares[o, j], how far
    moment j is inside its cell; ends[o, r], where the run r of moments in one cell ends, and cells[o, r], which one
    that is; many[o] runs. phase (n,), the others (octaves, n) and (octaves,). False where time goes back, leaps over
    many cells, or changes cells so often that runs save nothing.
    """
    scale, size = 1.0, len(phase)
    for o in range(len(many)):
        run, before = 0, np.int64(0)
        for j in range(size):
            x = phase[j] * rate * scale
            floor = np.floor(x)
            if not abs(floor) < 1e15:
                return False
            k = np.int64(floor)
            shares[o, j] = x - floor
            if j and k != before:
                if k < before:
                    return False
                ends[o, run], cells[o, run] = j, before
                run += 1
            before = k
        ends[o, run], cells[o, run] = size, before
        many[o] = run + 1
        if many[o] * _FEW > size or before - cells[o, 0] >= MOST_CELLS:
            return False
        scale *= 2.0
    return True


@inner
def _smooth_runs(
    begin: int, share: Floats, ends: Whole, cells: Whole, table: Floats, weight: float, total: Floats
) -> None:
    """total[j] += weight · one octave at the moment begin + j, from the coefficients of its cells."""
    at, end = begin, begin + len(total)
    r = np.searchsorted(ends, begin, side="right")
    while at < end:
        till, k = min(ends[r], end), cells[r] - cells[0]
        a, b, c, d = table[0, k], table[1, k], table[2, k], table[3, k]
        # One loop, over slices that begin at 0, lets compilers work on several samples at once.
        part, inside = total[at - begin : till - begin], share[at:till]
        for j in range(len(part)):
            f = inside[j]
            part[j] += weight * (a + f * (b + f * (c + f * d)))
        at, r = till, r + 1


@inner
def _rough_runs(
    begin: int, share: Floats, ends: Whole, cells: Whole, table: Floats, weight: float, ridged: bool, total: Floats
) -> None:
    """The same, folded at 0."""
    at, end = begin, begin + len(total)
    r = np.searchsorted(ends, begin, side="right")
    while at < end:
        till, k = min(ends[r], end), cells[r] - cells[0]
        a, b, c, d = table[0, k], table[1, k], table[2, k], table[3, k]
        part, inside = total[at - begin : till - begin], share[at:till]
        for j in range(len(part)):
            f = inside[j]
            n = abs(spread(a + f * (b + f * (c + f * d))))
            part[j] += weight * (1.0 - n if ridged else n)
        at, r = till, r + 1


@kernel
def together(
    first: int,
    last: int,
    elements: Whole,
    shares: Floats,
    ends: Whole,
    cells: Whole,
    many: Whole,
    lapse: float,
    base: Floats,
    gain: Floats,
    seed: Integer,
    component: Integer,
    persistence: float,
    character: int,
    direction: int,
    out: Filled,
) -> None:
    """The same as `wiggle` for elements that all wander at the same moments, to the last bit: see `stretches` for how
    these lie in the cells of their octaves. `lapse`: whole phases after which N repeats (0: never); base and gain (1,)
    or (n,).
    """
    octaves, each = shares.shape
    table, sums = np.empty((6, MOST_CELLS + 3)), np.empty(each)
    steady = np.full(1, persistence)
    whole = 0.0
    for o in range(octaves):
        whole += persistence**o
    start = first
    while start < last:
        element = start // each
        stop = min((element + 1) * each, last)
        begin = start - element * each
        total = sums[: stop - start]
        total[:] = 0.0
        scale = 1.0
        for o in range(octaves):
            stream = stream_of(seed, component, o, elements[element])
            low = cells[o, 0]
            cells_from(stream, low, cells[o, many[o] - 1] - low + 1, np.int64(lapse * scale), table)
            weight, runs = persistence**o / whole, many[o]
            if character == SMOOTH:
                _smooth_runs(begin, shares[o], ends[o, :runs], cells[o, :runs], table, weight, total)
            else:
                ridged = character == RIDGED
                _rough_runs(begin, shares[o], ends[o, :runs], cells[o, :runs], table, weight, ridged, total)
            scale *= 2.0
        reach(total, octaves, steady, character, direction)
        put(total, base, gain, start, out[start:stop])
        start = stop


@kernel
def between(
    first: int,
    last: int,
    table: Floats,
    nodes: Whole,
    weights: Floats,
    sign: float,
    base: Floats,
    gain: Floats,
    out: Filled,
) -> None:
    """out[i] = base + gain · M, M what lies between several noises as strong as each of them and within ±1.

    table (rows, moments) holds noises; nodes and weights (copies, few) tell between which rows each copy stands, and
    how much of each it has, together 1. out, base and gain (samples,) or (1,), the samples of a copy side by side.
    `sign`: 0 for noises to both sides, 1 for those above 0 only, −1 for those below.

    A sum of independent noises is weaker than each, by the root of the sum of the squares of its weights: it is spread
    as sums of octaves are, which takes it back to its strength and never beyond its ends.
    """
    each, few = table.shape[1], nodes.shape[1]
    sums = np.empty(each)
    start = first
    while start < last:
        copy = start // each
        stop = min((copy + 1) * each, last)
        ahead, behind = start - copy * each, stop - copy * each
        total, squares = sums[: stop - start], 0.0
        total[:] = 0.0
        for k in range(few):
            much = weights[copy, k]
            if much > 0.0:
                squares += much * much
                noise = table[nodes[copy, k], ahead:behind]
                for j in range(len(total)):
                    total[j] += much * noise[j]
        times = min(4.0 * (1.0 - np.sqrt(squares)), 2.0)
        if times > 0.0:
            _spread_between(total, times, sign)
        put(total, base, gain, start, out[start:stop])
        start = stop


@inner
def _spread_between(total: Floats, times: float, sign: float) -> None:
    """Spreads values in −1..1, or those of one side over that side."""
    whole = int(times)
    part = times - whole
    scale, shift = (1.0, 0.0) if sign == 0.0 else (2.0 * sign, -1.0)
    for j in range(len(total)):
        x = scale * total[j] + shift
        for _ in range(whole):
            x = spread(x)
        x += part * (spread(x) - x)
        total[j] = (x - shift) / scale
