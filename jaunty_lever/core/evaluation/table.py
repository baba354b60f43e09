"""Frame tables: everything that is needed to draw a scene's frames, and nothing more.

A table is a tree of drawn layers whose values are channels. A channel has one row (it does not vary) or a
row per frame, and carries the hash of its content, so that whoever has it already need not get it again.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.index import parameters_of
from ..document.layers import BaseLayer, Group, LinearFill, Path, PictureLayer, RadialFill, ShapeLayer, SolidFill, Text
from ..document.limits import MOST_DRAWN_LETTERS
from ..document.specs import specs_of
from ..geometry.matrices import layer_matrix, product
from ..geometry.outline import Outline
from ..geometry.paths import path_outline
from ..geometry.shapes import SHAPES
from ..geometry.text import text_outline
from .cache import Fault
from .sample_times import SampleTimes
from .sampler import Result, Sampler

Rows = NDArray[np.float32]

_PLACING = set(specs_of(BaseLayer))
_NOT_SHAPE = _PLACING | {"stroke", "stroke_width"}


@dataclass(frozen=True)
class Channel:
    """float32 rows (1 or frames, width), and the hash of its content."""

    rows: Rows
    key: str


@dataclass(frozen=True)
class Variant:
    """An outline's verbs and the points that go with them."""

    verbs: str
    points: Channel


@dataclass(frozen=True)
class Drawn:
    """One layer of a frame table.

    matrix (6), opacity (0..1); a shape's outline as variants, of which `which` names the one for each
    frame; fill kind and channels; stroke colour and width; a group's layers; a picture's id, its size in pixels,
    and what lies beyond its edge (0 nothing, 1 repeated, 2 mirrored).
    """

    id: str
    matrix: Channel
    opacity: Channel
    variants: tuple[Variant, ...] = ()
    which: Channel | None = None
    fill: str = "none"
    paint: tuple[Channel, ...] = ()
    stroke: Channel | None = None
    stroke_width: Channel | None = None
    layers: tuple["Drawn", ...] | None = None
    picture: str | None = None
    size: tuple[int, int] = (0, 0)
    beyond: Channel | None = None


@dataclass(frozen=True)
class Table:
    """The drawn layers of one scene at some frames, from the lowest to the topmost."""

    width: int
    height: int
    frames: int
    background: Channel
    layers: tuple[Drawn, ...]

    def channels(self) -> dict[str, Channel]:
        """Every channel by its hash."""
        return {channel.key: channel for channel in [self.background, *_channels(self.layers)]}


def channel(values: NDArray[np.float64]) -> Channel:
    """A channel of values (n or 1, width); one row when all rows are equal."""
    rows = np.ascontiguousarray(values, dtype=np.float32)
    if rows.shape[0] > 1 and bool(np.all(rows == rows[0])):
        rows = rows[:1]
    key = blake2b(rows.tobytes(), digest_size=12)
    key.update(repr(rows.shape).encode())
    return Channel(rows, key.hexdigest())


def frame_table(sampler: Sampler, samples: SampleTimes) -> Table:
    """The table of the sampler's scene at the given moments."""
    scene = sampler.scene
    maker = _Maker(sampler, samples)
    return Table(
        scene.width, scene.height, len(samples.times), maker.channel(f"{scene.id}.background"),
        tuple(maker.layer(layer) for layer in scene.layers if not layer.hidden),
    )  # fmt: skip


def world_matrix(sampler: Sampler, layer: str, samples: SampleTimes) -> NDArray[np.float64]:
    """The matrix from a layer's own coordinates to the stage, through all its groups; (n or 1, 6)."""
    values = _placing(sampler, layer, samples)
    parent = sampler.index.parents[layer]
    while parent is not None:
        values = product(_placing(sampler, parent, samples), values)
        parent = sampler.index.parents[parent]
    return values


def _placing(sampler: Sampler, layer: str, samples: SampleTimes) -> NDArray[np.float64]:
    position, rotation, scale, pivot = (
        sampler.track(f"{layer}.{name}", samples) for name in ("position", "rotation", "scale", "pivot")
    )
    return layer_matrix(position, rotation, scale, pivot)


