"""Blocks and balls: what of them is seen, as shapes, shaded by the scene's light.

A block is the rim of what is seen of it in the colour of its front, with a shell for each of the others; a ball is a
disc with a radial fill, lightest where it faces the light. Their matrix faces the viewer; what is nearer about them is
in their points.
"""

from collections.abc import Mapping
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.space import Ball, Block, Solid
from ..geometry.outline import Floats
from ..geometry.solid import NEAREST, share_of_lens
from .building import Building
from .channels import Channel, channel
from .lighting import lit
from .node import DisplayNode
from .space import Space

KIND = "shape"
DRAWS = (Solid,)
CHANNELS: dict[str, Any] = {}
FIXED: dict[str, str] = {}

_FACE, _RIM = "MLLLLZ", "MLLLLLLZ"
"""Four corners, and six, and one more where the plane just before the viewer cuts one off."""
_ACROSS = ((2, 0, 1), (0, 1, 2), (1, 2, 0))
"""For each face that can be seen: the axis it faces, and those along it."""
_ROUND = 0.5522847498307936
"""How far the handles of a quarter of a circle reach, for a radius of 1."""
_STOPS = 6


def parts(builder: Building, layer: Solid) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    made, fixed = _block(builder, layer) if isinstance(layer, Block) else _ball(builder, layer)
    at = layer.id
    stroke = {"stroke": builder.channel(f"{at}.stroke"), "width": builder.channel(f"{at}.stroke_width")}
    return {"which": channel(np.zeros((1, 1))), **made, **stroke}, fixed, ()


def _values(builder: Building, layer: Solid, *names: str) -> list[Floats]:
    return [builder.sampler.evaluate(f"{layer.id}.{name}", builder.samples) for name in names]


def _block(builder: Building, layer: Solid) -> tuple[dict[str, Channel], dict[str, Any]]:
    colour, *sizes, stands = _values(builder, layer, "colour", "width", "height", "thickness", "stands")
    space = builder.space_of(layer.id)
    half = np.stack(np.broadcast_arrays(*(np.clip(size[..., 0] / 2, 0, 1e6) for size in sizes)), axis=-1)
    column, height = space.solid[..., :3], half[..., 1, None]
    centre = space.solid[..., 3] - np.where(stands >= 0.5, height, 0.0) * column[..., 1]
    faces, colours, signs = [], [], {}
    for axis, one, other in _ACROSS:
        normal = np.cross(column[..., one], column[..., other])
        size = np.linalg.norm(normal, axis=-1, keepdims=True)
        # Mirrored, the other way is outwards.
        outwards = np.sign((normal * column[..., axis]).sum(axis=-1, keepdims=True))
        normal = normal * outwards / np.where(size > 0, size, 1)
        along = half[..., axis, None] * column[..., axis]
        before = [
            (normal * _towards(space, centre + sign * along)).sum(axis=-1, keepdims=True) * sign for sign in (1, -1)
        ]
        sign = np.where(before[0] > 0, 1.0, np.where(before[1] > 0, -1.0, 0.0))
        signs[axis] = sign
        middle = centre + sign * along
        way = space.light[..., :3] - middle
        way = way / np.maximum(np.linalg.norm(way, axis=-1, keepdims=True), 1e-9)
        shade = lit(colour, (normal * sign * way).sum(axis=-1, keepdims=True), space.light)
        colours.append(np.where(sign != 0, shade, 0.0))
        a, b = half[..., one, None] * column[..., one], half[..., other, None] * column[..., other]
        corners = np.stack(np.broadcast_arrays(middle - a - b, middle + a - b, middle + a + b, middle - a + b), axis=-2)
        # What cannot be seen has no size.
        corners = np.where(sign[..., None] != 0, corners, middle[..., None, :])
        faces.append(_flattened(space, _before(space, corners)))
    clear = bool((colour[..., 3] < 1).any())
    lined = [face.reshape(*face.shape[:-2], -1) for face in faces]
    rim = _flattened(space, _before(space, _rim(centre, column, half, signs)))
    # Under the others lies all of it in the colour of the first face, so that no gap shows between them.
    made = {
        "points.0": builder.laid(lined[0] if clear else rim.reshape(*rim.shape[:-2], -1)),
        "colour": builder.laid(colours[0]),
    }
    for j in (0, 1):
        made |= {f"inner.{j}.0": builder.laid(lined[j + 1]), f"inner_colour.{j}": builder.laid(colours[j + 1])}
    fixed: dict[str, Any] = {"verbs": [_FACE if clear else _RIM], "fill": "solid", "shells": 2, "shell_verbs": [_FACE]}
    if layer.stroke_width.moves or layer.stroke_width.constant_value:
        whole = np.concatenate(np.broadcast_arrays(*lined), axis=-1)
        line = {"line.0": builder.laid(whole), "line_which": channel(np.zeros((1, 1)))}
        return made | line, {**fixed, "line_verbs": [_FACE * 3]}
    return made, fixed


