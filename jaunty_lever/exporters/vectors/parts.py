"""What all writers of vectors need of a display list: how closely to follow it, its numbers, its pictures."""

import base64
from collections.abc import Iterator

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.channels import Channel, made_of
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.clips import Clip
from jaunty_lever.core.document.fills import ConicFill
from jaunty_lever.core.document.layers import ClipLayer, Group, PictureLayer, ShapeLayer, TextureLayer, TraceLayer
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.depth import in_depth
from jaunty_lever.drawing.footage import footage_of
from jaunty_lever.drawing.nodes.brush import Pictures

from .tracks import Rows

PIXEL, SHARE = 0.16, 0.002
"""By how much keys may stray: px, and shares of 1."""
IDENTITY = np.array([[1.0, 0, 0, 1, 0, 0]])

_SMALL = 100_000
"""Pixels of a frame of a clip that goes out without loss."""
_KINDS = ((b"\x89PNG", "png"), (b"RIFF", "webp"), (b"GIF8", "gif"))


def rows_of(channel: Channel, element: int, count: int) -> Rows:
    """A channel's numbers of one element over the first `count` frames, (count or 1, width)."""
    rows = channel.rows[:count]
    if channel.each > 1:
        rows = rows[:, element * channel.width : (element + 1) * channel.width]
    made = rows.astype(np.float64)
    return made[:1] if len(made) > 1 and bool(np.all(made == made[0])) else made


def reach_of(node: DisplayNode) -> float:
    """How far from a node's own origin anything in it lies at any frame, in its own px, about; remembered on the
    node."""
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
        if name.startswith(("points.", "inner.", "line.")) and channel.rows.size:
            far = max(far, float(np.abs(channel.rows).max()))
    if node.kind in ("picture", "clip"):
        far = max(node.fixed["size"]) / 2
    if node.kind == "array" and "moved" in node.channels and node.channels["moved"].rows.size:
        turned = float(np.abs(node.channels["turned"].rows).max())
        far = float(np.abs(node.channels["moved"].rows).max()) + turned * far
    return far


def drawn_order(node: DisplayNode, element: int, many: int) -> list[int]:
    """The numbers of what is in a group or array from the lowest up, as it is at first: vectors keep one order."""
    if "order" not in node.channels:
        return list(range(many))
    row = node.channels["order"].rows[0]
    first = element * many if len(row) > many else 0
    return [round(float(k)) for k in row[first : first + many]]


def is_plain(node: DisplayNode) -> bool:
    """Whether all that a shape draws has its own outline."""
    return "shells" not in node.fixed and "line_verbs" not in node.fixed


def layers_of(node: DisplayNode, parted: bool = False) -> tuple[DisplayNode, ...]:
    """A shape as plain shapes from the lowest up: its filling, its shells, its line; itself where they are all of its
    outline.

    With `parted`, a line that is a part of the outline is the whole of it, and marked as `parted`.
    """
    if is_plain(node):
        return (node,)
    many = node.fixed.get("shells", 0)
    fixed = {name: value for name, value in node.fixed.items() if name not in ("shells", "shell_verbs", "line_verbs")}
    nothing = made_of(np.zeros((1, 1), dtype=np.float32), 1)
    made = []
    if node.fixed["fill"] != "none":
        made.append(DisplayNode("shape", node.id, {**node.channels, "width": nothing}, fixed))
    for j in range(many):
        verbs = node.fixed.get("shell_verbs", node.fixed["verbs"])
        inside = {f"points.{k}": node.channels[f"inner.{j}.{k}"] for k in range(len(verbs))}
        own = {"colour": node.channels[f"inner_colour.{j}"], "width": nothing}
        made.append(
            DisplayNode(
                "shape", node.id, {**node.channels, **inside, **own}, {**fixed, "verbs": verbs, "fill": "solid"}
            )
        )
    if (node.channels["width"].rows > 0).any():
        lined = {**fixed, "fill": "none"}
        drawn = dict(node.channels)
        if parted and "part" in node.channels:
            lined["parted"] = True
        elif "line_verbs" in node.fixed:
            lined["verbs"] = node.fixed["line_verbs"]
            drawn |= {f"points.{k}": node.channels[f"line.{k}"] for k in range(len(lined["verbs"]))}
            drawn["which"] = node.channels["line_which"]
        if node.fixed.get("ribbon"):
            # Its width is in its outline: it is filled.
            del lined["ribbon"]
            lined["fill"] = "solid"
            drawn |= {"colour": node.channels["stroke"], "width": nothing}
        made.append(DisplayNode("shape", node.id, drawn, lined))
    return tuple(made)