def _size(made: Any) -> int:
    if isinstance(made, Drawn):
        channels = list(_channels((made,)))
    else:
        channels = [made] if isinstance(made, Channel) else [*(variant.points for variant in made[0]), made[1]]
    return sum(one.rows.nbytes + 200 for one in channels)


def _written(layer: BaseLayer) -> str:
    """What decides how a layer is drawn besides its parameters; remembered on the layer, which never changes."""
    known: str | None = layer.__dict__.get("_written")
    if known is None:
        fields = [getattr(layer, name, None) for name in ("id", "kind", "data", "picture", "width", "height")]
        fill = getattr(layer, "fill", None)
        known = layer.__dict__["_written"] = f"layer {fields} {fill and fill.kind}"
    return known


class _Maker:
    def __init__(self, sampler: Sampler, samples: SampleTimes) -> None:
        self.sampler, self.moments = sampler, samples

    def _remembered(self, what: str, parameters: Sequence[str], work: Callable[[], Result]) -> Result:
        """`work()`, remembered under everything upstream of the parameters it reads."""
        if self.moments.grid is None:
            return work()
        whole = blake2b(what.encode(), digest_size=16)
        for parameter in parameters:
            whole.update(self.sampler.upstream.key(parameter))
        made: Result = self.sampler.remembered(("table", whole.digest(), self.moments.grid), work, _size)
        return made

    def channel(self, parameter: str, factor: float = 1.0) -> Channel:
        made: Channel = self._remembered(
            f"{factor}", [parameter], lambda: channel(self.sampler.track(parameter, self.moments) * factor)
        )
        return made

    def layer(self, layer: BaseLayer) -> Drawn:
        """The layer as it is drawn. What has not changed in a large scene is found at once, whole."""
        if isinstance(layer, Group):
            return self._drawn(layer)
        return self._remembered(_written(layer), parameters_of(layer), lambda: self._drawn(layer))

    def _drawn(self, layer: BaseLayer) -> Drawn:
        own = [f"{layer.id}.{name}" for name in ("position", "rotation", "scale", "pivot")]
        matrix: Channel = self._remembered(
            "matrix", own, lambda: channel(_placing(self.sampler, layer.id, self.moments))
        )
        opacity = self.channel(f"{layer.id}.opacity", 0.01)
        if isinstance(layer, Group):
            inside = tuple(self.layer(child) for child in layer.layers if not child.hidden)
            return Drawn(layer.id, matrix, opacity, layers=inside)
        if isinstance(layer, PictureLayer):
            beyond = self.channel(f"{layer.id}.beyond")
            return Drawn(
                layer.id, matrix, opacity, picture=layer.picture, size=(layer.width, layer.height), beyond=beyond
            )
        assert isinstance(layer, ShapeLayer)
        names = [name for name in specs_of(type(layer)) if name not in _NOT_SHAPE]
        what = f"outline {layer.kind} {layer.data if isinstance(layer, Path) else ''}"
        variants, which = self._remembered(
            what, [f"{layer.id}.{n}" for n in names], lambda: self._outlines(layer, names)
        )
        fill, paint = self._paint(layer)
        return Drawn(
            layer.id, matrix, opacity, variants, which, fill, paint,
            self.channel(f"{layer.id}.stroke"), self.channel(f"{layer.id}.stroke_width"),
        )  # fmt: skip

    def _outlines(self, layer: ShapeLayer, names: list[str]) -> tuple[tuple[Variant, ...], Channel]:
        """One variant for each combination of the whole-number settings that comes up."""
        if isinstance(layer, Path):
            outlines = [path_outline(layer.data)]
            which = np.zeros(1, dtype=np.int64)
        else:
            specs = specs_of(type(layer))
            values = {n: self.sampler.track(f"{layer.id}.{n}", self.moments) for n in names if specs[n].kind != "text"}
            texts: tuple[str, ...] = ()
            if isinstance(layer, Text):
                texts, index = self.sampler.texts(f"{layer.id}.text", self.moments)
                values["text"] = index[:, None].astype(np.float64)
                self._tell_long(layer, texts, index)
            # A weight that moves would need a variant per frame: whole tens of it look the same.
            if "weight" in values:
                values["weight"] = np.rint(values["weight"] / 10) * 10
            stepped = [n for n in values if specs[n].stepped or n == "weight"]
            states, which = _states([np.rint(values[n]) for n in stepped])
            outlines = []
            for k in range(len(states)):
                chosen = np.flatnonzero(which == k)
                part = {n: v if v.shape[0] == 1 or len(which) == 1 else v[chosen] for n, v in values.items()}
                outlines.append(_outline(layer, part, texts))
        return tuple(Variant(o.verbs, channel(o.points)) for o in _spread(outlines, which)), channel(
            which[:, None].astype(np.float64)
        )

    def _tell_long(self, layer: Text, texts: tuple[str, ...], index: NDArray[np.int64]) -> None:
        long = np.array([len(text) > MOST_DRAWN_LETTERS for text in texts])
        if long.any():
            first = int(np.argmax(long[np.broadcast_to(index, self.moments.times.shape)]))
            message = f"Only the first {MOST_DRAWN_LETTERS:,} letters of the text are drawn"
            self.sampler.note(Fault(f"{layer.id}.text", "", message, float(self.moments.times[first])))

    def _paint(self, layer: ShapeLayer) -> tuple[str, tuple[Channel, ...]]:
        fill, at = layer.fill, f"{layer.id}.fill"
        if isinstance(fill, SolidFill):
            return "solid", (self.channel(f"{at}.colour"),)
        if isinstance(fill, LinearFill):
            ends = (self.channel(f"{at}.start"), self.channel(f"{at}.end"))
        elif isinstance(fill, RadialFill):
            ends = (self.channel(f"{at}.centre"), self.channel(f"{at}.radius"))
        else:
            return "none", ()
        stops = [self.channel(f"{s.id}.{n}", f) for s in fill.stops for n, f in (("offset", 0.01), ("colour", 1.0))]
        return fill.kind, (*ends, *stops)


