"""An array: its pattern once for each copy, each faded as a whole."""

from collections.abc import Callable
from functools import partial

import skia

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the copies that there are, the first one lowest."""
    count = round(brush.number(node, "count"))
    if not count:
        return
    first = brush.element * node.fixed["copies"]
    turned, moved, fades = (_of_frame(brush, node.channels[name]) for name in ("turned", "moved", "faded"))
    # What fades as a whole and is one thing fades by itself.
    alone = len(node.nodes) == 1
    marked = brush.marks(node)

    def copies(brush: Brush) -> None:
        canvas = brush.canvas
        order = _of_frame(brush, node.channels["order"]) if "order" in node.channels else None
        for k in range(first, first + count):
            element = k if order is None else first + round(order(k)[0])
            (a, b, c, d), (e, f), (alpha,) = turned(element), moved(element), fades(element)
            opaque = min(max(alpha, 0.0), 1.0)
            if opaque == 0 or a * d - b * c == 0:
                continue
            canvas.save()
            canvas.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
            brush.of_copy(element, marked).faded(
                1.0 if alone else opaque, partial(pattern, share=opaque if alone else 1.0)
            )
            canvas.restore()

    def pattern(copy: Brush, share: float) -> None:
        for inner in node.nodes:
            copy.draw(copy, inner, share)

    brush.faded(opacity, copies)


def _of_frame(brush: Brush, channel: Channel) -> Callable[[int], list[float]]:
    """A channel's numbers at the frame, element by element."""
    row: list[float] = channel.rows[brush.frame if channel.rows.shape[0] > 1 else 0].tolist()
    if channel.each == 1:
        return lambda element: row
    width = channel.width
    return lambda element: row[element * width : (element + 1) * width]
