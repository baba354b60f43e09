"""Frames of clips as browsers show them, kept on disk within a bound: the longest unused go first."""

import io
from pathlib import Path

import numpy as np
import skia
from PIL import Image

from jaunty_lever.core.document.clips import Clip
from jaunty_lever.drawing.footage import footage_of

from .kept_files import KeptFiles

USUAL, LEAST, MOST = 512_000_000, 16_000_000, 64_000_000_000
"""Bytes that are kept if nothing else is set; bounds of what can be set."""
_QUALITY = 85
_SMALL = 40_000
"""Pixels of a frame that is kept without loss: that costs little, and what is small shows every fault."""


def _webp(image: skia.Image) -> bytes:
    if image.width() * image.height() <= _SMALL:
        return bytes(image.encodeToData(skia.EncodedImageFormat.kWEBP, 100))
    out, pixels = io.BytesIO(), image.toarray(colorType=skia.ColorType.kRGBA_8888_ColorType)
    picture = Image.fromarray(np.ascontiguousarray(pixels[..., :3]) if image.isOpaque() else pixels)
    # The quickest way: it is waited for.
    picture.save(out, "WEBP", quality=_QUALITY, method=0)
    return out.getvalue()


class KeptFrames:
    """The frames of one data folder. Whatever is lost of them is made again."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._files = KeptFiles(folder, "*/*.webp", lambda: self.most)

    @property
    def held(self) -> int:
        """Bytes that are kept now, as far as anybody has looked."""
        return self._files.held

    @property
    def most(self) -> int:
        """Bytes that are kept at the most."""
        try:
            return min(max(int((self._folder / "most").read_text()), LEAST), MOST)
        except (OSError, ValueError):
            return USUAL

    def bound(self, most: int) -> None:
        """Keep so many bytes at the most from now on. Raises OSError."""
        self._folder.mkdir(parents=True, exist_ok=True)
        (self._folder / "most").write_text(str(min(max(most, LEAST), MOST)))
        self._files.bound(self.most)

    def clear(self) -> None:
        """Forget all of them."""
        self._files.bound(0)

    def taken(self) -> int:
        """Bytes that are kept now."""
        return self._files.taken()

    def frame(self, clip: Clip, number: int, level: int) -> bytes | None:
        """A frame as WebP, its sides halved so often; None where there is none."""
        path = Path(clip.id) / f"{level}-{number}.webp"
        found = self._files.get(path)
        if found is not None:
            return found
        image = footage_of(clip).frame(number, 0.5**level)
        if image is None:
            return None
        wide, high = footage_of(clip).size(level)
        if (image.width(), image.height()) != (wide, high):
            image = image.resize(wide, high, skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear))
        made = _webp(image)
        self._files.keep(path, made)
        return made
