"""One frame of a frame table as a Skia picture, and as PNG."""

import base64
from collections.abc import Mapping
from functools import lru_cache

import numpy as np
import skia

from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.evaluation.table import Channel, Drawn, Table

Pictures = Mapping[str, Picture]


def _row(channel: Channel, frame: int) -> list[float]:
    rows = channel.rows
    values: list[float] = rows[frame if rows.shape[0] > 1 else 0].tolist()
    return values


def _colour(rgba: list[float]) -> skia.Color4f:
    return skia.Color4f(*(min(max(v, 0.0), 1.0) for v in rgba))


def _path(verbs: str, points: list[float]) -> skia.Path:
    path = skia.Path()
    path.setFillType(skia.PathFillType.kWinding)
    k = 0
    for verb in verbs:
        if verb == "M":
            path.moveTo(*points[k : k + 2])
            k += 2
        elif verb == "L":
            path.lineTo(*points[k : k + 2])
            k += 2
        elif verb == "Q":
            path.quadTo(*points[k : k + 4])
            k += 4
        elif verb == "C":
            path.cubicTo(*points[k : k + 6])
            k += 6
        else:
            path.close()
    return path


def _shader(layer: Drawn, frame: int) -> skia.Shader | None:
    stops = [_row(channel, frame) for channel in layer.paint[2:]]
    pairs = sorted(zip((s[0] for s in stops[::2]), stops[1::2], strict=True), key=lambda pair: pair[0])
    places = [min(max(place, 0.0), 1.0) for place, _ in pairs]
    colours = [_colour(colour).toColor() for _, colour in pairs]
    one, two = (_row(channel, frame) for channel in layer.paint[:2])
    if layer.fill == "linear":
        return skia.GradientShader.MakeLinear([skia.Point(*one), skia.Point(*two)], colours, places)
    return skia.GradientShader.MakeRadial(skia.Point(*one), max(two[0], 1e-3), colours, places)


@lru_cache(maxsize=64)
def _decoded(picture: str, data: str) -> "skia.Image | None":
    return skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(base64.b64decode(data)))


_TILES = (skia.TileMode.kDecal, skia.TileMode.kRepeat, skia.TileMode.kMirror)
_FINE = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)


def _picture(canvas: skia.Canvas, layer: Drawn, frame: int, opacity: float, pictures: Pictures) -> None:
    """A picture about its own middle, and what lies beyond its edge."""
    known = pictures.get(layer.picture or "")
    if known is None or layer.beyond is None:
        return
    image = _decoded(known.id, known.data)
    if image is None:
        return
    width, height = layer.size
    canvas.translate(-width / 2, -height / 2)
    paint = skia.Paint(AntiAlias=True)
    paint.setAlphaf(opacity)
    beyond = round(_row(layer.beyond, frame)[0])
    if beyond == 0:
        canvas.drawImageRect(image, skia.Rect.MakeWH(width, height), _FINE, paint)
        return
    paint.setShader(image.makeShader(_TILES[beyond], _TILES[beyond], _FINE))
    canvas.drawPaint(paint)


def _draw(canvas: skia.Canvas, layer: Drawn, frame: int, pictures: Pictures) -> None:
    opacity = min(max(_row(layer.opacity, frame)[0], 0.0), 1.0)
    if opacity == 0:
        return
    a, b, c, d, e, f = _row(layer.matrix, frame)
    if a * d - b * c == 0:
        return
    canvas.save()
    canvas.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
    if layer.layers is not None:
        if opacity < 1:
            canvas.saveLayerAlpha(None, round(opacity * 255))
        for child in layer.layers:
            _draw(canvas, child, frame, pictures)
        if opacity < 1:
            canvas.restore()
    elif layer.picture is not None:
        _picture(canvas, layer, frame, opacity, pictures)
    else:
        _shape(canvas, layer, frame, opacity)
    canvas.restore()


def _shape(canvas: skia.Canvas, layer: Drawn, frame: int, opacity: float) -> None:
    assert layer.which is not None and layer.stroke is not None and layer.stroke_width is not None
    variant = layer.variants[round(_row(layer.which, frame)[0])]
    path = _path(variant.verbs, _row(variant.points, frame))
    width = _row(layer.stroke_width, frame)[0]
    filled, stroked = layer.fill != "none", width > 0
    # Fill and stroke overlap by half the stroke: only together may they fade.
    both = filled and stroked and opacity < 1
    if both:
        canvas.saveLayerAlpha(None, round(opacity * 255))
        opacity = 1.0
    if filled:
        paint = skia.Paint(AntiAlias=True)
        if layer.fill == "solid":
            paint.setColor4f(_colour(_row(layer.paint[0], frame)))
        else:
            paint.setShader(_shader(layer, frame))
        paint.setAlphaf(paint.getAlphaf() * opacity)
        canvas.drawPath(path, paint)
    if stroked:
        paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width)
        paint.setStrokeCap(skia.Paint.kRound_Cap)
        paint.setStrokeJoin(skia.Paint.kRound_Join)
        paint.setColor4f(_colour(_row(layer.stroke, frame)))
        paint.setAlphaf(paint.getAlphaf() * opacity)
        canvas.drawPath(path, paint)
    if both:
        canvas.restore()


def draw(
    table: Table, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> skia.Image:
    """Frame number `frame` of the table (from its first); its background is left out when transparent.

    `pictures` are those that its picture layers show, by id.
    """
    width, height = (max(1, round(side * scale)) for side in (table.width, table.height))
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width, height))
    with surface as canvas:
        canvas.clear(skia.Color4f(0, 0, 0, 0) if transparent else _colour(_row(table.background, frame)))
        canvas.scale(width / table.width, height / table.height)
        for layer in table.layers:
            _draw(canvas, layer, frame, pictures or {})
    return surface.makeImageSnapshot()


def draw_png(
    table: Table, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> bytes:
    """The frame as PNG, sRGB, 8 bits a channel."""
    data = draw(table, frame, transparent, scale, pictures).encodeToData(skia.EncodedImageFormat.kPNG, 100)
    return bytes(data)


def pixels(
    table: Table, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> "np.ndarray":
    """The frame's pixels (height, width, 4), r, g, b, a in 0..255, not premultiplied."""
    array: np.ndarray = draw(table, frame, transparent, scale, pictures).toarray(colorType=skia.kRGBA_8888_ColorType)
    return array
