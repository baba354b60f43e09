"""A scene's frames drawn small, as relative luminance."""

from collections import OrderedDict
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.checks.arrays import stretches
from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.display.extent import meet, reach
from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.layers import Group
from jaunty_lever.core.document.node_tables import parameters_of
from jaunty_lever.core.evaluation.depth import uses_depth
from jaunty_lever.core.evaluation.sampler import Sampler

from .frames import Look, Pictures, Sheet, array

_LAST = 400
"""How many stretches are remembered as they looked last."""
_FRAMES = 8_000
"""How many frames are remembered, some 4 kB each."""
_LISTENS = {"array", "trace", "clip"}
"""Kinds of layers whose looks go by more than their own values."""
WIDTH = 48
"""Pixels across: a quarter of the stage is some 300 of them."""


def resting(sampler: Sampler) -> frozenset[str]:
    """Outermost layers of which it is known that nothing about them changes over the whole scene."""
    scene = sampler.scene
    if uses_depth(scene.index):
        return frozenset()

    def rests(layer: BaseLayer) -> bool:
        if layer.kind in _LISTENS or any(sampler.axes.of(name).times for name in parameters_of(layer)):
            return False
        return not isinstance(layer, Group) or all(rests(inner) for inner in layer.layers)

    return frozenset(layer.id for layer in scene.layers if rests(layer))


def is_elsewhere(before: DisplayList, now: DisplayList, resting: frozenset[str]) -> bool:
    """Whether two lists differ in nothing but what rests, and that nowhere where anything moves: then the same flashes
    in both."""
    if (before.width, before.height, before.frames) != (now.width, now.height, now.frames):
        return False
    if before.background.key != now.background.key or len(now.background.rows) > 1:
        return False
    moving, then = ([node for node in one.nodes if not node.still] for one in (now, before))
    if [(node.id, node.content) for node in moving] != [(node.id, node.content) for node in then]:
        return False
    stood, stands = ({node.id: node for node in one.nodes} for one in (before, now))
    changed = {
        name
        for name in stood.keys() | stands.keys()
        if name not in stood or name not in stands or stood[name].content != stands[name].content
    }
    if not changed <= resting or (not changed and list(stood) != list(stands)):
        return False
    boxes = [reach(node) for node in moving]
    others = [reach(one[name]) for name in changed for one in (stood, stands) if name in one]
    return not any(meet(box, other) for box in boxes for other in others)


class Light:
    """Draws scenes small and remembers what it has drawn: what looks as it did, or flashes as it did, is not drawn
    again."""

    def __init__(self) -> None:
        self._parts: OrderedDict[Any, NDArray[np.uint8]] = OrderedDict()
        # What each stretch of a scene looked like last.
        self._last: OrderedDict[tuple[str, float], tuple[DisplayList, Any, frozenset[str]]] = OrderedDict()
        #: How many frames it has drawn.
        self.drawn = 0

    def in_parts(
        self, sampler: Sampler, pictures: Pictures | None = None, between: Callable[[], None] = lambda: None
    ) -> Iterator[NDArray[np.float64]]:
        """Relative luminance (frames, rows, columns) of the frames of the sampler's scene, on its background, so many
        at a time. What rests may lie where it lay before, if that changes nothing about what flashes.

        `between` is called before each frame: to let others have their turn, or to stop by an exception.
        """
        look = Look(scale=WIDTH / sampler.scene.width, pictures=pictures or {})
        rests = resting(sampler)
        for samples in stretches(sampler):
            between()
            table = display_list(sampler, samples)
            content, place = table.content, (sampler.scene.id, samples.times[0])
            if content not in self._parts:
                before = self._last.get(place)
                as_before = before is not None and is_elsewhere(before[0], table, before[2] & rests)
                kept = self._parts.get(before[1]) if before is not None and as_before else None
                self._parts[content] = self._drawn(table, look, between) if kept is None else kept
                while len(self._parts) > 1 and sum(map(len, self._parts.values())) > _FRAMES:
                    self._parts.popitem(last=False)
            self._parts.move_to_end(content)
            self._last[place] = table, content, rests
            self._last.move_to_end(place)
            while len(self._last) > _LAST:
                self._last.popitem(last=False)
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
