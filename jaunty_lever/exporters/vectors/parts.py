"""What all writers of vectors need of a display list: how closely to follow it, its numbers, its pictures."""

import base64

import numpy as np

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.pictures import Picture

from .tracks import Rows

PIXEL, SHARE = 0.16, 0.002
"""By how much keys may stray: px, and shares of 1."""
IDENTITY = np.array([[1.0, 0, 0, 1, 0, 0]])

_KINDS = ((b"\x89PNG", "png"), (b"RIFF", "webp"), (b"GIF8", "gif"))


def rows_of(channel: Channel, element: int, count: int) -> Rows:
    """A channel's numbers of one element over the first `count` frames, (count or 1, width)."""
    rows = channel.rows[:count]
    if channel.each > 1:
        rows = rows[:, element * channel.width : (element + 1) * channel.width]
    made = rows.astype(np.float64)
    return made[:1] if len(made) > 1 and bool(np.all(made == made[0])) else made


def reach_of(node: DisplayNode) -> float:
    """How far from a node's own origin anything in it lies at any frame, in its own px, about; remembered on the node."""
    known: float | None = node.__dict__.get("_reach")
    if known is None:
        known = node.__dict__["_reach"] = _reach(node)
    return known


def inner_reach(node: DisplayNode) -> float:
    """The same of what lies inside a node."""
    far = 0.0
    for inner in node.nodes:
        matrix = inner.channels["matrix"].rows.reshape(-1, 6)
        size = float(np.abs(matrix[:, :4]).max(initial=0.0))
        far = max(far, float(np.abs(matrix[:, 4:]).max(initial=0.0)) + size * reach_of(inner))
    return far


def _reach(node: DisplayNode) -> float:
    far = inner_reach(node)
    for name, channel in node.channels.items():
        if name.startswith("points.") and channel.rows.size:
            far = max(far, float(np.abs(channel.rows).max()))
    if node.kind == "picture":
        far = max(node.fixed["size"]) / 2
    if node.kind == "array" and "moved" in node.channels and node.channels["moved"].rows.size:
        turned = float(np.abs(node.channels["turned"].rows).max())
        far = float(np.abs(node.channels["moved"].rows).max()) + turned * far
    return far


def data_uri(picture: Picture) -> str:
    """A picture as an address that holds it."""
    begins = base64.b64decode(picture.data[:16])
    kind = next((kind for sign, kind in _KINDS if begins.startswith(sign)), "jpeg")
    return f"data:image/{kind};base64,{picture.data}"
