"""Seeded noise over a phase: the kernel behind Wiggle.

Each whole phase k has a random value and a random slope, hashed from (seed, component, octave, k); a
cubic Hermite curve joins them, so value and slope are continuous and the motion does not rest at whole
phases. The curve lies within ±1 by construction (the largest Hermite value for |v| ≤ 1 and |slope| ≤ 2
is 1.5); the polynomial 1.5x − 0.5x³ then spreads it over the range without leaving it.
Hash: the finaliser of SplitMix64 (Steele, Lea, Flood 2014).
"""

import numpy as np

from .compiled import Floats, Integer, Whole, inlined, kernel

SMOOTH, BILLOW, RIDGED, STEPPED = 0, 1, 2, 3
BOTH, ABOVE, BELOW = 0, 1, 2

_GOLDEN = np.uint64(0x9E3779B97F4A7C15)
_M1 = np.uint64(0xBF58476D1CE4E5B9)
_M2 = np.uint64(0x94D049BB133111EB)
_S30, _S27, _S31, _S11 = np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(11)
_BLOCK, _RUN = 1024, 16
_SHORT = 64
"""Samples in a cell, on the average, below which the cells of a stretch are tabled."""
_CELLS = _BLOCK // 2
_UNIT = 1.0 / 9007199254740992.0


@inlined
def _mix(z: np.uint64) -> np.uint64:
    z = (z ^ (z >> _S30)) * _M1
    z = (z ^ (z >> _S27)) * _M2
    return z ^ (z >> _S31)


@inlined
def _even(stream: np.uint64, k: Integer) -> float:
    """Even in −1..1, from a stream and a whole number."""
    z = _mix(stream + np.uint64(k) * _GOLDEN)
    return (z >> _S11) * _UNIT * 2.0 - 1.0


@kernel
def stream_of(seed: Integer, component: Integer, octave: Integer, element: Integer = 0) -> np.uint64:
    """The hash stream of one octave of one component of one element."""
    z = _mix(np.uint64(seed) * _GOLDEN + np.uint64(0x632BE59BD9B4E019) + np.uint64(element) * _M2)
    return _mix(z + np.uint64(component * 64 + octave + 1) * _M1)


@inlined
def _spread(x: float) -> float:
    return x * (1.5 - 0.5 * x * x)


@kernel
def _spreads(persistence: float, octaves: int) -> float:
    """How often a sum of octaves is spread, so that it reaches both ends as often as one octave does; 0 for one.

    The more octaves have a say, the narrower is their sum: by the root of the sum of their squared weights.
    """
    weights, squares = 0.0, 0.0
    for o in range(octaves):
        weights += persistence**o
        squares += persistence ** (2 * o)
    return min(4.0 * (1.0 - np.sqrt(squares) / weights), 2.0)


@kernel
def _spread_often(x: float, times: float) -> float:
    """x in −1..1 spread so many times, the last of them in part."""
    whole = int(times)
    for _ in range(whole):
        x = _spread(x)
    return x + (times - whole) * (_spread(x) - x)


@inlined
def _place(stream: np.uint64, k: Integer) -> float:
    return _spread(_even(stream, k))


@inlined
def _cell(stream: np.uint64, k: float, lapse: Integer, character: int, curve: Floats) -> None:
    """Writes the four coefficients of the noise on the cell k..k+1, repeating after `lapse` cells (0: never)."""
    k0 = np.int64(k)
    near, k1, far = k0 - 1, k0 + 1, k0 + 2
    if lapse > 0:
        near, k0, k1, far = near % lapse, k0 % lapse, k1 % lapse, far % lapse
    if character == STEPPED:
        curve[0] = _even(stream, k0)
        curve[1:] = 0.0
        return
    v0, v1 = _place(stream, k0), _place(stream, k1)
    m0 = 0.5 * (v1 - _place(stream, near)) + _even(~stream, k0)
    m1 = 0.5 * (_place(stream, far) - v0) + _even(~stream, k1)
    curve[0] = v0 / 1.5
    curve[1] = m0 / 1.5
    curve[2] = (3.0 * (v1 - v0) - 2.0 * m0 - m1) / 1.5
    curve[3] = (2.0 * (v0 - v1) + m0 + m1) / 1.5


@kernel
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


@kernel
def _cells(stream: np.uint64, low: Integer, count: Integer, lapse: Integer, table: Floats) -> None:
    """The coefficients of smooth noise on `count` cells from low on, (4, count): each whole phase is asked for once."""
    for j in range(count + 3):
        k = low + j - 1
        if lapse > 0:
            k %= lapse
        table[4, j], table[5, j] = _place(stream, k), _even(~stream, k)
    for j in range(count):
        v0, v1 = table[4, j + 1], table[4, j + 2]
        m0 = 0.5 * (v1 - table[4, j]) + table[5, j + 1]
        m1 = 0.5 * (table[4, j + 3] - v0) + table[5, j + 2]
        table[0, j], table[1, j] = v0 / 1.5, m0 / 1.5
        table[2, j] = (3.0 * (v1 - v0) - 2.0 * m0 - m1) / 1.5
        table[3, j] = (2.0 * (v0 - v1) + m0 + m1) / 1.5


