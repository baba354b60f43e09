"""A shape: outlines with a fill and a stroke. Fill and stroke fade as one."""

from collections.abc import Mapping
from typing import Any

from ..document.edge import Edge
from ..document.fills import ConicFill, LinearFill, RadialFill, SolidFill
from ..document.layers import ShapeLayer
from ..document.line_style import MITER_LIMIT, LineStyle
from ..document.specs import specs_of
from ..evaluation.lines import PART, is_parted, is_ribbon
from ..evaluation.structure import outline_names, outline_written, points_written, way_parameters
from .building import Building
from .channels import Channel, ChannelSpec
from .node import DisplayNode
from .outlines import dash_of, drawn_of, focus_of, part_of, shell_colour

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
    "centre": ChannelSpec(2, "x y of a radial or conic gradient"),
    "radius": ChannelSpec(1, "of a radial gradient, px"),
    "focus": ChannelSpec(
        2, "x y from its centre where a radial gradient begins, held within its radius; its centre where there is none"
    ),
    "angle": ChannelSpec(1, "where a conic gradient begins, degrees clockwise from the top"),
    "line": ChannelSpec(
        None, "line.k: the points of what is stroked, by line_verbs k, where that is not the outline itself"
    ),
    "line_which": ChannelSpec(1, "the number of the line that stands at each frame"),
    "part": ChannelSpec(
        4,
        "which part of its outlines the lines are: from, to and moved on by, shares of the length, and 1 where "
        "each contour"
        " by itself; for those who take it out as such",
    ),
    "dash": ChannelSpec(
        3, "of the stroke, px: a dash, a gap, and how far into the two it begins; where the dash is 0 it is whole"
    ),
    "cap": ChannelSpec(1, "the ends of the stroke: 0 round, 1 butt, 2 square; round where there is none"),
    "join": ChannelSpec(1, "its corners: 0 round, 1 miter, 2 bevel; round where there is none"),
    "miter": ChannelSpec(1, "how far a miter reaches, in widths; 10 where there is none"),
    "inner": ChannelSpec(None, "inner.j.k: the same as points.k, of shell j, counted from the outermost in"),
    "inner_colour": ChannelSpec(4, "inner_colour.j: r g b a of shell j; clear where it is not there"),
}
FIXED = {
    "verbs": "for each outline, its verbs: M moves and L draws to a point, Q and C curve through 2 and 3 "
    "points, Z closes",
    "fill": "none, solid, linear, radial or conic",
    "stops": "how many stops a gradient has",
    "line_verbs": "the verbs of each line, where it is not the outline itself",
    "ribbon": "true where the lines are what is filled, with the stroke's colour: their width changes along them",
    "shell_verbs": "the verbs of each outline of a shell, where they are not those of the outline itself",
    "shells": "how many shells are filled inside it, over its fill and under its stroke; 0 is left out",
}


def parts(
    builder: Building, layer: ShapeLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    names, more = outline_names(layer), way_parameters(builder.sampler.index, layer)
    what = f"outline {layer.kind} {outline_written(layer)}"
    decides = [*(f"{layer.id}.{name}" for name in names), *more]
    if layer.edge is not None:
        what += points_written(builder.sampler.index, layer)
        decides += [f"{layer.id}.edge.{name}" for name in specs_of(Edge)]
    if is_parted(layer) or is_ribbon(layer):
        decides += [f"{layer.id}.line.{name}" for name in specs_of(LineStyle)]
    if is_ribbon(layer):
        decides.append(f"{layer.id}.stroke_width")
    what += f" {is_parted(layer)} {is_ribbon(layer)}"
    found, shells, line = builder.remembered(what, decides, lambda: drawn_of(builder, layer))
    channels = {f"points.{k}": points for k, points in enumerate(found.points)} | {"which": found.which}
    stroke = {"stroke": builder.channel(f"{layer.id}.stroke"), "width": builder.channel(f"{layer.id}.stroke_width")}
    paint, fixed = _paint(builder, layer)
    fixed["verbs"] = list(found.verbs)
    if shells:
        fixed["shells"] = len(shells)
        for j, shell in enumerate(shells):
            channels |= {f"inner.{j}.{k}": points for k, points in enumerate(shell.points)}
            channels[f"inner_colour.{j}"] = shell_colour(builder, layer, j)
    if layer.line is not None:
        names = ["cap", "join"]
        if layer.line.miter.moves or layer.line.miter.constant_value != MITER_LIMIT:
            names.append("miter")
        channels |= {name: builder.channel(f"{layer.id}.line.{name}") for name in names}
        if not is_ribbon(layer) and (layer.line.dash.moves or layer.line.dash.constant_value):
            own = [f"{layer.id}.line.{name}" for name in specs_of(LineStyle)]
            channels["dash"] = builder.remembered(f"dash {what}", [*decides, *own], lambda: dash_of(builder, layer))
    if is_ribbon(layer):
        fixed["ribbon"] = True
    if line is not None:
        fixed["line_verbs"] = list(line.verbs)
        channels |= {f"line.{k}": points for k, points in enumerate(line.points)} | {"line_which": line.which}
    if is_parted(layer) and not is_ribbon(layer):
        own = [f"{layer.id}.line.{name}" for name in PART]
        channels["part"] = builder.remembered("part", own, lambda: part_of(builder, layer))
    return channels | stroke | paint, fixed, ()


def _paint(builder: Building, layer: ShapeLayer) -> tuple[dict[str, Channel], dict[str, Any]]:
    fill, at = layer.fill, f"{layer.id}.fill"
    if isinstance(fill, SolidFill):
        return {"colour": builder.channel(f"{at}.colour")}, {"fill": "solid"}
    if isinstance(fill, LinearFill):
        ends = {name: builder.channel(f"{at}.{name}") for name in ("start", "end")}
    elif isinstance(fill, ConicFill):
        ends = {name: builder.channel(f"{at}.{name}") for name in ("centre", "angle")}
    elif isinstance(fill, RadialFill):
        ends = {name: builder.channel(f"{at}.{name}") for name in ("centre", "radius")}
        if fill.focus.moves or fill.focus.constant_value != (0.0, 0.0):
            names = [f"{at}.focus", f"{at}.radius"]
            ends["focus"] = builder.remembered("focus", names, lambda: focus_of(builder, layer))
    else:
        return {}, {"fill": "none"}
    for k, stop in enumerate(fill.stops):
        ends[f"offset.{k}"] = builder.channel(f"{stop.id}.offset", 0.01)
        ends[f"colour.{k}"] = builder.channel(f"{stop.id}.colour")
    return ends, {"fill": fill.kind, "stops": len(fill.stops)}
