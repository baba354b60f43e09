"""An array: its pattern, drawn once for each copy."""

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from ..document.layers import ArrayLayer
from ..evaluation.placing import copy_placing
from ..evaluation.structure import copy_parameters
from ..evaluation.taking import copies_at, shown_at
from . import depth
from .building import Building
from .channels import Channel, ChannelSpec
from .node import DisplayNode
from .space import Space

KIND = "array"
DRAWS = (ArrayLayer,)
CHANNELS = {
    "count": ChannelSpec(1, "how many copies there are; those with higher numbers are not drawn"),
    "turned": ChannelSpec(4, "for each copy, a b c d from its own coordinates to those of the array"),
    "moved": ChannelSpec(2, "for each copy, e f"),
    "faded": ChannelSpec(1, "0..1, of each copy as a whole"),
    "order": ChannelSpec(1, "the numbers of the copies in the order in which they are drawn, where that is by depth"),
}
FIXED: dict[str, str] = {
    "copies": "how many copies of it there are at most in each copy of the array around it: copy i in that "
    "one's copy o has "
    "the number o · copies + i in the channels of this node that tell of copies, and of those inside it"
}


def parts(
    builder: Building, layer: ArrayLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    sampler, samples, at = builder.sampler, builder.samples, layer.id
    shown = copies_at(sampler, at, samples)
    elements = shown.elements
    assert elements is not None
    counts = sampler.layouts.count(at, samples)
    # Sparks come and go: as many stand side by side as are alive at once.
    many = len(elements) // (len(samples.elements) if samples.elements else 1)
    most = many if elements.when is None else int(counts.max(initial=0))
    alone = elements.when is not None and builder.whole_lives
    if alone:
        most = len(np.unique(elements.numbers))
        counts = np.full((1, 1), most)
    channels = {"count": builder.laid(counts[..., None].astype(np.float64))}
    copies = builder.beside(shown, most)
    if not len(elements):
        return channels, {"copies": 0}, ()

    space: Callable[[], Space] | None = None
    if not builder.deep:
        turned, moved = copies.remembered("copies", copy_parameters(at), lambda: copies.copies_placed(at))
    else:
        around = builder.space_of(at).within(elements)
        stood = depth.of_copies(copies, at, around)
        matrices = depth.matrix(stood, around) if at in builder.deep else copy_placing(sampler, at, copies.samples)
        turned, moved = copies.laid(matrices[..., :4]), copies.laid(matrices[..., 4:])
        if layer.by_depth and at in builder.deep:
            near = copies.laid(depth.nearness(stood))
            if near.each > 1:
                channels["order"] = depth.order_of(near, most, channels["count"])

        def space() -> Space:
            return stood

    channels |= {
        "turned": turned,
        "moved": moved,
        "faded": copies.laid(sampler.evaluate(f"{at}.copy_opacity", shown) * 0.01, rests=False)
        if alone
        else copies.channel(f"{at}.copy_opacity", 0.01),
    }
    inside = copies.within(shown_at(sampler, at, copies.samples), space)
    nodes = tuple(inside.node(child) for child in layer.layers if child.shown)
    return channels, {"copies": most}, nodes
