"""A field of coherent noise: what it is anywhere in space and at any phase, from a seed.

Along x it is the curve that Wiggle wanders on; between whole rows of y, whole phases and whole layers of depth the
noise of one passes over into that of the next. *Cells* is how near the nearest of scattered spots is, one in each cell
of a lattice (Worley 1996); with the phase each spot wanders about in its cell.
"""

import numpy as np

from .compiled import Filled, Floats, Integer, inlined, inner, kernel
from .noise import BILLOW, RIDGED, SMOOTH, cell, even, spread, stream_of
from .wandering import spread_often, spreads

CELLS = 3
_DEEP, _APART = np.int64(0x2545F4914F6CDD1D), np.int64(1 << 20)
"""What takes layers of depth, and components, to streams of their own."""


@inlined
def _smooth_at(stream: np.uint64, x: float, curve: Floats) -> float:
    column = np.floor(x)
    f = x - column
    cell(stream, column, np.int64(0), SMOOTH, curve)
    return spread(curve[0] + f * (curve[1] + f * (curve[2] + f * curve[3])))


@inlined
def _eased(share: float) -> float:
    return share * share * (3.0 - 2.0 * share)


@inlined
def _round(k: Integer, lapse: Integer) -> Integer:
    return k % lapse if lapse > 0 else k


@inner
def _smooth(
    seed: Integer, octave: Integer, x: float, y: float, z: float, w: float, lapse: Integer, curve: Floats
) -> float:
    """Smooth noise of one octave, −1..1; z comes round after `lapse` whole phases, if that is not 0."""
    row, layer, depth = np.floor(y), np.floor(z), np.floor(w)
    wide, deep, far = _eased(y - row), _eased(z - layer), _eased(w - depth)
    here = 0.0
    for corner in range(8):
        below, behind, beyond = corner & 1, (corner >> 1) & 1, corner >> 2
        much = (wide if below else 1.0 - wide) * (deep if behind else 1.0 - deep) * (far if beyond else 1.0 - far)
        if much == 0.0:
            continue
        # Rows and layers are streams of their own; octaves too.
        phase = _round(np.int64(layer) + behind, lapse)
        stream = stream_of(seed, np.int64(row) + below, octave, phase + (np.int64(depth) + beyond) * _DEEP)
        here += much * _smooth_at(stream, x, curve)
    return here


@inner
def _nearest(
    seed: Integer, octave: Integer, x: float, y: float, z: float, w: float, lapse: Integer, flat: bool
) -> float:
    """How near the nearest spot is: 1 upon it, −1 a cell or more away."""
    column, row, depth, layer = np.floor(x), np.floor(y), np.floor(w), np.floor(z)
    share = _eased(z - layer)
    before, after = _round(np.int64(layer), lapse), _round(np.int64(layer) + 1, lapse)
    best = 1.0
    reach = 0 if flat else 1
    for k in range(-reach, reach + 1):
        for j in range(-1, 2):
            now = stream_of(seed, np.int64(row) + j, octave, before + (np.int64(depth) + k) * _DEEP)
            then = now
            if share > 0.0:
                then = stream_of(seed, np.int64(row) + j, octave, after + (np.int64(depth) + k) * _DEEP)
            for i in range(-1, 2):
                at = 3 * (np.int64(column) + i)
                dx = _between(now, then, at, share) + column + i - x
                dy = _between(now, then, at + 1, share) + row + j - y
                dw = 0.0 if flat else _between(now, then, at + 2, share) + depth + k - w
                best = min(best, dx * dx + dy * dy + dw * dw)
    return 1.0 - 2.0 * np.sqrt(best)


@inlined
def _between(now: np.uint64, then: np.uint64, k: Integer, share: float) -> float:
    """Where in its cell a spot lies, 0..1."""
    here = 0.5 + 0.5 * even(now, k)
    return here if share == 0.0 else here + share * (0.5 + 0.5 * even(then, k) - here)


@kernel
def noise_field(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    z: Floats,
    w: Floats,
    octaves: Floats,
    persistence: Floats,
    lapse: Floats,
    seed: Floats,
    component: int,
    character: int,
    out: Filled,
) -> None:
    """out[k] = the field in −1..1 at x[k], y[k], the phase z[k] and the depth w[k]; octaves add finer noise, as in
    Wiggle. All (n,) or (1,). After `lapse` whole phases it comes round (0: never). Each component is another field.
    """
    curve = np.zeros(4)
    sx, sy, sz, sw = x.size > 1, y.size > 1, z.size > 1, w.size > 1
    so, sp, sl, ss = octaves.size > 1, persistence.size > 1, lapse.size > 1, seed.size > 1
    flat = w.size == 1 and w[0] == 0.0
    for k in range(first, last):
        total, weight, share, scale = 0.0, 0.0, 1.0, 1.0
        many, own = int(octaves[k * so]), np.int64(seed[k * ss]) + component * _APART
        after = np.int64(lapse[k * sl])
        for octave in range(many):
            px, py, pz, pw = x[k * sx] * scale, y[k * sy] * scale, z[k * sz] * scale, w[k * sw] * scale
            if character == CELLS:
                here = _nearest(own, octave, px, py, pz, pw, after, flat)
            else:
                here = _smooth(own, octave, px, py, pz, pw, after, curve)
                if character == BILLOW:
                    here = 2.0 * abs(here) - 1.0
                elif character == RIDGED:
                    here = 1.0 - 2.0 * abs(here)
            total += share * here
            weight += share
            share *= persistence[k * sp]
            scale *= 2.0
            after *= 2
        total /= weight
        if many > 1:
            if character == SMOOTH:
                total = spread(spread(total))
            else:
                total = spread_often(total, spreads(persistence[k * sp], many))
        out[k] = min(1.0, max(-1.0, total))
