"""Where values of sparks that come and go stand in the rows of a channel.

A spark is asked for at the single moments at which it is alive. A channel has a row for each moment and in it a place
for each of the sparks alive then, in the order in which they are drawn.
"""

from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..evaluation.sample_times import SampleTimes
from ..kernels import laying
from ..kernels.digest import digest_of
from ..kernels.parallel import over
from .channels import Channel, channel, made_of

Whole = NDArray[np.int64]


@dataclass(frozen=True)
class Lay:
    """For each sample, (e,): the row and the place in it where its values stand; how many rows and places there are.

    `whole`: each spark has a place for its whole life, and what is not there rests where it was last or will be first.
    """

    row: Whole
    place: Whole
    rows: int
    places: int
    key: Hashable
    whole: bool = False

    def channel(self, values: NDArray[np.float64], rests: bool = True) -> Channel:
        """A channel of values (e or 1, 1, width): 0 where there is no spark, unless it `rests`."""
        if values.shape[0] == 1 and not (self.whole and not rests):
            return channel(values[:, :1])
        made = self.empty(values.shape[2])
        over(len(self.row), laying.lay, self.row, self.place, values[:, 0], made)
        return self.filled(made, rests)

    def empty(self, width: int) -> NDArray[np.float32]:
        """Rows of places with nothing in them, (rows, places, width)."""
        return np.zeros((self.rows, self.places, width), dtype=np.float32)

    def filled(self, made: NDArray[np.float32], rests: bool = True) -> Channel:
        """A channel of such rows, filled where there are sparks."""
        if self.whole and rests:
            first, last = np.full(self.places, self.rows - 1), np.zeros(self.places, dtype=np.int64)
            np.minimum.at(first, self.place, self.row)
            np.maximum.at(last, self.place, self.row)
            rows = np.clip(np.arange(self.rows)[:, None], np.minimum(first, last), last)
            made = made[rows, np.arange(self.places)]
        return made_of(made.reshape(self.rows, -1), self.places)


def lay_of(around: SampleTimes, lay: Lay | None, samples: SampleTimes, copies: int, whole: bool = False) -> Lay | None:
    """How samples of copies are laid out, `copies` side by side for each of the samples around them, which may be laid
    out themselves; None for what stands in rows as it is."""
    elements = samples.elements
    if elements is None or (lay is None and elements.when is None):
        return None
    parents = elements.parents
    if parents is None:
        parents = np.zeros(len(elements), dtype=np.int64)
    if elements.when is None:
        assert lay is not None
        within = np.arange(len(elements)) - parents * copies
        row, rows = lay.row[parents], lay.rows
    else:
        # Sparks stand moment after moment: each next to the one before it of the same moment.
        when = elements.when
        within = np.empty(len(when), dtype=np.int64)
        laying.counted_within(parents, when, within)
        if whole and len(when):
            # Each has a place of its own, by its number.
            within = np.unique(elements.numbers, return_inverse=True)[1]
        row, rows = (when, around.shape[1]) if lay is None else (lay.row[parents], lay.rows)
    outer = parents if lay is None else lay.place[parents]
    wide = (around.shape[0] if lay is None else lay.places) * copies
    place = outer * copies + within
    return Lay(row, place, rows, max(wide, 1), (digest_of(row, place), rows, wide, whole), whole)
