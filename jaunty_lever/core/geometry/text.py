"""Text as outlines, shaped by HarfBuzz in the shipped fonts."""

import io
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np
import uharfbuzz as hb
from fontTools.pens.recordingPen import RecordingPen
from fontTools.ttLib import TTFont
from numpy.typing import NDArray

from ..document.limits import MOST_DRAWN_LETTERS
from .outline import Floats, Outline, OutlinePen

FONTS = {
    "Bricolage Grotesque": "bricolage-grotesque",
    "Instrument Sans": "instrument-sans",
    "Martian Mono": "martian-mono",
}


@lru_cache(maxsize=16)
def _face(family: str, part: str) -> hb.Face:
    packed = files("jaunty_lever").joinpath(f"web/static/fonts/{FONTS[family]}-{part}.woff2").read_bytes()
    font = TTFont(io.BytesIO(packed))
    font.flavor = None
    plain = io.BytesIO()
    font.save(plain)
    return hb.Face(plain.getvalue())


@lru_cache(maxsize=64)
def _font(family: str, part: str, weight: float) -> hb.Font:
    font = hb.Font(_face(family, part))
    font.set_variations({"wght": weight})
    return font


@dataclass(frozen=True)
class Line:
    """A line of text in ems: its verbs, its points (m, 2) with the advances of the letters before them, the number of
    the letter that each point belongs to (m,), how many letters there are, and how wide they are together."""

    verbs: str
    points: Floats
    letter: NDArray[np.int64]
    count: int
    width: float


@lru_cache(maxsize=4096)
def _glyph(family: str, part: str, weight: float, glyph: int) -> tuple[str, Floats]:
    """A glyph's verbs, and its points (m, 2) in ems."""
    font = _font(family, part, weight)
    record = RecordingPen()
    font.draw_glyph_with_pen(glyph, record)
    pen = OutlinePen(scale=1 / font.face.upem, flip=True)
    record.replay(pen)
    return "".join(pen.verbs), np.array(pen.points, dtype=np.float64).reshape(-1, 2)


@lru_cache(maxsize=256)
def line_of(family: str, weight: float, text: str) -> Line:
    """A line laid out once for each text, font and weight."""
    verbs: list[str] = []
    points: list[Floats] = [np.zeros((0, 2))]
    letters: list[NDArray[np.int64]] = [np.zeros(0, dtype=np.int64)]
    x, count = 0.0, 0
    for part, run in _runs(family, text):
        font = _font(family, part, weight)
        buffer = hb.Buffer()
        buffer.add_str(run)
        buffer.guess_segment_properties()
        hb.shape(font, buffer, {})
        size = font.face.upem
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            shape, own = _glyph(family, part, weight, info.codepoint)
            verbs.append(shape)
            points.append(own + (x + position.x_offset / size, -position.y_offset / size))
            letters.append(np.full(len(own), count))
            x += position.x_advance / size
            count += 1
    return Line("".join(verbs), np.concatenate(points), np.concatenate(letters), count, x)


def _runs(family: str, text: str) -> list[tuple[str, str]]:
    """The text cut where the other part of the font takes over; unknown letters stay in the first part."""
    runs: list[tuple[str, str]] = []
    for letter in text:
        known = _font(family, "latin", 400.0).get_nominal_glyph(ord(letter)) is not None
        other = not known and _font(family, "latin-ext", 400.0).get_nominal_glyph(ord(letter)) is not None
        part = "latin-ext" if other else "latin"
        if runs and runs[-1][0] == part:
            runs[-1] = (part, runs[-1][1] + letter)
        else:
            runs.append((part, letter))
    return runs


def text_outline(
    text: str, family: str, weight: float, align: str, size: Floats, tracking: Floats, leading: Floats
) -> Outline:
    """Lines of text; size in pixels, tracking and leading in percent of it, each (n,) or (1,).

    The first line's middle height lies at y = 0; `align` places each line's start, middle or end at x = 0.
    """
    verbs: list[str] = []
    parts: list[Floats] = []
    rows = max(len(one) for one in (size, tracking, leading))
    height, spread, apart = (np.broadcast_to(one, (rows,))[:, None] for one in (size, tracking / 100, leading / 100))
    for row, content in enumerate(text[:MOST_DRAWN_LETTERS].split("\n")):
        line = line_of(family, round(float(np.clip(weight, 200, 800))), content)
        if not line.verbs:
            continue
        start = {"start": 0.0, "middle": -0.5, "end": -1.0}[align] * (line.width + spread * max(0, line.count - 1))
        placed = np.empty((rows, len(line.points), 2))
        placed[:, :, 0] = (start + line.points[:, 0] + spread * line.letter) * height
        placed[:, :, 1] = (0.35 + row * apart + line.points[:, 1]) * height
        verbs.append(line.verbs)
        parts.append(placed.reshape(rows, -1))
    if not parts:
        return Outline("", np.zeros((1, 0)))
    return Outline("".join(verbs), np.hstack(parts))
