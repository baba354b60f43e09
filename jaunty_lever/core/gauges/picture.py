"""How bright a picture is where each copy stands."""

import base64
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@lru_cache(maxsize=32)
def brightness(data: str, wide: int, high: int) -> Floats:
    """A grid of brightness 0..1, (high, wide), from a byte for each spot in base64, row by row."""
    spots = np.frombuffer(base64.b64decode(data), dtype=np.uint8)
    return spots[: wide * high].reshape(high, wide).astype(np.float64) / 255


def brightness_at(grid: Floats, u: Floats, v: Floats) -> Floats:
    """The brightness at shares of the width and the height, 0..1 each, in between by the four spots around; beyond the
    edge, that of the edge."""
    high, wide = grid.shape
    x, y = np.clip(u * wide - 0.5, 0, wide - 1), np.clip(v * high - 0.5, 0, high - 1)
    left, top = np.floor(x).astype(int), np.floor(y).astype(int)
    right, bottom = np.minimum(left + 1, wide - 1), np.minimum(top + 1, high - 1)
    across, down = x - left, y - top
    above = grid[top, left] * (1 - across) + grid[top, right] * across
    below = grid[bottom, left] * (1 - across) + grid[bottom, right] * across
    return np.asarray(above * (1 - down) + below * down)
