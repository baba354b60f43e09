"""A scene's frames drawn small, as relative luminance."""

from collections import OrderedDict
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.checks.arrays import shapes_drawn
from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .frames import Look, Pictures, Sheet, array

AT_ONCE = 240
MOST_SHAPES = 1_000_000
"""How many frames are made ready together, and how many shapes in them."""
_PARTS = 24
"""How many parts of scenes are remembered, some 2 MB each."""
WIDTH = 48
"""Pixels across: a quarter of the stage is some 300 of them."""


class Light:
    """Draws scenes small and remembers what it has drawn: what looks as it did is not drawn again."""

    def __init__(self) -> None:
        self._parts: OrderedDict[Any, NDArray[np.float64]] = OrderedDict()
        #: How many frames it has drawn.
        self.drawn = 0

    def in_parts(
        self, sampler: Sampler, pictures: Pictures | None = None, between: Callable[[], None] = lambda: None
    ) -> Iterator[NDArray[np.float64]]:
        """Relative luminance (frames, rows, columns) of the frames of the sampler's scene, on its background, so many at a time.

        `between` is called before each frame: to let others have their turn, or to stop by an exception.
        """
        scene = sampler.scene
        look = Look(scale=WIDTH / scene.width, pictures=pictures or {})
        at_once = max(1, min(AT_ONCE, MOST_SHAPES // max(1, shapes_drawn(sampler, 0))))
        for first in range(0, scene.length, at_once):
            last = min(first + at_once, scene.length)
            between()
            table = display_list(sampler, SampleTimes.frames(scene.fps, first, last))
            content = table.content
            if content not in self._parts:
                self._parts[content] = self._drawn(table, look, between)
                while len(self._parts) > _PARTS:
                    self._parts.popitem(last=False)
            self._parts.move_to_end(content)
            yield self._parts[content]

    def _drawn(self, table: DisplayList, look: Look, between: Callable[[], None]) -> NDArray[np.float64]:
        sheet, frames = Sheet(table, look), list[NDArray[np.uint8]]()
        for k, moves in enumerate(table.moves().tolist()):
            if not moves:
                frames.append(frames[-1])
                continue
            between()
            sheet.draw(k)
            self.drawn += 1
            frames.append(array(sheet.picture())[..., :3])
        return luminance(np.stack(frames) / 255)


def light(sampler: Sampler, pictures: Pictures | None = None) -> NDArray[np.float64]:
    """Relative luminance (frames, rows, columns) of all frames of the sampler's scene."""
    return np.concatenate(list(Light().in_parts(sampler, pictures)))
