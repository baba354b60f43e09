"""Seeded noise over a phase: what is random, and the curve through it.

Each whole phase k has a random value and a random slope, hashed from (seed, component, octave, k); a
cubic Hermite curve joins them, so value and slope are continuous and the motion does not rest at whole
phases. The curve lies within ±1 by construction (the largest Hermite value for |v| ≤ 1 and |slope| ≤ 2
is 1.5); the polynomial 1.5x − 0.5x³ then spreads it over the range without leaving it.
Hash: the finaliser of SplitMix64 (Steele, Lea, Flood 2014).
"""

import numpy as np

from .compiled import Filled, Floats, Integer, inlined, inner, kernel

SMOOTH, BILLOW, RIDGED, STEPPED = 0, 1, 2, 3

_GOLDEN = np.uint64(0x9E3779B97F4A7C15)
_M1 = np.uint64(0xBF58476D1CE4E5B9)
_M2 = np.uint64(0x94D049BB133111EB)
_S30, _S27, _S31, _S11 = np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(11)
_UNIT = 1.0 / 9007199254740992.0


@inlined
def _mix(z: np.uint64) -> np.uint64:
    z = (z ^ (z >> _S30)) * _M1
    z = (z ^ (z >> _S27)) * _M2
    return z ^ (z >> _S31)


@inlined
def even(stream: np.uint64, k: Integer) -> float:
    """Even in −1..1, from a stream and a whole number."""
    z = _mix(stream + np.uint64(k) * _GOLDEN)
    return (z >> _S11) * _UNIT * 2.0 - 1.0


@inner
def stream_of(seed: Integer, component: Integer, octave: Integer, element: Integer = 0) -> np.uint64:
    """The hash stream of one octave of one component of one element."""
    z = _mix(np.uint64(seed) * _GOLDEN + np.uint64(0x632BE59BD9B4E019) + np.uint64(element) * _M2)
    return _mix(z + np.uint64(component * 64 + octave + 1) * _M1)


@inlined
def spread(x: float) -> float:
    return x * (1.5 - 0.5 * x * x)


@inlined
def place(stream: np.uint64, k: Integer) -> float:
    return spread(even(stream, k))


@inlined
def cell(stream: np.uint64, k: float, lapse: Integer, character: int, curve: Floats) -> None:
    """Writes the four coefficients of the noise on the cell k..k+1, repeating after `lapse` cells (0: never)."""
    k0 = np.int64(k)
    near, k1, far = k0 - 1, k0 + 1, k0 + 2
    if lapse > 0:
        near, k0, k1, far = near % lapse, k0 % lapse, k1 % lapse, far % lapse
    if character == STEPPED:
        curve[0] = even(stream, k0)
        curve[1:] = 0.0
        return
    v0, v1 = place(stream, k0), place(stream, k1)
    m0 = 0.5 * (v1 - place(stream, near)) + even(~stream, k0)
    m1 = 0.5 * (place(stream, far) - v0) + even(~stream, k1)
    curve[0] = v0 / 1.5
    curve[1] = m0 / 1.5
    curve[2] = (3.0 * (v1 - v0) - 2.0 * m0 - m1) / 1.5
    curve[3] = (2.0 * (v0 - v1) + m0 + m1) / 1.5


@kernel
def even_at(x: Floats, y: Floats, seed: Floats, out: Filled) -> None:
    """out[k] = an even random number in 0..1 for the whole number x[k] and the seed; all (n,), or one seed for all."""
    stream = stream_of(np.int64(seed[0]) if len(seed) else 0, 0, 0)
    for k in range(len(x)):
        if k and len(seed) > 1:
            stream = stream_of(np.int64(seed[k]), 0, 0)
        out[k] = 0.5 * (even(stream, np.int64(x[k])) + 1.0)


@inner
def chance(seed: Integer, stream: Integer, k: Integer) -> float:
    """Even in 0..1, by seed, stream and whole number."""
    return 0.5 * (even(stream_of(seed, stream, 0), k) + 1.0)
