"""A shape: outlines with a fill and a stroke. Fill and stroke fade as one."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..document.layers import LinearFill, RadialFill, ShapeLayer, SolidFill
from ..evaluation.lettering import way_parameters
from ..evaluation.outlines import outline_names, written
from .channels import Channel, ChannelSpec
from .node import DisplayNode
from .outlines import Variants, variants_of

if TYPE_CHECKING:
    from .builder import Builder

KIND = "shape"
DRAWS = (ShapeLayer,)
CHANNELS = {
    "which": ChannelSpec(1, "the number of the outline that stands at each frame"),
    "points": ChannelSpec(None, "points.k: x y of each point of outline k, as its verbs take them"),
    "stroke": ChannelSpec(4, "r g b a, 0..1"),
    "width": ChannelSpec(1, "of the stroke, px; 0 draws none"),
    "colour": ChannelSpec(4, "r g b a, 0..1: of a solid fill; colour.k of the stop k of a gradient"),
    "offset": ChannelSpec(1, "offset.k: 0..1, of the stop k of a gradient"),
    "start": ChannelSpec(2, "x y where a linear gradient begins"),
    "end": ChannelSpec(2, "x y where a linear gradient ends"),
    "centre": ChannelSpec(2, "x y of a radial gradient"),
    "radius": ChannelSpec(1, "of a radial gradient, px"),
}
FIXED = {
    "verbs": "for each outline, its verbs: M moves and L draws to a point, Q and C curve through 2 and 3 points, Z closes",
    "fill": "none, solid, linear or radial",
    "stops": "how many stops a gradient has",
}


def parts(
    builder: "Builder", layer: ShapeLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    names, more = outline_names(layer), way_parameters(builder.sampler.index, layer)
    what = f"outline {layer.kind} {written(layer)}"
    found: Variants = builder.remembered(
        what, [*(f"{layer.id}.{name}" for name in names), *more], lambda: variants_of(builder, layer)
    )
    channels = {f"points.{k}": points for k, points in enumerate(found.points)} | {"which": found.which}
    stroke = {"stroke": builder.channel(f"{layer.id}.stroke"), "width": builder.channel(f"{layer.id}.stroke_width")}
    paint, fixed = _paint(builder, layer)
    return channels | stroke | paint, {"verbs": list(found.verbs), **fixed}, ()


def _paint(builder: "Builder", layer: ShapeLayer) -> tuple[dict[str, Channel], dict[str, Any]]:
    fill, at = layer.fill, f"{layer.id}.fill"
    if isinstance(fill, SolidFill):
        return {"colour": builder.channel(f"{at}.colour")}, {"fill": "solid"}
    if isinstance(fill, LinearFill):
        ends = {name: builder.channel(f"{at}.{name}") for name in ("start", "end")}
    elif isinstance(fill, RadialFill):
        ends = {name: builder.channel(f"{at}.{name}") for name in ("centre", "radius")}
    else:
        return {}, {"fill": "none"}
    for k, stop in enumerate(fill.stops):
        ends[f"offset.{k}"] = builder.channel(f"{stop.id}.offset", 0.01)
        ends[f"colour.{k}"] = builder.channel(f"{stop.id}.colour")
    return ends, {"fill": fill.kind, "stops": len(fill.stops)}
