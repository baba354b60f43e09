"""A frame as the average of its exposure, in linear light."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from itertools import chain
from typing import Any, Protocol

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.kernels.light import ENCODED, LINEAR, add_light, mean_light
from jaunty_lever.core.kernels.parallel import over

_PREMULTIPLIED = skia.AlphaType.kPremul_AlphaType

_told: ContextVar[list[int] | None] = ContextVar("exposures", default=None)


@contextmanager
def exposures_told() -> Iterator[list[int]]:
    """Of how many moments each frame is made that is drawn meanwhile, where there are more than one."""
    told: list[int] = []
    before = _told.set(told)
    try:
        yield told
    finally:
        _told.reset(before)


class Shown(Protocol):
    """A picture that stands somewhere until the next one does."""

    pixels: NDArray[Any]
    """(height, width, 4), premultiplied, alpha last."""

    def picture(self) -> skia.Image:
        """The same as a picture that stays."""
        ...


def averaged(pictures: Iterable[Shown], count: int, deep: bool) -> skia.Image:
    """The mean of `count` pictures of one size, each sRGB, in linear light; sRGB again, in 16 bits a channel if
    `deep`."""
    told = _told.get()
    if told is not None:
        told.append(count)
    return _averaged_deep((shown.picture() for shown in pictures), count) if deep else _averaged(pictures, count)


def _averaged(pictures: Iterable[Shown], count: int) -> skia.Image:
    sums: NDArray[np.float32] = np.zeros((1, 4), dtype=np.float32)
    high = wide = 0
    for shown in pictures:
        if not high:
            high, wide = shown.pixels.shape[:2]
            sums = np.zeros((high * wide, 4), dtype=np.float32)
        over(len(sums), add_light, shown.pixels.reshape(-1, 4), LINEAR, sums)
    pixels = np.empty((high, wide, 4), dtype=np.uint8)
    over(len(sums), mean_light, sums, count, ENCODED, pixels.reshape(-1, 4))
    kind = skia.ImageInfo.MakeN32Premul(wide, high).colorType()
    # A copy of its own: what is shared with an array ends with it.
    return skia.Image.fromarray(pixels, kind, _PREMULTIPLIED, skia.ColorSpace.MakeSRGB())


def _averaged_deep(pictures: Iterable[skia.Image], count: int) -> skia.Image:
    """The same of pictures in 16-bit floats."""
    left = iter(pictures)
    first = next(left)
    sums = _surface(first, skia.ColorSpace.MakeSRGBLinear())
    paint = skia.Paint()
    paint.setAlphaf(1.0 / count)
    paint.setBlendMode(skia.BlendMode.kPlus)
    for picture in chain((first,), left):
        sums.getCanvas().drawImage(picture, 0, 0, skia.SamplingOptions(), paint)
    made = _surface(sums, skia.ColorSpace.MakeSRGB())
    made.getCanvas().drawImage(sums.makeImageSnapshot(), 0, 0)
    return made.makeImageSnapshot()


def _surface(like: "skia.Image | skia.Surface", space: skia.ColorSpace) -> skia.Surface:
    made = skia.Surface.MakeRaster(
        skia.ImageInfo.Make(like.width(), like.height(), skia.ColorType.kRGBA_F16_ColorType, _PREMULTIPLIED, space)
    )
    made.getCanvas().clear(skia.Color4f(0, 0, 0, 0))
    return made