def _states(columns: list[NDArray[np.float64]]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """The distinct rows of columns (n or 1, 1) side by side, and which of them stands at each moment."""
    if not columns:
        return np.zeros((1, 0)), np.zeros(1, dtype=np.int64)
    count = max(len(column) for column in columns)
    rows = np.hstack([np.broadcast_to(column, (count, 1)) for column in columns])
    states, which = np.unique(rows, axis=0, return_inverse=True)
    return states, which.ravel()


def _spread(outlines: list[Outline], which: NDArray[np.int64]) -> list[Outline]:
    """Outlines whose points have a row per frame of the whole table, so that a frame's row is its number."""
    if len(outlines) == 1:
        return outlines
    spread = []
    for k, outline in enumerate(outlines):
        points = outline.points
        if points.shape[0] > 1:
            rows = np.zeros((len(which), points.shape[1]))
            rows[which == k] = points
            points = rows
        spread.append(Outline(outline.verbs, points))
    return spread


def _outline(layer: ShapeLayer, values: dict[str, NDArray[np.float64]], texts: tuple[str, ...]) -> Outline:
    if not isinstance(layer, Text):
        return SHAPES[layer.kind](values)
    specs = specs_of(Text)
    family, align = (specs[n].options[int(values[n][0, 0])] for n in ("font", "align"))
    size, tracking, leading = (values[n][:, 0] for n in ("font_size", "tracking", "leading"))
    return text_outline(
        texts[int(values["text"][0, 0])], family, float(values["weight"][0, 0]), align, size, tracking, leading
    )


def _channels(layers: tuple[Drawn, ...]) -> Iterator[Channel]:
    for layer in layers:
        yield layer.matrix
        yield layer.opacity
        for variant in layer.variants:
            yield variant.points
        yield from (c for c in (layer.which, layer.stroke, layer.stroke_width, layer.beyond) if c is not None)
        yield from layer.paint
        yield from _channels(layer.layers or ())
