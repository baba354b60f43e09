"""Where layers lie: their matrices, and those through all their groups."""

import numpy as np
from numpy.typing import NDArray

from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.matrices import layer_matrix, product


def world_matrix(sampler: Sampler, layer: str, samples: SampleTimes) -> NDArray[np.float64]:
    """The matrix from a layer's own coordinates to the stage, through all its groups; (n or 1, 6)."""
    values = placing(sampler, layer, samples)
    parent = sampler.index.parents[layer]
    while parent is not None:
        values = product(placing(sampler, parent, samples), values)
        parent = sampler.index.parents[parent]
    return values


def placing(sampler: Sampler, layer: str, samples: SampleTimes) -> NDArray[np.float64]:
    """The matrix from a layer's own coordinates to those of its parent; (n or 1, 6)."""
    position, rotation, scale, pivot = (
        sampler.track(f"{layer}.{name}", samples) for name in ("position", "rotation", "scale", "pivot")
    )
    return layer_matrix(position, rotation, scale, pivot)
