"""Outlines of shape layers over the frames."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..document.layers import Path, ShapeLayer, Text
from ..document.limits import MOST_DRAWN_LETTERS
from ..document.specs import specs_of
from ..evaluation.cache import Fault
from ..geometry.outline import Outline
from ..geometry.paths import path_outline
from ..geometry.shapes import SHAPES
from ..geometry.text import text_outline
from .channels import Channel, channel

if TYPE_CHECKING:
    from .builder import Builder


@dataclass(frozen=True)
class Variants:
    """Outlines that take turns: their verbs, their points, and which of them stands at each frame."""

    verbs: tuple[str, ...]
    points: tuple[Channel, ...]
    which: Channel


def variants_of(builder: "Builder", layer: ShapeLayer, names: list[str]) -> Variants:
    """One outline for each combination of the whole-number settings that comes up."""
    if isinstance(layer, Path):
        outlines = [path_outline(layer.data)]
        which = np.zeros(1, dtype=np.int64)
    else:
        specs = specs_of(type(layer))
        values = {
            n: builder.sampler.track(f"{layer.id}.{n}", builder.samples) for n in names if specs[n].kind != "text"
        }
        texts: tuple[str, ...] = ()
        if isinstance(layer, Text):
            texts, index = builder.sampler.texts(f"{layer.id}.text", builder.samples)
            values["text"] = index[:, None].astype(np.float64)
            _tell_long(builder, layer, texts, index)
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
    spread = _spread(outlines, which)
    return Variants(
        tuple(outline.verbs for outline in spread),
        tuple(channel(outline.points) for outline in spread),
        channel(which[:, None].astype(np.float64)),
    )


def _tell_long(builder: "Builder", layer: Text, texts: tuple[str, ...], index: NDArray[np.int64]) -> None:
    long = np.array([len(text) > MOST_DRAWN_LETTERS for text in texts])
    if long.any():
        first = int(np.argmax(long[np.broadcast_to(index, builder.samples.times.shape)]))
        message = f"Only the first {MOST_DRAWN_LETTERS:,} letters of the text are drawn"
        builder.sampler.note(Fault(f"{layer.id}.text", "", message, float(builder.samples.times[first])))


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
