"""Texts of an SVG as outlines: where their parts begin, and the fonts that stand in."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element

import numpy as np
import skia

from jaunty_lever.core.geometry.text import line_of, text_outline

from .shapes import from_verbs
from .styles import Style, length

SPACE = re.compile(r"\s+")
_WEIGHTS = {"normal": 400.0, "bold": 700.0, "bolder": 700.0, "lighter": 300.0}
_FONTS = {one.lower(): one for one in ("Bricolage Grotesque", "Instrument Sans", "Martian Mono")}
_ANCHORS = {"middle": 0.5, "end": 1.0}


@dataclass(frozen=True)
class Dressed:
    """How an element is dressed, the size that shares are taken of, and its font size in px."""

    style: Style
    wide: float
    high: float
    em: float


@dataclass(frozen=True)
class _Start:
    """Where a run begins: at x and y where they are told, and so much further."""

    x: float | None = None
    y: float | None = None
    dx: float = 0.0
    dy: float = 0.0

    def then(self, inner: "_Start") -> "_Start":
        x, y = (own if own is not None else outer for own, outer in ((inner.x, self.x), (inner.y, self.y)))
        return _Start(x, y, self.dx + inner.dx, self.dy + inner.dy)


@dataclass(frozen=True)
class _Run:
    said: str
    dressed: Dressed
    start: _Start
    family: str
    weight: float
    tracking: float
    """Percent of the font size."""

    @property
    def width(self) -> float:
        line = line_of(self.family, round(min(max(self.weight, 200), 800)), self.said)
        return (line.width + self.tracking / 100 * line.count) * self.dressed.em


class Texts:
    """Reads texts. `style_in` dresses a child; `deep` tells how many levels may follow."""

    def __init__(
        self, style_in: Callable[[Element, Dressed], Dressed], deep: Callable[[], int], remark: Callable[[str], None]
    ) -> None:
        self._style_in, self._deep, self._remark = style_in, deep, remark

    def outlines(self, node: Element, dressed: Dressed) -> list[tuple[skia.Path, Style, str]]:
        """The outlines of a text: one for all that follows in the same dress, with what it says."""
        made: list[tuple[skia.Path, Style, str]] = []
        x = y = 0.0
        for chunk in self._chunks(node, dressed):
            start = chunk[0].start
            x, y = (x if start.x is None else start.x), (y if start.y is None else start.y)
            whole = sum(run.width + run.start.dx for run in chunk)
            x -= _ANCHORS.get(chunk[0].dressed.style.get("text-anchor", "start").strip(), 0.0) * whole
            for run in chunk:
                em, style = run.dressed.em, run.dressed.style
                x, y = x + run.start.dx, y + run.start.dy
                size = (np.array([one]) for one in (em, run.tracking, 120.0))
                outline = text_outline(run.said, run.family, run.weight, "start", *size)
                if outline.verbs:
                    if not made or made[-1][1] != style:
                        made.append((skia.Path(), style, ""))
                    path, _, said = made[-1]
                    # Its middle height lies at 0; here the line on which letters stand does.
                    path.addPath(from_verbs(outline.verbs, outline.points[0].tolist()), x, y - 0.35 * em)
                    made[-1] = (path, style, said + run.said)
                x += run.width
        return [(path, style, SPACE.sub(" ", said).strip()) for path, style, said in made]

    def _chunks(self, node: Element, dressed: Dressed) -> list[list[_Run]]:
        """Runs up to the next that has a place of its own: what is centred is centred together."""
        chunks: list[list[_Run]] = []
        runs = list(self._runs(node, dressed, self._deep()))
        for k, run in enumerate(runs):
            said = run.said
            # White space at the start and at the end of a text, and after white space, is none.
            if k == 0 or runs[k - 1].said.endswith(" "):
                said = said.lstrip()
            if k == len(runs) - 1:
                said = said.rstrip()
            run = replace(run, said=said)
            if not chunks or run.start.x is not None or run.start.y is not None:
                chunks.append([run])
            else:
                chunks[-1].append(run)
        return chunks

    def _runs(self, node: Element, dressed: Dressed, deep: int) -> Iterator[_Run]:
        start = self._start(node, dressed)
        if node.text:
            yield self._run(node.text, dressed, start)
            start = _Start()
        for child in node:
            if isinstance(child.tag, str) and child.tag.rpartition("}")[2] in ("tspan", "a") and deep > 0:
                inner = self._style_in(child, dressed)
                if inner.style.get("display", "").strip() != "none":
                    for k, run in enumerate(self._runs(child, inner, deep - 1)):
                        # What its parent tells holds for the first text in it.
                        yield replace(run, start=start.then(run.start)) if k == 0 else run
                    start = _Start()
            elif isinstance(child.tag, str) and child.tag.endswith("textPath"):
                self._remark("Texts along paths")
            if child.tail:
                yield self._run(child.tail, dressed, start)
                start = _Start()

    def _run(self, said: str, dressed: Dressed, start: _Start) -> _Run:
        family, weight = self._font(dressed.style)
        spacing = length(dressed.style.get("letter-spacing"), dressed.em, 0.0, dressed.em)
        return _Run(SPACE.sub(" ", said), dressed, start, family, weight, spacing / dressed.em * 100)

    def _start(self, node: Element, dressed: Dressed) -> _Start:
        def told(name: str) -> str | None:
            words = (node.get(name) or "").replace(",", " ").split()
            if len(words) > 1:
                self._remark("Letters with places of their own: they follow one another")
            return words[0] if words else None

        x, y, dx, dy = (told(name) for name in ("x", "y", "dx", "dy"))
        return _Start(
            None if x is None else length(x, dressed.wide, em=dressed.em),
            None if y is None else length(y, dressed.high, em=dressed.em),
            length(dx, dressed.wide, em=dressed.em),
            length(dy, dressed.high, em=dressed.em),
        )

    def _font(self, style: Style) -> tuple[str, float]:
        families = [one.strip(" '\"") for one in style.get("font-family", "").split(",")]
        text = style.get("font-weight", "normal").strip()
        weight = _WEIGHTS.get(text) or length(text, default=400.0)
        for one in families:
            if one.lower() in _FONTS:
                return _FONTS[one.lower()], weight
        mono = any("mono" in one.lower() or "courier" in one.lower() for one in families)
        stands_in = "Martian Mono" if mono else "Instrument Sans"
        named = next((one for one in families if one), "the standard font")
        self._remark(f"Font {named[:60]}: {stands_in} stands in for it")
        return stands_in, weight
