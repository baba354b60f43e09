"""Light that adds up: pixels of sRGB summed in linear light, and led back."""

import numpy as np
from numpy.typing import NDArray

from .compiled import Filled, kernel

Bytes = NDArray[np.uint8]
Sums = NDArray[np.float32]

_STEPS = 1 << 16
"""Steps of the way back: the steepest is a twentieth of a level."""


def _linear(v: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def _encoded(v: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)


LINEAR = _linear(np.arange(256) / 255).astype(np.float32)
"""The light of each level of sRGB, 0..1 (IEC 61966-2-1)."""
ENCODED = (_encoded((np.arange(_STEPS) + 0.5) / _STEPS) * 255).astype(np.float32)


@kernel
def add_light(first: int, last: int, pixels: Bytes, linear: Sums, sums: Filled) -> None:
    """sums (n, 4) += the light of pixels (n, 4), whose last component is alpha and the others premultiplied,
    likewise."""
    for k in range(first, last):
        a = pixels[k, 3]
        if a == 255:
            for c in range(3):
                sums[k, c] += linear[pixels[k, c]]
            sums[k, 3] += np.float32(1.0)
        elif a > 0:
            share = np.float32(a) / np.float32(255.0)
            for c in range(3):
                # Between two levels light is led over straight, within a thousandth.
                v = min(np.float32(pixels[k, c]) / share, np.float32(255.0))
                low = int(v)
                high = min(low + 1, 255)
                sums[k, c] += share * (linear[low] + (linear[high] - linear[low]) * (v - np.float32(low)))
            sums[k, 3] += share


@kernel
def mean_light(first: int, last: int, sums: Sums, count: int, encoded: Sums, out: Filled) -> None:
    """out (n, 4) = the mean of `count` pictures that were added, as sRGB with premultiplied alpha."""
    top = len(encoded) - 1
    for k in range(first, last):
        alpha = sums[k, 3] / np.float32(count)
        out[k, 3] = np.uint8(alpha * np.float32(255.0) + np.float32(0.5))
        for c in range(3):
            light = sums[k, c] / max(sums[k, 3], np.float32(1e-6))
            level = encoded[min(int(light * np.float32(len(encoded))), top)]
            out[k, c] = np.uint8(min(alpha * level, np.float32(255.0)) + np.float32(0.5))
