"""Outlines of shape layers, as channels."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..document.layers import ShapeLayer
from ..evaluation.outlines import outlines_of
from .channels import Channel

if TYPE_CHECKING:
    from .builder import Builder


@dataclass(frozen=True)
class Variants:
    """Outlines that take turns: their verbs, their points, and which of them stands at each frame."""

    verbs: tuple[str, ...]
    points: tuple[Channel, ...]
    which: Channel


def variants_of(builder: "Builder", layer: ShapeLayer) -> Variants:
    """One outline for each combination of the whole-number settings that comes up."""
    found = outlines_of(builder.sampler, layer, builder.samples)
    return Variants(
        tuple(outline.verbs for outline in found.each),
        tuple(builder.laid(found.points(k)) for k in range(len(found.each))),
        builder.laid(found.which[..., None].astype(np.float64)),
    )
