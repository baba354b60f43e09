"""A shape: an outline, filled and stroked."""

from collections.abc import Mapping, Sequence

import skia

from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.line_style import MITER_LIMIT

from .brush import Brush, colour
from .outlines import Outline

DRAWN_CAPS = (skia.Paint.kRound_Cap, skia.Paint.kButt_Cap, skia.Paint.kSquare_Cap)
DRAWN_JOINS = (skia.Paint.kRound_Join, skia.Paint.kMiter_Join, skia.Paint.kBevel_Join)


def _shader(fill: str, count: int, told: Mapping[str, list[float]]) -> skia.Shader:
    """The shader of a gradient with so many stops, by what its channels tell."""
    stops = sorted(((told[f"offset.{k}"][0], told[f"colour.{k}"]) for k in range(count)), key=lambda stop: stop[0])
    offsets = [min(max(offset, 0.0), 1.0) for offset, _ in stops]
    colours = [colour(rgba).toColor() for _, rgba in stops]
    if fill == "linear":
        ends = [skia.Point(*told[name]) for name in ("start", "end")]
        return skia.GradientShader.MakeLinear(ends, colours, offsets)
    x, y = told["centre"]
    if fill == "conic":
        turn = skia.Matrix().setRotate(told["angle"][0] - 90, x, y)
        # What lies before the first stop has its colour, as in CSS.
        return skia.GradientShader.MakeSweep(x, y, colours, offsets, skia.TileMode.kClamp, 0, 360, 0, turn)
    radius = max(told["radius"][0], 1e-3)
    if "focus" in told:
        dx, dy = told["focus"]
        return skia.GradientShader.MakeTwoPointConical(
            skia.Point(x + dx, y + dy), 0, skia.Point(x, y), radius, colours, offsets
        )
    return skia.GradientShader.MakeRadial(skia.Point(x, y), radius, colours, offsets)


class _Part:
    """One of the things of which a shape is drawn: its outlines, and the paint for it, which is told only what is
    new."""

    def __init__(self, node: DisplayNode, verbs: Sequence[str], points: str, *told: str) -> None:
        self.node = node
        self._told = [name for name in told if name in node.channels]
        self._outlines = [(Outline(one), node.channels[f"{points}.{k}"]) for k, one in enumerate(verbs)]
        self._known: list[list[float]] | None = None
        self.paint = skia.Paint(AntiAlias=True)
        # The opacity that its paint has by itself, and the one that it has now.
        self._opaque = self._shown = 1.0

    @property
    def still(self) -> bool:
        """Whether it looks the same in all copies at all frames."""
        asked = [*(self.node.channels[name] for name in self._told), *(channel for _, channel in self._outlines)]
        return len(self._outlines) == 1 and all(one.each == 1 and one.rows.shape[0] == 1 for one in asked)

    def path(self, brush: Brush, which: int) -> skia.Path:
        """Its outline as it stands."""
        outline, channel = self._outlines[which]
        if channel.each > 1 and channel.rows.shape[0] > 1:
            return outline.path(channel, brush.frame, brush.element)
        return brush.common(channel, lambda: outline.path(channel, brush.frame, brush.element))

    def painted(self, brush: Brush, opacity: float) -> skia.Paint:
        """Its paint as it is, with so much of its opacity."""
        told = [brush.row(self.node, name) for name in self._told]
        if told != self._known:
            self._known = told
            self._paint(dict(zip(self._told, told, strict=True)))
            self._opaque = self._shown = self.paint.getAlphaf()
        return self.faded(opacity)

    def faded(self, opacity: float) -> skia.Paint:
        """The paint that it had last, with so much of its opacity."""
        wanted = self._opaque * opacity
        if wanted != self._shown:
            self._shown = wanted
            self.paint.setAlphaf(wanted)
        return self.paint

    def seen(self, brush: Brush) -> bool:
        """Whether there is anything of it."""
        return True

    def which(self, brush: Brush, which: int) -> int:
        """Which of its outlines stands, where that of the shape does."""
        return which

    def _paint(self, told: dict[str, list[float]]) -> None:
        self.paint.setColor4f(colour(told[self._told[0]]))


