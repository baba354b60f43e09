"""How much of the stage layers cover."""

import numpy as np

from ..document.layers import ArrayLayer, ClipLayer, Group, PictureLayer, ShapeLayer, TextureLayer
from ..geometry.matrices import applied
from .moved_outlines import drawn_outlines
from .placing import world_matrix
from .sample_times import SampleTimes
from .sampler import Sampler
from .taking import copies_at, shown_at

Box = tuple[float, float, float, float]


def extent_of(sampler: Sampler, layers: list[str], samples: SampleTimes) -> Box | None:
    """Left, top, right and bottom of what some layers cover on the stage at some samples, without strokes; None:
    nothing."""
    boxes = [box for layer in layers if (box := _extent(sampler, layer, samples)) is not None]
    if not boxes:
        return None
    left, top, right, bottom = zip(*boxes, strict=True)
    return min(left), min(top), max(right), max(bottom)


def _extent(sampler: Sampler, layer: str, samples: SampleTimes) -> Box | None:
    found = sampler.index.layers[layer]
    if isinstance(found, Group):
        if isinstance(found, ArrayLayer):
            samples = copies_at(sampler, layer, samples)
            if samples.elements is None or not len(samples.elements):
                return None
            samples = shown_at(sampler, layer, samples)
        return extent_of(sampler, [inner.id for inner in found.layers], samples)
    if isinstance(found, PictureLayer | ClipLayer):
        wide, high = found.width / 2, found.height / 2
        points = [np.array([[[-wide, -high, wide, -high, wide, high, -wide, high]]])]
    elif isinstance(found, TextureLayer):
        size = sampler.evaluate(f"{layer}.size", samples) / 2
        points = [np.concatenate([-size, size * [1, -1], size, size * [-1, 1]], axis=2)]
    elif isinstance(found, ShapeLayer):
        outlines = drawn_outlines(sampler, found, samples)[0]
        points = [outlines.points(k) for k in range(len(outlines.each))]
    else:
        return None
    matrix = world_matrix(sampler, layer, samples)
    boxes = []
    for some in points:
        if some.size:
            x, y = applied(matrix[:, :, None, :], some[..., 0::2], some[..., 1::2])
            boxes.append((float(x.min()), float(y.min()), float(x.max()), float(y.max())))
    if not boxes:
        return None
    left, top, right, bottom = zip(*boxes, strict=True)
    return min(left), min(top), max(right), max(bottom)