def _rims() -> NDArray[np.int64]:
    """For each way in which a block is seen (along each axis: its lower face, neither, its upper one), the corners
    round its rim, the last one again where there are fewer than six. Corner 4x + 2y + z: the upper one along these."""
    made = np.zeros((27, 6), dtype=np.int64)
    for state, (x, y, z) in enumerate(product((-1, 0, 1), repeat=3)):
        edges: dict[tuple[int, int], int] = {}
        for axis, sign in enumerate((x, y, z)):
            if sign:
                bits = [1 << (2 - one) for one in range(3) if one != axis]
                own = (1 << (2 - axis)) if sign > 0 else 0
                ring = [own, own | bits[0], own | bits[0] | bits[1], own | bits[1]]
                for one, other in zip(ring, ring[1:] + ring[:1], strict=True):
                    key = (min(one, other), max(one, other))
                    edges[key] = edges.get(key, 0) + 1
        beside: dict[int, list[int]] = {}
        for (one, other), count in edges.items():
            # An edge between two faces that are seen lies inside.
            if count == 1:
                beside.setdefault(one, []).append(other)
                beside.setdefault(other, []).append(one)
        if not beside:
            continue
        way = [min(beside)]
        while len(way) < len(beside):
            way.append(next(one for one in beside[way[-1]] if len(way) < 2 or one != way[-2]))
        made[state] = [*way, *([way[-1]] * (6 - len(way)))]
    return made


def _rim(centre: Floats, column: Floats, half: Floats, signs: dict[int, Floats]) -> Floats:
    """The six corners round what is seen of blocks, (…, 6, 3)."""
    arms = [half[..., axis, None] * column[..., axis] for axis in range(3)]
    corners = np.stack(
        np.broadcast_arrays(
            *(centre + x * arms[0] + y * arms[1] + z * arms[2] for x, y, z in product((-1, 1), repeat=3))
        ),
        axis=-2,
    )
    state = np.asarray(sum((signs[axis][..., 0] + 1) * 3 ** (2 - axis) for axis in range(3)), dtype=np.int64)
    # Which faces are seen may change where the block does not: when the viewer moves.
    whole = np.broadcast_shapes(corners.shape[:-2], state.shape)
    chosen = np.broadcast_to(_RIMS[state], (*whole, 6))
    return np.take_along_axis(np.broadcast_to(corners, (*whole, *corners.shape[-2:])), chosen[..., None], axis=-2)


def _towards(space: Space, spot: Floats) -> Floats:
    """From a spot to the viewer, (…, 3); without a perspective the viewer is straight before it."""
    lens = space.lens
    eye = np.stack([lens[..., 1], lens[..., 2], lens[..., 0]], axis=-1)
    return np.where(lens[..., :1] > 0, eye - spot, [0.0, 0.0, 1.0])


def _weight(space: Space, spots: Floats) -> Floats:
    """w of spots (…, n, 3)."""
    return np.asarray(1 - spots[..., 2] * share_of_lens(space.lens)[..., None])


def _before(space: Space, corners: Floats) -> Floats:
    """Corners round a face (…, n, 3) as the n + 1 of what of it lies before the viewer, the last one again where there
    are fewer."""
    w = _weight(space, corners)
    made = np.concatenate([corners, corners[..., -1:, :]], axis=-2)
    behind = (w < NEAREST).any(axis=-1)
    if behind.any():
        made[behind] = _cut_off(corners[behind], w[behind])
    return made


