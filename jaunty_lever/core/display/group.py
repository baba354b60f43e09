"""A group: nodes that move and fade as one."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..document.layers import Group
from . import depth
from .building import Building
from .channels import Channel, ChannelSpec, made_of
from .node import DisplayNode

KIND = "group"
DRAWS = (Group,)
CHANNELS = {
    "order": ChannelSpec(
        None, "the numbers of the nodes inside it in the order in which they are drawn, where that is by depth"
    )
}
FIXED: dict[str, str] = {}


def parts(builder: Building, layer: Group) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    inside, shown = builder.inside(layer.id), [child for child in layer.layers if child.shown]
    channels: dict[str, Channel] = {}
    if layer.by_depth and len(shown) > 1 and any(child.id in builder.deep for child in shown):
        near = np.broadcast_arrays(*(depth.nearness(inside.space_of(child.id)) for child in shown))
        # Side by side in a row stand the children, and all of them again for each copy.
        each = builder.laid(np.concatenate(near, axis=2))
        order = depth.order_of(each, len(shown))
        channels["order"] = made_of(order.rows, each.each)
    return channels, {}, tuple(inside.node(child) for child in shown)
