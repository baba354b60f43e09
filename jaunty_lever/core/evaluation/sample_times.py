"""The samples at which values are asked for: moments, and elements at moments."""

from collections.abc import Callable, Hashable, Mapping
from types import MappingProxyType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.axes import Axes
from ..document.protocols import Values
from ..kernels.digest import digest_of
from ..kernels.moments import on_grid
from ..kernels.parallel import over
from .elements import Elements

Times = NDArray[np.float64]

#: Moments that were worked out lie on a grid of so many a second, of which the frames of all usual rates (24, 25, 30,
#: 30000/1001, 48, 50, 60, 120, 240) and delays of up to six decimals are members: the same moment reached in two ways
#: is one.
_A_SECOND = float(2**19 * 3**4 * 5**6)
_A_FRAME = 2.0**-38
"""Seconds within which a moment is a frame: what the rounding of a difference may come to."""
_NEAR, _FAR = 10_000.0, 1e9

_NOWHERE: "Mapping[str, SampleTimes]" = MappingProxyType({})


def worked_out(times: Times, fps: float | None = None) -> Times:
    """Times that were worked out (delayed, or by a formula) as times to be asked for: finite, and on the grid.

    What lies at a frame of the rate becomes that frame's very time, to the last bit: a frame less some frames is a
    frame, and a hold key is never missed by a hair. Without a rate it stays where it is: where something breaks must
    not depend on how many frames a second are looked at.
    """
    made = np.empty(times.shape)
    flat = times if times.ndim == 1 and times.flags.c_contiguous else np.ascontiguousarray(times).reshape(-1)
    over(made.size, on_grid, flat, _A_SECOND, fps or 0.0, _A_FRAME, _NEAR, _FAR, made.reshape(-1))
    return made


