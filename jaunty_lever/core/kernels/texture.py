"""Coherent noise in space: a value at each corner of a lattice of slopes, smoothly led over (Perlin 2002), hashed from
a seed."""

import numpy as np

from .compiled import Filled, Floats, Integer, inlined, inner, kernel
from .noise import BILLOW, RIDGED, stream_of

_A = np.uint64(0x9E3779B97F4A7C15)
_B = np.uint64(0xC2B2AE3D27D4EB4F)
_C = np.uint64(0x165667B19E3779F9)
_S29, _S32 = np.uint64(29), np.uint64(32)
_TURN = 0.64
"""Radians by which each octave lies turned against the one before, so that their lattices never meet."""
REACH = 0.9
"""About the greatest value of one octave."""


@inlined
def _slope(stream: np.uint64, i: Integer, j: Integer, k: Integer, x: float, y: float, z: float) -> float:
    """The product of the slope at a corner of the lattice, one of twelve, with the way from there."""
    h = stream ^ (np.uint64(i) * _A)
    h = (h ^ (h >> _S29)) * _B
    h ^= np.uint64(j) * _C
    h = (h ^ (h >> _S32)) * _A
    h ^= np.uint64(k) * _B
    h = (h ^ (h >> _S29)) * _C
    which = np.int64((h >> _S32) % np.uint64(12))
    a = x if which < 8 else y
    b = y if which < 4 else z
    return (a if which & 1 == 0 else -a) + (b if which & 2 == 0 else -b)


@inlined
def _fade(t: float) -> float:
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@inner
def _at(stream: np.uint64, x: float, y: float, z: float, lapse: Integer) -> float:
    """The noise at a place, −1..1; along z it comes round after `lapse` whole steps, if that is not 0."""
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    i, j, k = np.int64(fx), np.int64(fy), np.int64(fz)
    x, y, z = x - fx, y - fy, z - fz
    u, v, w = _fade(x), _fade(y), _fade(z)
    after = k + 1
    if lapse > 0:
        k, after = k % lapse, after % lapse
    a = _slope(stream, i, j, k, x, y, z)
    b = _slope(stream, i + 1, j, k, x - 1.0, y, z)
    c = _slope(stream, i, j + 1, k, x, y - 1.0, z)
    d = _slope(stream, i + 1, j + 1, k, x - 1.0, y - 1.0, z)
    low = a + u * (b - a) + v * (c + u * (d - c) - a - u * (b - a))
    a = _slope(stream, i, j, after, x, y, z - 1.0)
    b = _slope(stream, i + 1, j, after, x - 1.0, y, z - 1.0)
    c = _slope(stream, i, j + 1, after, x, y - 1.0, z - 1.0)
    d = _slope(stream, i + 1, j + 1, after, x - 1.0, y - 1.0, z - 1.0)
    high = a + u * (b - a) + v * (c + u * (d - c) - a - u * (b - a))
    return min(max((low + w * (high - low)) / REACH, -1.0), 1.0)


@kernel
def clouds(
    first: int, last: int, settings: Floats, wide: int, high: int, octaves: int, character: int, out: Filled
) -> None:
    """out[r, j · wide + i] = how light a texture is in column i and row j of a grid over it, 0..1, in steps of 1/255.

    `settings` (rows, 11): width and height px, zoom, scroll x and y, evolution, what it comes round after (0: never),
    persistence, contrast, brightness, seed.
    """
    for r in range(first, last):
        w, h, zoom, sx, sy, z, repeat, persistence, contrast, brightness, seed = settings[r]
        lapse = np.int64(np.rint(repeat))
        for j in range(high):
            y0 = (((j + 0.5) / high - 0.5) * h - sy) / zoom
            for i in range(wide):
                x, y = (((i + 0.5) / wide - 0.5) * w - sx) / zoom, y0
                total, weight, share, times = 0.0, 0.0, 1.0, np.int64(1)
                for octave in range(octaves):
                    n = _at(stream_of(np.int64(seed), 0, octave), x, y, z * times, lapse * times)
                    if character == BILLOW:
                        n = 2.0 * abs(n) - 1.0
                    elif character == RIDGED:
                        n = 1.0 - 2.0 * abs(n)
                    total += share * n
                    weight += share
                    share *= persistence
                    # The next octave is twice as fine, turned, and somewhere else.
                    c, s = 2.0 * np.cos(_TURN), 2.0 * np.sin(_TURN)
                    x, y = c * x - s * y + 13.7, s * x + c * y - 7.3
                    times *= 2
                value = 0.5 + 0.5 * (contrast * total / weight + brightness)
                out[r, j * wide + i] = np.rint(min(max(value, 0.0), 1.0) * 255.0) / 255.0
