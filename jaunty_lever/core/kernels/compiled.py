"""How kernels are compiled. Numba works them out anew for the types they are called with; what stands in their signatures is
for those who read and for the type checker."""

from collections.abc import Callable
from typing import Any, TypeVar

import numba as nb
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
"""An array of one number for each sample, (n,) or (1,), unless its kernel says otherwise."""
Whole = NDArray[np.int64]
Integer = int | np.int64

Kernel = TypeVar("Kernel", bound=Callable[..., Any])


def kernel(function: Kernel) -> Kernel:
    """Compiled for long arrays: it lets other threads run meanwhile, and is kept beside the program."""
    compiled: Kernel = nb.njit(nogil=True, cache=True)(function)
    return compiled


def dividing(function: Kernel) -> Kernel:
    """The same, dividing by 0 as numpy does: without a check at each division."""
    compiled: Kernel = nb.njit(nogil=True, cache=True, error_model="numpy")(function)
    return compiled


def inlined(function: Kernel) -> Kernel:
    """Compiled into whatever calls it."""
    compiled: Kernel = nb.njit(inline="always", cache=True)(function)
    return compiled
