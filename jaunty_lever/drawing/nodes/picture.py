"""A picture about its own middle, and what lies beyond its edge."""

import base64
from functools import lru_cache

import skia

from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.pictures import Picture

from .brush import Brush

_TILES = (skia.TileMode.kDecal, skia.TileMode.kRepeat, skia.TileMode.kMirror)
_FINE = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)


@lru_cache(maxsize=64)
def _decoded(picture: str, data: str) -> "skia.Image | None":
    return skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(base64.b64decode(data)))


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the picture; nothing when it is not among those at hand."""
    known = brush.pictures.get(node.fixed["picture"])
    image = _decoded(known.id, known.data) if isinstance(known, Picture) else None
    if image is None:
        return
    canvas = brush.canvas
    width, height = node.fixed["size"]
    canvas.translate(-width / 2, -height / 2)
    paint = skia.Paint(AntiAlias=True)
    paint.setAlphaf(opacity)
    beyond = round(brush.number(node, "beyond"))
    if beyond == 0:
        canvas.drawImageRect(image, skia.Rect.MakeWH(width, height), _FINE, paint)
        return
    paint.setShader(image.makeShader(_TILES[beyond], _TILES[beyond], _FINE))
    canvas.drawPaint(paint)