@kernel
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
    if abs(low) > 1e15 or abs(high) > 1e15 or falls or high - low >= _CELLS:
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
        _cells(stream, np.int64(floors[0]), count, lapse, table)
        _from_cells(x[:size], floors[:size], scale, floors[0], table, n[:size])
        return
    start = 0
    while start < size:
        k = floors[start]
        stop = _run_end(floors, start, size)
        _cell(stream, k, lapse, character, curve)
        _cubic(x[start:stop], n[start:stop], scale, k, curve[0], curve[1], curve[2], curve[3])
        start = stop


@kernel
def _smooth_cell(
    x: Floats, out: Floats, k: float, a: float, b: float, c: float, d: float, base: float, gain: float
) -> None:
    for j in range(len(x)):
        f = x[j] - k
        n = _spread(a + f * (b + f * (c + f * d)))
        out[j] = base + gain * min(1.0, max(-1.0, n))


@kernel
def _smooth_once(
    first: int,
    last: int,
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
        ahead = phase[begin : begin + size]
        for j in range(size):
            x[j] = ahead[j] * rate
            floors[j] = np.floor(x[j])
        result = out[begin : begin + size]
        start = 0
        while start < size:
            k = floors[start]
            stop = _run_end(floors, start, size)
            _cell(stream, k, lapse, SMOOTH, curve)
            _smooth_cell(x[start:stop], result[start:stop], k, curve[0], curve[1], curve[2], curve[3], base, gain)
            start = stop


@kernel
def _wiggle(
    first: int,
    last: int,
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

    phase and out (n,); period (whole phases after which N repeats, 0: never), base, gain and
    persistence (1,) or (n,). Worked in blocks that fit the nearest cache.
    """
    if (
        octaves == 1
        and character == SMOOTH
        and direction == BOTH
        and base.shape[0] == gain.shape[0] == period.shape[0] == 1
    ):
        stream = stream_of(seed, component, 0, element)
        _smooth_once(first, last, phase, rate, np.int64(period[0]), base[0], gain[0], stream, out)
        return
    x, n, floors = np.empty(_BLOCK), np.empty(_BLOCK), np.empty(_BLOCK)
    total = np.empty(_BLOCK)
    curve, table = np.zeros(4), np.empty((6, _CELLS + 3))
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
            ahead = phase[here : here + size]
            for j in range(size):
                x[j] = ahead[j] * rate
            scale = 1.0
            for o in range(octaves):
                stream = stream_of(seed, component, o, element)
                target = total if octaves == 1 else n
                _octave(x, floors, target, size, scale, stream, np.int64(lapse * scale), character, curve, table)
                if character in (BILLOW, RIDGED):
                    for j in range(size):
                        rough = abs(_spread(target[j]))
                        target[j] = rough if character == BILLOW else 1.0 - rough
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
            if character == SMOOTH:
                for _ in range(1 if octaves == 1 else 2):
                    for j in range(size):
                        total[j] = _spread(total[j])
            else:
                lifted = character != STEPPED
                if octaves > 1:
                    for j in range(size):
                        if j == 0 or not steady:
                            times = _spreads(persistence[0] if steady else persistence[here + j], octaves)
                        y = _spread_often(2.0 * total[j] - 1.0 if lifted else total[j], times)
                        total[j] = 0.5 * (y + 1.0) if lifted else y
                if lifted and direction == BOTH:
                    for j in range(size):
                        total[j] = 2.0 * total[j] - 1.0
            if direction != BOTH:
                sign = 1.0 if direction == ABOVE else -1.0
                for j in range(size):
                    total[j] = sign * abs(total[j])
            result = out[here : here + size]
            if base.shape[0] == 1 and gain.shape[0] == 1:
                b, g = base[0], gain[0]
                for j in range(size):
                    result[j] = b + g * min(1.0, max(-1.0, total[j]))
            else:
                for j in range(size):
                    b = base[0] if base.shape[0] == 1 else base[here + j]
                    g = gain[0] if gain.shape[0] == 1 else gain[here + j]
                    result[j] = b + g * min(1.0, max(-1.0, total[j]))
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
    out: Floats,
) -> None:
    """out[i] = base + gain · N(phase[i] · rate) for one component, for the samples first..last.

    Each of the `elements` (their numbers, (e,)) has `each` samples, side by side, and a stream of its own.
    """
    start = first
    while start < last:
        stop = min((start // each + 1) * each, last)
        _wiggle(
            start,
            stop,
            phase,
            rate,
            period,
            base,
            gain,
            seed,
            component,
            elements[start // each],
            octaves,
            persistence,
            character,
            direction,
            out,
        )
        start = stop


@kernel
def passed_over(
    first: int, last: int, each: int, share: Floats, above: Floats, base: Floats, gain: Floats, out: Floats
) -> None:
    """out[i] = base + gain · (out[i] led to above[i] by the share of its copy); each copy has `each` samples, side by side."""
    sb, sg = base.size > 1, gain.size > 1
    for i in range(first, last):
        n = out[i] + share[i // each] * (above[i] - out[i])
        out[i] = base[i * sb] + gain[i * sg] * n


@kernel
def _passing(low: Floats, high: Floats, much: float, base: Floats, gain: float, out: Floats) -> None:
    for j in range(len(out)):
        out[j] = base[j] + gain * (low[j] + much * (high[j] - low[j]))


@kernel
def between(
    first: int,
    last: int,
    table: Floats,
    below: Whole,
    above: Whole,
    share: Floats,
    base: Floats,
    gain: Floats,
    out: Floats,
) -> None:
    """out[i] = base + gain · (one row of the table led to another by the share of the copy).

    table (rows, moments) holds noises of whole numbers, each asked for once; below and above (copies,) tell which two of
    them each copy stands between; out, base and gain (samples,) or (1,), the samples of a copy side by side.
    """
    each = table.shape[1]
    sb, sg = base.size > 1, gain.size > 1
    start = first
    while start < last:
        copy = start // each
        stop = min((copy + 1) * each, last)
        ahead, behind = start - copy * each, stop - copy * each
        low, high = table[below[copy], ahead:behind], table[above[copy], ahead:behind]
        if sb and not sg:
            _passing(low, high, share[copy], base[start:stop], gain[0], out[start:stop])
        else:
            for j in range(stop - start):
                i = start + j
                out[i] = base[i * sb] + gain[i * sg] * (low[j] + share[copy] * (high[j] - low[j]))
        start = stop


@kernel
def even_at(x: Floats, y: Floats, seed: Floats, out: Floats) -> None:
    """out[k] = an even random number in 0..1 for the whole number x[k] and the seed; all (n,)."""
    for k in range(len(x)):
        out[k] = 0.5 * (_even(stream_of(np.int64(seed[k]), 0, 0), np.int64(x[k])) + 1.0)


@kernel
def chance(seed: Integer, stream: Integer, k: Integer) -> float:
    """Even in 0..1, by seed, stream and whole number."""
    return 0.5 * (_even(stream_of(seed, stream, 0), k) + 1.0)


@kernel
def noise_at(x: Floats, y: Floats, seed: Floats, out: Floats) -> None:
    """out[k] = smooth noise in −1..1 at the point x[k], y[k]; along y = 0 the noise of a line.

    Between the whole rows of y, the noise of the row below passes over into that of the row above.
    """
    curve = np.zeros(4)
    for k in range(len(x)):
        column, row = np.floor(x[k]), np.floor(y[k])
        f, g = x[k] - column, y[k] - row
        total = 0.0
        for side in range(2):
            if side == 1 and g == 0.0:
                break
            weight = g * g * (3.0 - 2.0 * g)
            stream = stream_of(np.int64(seed[k]), np.int64(row) + side, 0)
            _cell(stream, column, np.int64(0), SMOOTH, curve)
            value = _spread(curve[0] + f * (curve[1] + f * (curve[2] + f * curve[3])))
            total += value * (weight if side == 1 else 1.0 - weight)
        out[k] = min(1.0, max(-1.0, total))


@inlined
def _smooth_at(stream: np.uint64, x: float, curve: Floats) -> float:
    column = np.floor(x)
    f = x - column
    _cell(stream, column, np.int64(0), SMOOTH, curve)
    return _spread(curve[0] + f * (curve[1] + f * (curve[2] + f * curve[3])))


@kernel
def noise_field(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    z: Floats,
    octaves: Floats,
    persistence: Floats,
    seed: Floats,
    out: Floats,
) -> None:
    """out[k] = coherent noise in −1..1 at x[k], y[k], z[k]; octaves add finer noise, as in Wiggle. All (n,) or (1,).

    Between whole rows of y and whole layers of z, the noise of one passes over into that of the next.
    """
    curve = np.zeros(4)
    sx, sy, sz = x.size > 1, y.size > 1, z.size > 1
    so, sp, ss = octaves.size > 1, persistence.size > 1, seed.size > 1
    for k in range(first, last):
        total, weight, share, scale = 0.0, 0.0, 1.0, 1.0
        many = int(octaves[k * so])
        for octave in range(many):
            px, py, pz = x[k * sx] * scale, y[k * sy] * scale, z[k * sz] * scale
            row, layer = np.floor(py), np.floor(pz)
            g, h = py - row, pz - layer
            wide, deep = g * g * (3.0 - 2.0 * g), h * h * (3.0 - 2.0 * h)
            here = 0.0
            for corner in range(4):
                below, behind = corner & 1, corner >> 1
                much = (wide if below else 1.0 - wide) * (deep if behind else 1.0 - deep)
                if much == 0.0:
                    continue
                # Rows and layers are streams of their own; octaves too.
                stream = stream_of(np.int64(seed[k * ss]), np.int64(row) + below, octave, np.int64(layer) + behind)
                here += much * _smooth_at(stream, px, curve)
            total += share * here
            weight += share
            share *= persistence[k * sp]
            scale *= 2.0
        total /= weight
        if many > 1:
            total = _spread(_spread(total))
        out[k] = min(1.0, max(-1.0, total))
