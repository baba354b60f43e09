"""How kernels are compiled: what Python calls, once for all ways in which the same numbers lie in memory; what other kernels
call, for what these call it with."""

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


def read(dtype: Any, dimensions: int) -> Any:
    """The type of an array that a kernel only reads, for `kernel_for`: any array of these numbers will do."""
    return nb.types.Array(dtype, dimensions, "A", readonly=True)


Function = TypeVar("Function", bound=Callable[..., Any])
_SCALARS: dict[Any, Any] = {int: nb.int64, Integer: nb.int64, float: nb.float64, bool: nb.boolean}
_OPTIONS: dict[str, Any] = {"nogil": True, "cache": True}


class _Kernel:
    """A function that is compiled when it is first called, for arguments of this kind: as many dimensions of the same numbers.

    Whether an array may be written to makes no difference, unless the function does so; left to itself, the compiler works a
    function anew for each combination of arrays that may and may not. An array that lies otherwise in memory than those
    before it widens what the function takes, so there is one of it for each kind of arguments.
    """

    def __init__(self, function: Callable[..., Any], options: dict[str, Any]) -> None:
        update_wrapper(self, function)
        self._function, self._options = function, _OPTIONS | options
        self._wanted = [one.annotation for one in signature(function).parameters.values()]
        self._kinds: list[tuple[Any, ...]] = []
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
        return len(self._kinds)

    @staticmethod
    def _nothing_yet(*arguments: Any) -> Any:
        raise TypeError

    def _compiled_for(self, arguments: tuple[Any, ...]) -> Callable[..., Any]:
        kind = tuple(_kind(wanted, one) for wanted, one in zip(self._wanted, arguments, strict=True))
        with self._lock:
            self._kinds = [*(one for one in self._kinds if not _alike(one, kind)), _widened(kind, self._kinds)]
            self._compiled = nb.njit(self._kinds, **self._options)(self._function)
            return self._compiled


def _kind(wanted: Any, argument: Any) -> Any:
    """The compiler's type of an argument, by what its kernel says of it and what it is."""
    made = _SCALARS.get(wanted) or nb.typeof(argument)
    if not isinstance(made, nb.types.Array):
        return made
    return nb.types.Array(made.dtype, made.ndim, made.layout, readonly=wanted is not Filled)


def _alike(one: tuple[Any, ...], other: tuple[Any, ...]) -> bool:
    """Whether two kinds of arguments differ in nothing but how arrays lie in memory."""
    return [_anyhow(a) for a in one] == [_anyhow(b) for b in other]


def _anyhow(made: Any) -> Any:
    return made.copy(layout="A") if isinstance(made, nb.types.Array) else made


def _widened(kind: tuple[Any, ...], known: list[tuple[Any, ...]]) -> tuple[Any, ...]:
    """A kind of arguments that takes those of a known one too, where they differ in how arrays lie in memory."""
    for other in known:
        if _alike(kind, other):
            kind = tuple(a if a == b else a.copy(layout="A") for a, b in zip(kind, other, strict=True))
    return kind


@overload
def kernel(function: Function) -> Function: ...
@overload
def kernel(*, error_model: str) -> Callable[[Function], Function]: ...
def kernel(function: Function | None = None, **options: Any) -> Any:
    """For Python to call, over long arrays: it lets other threads run meanwhile, and is kept beside the program. What it
    writes into is annotated as `Filled`. With error_model="numpy" it divides by 0 as numpy does, without a check at each
    division."""
    if function is None:
        return lambda function: _Kernel(function, options)
    return _Kernel(function, options)


def kernel_for(signature: Any) -> Callable[[Function], Function]:
    """The same for one kind of arguments that is known beforehand, whatever lies in memory how."""

    def made(function: Function) -> Function:
        return cast(Function, nb.njit(signature, **_OPTIONS)(function))

    return made


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