def left_out_of(scene: Scene) -> Iterator[str]:
    """What no format of vectors has, in the artist's words."""
    for layer in scene.index.layers.values():
        if layer.blend.moves:
            yield f"The blend of {layer.name} stays as it is in the first frame."
        if isinstance(layer, Group) and layer.by_depth and layer.id in in_depth(scene):
            yield f"What is nearer in {layer.name} lies where it does in the first frame: vectors keep one order."
        if isinstance(layer, TextureLayer):
            yield f"{layer.name} stays as it is in the first frame: vectors have no textures that move."
        if isinstance(layer, ClipLayer):
            yield f"{layer.name} stays as it is in the first frame: vectors have no clips that play."
        if isinstance(layer, PictureLayer | ClipLayer | TextureLayer) and layer.id in in_depth(scene):
            yield (
                f"{layer.name} is slanted, but both its ends are equally large: vectors have no perspective "
                "of pictures."
            )
        if isinstance(layer, TraceLayer) and any(own.moves or own.constant_value for own in (layer.taper, layer.fade)):
            yield f"The line of {layer.name} is of one width and colour: vectors have no taper along a line."
        if layer.matte is not None and scene.index.parents[layer.id] is not None:
            yield f"{layer.name} shows everywhere: vectors keep a matte on layers that stand in no group."
        if isinstance(layer, ShapeLayer) and isinstance(layer.fill, ConicFill):
            yield f"The conic gradient of {layer.name} becomes one colour: vectors have none that go round."


def lines_of(node: DisplayNode, count: int) -> Iterator[tuple[Rows, Rows, Rows]]:
    """Each line of a trace: its vertices (v, 2), and at each frame from which length to which it is seen, px, (frames
    or 1, 1)."""
    points = rows_of(node.channels["points"], 0, count).reshape(-1, 2)
    part = rows_of(node.channels["part"], 0, count)
    for k, (first, many) in enumerate(node.fixed["lines"]):
        own = points[first : first + many]
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(own, axis=0).T))])
        begin, end = (np.interp(part[:, 2 * k + j], np.arange(many), along)[:, None] for j in (0, 1))
        yield own, begin, end


def png_uri(pixels: NDArray[np.uint8]) -> str:
    """Pixels (rows, columns, 4) as an address that holds them."""
    data = skia.Image.fromarray(np.ascontiguousarray(pixels), colorType=skia.kRGBA_8888_ColorType).encodeToData()
    return f"data:image/png;base64,{base64.b64encode(bytes(data)).decode()}"


def picture_uri(node: DisplayNode, element: int, footage: Pictures) -> tuple[str, str] | None:
    """What a picture shows, or a clip at first, as an address that holds it, and a name of its own; None where nothing
    is."""
    if node.kind == "picture":
        known = footage.get(node.fixed["picture"])
        return (data_uri(known), f"picture-{known.id}") if isinstance(known, Picture) else None
    clip, frame = footage.get(node.fixed["clip"]), round(float(rows_of(node.channels["frame"], element, 1)[0, 0]))
    image = footage_of(clip).frame(frame) if isinstance(clip, Clip) and frame >= 0 else None
    if image is None or not isinstance(clip, Clip):
        return None
    lossy = image.isOpaque() and image.width() * image.height() > _SMALL
    kind, form = ("jpeg", skia.EncodedImageFormat.kJPEG) if lossy else ("png", skia.EncodedImageFormat.kPNG)
    data = base64.b64encode(bytes(image.encodeToData(form, 92))).decode()
    return f"data:image/{kind};base64,{data}", f"{clip.id}-{frame}"


def data_uri(picture: Picture) -> str:
    """A picture as an address that holds it."""
    begins = base64.b64decode(picture.data[:16])
    kind = next((kind for sign, kind in _KINDS if begins.startswith(sign)), "jpeg")
    return f"data:image/{kind};base64,{picture.data}"
