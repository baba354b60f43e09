"""A clip about its own middle, at the frame that it shows."""

from collections.abc import Mapping
from typing import Any

from ..document.layers import ClipLayer
from ..evaluation.clips import PLAYS, frames_shown
from .building import Building
from .channels import Channel, ChannelSpec
from .node import DisplayNode

KIND = "clip"
DRAWS = (ClipLayer,)
CHANNELS = {
    "frame": ChannelSpec(1, "which frame of the clip is shown, counted from 0; −1 for none"),
    "plane": ChannelSpec(
        9, "where it lies in depth: what its matrix does not tell, from x y 1 to x′w y′w w, in its own coordinates"
    ),
}
FIXED = {"clip": "its id", "size": "width and height in pixels", "frames": "how many frames it has"}


def parts(
    builder: Building, layer: ClipLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""

    def work() -> Channel:
        return builder.laid(frames_shown(builder.sampler, layer, builder.samples)[..., None].astype(float))

    timing = layer.timing
    frame = builder.remembered(f"clip {timing.tick} {timing.runs}", [f"{layer.id}.{name}" for name in PLAYS], work)
    return {"frame": frame}, {"clip": layer.clip, "size": [layer.width, layer.height], "frames": timing.frames}, ()
