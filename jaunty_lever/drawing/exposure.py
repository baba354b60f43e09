"""A frame as the average of its exposure, in linear light."""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from itertools import chain

import numpy as np
import skia

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


def averaged(pictures: Iterable[skia.Image], count: int, deep: bool) -> skia.Image:
    """The mean of `count` pictures of one size, each sRGB, in linear light; sRGB again, in 16 bits a channel if `deep`."""
    told = _told.get()
    if told is not None:
        told.append(count)
    return _averaged_deep(pictures, count) if deep else _averaged(pictures, count)


def _averaged(pictures: Iterable[skia.Image], count: int) -> skia.Image:
    left = iter(pictures)
    first = next(left)
    info = skia.ImageInfo.MakeN32Premul(first.width(), first.height(), skia.ColorSpace.MakeSRGB())
    pixels = np.empty((first.height() * first.width(), 4), dtype=np.uint8)
    sums = np.zeros(pixels.shape, dtype=np.float32)
    for picture in chain((first,), left):
        picture.readPixels(info, pixels.reshape(info.height(), -1), info.width() * 4)
        over(len(pixels), add_light, pixels, LINEAR, sums)
    over(len(pixels), mean_light, sums, count, ENCODED, pixels)
    return skia.Image.MakeRasterData(info, pixels.tobytes(), info.width() * 4)


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
    made = skia.Surface.MakeRaster(skia.ImageInfo.Make(like.width(), like.height(), skia.ColorType.kRGBA_F16_ColorType, _PREMULTIPLIED, space))  # fmt: skip
    made.getCanvas().clear(skia.Color4f(0, 0, 0, 0))
    return made
