"""Sines and exponentials in arithmetic that compilers turn into vector instructions."""

from math import factorial

import numpy as np

from .compiled import Filled, Floats, inlined, inner, kernel

# Taylor's series of sin z about 0, good to the last bit for |z| ≤ π/2.
_3, _5, _7, _9, _11 = -1 / 6, 1 / 120, -1 / 5040, 1 / 362880, -1 / 39916800
_13, _15, _17, _19, _21 = (
    1 / 6227020800,
    -1 / 1307674368000,
    1 / 355687428096000,
    -1 / 121645100408832000,
    1 / 51090942171709440000,
)


@inlined
def sine(turns: float) -> float:
    """sin(2π·turns), to a few parts in 10¹⁶."""
    x = turns - np.floor(turns + 0.5)
    # The outer quarters are mirrored onto the inner ones, where the series is short.
    x = 0.5 - x if x > 0.25 else (-0.5 - x if x < -0.25 else x)
    z = 2.0 * np.pi * x
    q = z * z
    tail = _11 + q * (_13 + q * (_15 + q * (_17 + q * (_19 + q * _21))))
    return z * (1.0 + q * (_3 + q * (_5 + q * (_7 + q * (_9 + q * tail)))))


@inlined
def cosine(turns: float) -> float:
    """cos(2π·turns), to a few parts in 10¹⁶."""
    return sine(0.25 - abs(turns - np.floor(turns + 0.5)))


@inner
def add_sines(row: Floats, turns: Floats, size: float, factor: float, shift: float) -> None:
    """row[i] += size · sin(2π(factor · turns[i] + shift)), for turns as long as the row."""
    for i in range(len(row)):
        row[i] += size * sine(factor * turns[i] + shift)


@inlined
def swing(turns: float, lead: float, size: float) -> float:
    """size · sin(2π(turns + lead)) by the sum of angles: sin(a + b) = sin a · cos b + cos a · sin b. What swings
    together is worked out in this very way everywhere, so that a copy alone is what it is among all."""
    return (size * cosine(lead)) * sine(turns) + (size * sine(lead)) * cosine(turns)


@inner
def add_swings(row: Floats, turns: Floats, size: float, lead: Floats) -> None:
    """row[i] += size · sin(2π(turns[i] + lead)); turns as long as the row, lead too or one for all."""
    if lead.size > 1:
        for i in range(len(row)):
            row[i] += swing(turns[i], lead[i], size)
        return
    along, aside = size * cosine(lead[0]), size * sine(lead[0])
    if aside == 0.0:
        for i in range(len(row)):
            row[i] += along * sine(turns[i])
    else:
        for i in range(len(row)):
            row[i] += along * sine(turns[i]) + aside * cosine(turns[i])


@inner
def _swung(
    row: Floats, values: Floats, offset: float, sines: Floats, cosines: Floats, along: float, aside: float
) -> None:
    if values.size == 1:
        rest = values[0] + offset
        for i in range(len(row)):
            row[i] = rest + (along * sines[i] + aside * cosines[i])
    else:
        for i in range(len(row)):
            row[i] = values[i] + offset + (along * sines[i] + aside * cosines[i])


@kernel
def swings(
    first: int, last: int, turns: Floats, lead: Floats, values: Floats, offset: Floats, size: Floats, out: Filled
) -> None:
    """out[c, i] = values + offset + size · sin(2π(turns + lead)), for copies that swing at the same moments.

    turns (moments,); lead (copies,); values (components, samples or 1); offset and size (components, copies or 1); the
    samples of a copy lie side by side. The moments' sines and cosines serve all copies, see `swing`.
    """
    each = len(turns)
    so, ss = offset.shape[1] > 1, size.shape[1] > 1
    sines, cosines = np.empty(each), np.empty(each)
    for i in range(each):
        sines[i], cosines[i] = sine(turns[i]), cosine(turns[i])
    start = first
    while start < last:
        copy = start // each
        stop = min((copy + 1) * each, last)
        ahead, behind = start - copy * each, stop - copy * each
        near, far = cosine(lead[copy]), sine(lead[copy])
        for c in range(out.shape[0]):
            came = values[c, start:stop] if values.shape[1] > 1 else values[c]
            much = size[c, copy * ss]
            where, away = offset[c, copy * so], sines[ahead:behind]
            _swung(out[c, start:stop], came, where, away, cosines[ahead:behind], much * near, much * far)
        start = stop


_PI_4 = 0.25 * np.pi
# Moshier's quotient for atan z about 0, good to the last bit for |z| ≤ 0.66 (Cephes mathematical library, 1989).
_P0, _P1, _P2, _P3, _P4 = (
    -6.485021904942025371773e1,
    -1.228866684490136173410e2,
    -7.500855792314704667340e1,
    -1.615753718733365076637e1,
    -8.750608600031904122785e-1,
)
_Q0, _Q1, _Q2, _Q3, _Q4 = (
    1.945506571482613964425e2,
    4.853903996359136964868e2,
    4.328810604912902668951e2,
    1.650270098316988542046e2,
    2.485846490142306297962e1,
)


@inlined
def heading(x: float, y: float) -> float:
    """atan2(y, x) in degrees, to a few parts in 10¹⁶; 0 where both are 0."""
    wide, high = abs(x), abs(y)
    near, far = min(wide, high), max(wide, high)
    share = near / max(far, 1e-300)
    # Steep quarters of the way are measured from the diagonal, where the series is short.
    steep = share > 0.66
    z = (share - 1.0) / (share + 1.0) if steep else share
    q = z * z
    top = _P0 + q * (_P1 + q * (_P2 + q * (_P3 + q * _P4)))
    bottom = _Q0 + q * (_Q1 + q * (_Q2 + q * (_Q3 + q * (_Q4 + q))))
    angle = z + z * q * top / bottom + (_PI_4 if steep else 0.0)
    angle = 0.5 * np.pi - angle if high > wide else angle
    angle = np.pi - angle if x < 0.0 else angle
    return (angle if y >= 0.0 else -angle) * (180.0 / np.pi)


_LOG2E, _LN2_HIGH, _LN2_LOW = 1.4426950408889634, 6.93147180369123816490e-01, 1.90821492927058770002e-10
_E2, _E3, _E4, _E5, _E6, _E7, _E8, _E9, _E10, _E11, _E12, _E13 = (1 / factorial(k) for k in range(2, 14))


@inlined
def fallen(x: float) -> float:
    """e^(−x) for 0 ≤ x ≤ 700, to the last bit but one: a power of 2 times Taylor's series of what is left."""
    n = np.floor(0.5 - x * _LOG2E)
    r = (-x - n * _LN2_HIGH) - n * _LN2_LOW
    tail = _E8 + r * (_E9 + r * (_E10 + r * (_E11 + r * (_E12 + r * _E13))))
    y = 1.0 + r * (1.0 + r * (_E2 + r * (_E3 + r * (_E4 + r * (_E5 + r * (_E6 + r * (_E7 + r * tail)))))))
    # The exponent's bits of a float.
    return y * np.int64((np.int64(n) + 1023) << 52).view(np.float64)
