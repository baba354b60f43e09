"""The points of shapes whose edge is moved: how each outline is cut, and what each point knows of itself."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrangements.points import HEIGHT, NX, NY, Cut, U, X, Y, cut_outlines
from ..document.axes import CONSTANT
from ..document.layers import ShapeLayer
from ..document.limits import LEAST_POINTS, MOST_POINTS
from ..document.protocols import Values
from ..document.references import ALL_TOLD, CIRCLE, LENGTH, PLAN
from .cache import Fault
from .outlines import outlines_of
from .sample_times import SampleTimes
from .sampling import Sampling
from .structure import edged, most_points, point_parameters, points_written

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


@dataclass(frozen=True)
class Points:
    """Outlines cut into points, over the samples of what stands around them.

    `which` (outer or 1, times or 1): which cut an outline has, −1 for one that has none; `state` that outline's
    position in its cut.
    """

    cuts: tuple[Cut, ...]
    which: Whole
    state: Whole

    @property
    def most(self) -> int:
        """The greatest number of points."""
        return max((one.count for one in self.cuts), default=0)

    @property
    def counts(self) -> Whole:
        """How many points there are, (outer or 1, times or 1)."""
        return np.array([*(one.count for one in self.cuts), 0], dtype=np.int64)[self.which]

    def told(self, what: int, numbers: Whole, at: Whole) -> Floats:
        """A column of the tables for points by number (e,) at samples (e, times or 1), by their positions; 0 for those
        that are not there."""
        which, state = self.which.ravel()[at], self.state.ravel()[at]
        found = np.zeros(np.broadcast_shapes(at.shape, (len(numbers), 1)))
        for k, one in enumerate(self.cuts):
            column = one.table[:, what]
            number = np.minimum(numbers, one.count - 1)[:, None]
            if len(self.cuts) == 1 and not (self.which < 0).any():
                return np.asarray(column[state, number])
            mine = which == k
            found = np.where(mine, column[np.where(mine, state, 0), number], found)
        return found

    def lengths(self, at: Whole) -> Floats:
        """How long outlines are at samples, by their positions; in px, 0 for those that are not there."""
        which, state = self.which.ravel()[at], self.state.ravel()[at]
        made = np.zeros(at.shape)
        for k, one in enumerate(self.cuts):
            made = np.where(which == k, one.lengths[np.where(which == k, state, 0)], made)
        return made

    def circles(self, numbers: Whole, at: Whole) -> Values:
        """On which closed contour points stand, and how far round it: (e, times or 1, 3)."""
        which, state = self.which.ravel()[at], self.state.ravel()[at]
        made = np.empty((*np.broadcast_shapes(at.shape, (len(numbers), 1)), 3))
        made[...] = ALL_TOLD[CIRCLE]
        for k, one in enumerate(self.cuts):
            mine, number = which == k, np.minimum(numbers, one.count - 1)[:, None]
            made = np.where(mine[..., None], one.circles[np.where(mine, state, 0), number], made)
        return made


class Edges:
    """The edges of one scene's shapes."""

    def __init__(self, sampler: Sampling) -> None:
        self._sampler = sampler

    def points(self, layer: str, outer: SampleTimes) -> Points:
        """How a shape's outline is cut, at samples of what stands around it."""
        shape, sampler = edged(self._sampler.index, layer), self._sampler
        assert shape is not None
        decides = list(point_parameters(sampler.index, shape))
        key = ("edge", points_written(sampler.index, shape), sampler.joined(decides), outer.key)
        return sampler.remembered(
            key,
            lambda: self._made(shape, decides, outer),
            lambda made: 500 + sum(one.table.nbytes for one in made.cuts),
        )

    def _made(self, layer: ShapeLayer, decides: list[str], outer: SampleTimes) -> Points:
        sampler = self._sampler
        found = outlines_of(sampler, layer, outer)
        detail, corners = (sampler.evaluate(f"{layer.id}.edge.{n}", outer)[..., 0] for n in ("detail", "corners"))
        shape = np.broadcast_shapes(found.which.shape, detail.shape, corners.shape)
        stands = np.broadcast_to(found.which, shape).ravel()
        moves = any(sampler.axes.of(one) != CONSTANT for one in decides)
        most = most_points(sampler.index, layer)
        cuts: list[Cut] = []
        which, state = np.full(len(stands), -1), np.zeros(len(stands), dtype=np.int64)
        asked = np.zeros(len(stands))
        for k, one in enumerate(found.each):
            mine = np.flatnonzero(stands == k)
            if not len(mine) or not one.points.shape[1]:
                continue
            rows = np.broadcast_to(found.points(k), (*shape, one.points.shape[1])).reshape(len(stands), -1)
            fine, round_off = (np.broadcast_to(part, shape).ravel() for part in (detail, np.rint(corners)))
            # What rests is cut once, however often it is seen.
            rests = one.points.shape[0] == detail.size == corners.size == 1
            some = mine[:1] if rests else mine
            made, wanted = cut_outlines(
                one.verbs,
                np.ascontiguousarray(rows[some]),
                np.ascontiguousarray(fine[some]),
                (round_off[some] > 0).astype(np.int64),
                most,
                LEAST_POINTS,
                moves,
            )
            asked[mine] = wanted if len(wanted) == len(mine) else wanted[0]
            for cut in made:
                where = mine if rests else mine[cut.outlines]
                which[where] = len(cuts)
                state[where] = 0 if rests else np.arange(len(where))
                cuts.append(cut)
        over = asked > most
        if over.any():
            first = float(np.min(outer.rows[np.flatnonzero(np.broadcast_to(over.reshape(shape), outer.shape))]))
            each = "an outline" if most == MOST_POINTS else "each copy of this outline"
            message = (
                f"Its detail asks for {asked.max():,.0f} points; {each} has at most {most:,}, and is drawn with these"
            )
            sampler.note(Fault(f"{layer.id}.edge.detail", "", message, first))
        return Points(tuple(cuts), which.reshape(shape), state.reshape(shape))

    def known(self, layer: str, what: str, samples: SampleTimes) -> Values:
        """What points know of themselves: (points or 1, times or 1, components)."""
        elements = samples.elements
        assert elements is not None
        if what in ("i", "rank", "col"):
            return elements.numbers.astype(np.float64)[:, None, None]
        if what == "across":
            return np.zeros((1, 1, 2))
        if what not in _COLUMNS and what not in ("n", "facing", CIRCLE, PLAN, LENGTH):
            return np.zeros((1, 1, 1))
        outer, at = self._outside(layer, samples)
        points = self.points(layer, outer)
        if points.which.size == 1:
            at = np.zeros((1, 1), dtype=np.int64)
        else:
            # Positions in what may be laid out over fewer axes than the samples.
            at = np.broadcast_to(np.arange(points.which.size).reshape(points.which.shape), outer.shape).ravel()[at]
        if what == "n":
            return points.counts.ravel()[at][..., None].astype(np.float64)
        if what == "facing":
            nx, ny = (points.told(k, elements.numbers, at) for k in (NX, NY))
            return np.asarray(np.rad2deg(np.arctan2(ny, nx))[..., None])
        if what == CIRCLE:
            return points.circles(elements.numbers, at)
        if what == LENGTH:
            return points.lengths(at)[..., None]
        made = np.stack([points.told(k, elements.numbers, at) for k in _COLUMNS["place" if what == PLAN else what]], -1)
        return np.concatenate([made, np.zeros((*made.shape[:-1], 1))], axis=-1) if what == PLAN else made

    def _outside(self, layer: str, samples: SampleTimes) -> tuple[SampleTimes, Whole]:
        """Samples of what stands around a shape, of those of its points, and at which of them each of these stands, by
        position among their rows: (points or 1, times or 1)."""
        elements = samples.elements
        assert elements is not None
        axes = self._sampler.axes.of(f"{layer}.place")
        parents = np.zeros(len(elements), dtype=np.int64) if elements.parents is None else elements.parents
        around = elements.outer
        each = samples.times.shape[-1]
        if not axes.times:
            return SampleTimes(samples.times.ravel()[:1], None, around), parents[:, None]
        if samples.times.ndim == 1:
            return SampleTimes(samples.times, samples.grid, around), parents[:, None] * each + np.arange(each)
        # Each point has moments of its own; many of them are the same.
        pairs = np.stack([np.repeat(parents, each).astype(np.float64), samples.rows])
        distinct, at = np.unique(pairs, axis=1, return_inverse=True)
        at = at.reshape(samples.shape)
        if around is None:
            return SampleTimes(np.ascontiguousarray(distinct[1])), at
        chosen = around.part(distinct[0].astype(np.int64))
        return SampleTimes(np.ascontiguousarray(distinct[1])[:, None], None, chosen), at


_COLUMNS = {"u": (U,), "height": (HEIGHT,), "x": (X,), "y": (Y,), "place": (X, Y)}
