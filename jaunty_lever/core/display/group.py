"""A group: nodes that move and fade as one."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..document.layers import Group
from .channels import Channel, ChannelSpec
from .node import DisplayNode

if TYPE_CHECKING:
    from .builder import Builder

KIND = "group"
DRAWS = (Group,)
CHANNELS: dict[str, ChannelSpec] = {}
FIXED: dict[str, str] = {}


def parts(builder: "Builder", layer: Group) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    return {}, {}, tuple(builder.node(child) for child in layer.layers if not child.hidden)
