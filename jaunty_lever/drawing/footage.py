"""The frames of clips as pictures, each decoded once as long as there is room for it.

Frames are kept as small as they are shown: a clip on a wall of sixty-four is decoded to an eighth of its sides, and all
of the wall finds its frames among those that any of it needed.
"""

import base64
from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Iterator
from itertools import count
from math import floor, log2
from threading import Lock

import numpy as np
import skia

from jaunty_lever.core.document.clips import Clip

from .far_reel import FarReel, Lost
from .reel import BadReel, Reel, Seen

MOST_HELD = 512 << 20
"""Bytes of decoded frames that are held in memory, of all clips together."""
LEAST_SIDE, MOST_LEVEL = 16, 6
_MOST_OPEN = 16
_LIVES, _TRIES = 2, 4
"""Processes that may be lost with one clip before it is given up; how often a frame is tried while others lose them."""

_here = False


def decode_here() -> None:
    """From now on decode in this process, which is there for that or the like; else it is done in others."""
    global _here
    _here = True


class _Room:
    """What is held of all clips, the longest unused first to go."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._held: OrderedDict[tuple[int, int, int], skia.Image] = OrderedDict()
        self._bytes = 0

    def get(self, key: tuple[int, int, int]) -> "skia.Image | None":
        with self._lock:
            found = self._held.get(key)
            if found is not None:
                self._held.move_to_end(key)
            return found

    def put(self, key: tuple[int, int, int], image: skia.Image) -> None:
        with self._lock:
            if key in self._held:
                return
            self._held[key] = image
            self._bytes += image.width() * image.height() * 4
            while self._bytes > MOST_HELD and len(self._held) > 1:
                _, gone = self._held.popitem(last=False)
                self._bytes -= gone.width() * gone.height() * 4


_room = _Room()


_numbers = count()


class Footage:
    """A clip whose frames are asked for in any order."""

    def __init__(self, clip: Clip) -> None:
        self._clip, self._number = clip, next(_numbers)
        self._lock = Lock()
        self._reel: Reel | FarReel | None = None
        self._lives = _LIVES
        self._playing: Iterator[Seen] | None = None
        self._next = 0
        # How small its frames have been asked for; what is decoded is kept in all of these sizes, which together take
        # no more than a third more than the largest.
        self._levels: set[int] = set()
        self._last: tuple[int, Seen] | None = None
        self._bad = False
        #: How many frames have been decoded and kept: what is shown twice counts once.
        self.decoded = 0

    def frame(self, number: int, scale: float = 1.0) -> "skia.Image | None":
        """A frame, at least as large as it is at a scale; None where there is none, or nothing can be read.

        Its sides are a half, a quarter, … of the clip's own. They follow from the scale alone: what was shown before
        makes no difference to any pixel.
        """
        if self._bad or not 0 <= number < self._clip.timing.frames:
            return None
        with self._lock:
            level = self.level(scale)
            self._levels.add(level)
            found = _room.get((self._number, level, number))
            for _ in range(_TRIES):
                if found is not None or self._bad:
                    break
                try:
                    return self._fetched(number, level)
                except Lost as error:
                    self._reel = self._playing = self._last = None
                    self._lives -= error.broke
                    self._bad = self._lives <= 0
            return found

    def level(self, scale: float) -> int:
        """How often the sides are halved for what is shown at a scale."""
        if not scale > 0:
            return MOST_LEVEL
        most = floor(log2(max(min(self._clip.width, self._clip.height) / LEAST_SIDE, 1)))
        return min(floor(-log2(min(scale, 1.0)) + 1e-6), most, MOST_LEVEL)

    def size(self, level: int) -> tuple[int, int]:
        """Width and height at a level."""
        return max(1, round(self._clip.width / 2**level)), max(1, round(self._clip.height / 2**level))

    def _fetched(self, number: int, level: int) -> "skia.Image | None":
        wide, high = self.size(level)
        # What lies further back than there is room for need not be kept on the way.
        first = number - max(1, MOST_HELD // (wide * high * 4) // 2)
        image = None
        try:
            if self._last is not None and self._last[0] == number:
                image = self._kept(*self._last)[level]
            else:
                for place, seen in self._until(number):
                    self._last = place, seen
                    if place > first:
                        image = self._kept(place, seen)[level]
        except BadReel:
            self._bad = True
        if image is not None:
            # A frame that cannot be read is stood in for by its neighbour.
            _room.put((self._number, level, number), image)
        return image

    def _kept(self, place: int, seen: Seen) -> dict[int, skia.Image]:
        """A decoded frame in all sizes that have been asked for."""
        made = {}
        for level in self._levels:
            image = _room.get((self._number, level, place))
            if image is None:
                image = self._image(seen, *self.size(level))
                self.decoded += 1
                _room.put((self._number, level, place), image)
            made[level] = image
        return made

    def _until(self, number: int) -> "Iterator[tuple[int, Seen]]":
        """Frames by number up to one: on from where the reel stands, or from the nearest that can be decoded alone."""
        if self._reel is None:
            self._reel = (Reel if _here else FarReel)(base64.b64decode(self._clip.data), self._clip.media)
            self._times, alone = self._reel.packets()
            self._alone = alone
            self._starts = [self._place(at) for at in alone]
        # The last frame before it that can be decoded alone; there are as many as frames, in some files.
        found, landed = bisect_right(self._starts, number) - 1, True
        if self._playing is None or not (self._starts[found] if found >= 0 else 0) <= self._next <= number:
            self._playing, landed = self._reel.play(self._alone[found] if found >= 0 else None), found < 0
        while (seen := next(self._playing, None)) is not None:
            place = self._place(seen.at)
            if place > number and not landed:
                # It was sought too far on, in a file without an index: from the beginning, then.
                self._last = None
                self._playing, landed = self._reel.play(), True
                continue
            landed, self._next = True, place + 1
            yield place, seen
            if place >= number:
                return
        self._playing = None

    def _place(self, at: int) -> int:
        """The number of the frame that is shown at a time of the stream."""
        assert self._reel is not None
        timing = self._clip.timing
        if len(self._times) == timing.frames:
            return max(bisect_right(self._times, at) - 1, 0)
        since = (at - self._times[0]) * self._reel.tick if self._times else 0.0
        # The nearest beginning.
        after = int(np.searchsorted(timing.begins, since))
        near = timing.begins[max(after - 1, 0) : after + 1]
        return max(after - 1, 0) + int(np.abs(near - since).argmin())

    def _image(self, seen: Seen, wide: int, high: int) -> skia.Image:
        assert self._reel is not None
        pixels, clear = self._reel.pixels(seen.picture, wide, high)
        kind = skia.AlphaType.kOpaque_AlphaType
        if clear:
            kind = skia.AlphaType.kPremul_AlphaType
            alpha = pixels[..., 3:].astype(np.uint16)
            pixels[..., :3] = (pixels[..., :3] * alpha + 127) // 255
        return skia.Image.fromarray(pixels, colorType=skia.ColorType.kRGBA_8888_ColorType, alphaType=kind)


_open: OrderedDict[tuple[str, int], Footage] = OrderedDict()
_opening = Lock()


def footage_of(clip: Clip) -> Footage:
    """The frames of a clip, shared by all who show it."""
    key = clip.id, len(clip.data)
    with _opening:
        found = _open.get(key)
        if found is None:
            found = _open[key] = Footage(clip)
        _open.move_to_end(key)
        while len(_open) > _MOST_OPEN:
            _open.popitem(last=False)
        return found