class _Gradient(_Part):
    """A fill that goes from colour to colour."""

    def _paint(self, told: dict[str, list[float]]) -> None:
        self.paint.setAlphaf(1.0)
        self.paint.setShader(_shader(self.node.fixed["fill"], self.node.fixed["stops"], told))


class _Line(_Part):
    """What is stroked, or, as a ribbon, filled with the stroke's colour."""

    def __init__(self, node: DisplayNode) -> None:
        own = "line_verbs" in node.fixed
        verbs, points = (node.fixed["line_verbs"], "line") if own else (node.fixed["verbs"], "points")
        super().__init__(node, verbs, points, "stroke", "width", "cap", "join", "miter", "dash")
        self._own = own

    def seen(self, brush: Brush) -> bool:
        return brush.number(self.node, "width") > 0

    def which(self, brush: Brush, which: int) -> int:
        return round(brush.number(self.node, "line_which")) if self._own else which

    def _paint(self, told: dict[str, list[float]]) -> None:
        def chosen(name: str) -> int:
            return min(max(round(told[name][0]), 0), 2) if name in told else 0

        style = skia.Paint.kFill_Style if self.node.fixed.get("ribbon") else skia.Paint.kStroke_Style
        # Dashes cannot be taken off one that has them.
        paint = self.paint = skia.Paint(AntiAlias=True, Style=style)
        paint.setColor4f(colour(told["stroke"]))
        paint.setStrokeWidth(told["width"][0])
        paint.setStrokeCap(DRAWN_CAPS[chosen("cap")])
        paint.setStrokeJoin(DRAWN_JOINS[chosen("join")])
        paint.setStrokeMiter(max(told["miter"][0], 1.0) if "miter" in told else MITER_LIMIT)
        dash, gap, phase = told.get("dash", (0.0, 0.0, 0.0))
        if dash > 0 and gap > 0:
            paint.setPathEffect(skia.DashPathEffect.Make([dash, gap], phase))


def _parts(node: DisplayNode) -> list[_Part]:
    """What a shape is drawn of, from the lowest up: fill, shells, then stroke."""
    fixed, parts = node.fixed, list[_Part]()
    verbs = fixed["verbs"]
    if fixed["fill"] == "solid":
        parts.append(_Part(node, verbs, "points", "colour"))
    elif fixed["fill"] != "none":
        stops = [f"{name}.{k}" for k in range(fixed["stops"]) for name in ("offset", "colour")]
        parts.append(_Gradient(node, verbs, "points", *stops, "start", "end", "centre", "angle", "radius", "focus"))
    for j in range(fixed.get("shells", 0)):
        parts.append(_Part(node, fixed.get("shell_verbs", verbs), f"inner.{j}", f"inner_colour.{j}"))
    return [*parts, _Line(node)]


class _Shape:
    """What is drawn of a shape, and, where none of that ever changes, it as it is laid down."""

    def __init__(self, brush: Brush, node: DisplayNode) -> None:
        self.parts = _parts(node)
        self.several = len(node.fixed["verbs"]) > 1
        self.fixed: list[tuple[skia.Path, _Part]] | None = None
        still = [part for part in self.parts if part.still]
        if len(still) == len(self.parts):
            seen = [part for part in still if part.seen(brush)]
            for part in seen:
                part.painted(brush, 1.0)
            self.fixed = [(part.path(brush, 0), part) for part in seen]


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Fill, shells, then stroke."""
    key = "shape", id(node)
    shape: _Shape = brush.kept.get(key) or brush.kept.setdefault(key, _Shape(brush, node))
    fixed = shape.fixed
    shown = [part for _, part in fixed] if fixed is not None else [part for part in shape.parts if part.seen(brush)]

    def painted(brush: Brush, share: float = 1.0) -> None:
        canvas = brush.canvas
        if fixed is not None:
            for path, part in fixed:
                canvas.drawPath(path, part.faded(share))
            return
        which = round(brush.number(node, "which")) if shape.several else 0
        for part in shown:
            canvas.drawPath(part.path(brush, part.which(brush, which)), part.painted(brush, share))

    # Fill and stroke overlap by half the stroke, shells whole: only together may they fade.
    if len(shown) > 1:
        brush.faded(opacity, painted)
    else:
        painted(brush, opacity)
