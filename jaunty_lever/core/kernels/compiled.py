"""How kernels are compiled: what Python calls, once for all ways in which the same numbers lie in memory; what other
kernels call, for what these call it with."""

import threading
from collections.abc import Callable
from functools import update_wrapper
from inspect import signature
from typing import Any, TypeVar, cast, overload

import numba as nb
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
"""An array of one number for each sample, (n,) or (1,), unless its kernel says otherwise; a kernel only reads it."""
Whole = NDArray[np.int64]
Filled = NDArray[Any]
"""An array that a kernel writes into."""
Integer = int | np.int64


Function = TypeVar("Function", bound=Callable[..., Any])
_SCALARS: dict[Any, Any] = {int: nb.int64, Integer: nb.int64, float: nb.float64, bool: nb.boolean}
_OPTIONS: dict[str, Any] = {"nogil": True, "cache": True}


class _Kernel:
    """A function that is compiled when it is first called, for arguments of this kind: as many dimensions of the same
    numbers.

    Whether an array may be written to makes no difference, unless the function does so; left to itself, the compiler
    works a function anew for each combination of arrays that may and may not. What lies in memory in steps is taken by
    one more of it.
    """

    def __init__(self, function: Callable[..., Any], strided: bool, options: dict[str, Any]) -> None:
        update_wrapper(self, function)
        self._function, self._strided, self._options = function, strided, _OPTIONS | options
        self._wanted = [one.annotation for one in signature(function).parameters.values()]
        self._kinds: dict[bool, list[tuple[Any, ...]]] = {}
        self._made: dict[bool, Callable[..., Any]] = {}
        self._compiled: Callable[..., Any] = self._nothing_yet
        self._lock = threading.Lock()

    def __call__(self, *arguments: Any) -> Any:
        try:
            return self._compiled(*arguments)
        except TypeError:
            # What is compiled so far does not take these; a kernel itself raises no such thing.
            pass
        return self._compiled_for(arguments)(*arguments)

    @property
    def kinds(self) -> int:
        """For how many kinds of arguments it is compiled so far."""
        return sum(len(kinds) for kinds in self._kinds.values())

    @staticmethod
    def _nothing_yet(*arguments: Any) -> Any:
        raise TypeError

    def _in_steps(self, arguments: tuple[Any, ...]) -> bool:
        return self._strided or not all(one.flags.c_contiguous for one in arguments if isinstance(one, np.ndarray))

    def _either(self, *arguments: Any) -> Any:
        return self._made[self._in_steps(arguments)](*arguments)

    def _compiled_for(self, arguments: tuple[Any, ...]) -> Callable[..., Any]:
        in_steps = self._in_steps(arguments)
        kind = tuple(_kind(wanted, one, in_steps) for wanted, one in zip(self._wanted, arguments, strict=True))
        with self._lock:
            known = self._kinds.setdefault(in_steps, [])
            if kind not in known:
                known.append(kind)
                self._made[in_steps] = nb.njit(known, **self._options)(self._function)
                self._compiled = self._either if len(self._made) > 1 else self._made[in_steps]
            return self._made[in_steps]


def _kind(wanted: Any, argument: Any, in_steps: bool) -> Any:
    """The compiler's type of an argument, by what its kernel says of it and what it is."""
    made = _SCALARS.get(wanted) or nb.typeof(argument)
    if not isinstance(made, nb.types.Array):
        return made
    if wanted is Filled:
        return nb.types.Array(made.dtype, made.ndim, made.layout)
    return nb.types.Array(made.dtype, made.ndim, "A" if in_steps else "C", readonly=True)


@overload
def kernel(function: Function) -> Function: ...
@overload
def kernel(*, strided: bool = False, error_model: str = "python") -> Callable[[Function], Function]: ...
def kernel(function: Function | None = None, strided: bool = False, **options: Any) -> Any:
    """For Python to call, over long arrays: it lets other threads run meanwhile, and is kept beside the program. What
    it writes into is annotated as `Filled`. `strided`: what it reads may lie in memory in any steps from the start.
    With error_model="numpy" it divides by 0 as numpy does, without a check at each division."""
    if function is None:
        return lambda function: _Kernel(function, strided, options)
    return _Kernel(function, strided, options)


@overload
def inner(function: Function) -> Function: ...
@overload
def inner(*, error_model: str) -> Callable[[Function], Function]: ...
def inner(function: Function | None = None, **options: Any) -> Any:
    """For kernels to call, compiled for what they call it with; Python may, with few kinds of arguments."""
    if function is None:
        return nb.njit(**_OPTIONS, **options)
    return nb.njit(**_OPTIONS, **options)(function)


def inlined(function: Function) -> Function:
    """Compiled into whatever calls it."""
    return cast(Function, nb.njit(inline="always", cache=True)(function))
