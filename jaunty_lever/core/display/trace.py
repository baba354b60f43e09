"""A trace: lines over the whole scene, of which a part is seen at each frame."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..document.layers import TraceLayer
from ..evaluation.traces import traced
from .building import Building
from .channels import Channel, ChannelSpec, channel
from .node import DisplayNode

KIND = "trace"
DRAWS = (TraceLayer,)
CHANNELS = {
    "points": ChannelSpec(None, "x y of the vertices of all lines, one line after the other"),
    "part": ChannelSpec(None, "for each line, between which of its vertices it is seen, as fractions: from, to"),
    "stroke": ChannelSpec(4, "r g b a, 0..1"),
    "width": ChannelSpec(1, "of the stroke, px, where it is newest"),
    "taper": ChannelSpec(1, "0..1: by how much it is thinner where it is oldest"),
    "fade": ChannelSpec(1, "0..1: by how much it is clearer where it is oldest"),
    "closed": ChannelSpec(1, "1 where the newest end is joined with the oldest"),
}
FIXED = {"lines": "for each line, its first vertex and how many it has"}


def parts(
    builder: Building, layer: TraceLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    sampler, samples = builder.sampler, builder.samples
    made = traced(sampler, layer)
    now = samples.times if samples.times.ndim == 1 else samples.times[0]
    back = np.broadcast_to(sampler.evaluate(f"{layer.id}.seconds", samples)[0, :, 0], now.shape)
    since = np.where(back > 0, now - back, 0.0)
    seen = made.parts(since, now)
    fixed = {"lines": np.stack([made.first, made.count], axis=1).tolist()}
    at = layer.id
    return (
        {
            "points": channel(made.points.reshape(1, -1)),
            "part": channel(seen.reshape(len(now), -1)),
            "stroke": builder.channel(f"{at}.stroke"),
            "width": builder.channel(f"{at}.stroke_width"),
            "taper": builder.channel(f"{at}.taper", 0.01),
            "fade": builder.channel(f"{at}.fade", 0.01),
            "closed": builder.channel(f"{at}.closed"),
        },
        fixed,
        (),
    )