class SampleTimes:
    """The samples at which values are asked for: moments, or elements at moments. Never changed once made.

    `times` in seconds are (t,), the same for all elements, or (e, t), with a row for each element. Without `elements`
    there is one row. `grid` names a frame grid, under which results are remembered; else they are remembered by the
    digest of the times, and always by that of the elements. `shape` is how many elements, at how many moments each;
    `count` how many samples that makes.

    Samples of what stands in a pattern whose copies live at moments of their own know those of their copies: `around`,
    by array. What stands around a pattern is asked there (`outside`), what stands in it here.
    """

    __slots__ = ("_key", "_rows", "around", "count", "elements", "grid", "shape", "times")

    def __init__(
        self,
        times: Times,
        grid: tuple[float, float, float, float] | None = None,
        elements: Elements | None = None,
        around: "Mapping[str, SampleTimes] | None" = None,
    ) -> None:
        self.times, self.grid, self.elements = times, grid, elements
        self.around: Mapping[str, SampleTimes] = _NOWHERE if around is None or elements is None else around
        many, each = (1 if elements is None else len(elements)), times.shape[-1]
        self.shape: tuple[int, int] = (many, each)
        self.count: int = many * each
        self._key: Hashable = None
        self._rows: Times | None = times if many == 1 and times.ndim == 1 else None

    @property
    def key(self) -> Hashable:
        """What results at these samples are remembered under."""
        if self._key is None:
            when = self.grid or (self.times.shape, digest_of(self.times))
            self._key = when if self.elements is None else (when, self.elements.key)
            if self.around:
                self._key = (self._key, *((array, then.key) for array, then in self.around.items()))
        return self._key

    @property
    def rows(self) -> Times:
        """The moment of each sample (elements · times,), element after element."""
        if self._rows is None:
            shared = self.times.ndim == 1
            self._rows = self.repeated(self.times) if shared else np.ascontiguousarray(self.times).ravel()
        return self._rows

    def repeated(self, values: NDArray[Any]) -> NDArray[Any]:
        """What is the same for all elements, (times,), as rows (elements · times,)."""
        return np.broadcast_to(values, self.shape).reshape(-1)

    def at(self, times: Times) -> "SampleTimes":
        """The same elements at other moments: (rows,), one for each sample; (1,); or any number for a single
        element."""
        many, each = self.shape
        if self.elements is None:
            return SampleTimes(times)
        around = self._moved(times) if self.around else None
        if many > 1 and len(times) == many * each:
            return SampleTimes(times.reshape(many, each), None, self.elements, around)
        assert many == 1 or len(times) == 1, "moments that belong to no sample"
        return SampleTimes(times, None, self.elements, around)

    def of_elements(self, rows: NDArray[np.int64], times: Times) -> "SampleTimes":
        """Some of the elements, by position, at other moments (n,) of all of them or (rows, n), each its own."""
        if self.elements is None:
            return SampleTimes(times.ravel())
        elements = self.elements.part(rows)
        if not self.around:
            return SampleTimes(times, None, elements)
        around = {}
        for array, then in self.around.items():
            behind = (then.rows - self.rows).reshape(self.shape)
            around[array] = then.of_elements(rows, worked_out(np.atleast_2d(times) + behind[rows, :1]))
        return SampleTimes(times, None, elements, around)

    @property
    def steady(self) -> bool:
        """Whether each element is as far from the copies that it stands in at all of its moments."""
        behind = [(then.rows - self.rows).reshape(self.shape) for then in self.around.values()]
        return all(float(np.ptp(apart, axis=1).max(initial=0)) <= 1e-9 for apart in behind)

    def outside(self, array: str) -> "SampleTimes":
        """Samples of the same elements at which to ask what stands around the pattern of an array that they stand in:
        its copies, the array itself, and all around it."""
        return self.around.get(array, self)

    def _moved(self, times: Times) -> "dict[str, SampleTimes] | None":
        """Those around, as much later as the pattern is asked at these moments than at its own."""
        made = {}
        for array, then in self.around.items():
            behind = then.rows - self.rows
            if len(times) != self.count:
                # Moments of one element, of which each is as far from its copy's as all are.
                if np.ptp(behind) > 1e-9:
                    return None
                behind = behind[:1]
            made[array] = then.at(worked_out(times + behind))
        return made

    def each_around(self, make: "Callable[[SampleTimes], SampleTimes]") -> "dict[str, SampleTimes] | None":
        """Those of the copies that these are in, by array, each as `make` makes it."""
        return {array: make(then) for array, then in self.around.items()} if self.around else None

    def one(self, element: int) -> "SampleTimes":
        """One of the elements, by its position, at its moments."""
        assert self.elements is not None
        times = self.times[element] if self.times.ndim == 2 else self.times
        around = self.each_around(lambda then: then.one(element))
        return SampleTimes(times, self.grid, self.elements.part(np.array([element])), around)

    def some(self, chosen: NDArray[np.int64]) -> "SampleTimes":
        """Some of the samples, by the numbers of their rows in order."""
        if self.elements is None:
            return SampleTimes(self.rows[chosen])
        around = self.each_around(lambda then: then.some(chosen))
        grid = np.zeros(self.shape, dtype=bool)
        grid.ravel()[chosen] = True
        these, then = np.flatnonzero(grid.any(axis=1)), np.flatnonzero(grid.any(axis=0))
        if len(these) * len(then) == len(chosen):
            times = self.times[then] if self.times.ndim == 1 else self.times[np.ix_(these, then)]
            return SampleTimes(times, None, self.elements.part(these), around)
        # No rectangle: each pair of element and moment stands alone.
        return SampleTimes(self.rows[chosen][:, None], None, self.elements.part(chosen // self.shape[1]), around)

    def reduced(self, axes: Axes) -> "SampleTimes":
        """What of these samples a value needs that varies along no other axes."""
        elements = self.elements
        if elements is None:
            return self
        if not axes.elements:
            # Whatever has moments of its own for each element sees a single long row of moments.
            return SampleTimes(self.rows if self.times.ndim == 2 else self.times, self.grid)
        outer, rows = elements.cut(axes.elements)
        if not axes.times:
            return SampleTimes(self.times.ravel()[:1], None, outer)
        if rows is None:
            return self
        assert outer is not None
        whole = self.times.ndim == 1 and all(then.times.ndim == 1 for then in self.around.values())
        return self.cut(axes.elements, None if whole else rows)

    def cut(self, depth: int, rows: NDArray[np.int64] | None = None) -> "SampleTimes":
        """The same moments of the elements of the outermost `depth` arrays: of each once, or of those in some rows."""
        assert self.elements is not None
        outer = self.elements.cut(depth)[0]
        assert outer is not None
        around = {array: then.cut(depth, rows) for array, then in self.around.items() if outer.stands_in(array)}
        return SampleTimes(self.times, self.grid, outer if rows is None else outer.part(rows), around or None)

    def spread(self, values: Values, asked: "SampleTimes") -> Values:
        """Values worked out for `asked`, these samples reduced, (elements or 1, times or 1, components), as values of
        these."""
        if asked is self or self.elements is None:
            return values
        many, each = self.shape
        if asked.elements is None:
            return (
                values.reshape(many, each, values.shape[2])
                if values.shape[:2] == (1, many * each) and many != 1
                else values
            )
        if values.shape[0] == 1 or (values.shape[0] == many and asked.times.ndim == 2):
            return values
        rows = self.elements.cut(asked.elements.depth)[1]
        return values if rows is None else values[rows]

    def in_rows(self, values: Values) -> Values:
        """Values (elements or 1, times or 1, components) as rows (elements · times or 1, components)."""
        if self.elements is None or (values.shape[0] == 1 and (values.shape[1] == 1 or len(self.elements) == 1)):
            first: Values = values[0]
            return first
        if values.shape[:2] != self.shape:
            values = np.broadcast_to(values, (*self.shape, values.shape[2]))
        return values.reshape(self.count, values.shape[2])

    def from_rows(self, rows: Values) -> Values:
        """Rows (elements · times or 1, components) as values (elements or 1, times or 1, components)."""
        if self.elements is None or rows.shape[0] == 1:
            return rows[None]
        return rows.reshape(*self.shape, rows.shape[-1])

    @classmethod
    def frames(
        cls, fps: float, start: float, stop: float, step: float = 1.0, elements: Elements | None = None
    ) -> "SampleTimes":
        """The times of the frames start, start + step, … before stop."""
        count = max(0, int(np.ceil((stop - start) / step - 1e-9)))
        times = (start + step * np.arange(count, dtype=np.float64)) / fps
        return cls(times, (fps, start, stop, step), elements)
