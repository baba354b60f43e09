"""How a gauge passes from 0 to 1 over its soft edge."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ease = Callable[[Floats], Floats]
Edge = Literal["linear", "smooth"]


def edge(kind: Edge) -> Ease:
    """The ease of an edge, for shares 0..1."""
    return (lambda share: share) if kind == "linear" else (lambda share: share * share * (3 - 2 * share))


def softened(way: Floats, soft: Floats, ease: Ease, passed: Floats) -> Floats:
    """E(clamp(way/soft, 0, 1)); where nothing is soft, `passed` (0 or 1) decides."""
    hard = np.asarray(soft <= 0)
    with np.errstate(over="ignore"):
        share = np.clip(way / np.where(hard, 1.0, soft), 0.0, 1.0)
    return np.asarray(np.where(hard, passed, ease(share)))
