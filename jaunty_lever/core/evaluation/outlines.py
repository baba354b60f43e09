"""Outlines of shape layers, over elements and times."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document.layers import ArrayLayer, Path, ShapeLayer, Text
from ..document.limits import MOST_DRAWN_LETTERS
from ..document.specs import specs_of
from ..geometry.corners import rounded
from ..geometry.faces import lacking
from ..geometry.letters import parts_of, placed
from ..geometry.outline import Floats, Outline
from ..geometry.paths import path_outline
from ..geometry.shapes import SHAPES
from ..geometry.text import text_outline
from .cache import Fault
from .sample_times import SampleTimes
from .sampling import Sampling
from .structure import outline_names, taken_apart, ways

_PART = "part"
"""The number of the part of a text that is taken apart, among the values that decide an outline."""


@dataclass(frozen=True)
class Outlines:
    """Outlines that take turns.

    `which` (elements or 1, times or 1) is the number of the one that stands in each sample, and each has its points in
    rows: one, or one for each entry of `which`, element after element.
    """

    each: tuple[Outline, ...]
    which: NDArray[np.int64]

    def points(self, number: int) -> Floats:
        """An outline's points, (elements or 1, times or 1, numbers)."""
        rows = self.each[number].points
        return rows[None] if rows.shape[0] == 1 else rows.reshape(*self.which.shape, -1)


def outlines_of(sampler: Sampling, layer: ShapeLayer, samples: SampleTimes) -> Outlines:
    """One outline for each combination of the whole-number settings that comes up."""
    if isinstance(layer, Path) and not layer.corner.moves and not layer.corner.constant_value:
        return Outlines((path_outline(layer.data),), np.zeros((1, 1), dtype=np.int64))
    specs = specs_of(type(layer))
    made = {n: sampler.evaluate(f"{layer.id}.{n}", samples) for n in outline_names(layer) if specs[n].kind != "text"}
    texts: tuple[str, ...] = ()
    if isinstance(layer, Text):
        texts, index = sampler.texts(f"{layer.id}.text", samples)
        words = index.reshape(1, 1) if index.size == 1 else index.reshape(*samples.shape)
        made["text"] = words[..., None].astype(np.float64)
        _tell_texts(sampler, samples, layer, texts, words)
    apart = taken_apart(sampler.index, layer)
    if apart is not None:
        numbers = np.zeros(1) if samples.elements is None else samples.elements.numbers.astype(np.float64)
        made[_PART] = numbers[:, None, None]
    shape = np.broadcast_shapes((1, 1), *(values.shape[:2] for values in made.values()))
    count = shape[0] * shape[1]
    values = {n: _in_rows(one, shape) for n, one in made.items()}
    # A weight that moves would need a variant per frame: whole tens of it look the same.
    if "weight" in values:
        values["weight"] = np.rint(values["weight"] / 10) * 10
    stepped = [n for n in values if n in ("weight", _PART) or specs[n].stepped]
    states, which = _states([np.rint(values[n]) for n in stepped])
    outlines = []
    for k in range(len(states)):
        chosen = np.flatnonzero(which == k)
        part = {n: v if v.shape[0] == 1 or len(which) == 1 else v[chosen] for n, v in values.items()}
        outlines.append(_part(sampler, apart, layer, part, texts) if apart else _outline(layer, part, texts))
    if len(outlines) > 1:
        outlines = [_spread(outline, which == k) for k, outline in enumerate(outlines)]
    points_shape = shape if count > 1 and (len(which) > 1 or any(o.points.shape[0] > 1 for o in outlines)) else (1, 1)
    return Outlines(tuple(outlines), np.broadcast_to(which, (points_shape[0] * points_shape[1],)).reshape(points_shape))


