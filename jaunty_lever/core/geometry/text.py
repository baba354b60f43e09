"""Text as outlines, shaped by HarfBuzz."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import uharfbuzz as hb
from fontTools.pens.recordingPen import RecordingPen
from numpy.typing import NDArray

from ..document.limits import MOST_DRAWN_LETTERS
from .faces import SHIPPED, FaceName, font_of, runs
from .outline import Floats, Outline, OutlinePen

_WEIGHTS = {True: (200, 800), False: (1, 1000)}
"""What weights are held to: those of the shipped fonts, and of any."""


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
def _glyph(name: FaceName, weight: float, glyph: int) -> tuple[str, Floats]:
    """A glyph's verbs, and its points (m, 2) in ems."""
    font = font_of(name, weight)
    if font is None:
        return "", np.zeros((0, 2))
    record = RecordingPen()
    font.draw_glyph_with_pen(glyph, record)
    pen = OutlinePen(scale=1 / font.face.upem, flip=True)
    record.replay(pen)
    return "".join(pen.verbs), np.array(pen.points, dtype=np.float64).reshape(-1, 2)


@dataclass(frozen=True)
class Glyph:
    """A glyph of a line in ems: its verbs, its points (m, 2) where they stand, the advances before it and its own, and
    the position in the line's text of the first letter of its cluster."""

    verbs: str
    points: Floats
    x: float
    advance: float
    cluster: int


@lru_cache(maxsize=256)
def shaped(family: str, weight: float, text: str) -> tuple[Glyph, ...]:
    """A line's glyphs from left to right, shaped once for each text, font and weight."""
    made: list[Glyph] = []
    x, before = 0.0, 0
    for name, run in runs(family, text):
        font = font_of(name, weight)
        if font is None:
            before += len(run)
            continue
        buffer = hb.Buffer()
        buffer.add_str(run)
        buffer.guess_segment_properties()
        hb.shape(font, buffer, {})
        size = font.face.upem
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            verbs, own = _glyph(name, weight, info.codepoint)
            points = own + (x + position.x_offset / size, -position.y_offset / size)
            made.append(Glyph(verbs, points, x, position.x_advance / size, before + info.cluster))
            x += position.x_advance / size
        before += len(run)
    return tuple(made)


@lru_cache(maxsize=256)
def line_of(family: str, weight: float, text: str) -> Line:
    """A line laid out once for each text, font and weight."""
    glyphs = shaped(family, weight, text)
    points = [np.zeros((0, 2)), *(glyph.points for glyph in glyphs)]
    letters = [np.full(len(glyph.points), number) for number, glyph in enumerate(glyphs)]
    whole = np.concatenate([np.zeros(0, dtype=np.int64), *letters])
    width = glyphs[-1].x + glyphs[-1].advance if glyphs else 0.0
    return Line("".join(glyph.verbs for glyph in glyphs), np.concatenate(points), whole, len(glyphs), width)


def weight_in(family: str, weight: float) -> float:
    """A weight as lines of a family are laid out at it."""
    return round(float(np.clip(weight, *_WEIGHTS[family in SHIPPED])))


def text_outline(
    text: str, family: str, weight: float, align: str, size: Floats, tracking: Floats, leading: Floats
) -> Outline:
    """Lines of text in a shipped family or a font that a project keeps (its id); size in pixels, tracking and leading
    in percent of it, each (n,) or (1,).

    The first line's middle height lies at y = 0; `align` places each line's start, middle or end at x = 0.
    """
    verbs: list[str] = []
    parts: list[Floats] = []
    rows = max(len(one) for one in (size, tracking, leading))
    height, spread, apart = (np.broadcast_to(one, (rows,))[:, None] for one in (size, tracking / 100, leading / 100))
    for row, content in enumerate(text[:MOST_DRAWN_LETTERS].split("\n")):
        line = line_of(family, weight_in(family, weight), content)
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