def _cut_off(corners: Floats, w: Floats) -> Floats:
    """The same of faces (m, n, 3) that reach behind the viewer, with the w of their corners (m, n)."""
    sides = corners.shape[1]
    inside = w >= NEAREST
    after, w_after, inside_after = (np.roll(part, -1, axis=1) for part in (corners, w, inside))
    span = w_after - w
    share = (NEAREST - w) / np.where(span != 0, span, 1)
    cut = corners + share[..., None] * (after - corners)
    spots = np.stack([corners, cut], axis=2).reshape(-1, 2 * sides, 3)
    there = np.stack([inside, inside != inside_after], axis=2).reshape(-1, 2 * sides)
    order = np.argsort(~there, axis=1, kind="stable")[:, : sides + 1]
    many = np.minimum(there.sum(axis=1, keepdims=True), sides + 1)
    order = np.where(np.arange(sides + 1) < many, order, np.take_along_axis(order, np.maximum(many - 1, 0), axis=1))
    made = np.take_along_axis(spots, order[..., None], axis=1)
    # What lies behind as a whole has no size.
    return np.where(many[..., None] > 0, made, corners[:, :1])


def _flattened(space: Space, spots: Floats) -> Floats:
    """Spots (…, n, 3) where they are seen, in the coordinates of what faces the viewer there: (…, n, 2)."""
    w = np.maximum(_weight(space, spots), NEAREST)
    size, at = space.flat[..., 0], space.flat[..., 4:6]
    origin = space.lens[..., None, 1:3]
    seen = origin + (spots[..., :2] - origin) / w[..., None]
    return np.clip((seen - at[..., None, :]) / size[..., None, None], -1e7, 1e7)


def _ball(builder: Building, layer: Solid) -> tuple[dict[str, Channel], dict[str, Any]]:
    assert isinstance(layer, Ball)
    colour, radius = _values(builder, layer, "colour", "radius")
    space = builder.space_of(layer.id)
    own = np.cbrt(np.abs(np.linalg.det(space.solid[..., :3])))[..., None]
    r = np.clip(radius, 0, 1e6) * own
    lens, z = space.lens[..., :1], space.solid[..., 2, 3, None]
    far = np.where(lens > 0, np.maximum(lens - z, 1e-6), np.inf)
    # The rim is where a line from the viewer just touches it; who stands in it sees nothing of it.
    rim = np.where(r < far * (1 - 1e-3), r / np.sqrt(np.maximum(1 - (r / far) ** 2, 1e-9)), 0.0)
    rim = np.where(_weight(space, space.solid[..., None, :, 3])[..., 0, None] > NEAREST, rim, 0.0)
    way = space.light[..., :3] - space.solid[..., 3]
    way = way / np.maximum(np.linalg.norm(way, axis=-1, keepdims=True), 1e-9)
    aside = np.linalg.norm(way[..., :2], axis=-1, keepdims=True)
    # Lit from behind, it is lightest at its rim.
    lightest = np.where(way[..., 2:] >= 0, np.minimum(aside, 1), 1.0)
    centre = lightest * rim * way[..., :2] / np.maximum(aside, 1e-9)
    made = {"centre": builder.laid(centre), "radius": builder.laid(np.maximum((1 + lightest) * rim, 1e-3))}
    for k in range(_STOPS):
        share = k / (_STOPS - 1)
        x = np.clip(lightest - share * (1 + lightest), -1, 1)
        light = aside * x + way[..., 2:] * np.sqrt(np.maximum(1 - x * x, 0))
        made[f"offset.{k}"] = channel(np.full((1, 1), share))
        made[f"colour.{k}"] = builder.laid(lit(colour, light, space.light))
    made["points.0"] = builder.laid(rim * _CIRCLE)
    return made, {"verbs": ["MCCCCZ"], "fill": "radial", "stops": _STOPS}


def _circle() -> Floats:
    k = _ROUND
    turns = [
        (1, 0),
        (1, k),
        (k, 1),
        (0, 1),
        (-k, 1),
        (-1, k),
        (-1, 0),
        (-1, -k),
        (-k, -1),
        (0, -1),
        (k, -1),
        (1, -k),
        (1, 0),
    ]
    return np.array(turns, dtype=np.float64).reshape(1, 1, -1)


_CIRCLE = _circle()
_RIMS = _rims()
