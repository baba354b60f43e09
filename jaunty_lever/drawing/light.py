"""A scene's frames drawn small, as relative luminance."""

from collections import OrderedDict
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.checks.arrays import stretches
from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.evaluation.sampler import Sampler

from .frames import Look, Pictures, Sheet, array

_FRAMES = 8_000
"""How many frames are remembered, some 4 kB each."""
WIDTH = 48
"""Pixels across: a quarter of the stage is some 300 of them."""


class Light:
    """Draws scenes small and remembers what it has drawn: what looks as it did is not drawn again."""

    def __init__(self) -> None:
        self._parts: OrderedDict[Any, NDArray[np.uint8]] = OrderedDict()
        #: How many frames it has drawn.
        self.drawn = 0

    def in_parts(
        self, sampler: Sampler, pictures: Pictures | None = None, between: Callable[[], None] = lambda: None
    ) -> Iterator[NDArray[np.float64]]:
        """Relative luminance (frames, rows, columns) of the frames of the sampler's scene, on its background, so many at a time.

        `between` is called before each frame: to let others have their turn, or to stop by an exception.
        """
        look = Look(scale=WIDTH / sampler.scene.width, pictures=pictures or {})
        for samples in stretches(sampler):
            between()
            table = display_list(sampler, samples)
            content = table.content
            if content not in self._parts:
                self._parts[content] = self._drawn(table, look, between)
                while len(self._parts) > 1 and sum(map(len, self._parts.values())) > _FRAMES:
                    self._parts.popitem(last=False)
            self._parts.move_to_end(content)
            yield luminance(self._parts[content] / 255)

    def _drawn(self, table: DisplayList, look: Look, between: Callable[[], None]) -> NDArray[np.uint8]:
        sheet, frames = Sheet(table, look), list[NDArray[np.uint8]]()
        for k, moves in enumerate(table.moves().tolist()):
            if not moves:
                frames.append(frames[-1])
                continue
            between()
            sheet.draw(k)
            self.drawn += 1
            frames.append(array(sheet.picture())[..., :3])
        return np.stack(frames)


def light(sampler: Sampler, pictures: Pictures | None = None) -> NDArray[np.float64]:
    """Relative luminance (frames, rows, columns) of all frames of the sampler's scene."""
    return np.concatenate(list(Light().in_parts(sampler, pictures)))
