"""An array: its pattern once for each copy, each faded as a whole."""

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush, Level


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the copies that there are, the first one lowest."""
    count = round(brush.number(node, "count"))
    if not count:
        return
    first = brush.element * node.fixed["copies"]
    turned, moved, fades = (
        _of_frame(brush, node.channels[name], first, count) for name in ("turned", "moved", "faded")
    )
    opaque = np.clip(fades[:, 0], 0.0, 1.0)
    there = (opaque != 0) & (turned[:, 0] * turned[:, 3] - turned[:, 1] * turned[:, 2] != 0)
    ordered = np.arange(count)
    if "order" in node.channels:
        ordered = np.rint(_of_frame(brush, node.channels["order"], first, count)[:, 0]).astype(np.int64)
    drawn = ordered[there[ordered]]
    # What fades as a whole and is one thing fades by itself.
    alone = len(node.nodes) == 1
    marked = brush.marks(node)

    def pattern(brush: Brush, share: float = 1.0) -> None:
        for inner in node.nodes:
            brush.draw(brush, inner, share)

    def copies(brush: Brush) -> None:
        canvas, levels, around = brush.canvas, brush.levels, brush.element
        lists = (turned[drawn].tolist(), moved[drawn].tolist(), opaque[drawn].tolist(), (drawn + first).tolist())
        for (a, b, c, d), (e, f), share, element in zip(*lists, strict=True):
            canvas.save()
            canvas.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
            brush.element = element
            if marked:
                brush.levels = *levels, Level(canvas.getTotalMatrix(), element)
            if alone:
                pattern(brush, share)
            else:
                brush.faded(share, pattern)
            canvas.restore()
        brush.levels, brush.element = levels, around

    brush.faded(opacity, copies)


def _of_frame(brush: Brush, channel: Channel, first: int, count: int) -> NDArray[np.float64]:
    """A channel's numbers at the frame, of so many copies from the first on: (copies, width)."""
    row = channel.rows[brush.frame if channel.rows.shape[0] > 1 else 0].reshape(channel.each, channel.width)
    some = row[first : first + count] if channel.each > 1 else np.broadcast_to(row, (count, channel.width))
    return some.astype(np.float64)