def _in_rows(values: Floats, shape: tuple[int, ...]) -> Floats:
    """Values (elements or 1, times or 1, components) as rows, one where they never vary."""
    if values.shape[:2] == (1, 1):
        first: Floats = values[0]
        return first
    return np.broadcast_to(values, (*shape, values.shape[2])).reshape(-1, values.shape[2])


def _tell_texts(
    sampler: Sampling, samples: SampleTimes, layer: Text, texts: tuple[str, ...], words: NDArray[np.int64]
) -> None:
    """Say which texts are too long to be drawn whole, and which letters no font has."""

    def tell(odd: list[bool], message: str) -> None:
        if any(odd):
            first = int(np.argmax(np.broadcast_to(np.array(odd)[words], samples.shape)))
            sampler.note(Fault(f"{layer.id}.text", "", message, float(samples.rows[first])))

    long = f"Only the first {MOST_DRAWN_LETTERS:,} letters of the text are drawn"
    tell([len(text) > MOST_DRAWN_LETTERS for text in texts], long)
    # Of a font that moves, the first is looked at: the shipped ones know the same letters.
    family = layer.typeface or str(layer.font.rest)
    none = [lacking(family, text[:MOST_DRAWN_LETTERS]) for text in texts]
    told = "".join(dict.fromkeys("".join(none)))
    shown = f"{told[:12]} …" if len(told) > 12 else told
    tell([bool(one) for one in none], f"The font has no “{shown}”; a box stands in its place")


def _states(columns: list[Floats]) -> tuple[Floats, NDArray[np.int64]]:
    """The distinct rows of columns (n or 1, 1) side by side, and which of them stands in each."""
    if not columns:
        return np.zeros((1, 0)), np.zeros(1, dtype=np.int64)
    count = max(len(column) for column in columns)
    rows = np.hstack([np.broadcast_to(column, (count, 1)) for column in columns])
    states, which = np.unique(rows, axis=0, return_inverse=True)
    return states, which.ravel()


def _spread(outline: Outline, mine: NDArray[np.bool_]) -> Outline:
    """An outline whose points have a row for each sample, so that a sample's row is its number."""
    if outline.points.shape[0] == 1:
        return outline
    rows = np.zeros((len(mine), outline.points.shape[1]))
    rows[mine] = outline.points
    return Outline(outline.verbs, rows)


def _part(
    sampler: Sampling, array: str, layer: ShapeLayer, values: dict[str, Floats], texts: tuple[str, ...]
) -> Outline:
    """One part of a text that an array takes apart, about its pivot."""
    around = sampler.index.layers[array]
    assert isinstance(layer, Text) and isinstance(around, ArrayLayer)
    by, pivot = ways(around)
    specs = specs_of(Text)
    family, align = (specs[n].options[int(values[n][0, 0])] for n in ("font", "align"))
    text, weight = texts[int(values["text"][0, 0])], float(values["weight"][0, 0])
    parts = parts_of(text, layer.typeface or family, weight, by)
    number = round(float(values[_PART][0, 0]))
    if not 0 <= number < len(parts):
        return Outline("", np.zeros((1, 0)))
    size, tracking, leading = (values[n][:, 0] for n in ("font_size", "tracking", "leading"))
    about, _ = placed(parts[number], align, pivot, size, tracking, leading)
    return Outline(parts[number].verbs, about)


def _outline(layer: ShapeLayer, values: dict[str, Floats], texts: tuple[str, ...]) -> Outline:
    if isinstance(layer, Path):
        return rounded(path_outline(layer.data), values["corner"][:, 0])
    if not isinstance(layer, Text):
        return SHAPES[layer.kind](values)
    specs = specs_of(Text)
    family, align = (specs[n].options[int(values[n][0, 0])] for n in ("font", "align"))
    size, tracking, leading = (values[n][:, 0] for n in ("font_size", "tracking", "leading"))
    return text_outline(
        texts[int(values["text"][0, 0])],
        layer.typeface or family,
        float(values["weight"][0, 0]),
        align,
        size,
        tracking,
        leading,
    )
