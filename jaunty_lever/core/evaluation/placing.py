"""Where layers lie: their matrices, and those through all their groups and arrays."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..document.layers import ArrayLayer
from ..document.protocols import Values
from ..geometry.matrices import copy_matrix, layer_matrix, product
from .sample_times import SampleTimes
from .sampling import Sampling

Matrices = NDArray[np.float64]


def outwards(sampler: Sampling, layer: str, samples: SampleTimes) -> Iterator[tuple[str, bool, SampleTimes]]:
    """What a layer stands in, from the inside out: the copies of an array (its id, True) and then the array itself, or
    a group (its id, False); and the samples at which that is asked.

    What stands around a pattern is asked at the moments of its copies, whatever moments they show: so it is drawn.
    """
    parent = sampler.index.parents[layer]
    while parent is not None:
        if isinstance(sampler.index.layers[parent], ArrayLayer):
            samples = samples.outside(parent)
            yield parent, True, samples
        yield parent, False, samples
        parent = sampler.index.parents[parent]


def world_matrix(sampler: Sampling, layer: str, samples: SampleTimes) -> Matrices:
    """The matrix from a layer's own coordinates to the stage, through all around it; (elements or 1, times or 1, 6).

    Inside arrays it is that of the copies asked for, where these stand at the scene's time.
    """
    values = placing(sampler, layer, samples)
    for around, copies, then in outwards(sampler, layer, samples):
        values = product((copy_placing if copies else placing)(sampler, around, then), values)
    return values


def placing(sampler: Sampling, layer: str, samples: SampleTimes) -> Matrices:
    """The matrix from a layer's own coordinates to those of its parent; (elements or 1, times or 1, 6)."""
    position, rotation, scale, pivot = (
        sampler.evaluate(f"{layer}.{name}", samples) for name in ("position", "rotation", "scale", "pivot")
    )
    return layer_matrix(position, rotation, scale, pivot)


def copy_placing(sampler: Sampling, array: str, samples: SampleTimes) -> Matrices:
    """The matrix from a copy's own coordinates to those of its array; (elements or 1, times or 1, 6)."""
    return copy_matrix(*copy_parts(sampler, array, samples))


def copy_parts(sampler: Sampling, array: str, samples: SampleTimes) -> tuple[Values, Values, Values, Values, Values]:
    """What that matrix is made of, see `copy_matrix`; (elements or 1, times or 1, …) each."""
    moved, rotation, scale = (
        sampler.evaluate(f"{array}.{name}", samples) for name in ("copy_position", "copy_rotation", "copy_scale")
    )
    place, facing = (sampler.evaluate(f"{array}.{name}", samples) for name in ("place", "facing"))
    return place, moved, facing, rotation, scale
