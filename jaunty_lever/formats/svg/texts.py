"""Texts of an SVG as outlines: where their parts begin, and the fonts that stand in."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element

import numpy as np
import skia

from jaunty_lever.core.geometry.text import line_of, text_outline

from .shapes import from_verbs, transformed
from .styles import Style, length

SPACE = re.compile(r"\s+")
_WEIGHTS = {"normal": 400.0, "bold": 700.0, "bolder": 700.0, "lighter": 300.0}
_FONTS = {one.lower(): one for one in ("Bricolage Grotesque", "Instrument Sans", "Martian Mono")}
_ANCHORS = {"middle": 0.5, "end": 1.0}
SPACE_KEPT = "{http://www.w3.org/XML/1998/namespace}space"
_LOWERED = {
    "middle": 0.25,
    "central": 0.36,
    "hanging": 0.776,
    "text-before-edge": 0.97,
    "text-top": 0.97,
    "before-edge": 0.97,
    "text-after-edge": -0.25,
    "text-bottom": -0.25,
    "after-edge": -0.25,
    "ideographic": -0.25,
    "mathematical": 0.5,
}
"""By how many ems a text stands lower whose line is told by something else than the line on which letters stand: as
high as the shipped fonts are."""
_DECORATED = {"underline": 0.1, "line-through": -0.32, "overline": -1.02}
"""How many ems below the line the middle of what is drawn along a text lies."""
_THICK, _SMALL, _LEANS = 0.1, 0.7, 0.25
"""Ems of what is drawn along a text; small capitals in ems; how far letters lean that have no italics of their own."""
_RAISED = {"super": 0.61, "sub": -0.61}
"""Ems of the raised text, as browsers do it: half as high as a line of it."""


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
    kept: bool = False
    """Whether its white space stays as it is."""

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
            chunk, wider, whole = self._fitted(node, chunk, dressed)
            x -= _ANCHORS.get(chunk[0].dressed.style.get("text-anchor", "start").strip(), 0.0) * whole
            for run in chunk:
                style = run.dressed.style
                x, y = x + run.start.dx, y + run.start.dy
                path = self._outline(run, wider)
                if path.countVerbs():
                    if not made or made[-1][1] != style:
                        made.append((skia.Path(), style, ""))
                    whole_path, _, said = made[-1]
                    whole_path.addPath(path, x, y)
                    made[-1] = (whole_path, style, said + run.said)
                x += run.width * wider
        return [(path, style, SPACE.sub(" ", said).strip()) for path, style, said in made]

    def _outline(self, run: _Run, wider: float) -> skia.Path:
        """A run's letters, and what is drawn along them, from where it begins on the line on which letters stand."""
        em, style = run.dressed.em, run.dressed.style
        size = (np.array([one]) for one in (em, run.tracking, 120.0))
        outline = text_outline(run.said, run.family, run.weight, "start", *size)
        path = skia.Path()
        if outline.verbs:
            leans = _LEANS if style.get("font-style", "normal").strip().startswith(("italic", "oblique")) else 0.0
            # Its middle height lies at 0; here the line on which letters stand does.
            letters = from_verbs(outline.verbs, outline.points[0].tolist())
            high = -0.35 * em
            path = transformed(letters, (wider, 0, -leans, 1, -leans * high, high))
        for word in style.get("text-decoration", "none").split():
            if word in _DECORATED and run.said.strip():
                top = (_DECORATED[word] - _THICK / 2) * em
                path.addRect(skia.Rect.MakeXYWH(0, top, run.width * wider, _THICK * em))
        lower = _LOWERED.get((style.get("alignment-baseline") or style.get("dominant-baseline", "")).strip(), 0.0)
        shift = style.get("baseline-shift", "baseline").strip()
        raised = _RAISED.get(shift)
        path.offset(0, lower * em - (length(shift, em, 0.0, em) if raised is None else raised * em))
        return path

    def _fitted(self, node: Element, chunk: list[_Run], dressed: Dressed) -> tuple[list[_Run], float, float]:
        """Runs whose letters stand so far apart that the text is as long as it is told to be; by how much they are
        wider; how long they are together."""
        wanted = length(node.get("textLength"), dressed.wide, 0.0, dressed.em)
        is_now = sum(run.width + run.start.dx for run in chunk)
        if wanted <= 0 or is_now <= 0:
            return chunk, 1.0, is_now
        if node.get("lengthAdjust") == "spacingAndGlyphs":
            return chunk, wanted / is_now, wanted
        many = sum(line_of(run.family, run.weight, run.said).count for run in chunk)
        if many < 2:
            return chunk, 1.0, is_now
        more = (wanted - is_now) / (many - 1)
        return [replace(run, tracking=run.tracking + more / run.dressed.em * 100) for run in chunk], 1.0, wanted

    def _chunks(self, node: Element, dressed: Dressed) -> list[list[_Run]]:
        """Runs up to the next that has a place of its own: what is centred is centred together."""
        chunks: list[list[_Run]] = []
        runs = list(self._runs(node, dressed, self._deep()))
        for k, run in enumerate(runs):
            said = run.said
            # White space at the start and at the end of a text, and after white space, is none.
            if not run.kept and (k == 0 or runs[k - 1].said.endswith(" ")):
                said = said.lstrip()
            if not run.kept and k == len(runs) - 1:
                said = said.rstrip()
            for part in _parted(replace(run, said=said)):
                if not chunks or part.start.x is not None or part.start.y is not None:
                    chunks.append([part])
                else:
                    chunks[-1].append(part)
        return chunks

    def _runs(self, node: Element, dressed: Dressed, deep: int) -> Iterator[_Run]:
        start = self._start(node, dressed)
        if node.text:
            yield self._run(node.text, dressed, start)
            start = _Start()
        for child in node:
            if isinstance(child.tag, str) and child.tag.rpartition("}")[2] in ("tspan", "a") and deep > 0:
                inner = self._style_in(child, dressed)
                if child.get("textLength"):
                    self._remark("Parts of texts that are as long as they are told to be: only whole texts are")
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
        style = dressed.style
        family, weight = self._font(style)
        spacing = length(style.get("letter-spacing"), dressed.em, 0.0, dressed.em)
        for name, usual, told in (
            (
                "writing-mode",
                ("horizontal-tb", "lr", "lr-tb", "rl", "rl-tb"),
                "Texts that run downwards: they run to the right",
            ),
            ("direction", ("ltr",), "Texts that run to the left: they begin where they would end"),
            ("font-stretch", ("normal", "100%"), "Fonts narrower or wider than usual"),
        ):
            if style.get(name, usual[0]).strip() not in usual:
                self._remark(told)
        kept = style.get("white-space", "normal").strip() in ("pre", "pre-wrap", "break-spaces")
        said = re.sub(r"[\r\n\t]", " ", said) if kept else SPACE.sub(" ", said)
        return _Run(said, dressed, start, family, weight, spacing / dressed.em * 100, kept)

    def _start(self, node: Element, dressed: Dressed) -> _Start:
        def told(name: str) -> str | None:
            words = (node.get(name) or "").replace(",", " ").split()
            if len(words) > 1:
                self._remark("Letters with places of their own: they follow one another")
            return words[0] if words else None

        if node.get("rotate", "0").strip() not in ("0", ""):
            self._remark("Letters that are turned one by one: they stand upright")
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


def _parted(run: _Run) -> list[_Run]:
    """A run in parts: where words stand further apart, and where small letters are small capitals."""
    style, em = run.dressed.style, run.dressed.em
    made = [run]
    apart = length(style.get("word-spacing"), em, 0.0, em)
    if apart:
        words = re.findall(r"[^ ]* |[^ ]+$", run.said)
        made = [
            replace(run, said=word, start=run.start if k == 0 else _Start(dx=apart)) for k, word in enumerate(words)
        ]
    if "small-caps" in style.get("font-variant", ""):
        made = [small for one in made for small in _small(one)]
    return made or [run]


def _small(run: _Run) -> list[_Run]:
    found: list[_Run] = []
    for k, match in enumerate(re.finditer(r"[^\W\d_A-Z]+|[A-Z\W\d_]+", run.said)):
        part = match[0]
        one = replace(run, said=part, start=run.start if k == 0 else _Start())
        if part.upper() != part:
            small = replace(run.dressed, em=run.dressed.em * _SMALL)
            one = replace(one, said=part.upper(), dressed=small)
        found.append(one)
    return found or [run]
