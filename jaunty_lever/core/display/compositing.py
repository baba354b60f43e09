"""Blend, filters and matte of a node, as channels and plain data."""

from typing import Any

import numpy as np

from ..document import compositing as c
from ..document.base_layer import BaseLayer
from ..document.layers import ArrayLayer
from ..document.limits import MOST_BLUR
from ..document.specs import specs_of
from ..evaluation.cache import Fault
from .building import Building
from .channels import Channel
from .node import DisplayNode

Floats = np.ndarray[Any, np.dtype[np.float64]]

_BLUR, _MATRIX, _SHADOW = "blur", "matrix", "shadow"
_SATURATION = np.array([0.213, 0.715, 0.072])
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_SEPIA = np.array([[0.393, 0.769, 0.189], [0.349, 0.686, 0.168], [0.272, 0.534, 0.131]])
_HUE_COS = np.array([[0.787, -0.715, -0.072], [-0.213, 0.285, -0.072], [-0.213, -0.715, 0.928]])
_HUE_SIN = np.array([[-0.213, -0.715, 0.928], [0.143, 0.140, -0.283], [-0.787, 0.715, 0.072]])


def is_composited(layer: BaseLayer) -> bool:
    """Whether a layer is more than laid down as it is."""
    blend = layer.blend
    return bool(layer.filters) or layer.matte is not None or blend.moves or blend.constant_value != "normal"


def composited(builder: Building, layer: BaseLayer) -> tuple[dict[str, Channel], dict[str, Any], DisplayNode | None]:
    """Channels and fixed data of a layer's blend, filters and matte, and the node of its matte; nothing where it has
    none."""
    channels: dict[str, Channel] = {}
    fixed: dict[str, Any] = {}
    if layer.blend.moves or layer.blend.constant_value != "normal":
        channels["blend"] = builder.channel(f"{layer.id}.blend")
    made = [_filter(builder, one) for one in layer.filters if not one.bypassed]
    if made:
        fixed["filters"] = [kind for kind, _ in made]
        channels |= {f"filter.{k}": numbers for k, (_, numbers) in enumerate(made)}
    index = builder.sampler.index
    if layer.matte is None or layer.matte.layer not in index.layers:
        return channels, fixed, None
    channels |= {f"matte_{name}": builder.channel(f"{layer.id}.matte.{name}") for name in ("by", "backwards")}
    depth = len(index.arrays.get(layer.matte.layer, ()))
    return channels, {**fixed, "matte_depth": depth}, _matte(builder.outside(depth), layer.matte.layer)


def _matte(builder: Building, layer: str) -> DisplayNode:
    """The node of a matte, in the groups that it stands in."""
    index, groups = builder.sampler.index, list[str]()
    here = index.parents[layer]
    while here is not None and not isinstance(index.layers[here], ArrayLayer):
        groups.append(here)
        here = index.parents[here]
    builders = [builder.base]
    for group in reversed(groups):
        builders.append(builders[-1].inside(group))
    node = builders[-1].node(index.layers[layer])
    for group, own in zip(groups, reversed(builders[:-1]), strict=True):
        channels = {"matrix": own.matrix(group), "opacity": own.channel(f"{group}.opacity", 0.01)}
        node = DisplayNode("group", group, channels, {}, (node,))
    return node


def _filter(builder: Building, one: c.Filter) -> tuple[str, Channel]:
    decides = [f"{one.id}.{name}" for name in specs_of(type(one))]
    kind = {c.Blur: _BLUR, c.DropShadow: _SHADOW}.get(type(one), _MATRIX)
    made = builder.remembered(f"filter {one.kind}", decides, lambda: builder.laid(_numbers(builder, one)))
    return kind, made


def _numbers(builder: Building, one: c.Filter) -> Floats:
    """A filter's channel: (elements or 1, times or 1, numbers)."""
    sampler, samples = builder.sampler, builder.samples
    values = {name: np.nan_to_num(sampler.evaluate(f"{one.id}.{name}", samples)) for name in specs_of(type(one))}
    if isinstance(one, c.Blur | c.DropShadow):
        radius = values["radius"]
        wide = radius > MOST_BLUR
        if wide.any():
            first = samples.rows[np.flatnonzero(np.broadcast_to(wide[..., 0], samples.shape))].min()
            message = f"A blur is at most {MOST_BLUR:,} px; here it would be {radius.max():,.0f}"
            sampler.note(Fault(f"{one.id}.radius", "", message, float(first)))
        radius = np.clip(radius, 0, MOST_BLUR)
        if isinstance(one, c.Blur):
            return radius
        return _side_by_side(values["offset"], radius, values["colour"])
    return _matrix(one, values)


def _side_by_side(*parts: Floats) -> Floats:
    shape = np.broadcast_shapes(*(part.shape[:2] for part in parts))
    return np.concatenate([np.broadcast_to(part, (*shape, part.shape[2])) for part in parts], axis=2)


def _matrix(one: c.Filter, values: dict[str, Floats]) -> Floats:
    """The colour matrix of a filter, 4 rows of 5: components that are not premultiplied, 0..1."""
    turn, shift = _linear(one, values)
    shape = turn.shape[:2]
    made = np.zeros((*shape, 4, 5))
    made[..., :3, :3] = turn
    made[..., :3, 4] = shift
    made[..., 3, 3] = 1
    return made.reshape(*shape, 20)


def _linear(one: c.Filter, values: dict[str, Floats]) -> tuple[Floats, Floats]:
    """What a colour filter multiplies by (…, 3, 3), and adds (…, 3)."""
    unit, none = np.eye(3), np.zeros(3)
    if isinstance(one, c.HueRotate):
        turn = np.deg2rad(values["angle"])[..., None]
        made = np.tile(_SATURATION, (3, 1)) + np.cos(turn) * _HUE_COS + np.sin(turn) * _HUE_SIN
        return made, np.broadcast_to(none, (*made.shape[:2], 3))
    amount = np.maximum(values["amount"] / 100, 0)
    a = amount[..., None]
    if isinstance(one, c.Brightness):
        return a * unit, amount * none
    if isinstance(one, c.Contrast):
        return a * unit, (0.5 - 0.5 * amount) * np.ones(3)
    if isinstance(one, c.Saturate):
        grey = np.tile(_SATURATION, (3, 1))
        return grey + a * (unit - grey), amount * none
    # The others lie between leaving all as it is and their whole.
    amount, a = np.minimum(amount, 1), np.minimum(a, 1)
    if isinstance(one, c.Invert):
        return (1 - 2 * a) * unit, amount * np.ones(3)
    if isinstance(one, c.TwoColours):
        parts = np.broadcast_arrays(values["dark"][..., :3], values["light"][..., :3])
        dark, light = parts
        whole = (light - dark)[..., :, None] * _LUMINANCE
        return unit + a * (whole - unit), amount * dark
    full = np.tile(_LUMINANCE, (3, 1)) if isinstance(one, c.Grayscale) else _SEPIA
    return unit + a * (full - unit), amount * none
