"""Outlines as Skia has them, made of the numbers of a channel."""

import numpy as np
import skia

from jaunty_lever.core.display.channels import Channel

_TAKES = {"M": 1, "L": 1, "Q": 2, "C": 3, "Z": 0}
"""How many points each verb takes."""


def _drawn(verbs: str, points: list[float]) -> skia.Path:
    """An outline, verb by verb."""
    path = skia.Path()
    path.setFillType(skia.PathFillType.kWinding)
    draw = {"M": path.moveTo, "L": path.lineTo, "Q": path.quadTo, "C": path.cubicTo}
    k = 0
    for verb in verbs:
        if verb == "Z":
            path.close()
            continue
        many = 2 * _TAKES[verb]
        draw[verb](*points[k : k + many])
        k += many
    return path


class Outline:
    """Outlines of the same verbs. Many of them are made by writing other points into the one that was made first, which
    takes a fraction of the time; where Skia does not read back what was written, verb by verb."""

    def __init__(self, verbs: str) -> None:
        self._verbs = verbs
        self._around: tuple[bytes, bytes] | None = None
        count = sum(_TAKES[verb] for verb in verbs)
        # Numbers that stand nowhere else in what is written.
        marks = np.arange(1, 2 * count + 1, dtype=np.float32) + np.float32(0.3125)
        if not count:
            return
        written = bytes(_drawn(verbs, marks.tolist()).serialize())
        before, points, after = written.partition(marks.tobytes())
        if points:
            self._around = before, after
            other = -marks
            if self._read(other.tobytes()) != _drawn(verbs, other.tolist()):
                self._around = None

    def _read(self, points: bytes) -> "skia.Path | None":
        path = skia.Path()
        if self._around is None or not path.readFromMemory(self._around[0] + points + self._around[1]):
            return None
        return path

    def path(self, channel: Channel, frame: int, element: int) -> skia.Path:
        """The outline with a channel's points at a frame, of one of the elements that it has side by side."""
        row = channel.rows[frame if channel.rows.shape[0] > 1 else 0]
        if channel.each > 1:
            row = row[element * channel.width : (element + 1) * channel.width]
        made = self._read(row.tobytes())
        return _drawn(self._verbs, row.tolist()) if made is None else made
