"""Text as outlines, shaped by HarfBuzz in the shipped fonts."""

import io
from functools import lru_cache
from importlib.resources import files

import numpy as np
import uharfbuzz as hb
from fontTools.pens.recordingPen import RecordingPen
from fontTools.ttLib import TTFont

from .outline import Floats, Outline, OutlinePen, over_time

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


@lru_cache(maxsize=1024)
def _line(
    family: str, weight: float, text: str
) -> tuple[tuple[tuple[str, tuple[float, ...]], ...], tuple[float, ...], float]:
    """Verbs with points in ems per glyph, the glyphs' advances in ems, and their sum."""
    glyphs: list[tuple[str, tuple[float, ...]]] = []
    advances: list[float] = []
    for part, run in _runs(family, text):
        font = _font(family, part, weight)
        buffer = hb.Buffer()
        buffer.add_str(run)
        buffer.guess_segment_properties()
        hb.shape(font, buffer, {})
        size = font.face.upem
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            record = RecordingPen()
            font.draw_glyph_with_pen(info.codepoint, record)
            pen = OutlinePen(scale=1 / size, dx=position.x_offset / size, dy=-position.y_offset / size, flip=True)
            record.replay(pen)
            glyphs.append(("".join(pen.verbs), tuple(pen.points)))
            advances.append(position.x_advance / size)
    return tuple(glyphs), tuple(advances), sum(advances)


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
    columns: list[Floats | float] = []
    for row, content in enumerate(text.split("\n")):
        glyphs, advances, width = _line(family, round(float(np.clip(weight, 200, 800))), content)
        spread = tracking / 100 * max(0, len(glyphs) - 1)
        start = {"start": 0.0, "middle": -0.5, "end": -1.0}[align] * (width + spread)
        x = 0.0
        for k, ((shape, points), advance) in enumerate(zip(glyphs, advances, strict=True)):
            verbs.append(shape)
            left = (start + x + tracking / 100 * k) * size
            base = (0.35 + row * leading / 100) * size
            for px, py in zip(points[::2], points[1::2], strict=True):
                columns += [left + px * size, base + py * size]
            x += advance
    if not verbs or not columns:
        return Outline("", np.zeros((1, 0)))
    return Outline("".join(verbs), over_time(columns))
