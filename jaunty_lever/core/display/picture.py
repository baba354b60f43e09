"""A picture about its own middle, and what lies beyond its edge."""

from collections.abc import Mapping
from typing import Any

from ..document.layers import PictureLayer
from .building import Building
from .channels import Channel, ChannelSpec
from .node import DisplayNode

KIND = "picture"
DRAWS = (PictureLayer,)
CHANNELS = {
    "beyond": ChannelSpec(1, "what lies beyond its edge: 0 nothing, 1 the picture again, 2 mirrored"),
    "plane": ChannelSpec(
        9, "where it lies in depth: what its matrix does not tell, from x y 1 to x′w y′w w, in its own coordinates"
    ),
}
FIXED = {"picture": "its id", "size": "width and height in pixels"}


def parts(
    builder: Building, layer: PictureLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    channels = {"beyond": builder.channel(f"{layer.id}.beyond")}
    return channels, {"picture": layer.picture, "size": [layer.width, layer.height]}, ()
