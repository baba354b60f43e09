"""A picture about its own middle, and what lies beyond its edge."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..document.layers import PictureLayer
from .channels import Channel, ChannelSpec
from .node import DisplayNode

if TYPE_CHECKING:
    from .builder import Builder

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
    builder: "Builder", layer: PictureLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    channels = {"beyond": builder.channel(f"{layer.id}.beyond")}
    return channels, {"picture": layer.picture, "size": [layer.width, layer.height]}, ()
