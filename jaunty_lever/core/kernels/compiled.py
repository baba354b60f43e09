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


def read(dtype: Any, dimensions: int) -> Any:
    """The type of an array that a kernel only reads, for `kernel_for`: any array of these numbers will do."""
    return nb.types.Array(dtype, dimensions, "A", readonly=True)


Kernel = TypeVar("Kernel", bound=Callable[..., Any])


def kernel(function: Kernel) -> Kernel:
    """Compiled for long arrays: it lets other threads run meanwhile, and is kept beside the program."""
    compiled: Kernel = nb.njit(nogil=True, cache=True)(function)
    return compiled


def kernel_for(signature: Any) -> Callable[[Kernel], Kernel]:
    """The same for one kind of arguments, whatever lies in memory how: what is called with many arrays in many ways would
    otherwise be compiled anew for each of them."""

    def made(function: Kernel) -> Kernel:
        compiled: Kernel = nb.njit(signature, nogil=True, cache=True)(function)
        return compiled

    return made


def dividing(function: Kernel) -> Kernel:
    """The same, dividing by 0 as numpy does: without a check at each division."""
    compiled: Kernel = nb.njit(nogil=True, cache=True, error_model="numpy")(function)
    return compiled


def inlined(function: Kernel) -> Kernel:
    """Compiled into whatever calls it."""
    compiled: Kernel = nb.njit(inline="always", cache=True)(function)
    return compiled
