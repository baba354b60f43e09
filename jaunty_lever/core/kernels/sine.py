"""The sine of a phase in turns, in arithmetic that compilers turn into vector instructions."""

import numba as nb
import numpy as np

# Taylor's series of sin z about 0, good to the last bit for |z| ≤ π/2.
_3, _5, _7, _9, _11 = -1 / 6, 1 / 120, -1 / 5040, 1 / 362880, -1 / 39916800
_13, _15, _17, _19, _21 = 1 / 6227020800, -1 / 1307674368000, 1 / 355687428096000, -1 / 121645100408832000, 1 / 51090942171709440000  # fmt: skip


@nb.njit(inline="always", cache=True)
def sine(turns):
    """sin(2π·turns), to a few parts in 10¹⁶."""
    x = turns - np.floor(turns + 0.5)
    # The outer quarters are mirrored onto the inner ones, where the series is short.
    x = 0.5 - x if x > 0.25 else (-0.5 - x if x < -0.25 else x)
    z = 2.0 * np.pi * x
    q = z * z
    tail = _11 + q * (_13 + q * (_15 + q * (_17 + q * (_19 + q * _21))))
    return z * (1.0 + q * (_3 + q * (_5 + q * (_7 + q * (_9 + q * tail)))))
