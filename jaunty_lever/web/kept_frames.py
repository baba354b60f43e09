"""Frames of clips as browsers show them, kept on disk within a bound: the longest unused go first."""

import contextlib
import io
import os
from pathlib import Path
from threading import Lock

import numpy as np
import skia
from PIL import Image

from jaunty_lever.core.document.clips import Clip
from jaunty_lever.drawing.footage import footage_of

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
        self._folder, self._lock = folder, Lock()
        self._sizes: dict[Path, int] | None = None
        #: Bytes that are kept now.
        self.held = 0

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
        with self._lock:
            self._known()
            self._make_room(self.most)

    def clear(self) -> None:
        """Forget all of them."""
        with self._lock:
            self._known()
            self._make_room(0)

    def taken(self) -> int:
        """Bytes that are kept now."""
        with self._lock:
            self._known()
            return self.held

    def frame(self, clip: Clip, number: int, level: int) -> bytes | None:
        """A frame as WebP, its sides halved so often; None where there is none."""
        path = self._folder / clip.id / f"{level}-{number}.webp"
        with contextlib.suppress(OSError):
            found = path.read_bytes()
            os.utime(path)
            return found
        image = footage_of(clip).frame(number, 0.5**level)
        if image is None:
            return None
        wide, high = footage_of(clip).size(level)
        if (image.width(), image.height()) != (wide, high):
            image = image.resize(wide, high, skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear))
        made = _webp(image)
        self._keep(path, made)
        return made

    def _keep(self, path: Path, made: bytes) -> None:
        with self._lock:
            known = self._known()
            # A frame that finds no room on the disk is shown all the same.
            with contextlib.suppress(OSError):
                path.parent.mkdir(parents=True, exist_ok=True)
                beside = path.with_suffix(f".{os.getpid()}")
                try:
                    beside.write_bytes(made)
                    beside.replace(path)
                except OSError:
                    beside.unlink(missing_ok=True)
                    raise
                self.held += len(made) - known.get(path, 0)
                known[path] = len(made)
            if self.held > self.most:
                # A tenth more than needed, so that not every frame has to look for room.
                self._make_room(self.most * 9 // 10)

    def _known(self) -> dict[Path, int]:
        """The size of each, as the folder was found."""
        if self._sizes is None:
            self._sizes = {}
            for path in self._folder.glob("*/*.webp"):
                with contextlib.suppress(OSError):
                    self._sizes[path] = path.stat().st_size
            self.held = sum(self._sizes.values())
        return self._sizes

    def _make_room(self, most: int) -> None:
        known = self._known()
        if self.held <= most:
            return

        def used(path: Path) -> float:
            try:
                return path.stat().st_mtime
            except OSError:
                return 0.0

        for path in sorted(known, key=used):
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)
            self.held -= known.pop(path)
            if self.held <= most:
                return
