"""What all writers of vectors need of a display list: how closely to follow it, its numbers, its pictures."""

import base64

import numpy as np

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.document.pictures import Picture

from .tracks import Rows

PIXEL, SHARE = 0.2, 0.002
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


def data_uri(picture: Picture) -> str:
    """A picture as an address that holds it."""
    begins = base64.b64decode(picture.data[:16])
    kind = next((kind for sign, kind in _KINDS if begins.startswith(sign)), "jpeg")
    return f"data:image/{kind};base64,{picture.data}"
