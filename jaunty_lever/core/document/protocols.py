"""What a modifier may ask while it is at work, while its notes are written, and while it is put into words.

Rows are samples: a moment, or an element at a moment. A value has a row for each, or one row when it is the same in
all.
"""

from collections.abc import Callable
from fractions import Fraction
from typing import Any, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from .keys import Value
from .parameter import Parameter
from .specs import ParameterSpec

Made = TypeVar("Made")
Values = NDArray[np.float64]
"""Shape (n, components), or (1, components) for a value that is the same in all rows."""


class Signal(Protocol):
    """What comes in from the left of a chain, at the asked moments and at any others."""

    parameter: Parameter

    @property
    def values(self) -> Values: ...
    def at(self, times: NDArray[np.float64]) -> Values: ...
    def once(self, times: NDArray[np.float64]) -> Values: ...
    def passed(self, times: NDArray[np.float64]) -> NDArray[np.int64]: ...
    def of_elements(self, rows: NDArray[np.int64], times: NDArray[np.float64]) -> Values:
        """Of some elements, by position, at moments of a modifier's own making, (n,) or (rows, n): (rows, n or 1,
        components)."""

    def breaks(self, low: NDArray[np.int64], high: NDArray[np.int64]) -> list[NDArray[np.float64]]:
        """Where it may jump or bend, for each element within seconds of its own (elements,)."""

    @property
    def swings(self) -> list[float]:
        """How often in a second it may swing, for each element."""

    @property
    def keys(self) -> "KeyedLike | None": ...


class KeyedLike(Protocol):
    """The keys of a parameter that has two or more."""

    times: NDArray[np.float64]
    values: Values

    @property
    def parts(self) -> tuple[NDArray[Any], ...]: ...
    def at(self, times: NDArray[np.float64]) -> Values: ...
    def slope(self, position: int, before: bool = True) -> NDArray[np.float64]: ...
    def slope_at(self, time: float, before: bool) -> NDArray[np.float64]: ...


class Context(Protocol):
    """The samples asked for as rows, the modifier's settings there, and what makes no sense."""

    fps: float
    components: int
    spec: ParameterSpec
    wrong: NDArray[np.bool_] | None
    sound: bool
    """Whether the modifier has seen for itself that all it gives is finite."""

    @property
    def length(self) -> float:
        """How long the scene is, in seconds."""
        ...

    @property
    def times(self) -> NDArray[np.float64]:
        """The moment of each row, in seconds; (n,)."""
        ...

    @property
    def count(self) -> int:
        """How many rows there are."""
        ...

    def spec_of(self, reference: str) -> ParameterSpec | None: ...
    def texts(self, name: str) -> NDArray[Any]: ...

    def moves(self, name: str) -> bool:
        """Whether a setting may differ from moment to moment."""
        ...

    def varies(self, name: str) -> bool:
        """Whether a setting may differ from row to row."""
        ...

    @property
    def streams(self) -> NDArray[np.int64] | None:
        """The numbers of the elements asked for, which have the same number of rows each; None outside an array."""
        ...

    @property
    def steady(self) -> bool:
        """Whether each element is as far from the copies that it stands in at all of its moments."""

    @property
    def moments(self) -> "Context | None":
        """The same modifier at the moments alone, where all copies are asked for at the same; None otherwise."""
        ...

    def heed(self, moments: "Context") -> None:
        """What went wrong at the moments alone goes wrong for all copies."""
        ...

    def differs(self, name: str) -> bool:
        """Whether a setting may differ from copy to copy."""
        ...

    def by_copy(self, what: str) -> Values | None:
        """A setting by its name, or what a reference means, (copies or 1, components); None where it moves in time."""
        ...

    def folded(self, names: tuple[str, ...], make: Callable[[], Made]) -> Made:
        """`make()`, of settings by their names alone; what it gives is kept for as long as all of these rest, unless it
        told a fault."""
        ...

    def standing(self, make: Callable[[], Made]) -> Made:
        """`make()`, of the modifier and where it stands in its scene alone; one thing for each modifier is kept."""
        ...

    def number(self, name: str) -> Values: ...
    def choice(self, name: str) -> str: ...
    def whole(self, name: str) -> int: ...
    def most(self, name: str) -> float: ...
    def switch(self, name: str) -> bool: ...
    def phase(self, name: str) -> Values: ...
    def phase_at(self, name: str, times: NDArray[np.float64]) -> Values: ...
    def integral(self, name: str, component: int) -> Values: ...
    def driver(self, reference: str, component: int | None, times: NDArray[np.float64]) -> Values: ...
    def pushed(self, values: Values, zone: str, way: int) -> Values | None: ...
    def brought(self) -> Values: ...
    def turned(self, reference: str) -> "tuple[Values, Fraction, float]": ...
    def passed(self, reference: str, times: NDArray[np.float64]) -> NDArray[np.int64]: ...
    def fault(self, wrong: "NDArray[np.bool_] | np.bool_", message: str) -> None: ...


class Words(Protocol):
    """Says settings in words, for the sentence above a chain."""

    spec: ParameterSpec

    def of(self, name: str) -> str: ...
    def resting(self, name: str) -> Value: ...
    def moves(self, name: str) -> bool: ...
    def named(self, reference: str, component: int | None = None) -> str: ...
    def written(self, text: str) -> str: ...


class Seen(Protocol):
    """A modifier at work in its chain, over the frames of the whole scene."""

    spec: ParameterSpec
    parameter: str
    position: int
    fps: float
    length: int
    own: Parameter

    @property
    def keys(self) -> KeyedLike | None: ...

    @property
    def incoming(self) -> Values: ...
    def number(self, name: str) -> Values: ...
    def choice(self, name: str) -> str: ...
    def said(self, value: float) -> str: ...
    def closes(self) -> bool:
        """Whether the copies that have values of their own stand once round what closes."""
        ...

    def ends_in_depth(self, zone: str) -> bool: ...
    def stands_moved(self) -> bool:
        """Whether what pushes a depth goes by where the copy position has brought copies."""
        ...

    def train(self) -> tuple[str, ...]: ...
