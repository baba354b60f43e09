"""What lies in depth: where it stands in space, and how its outlines and pictures are seen from before the stage.

The matrix of such a node is the flat one that comes nearest about its pivot, so that whatever goes by matrices (strokes,
gradients, handles, filters) holds there; what is not flat about it is in its points, or in the plane of a picture.
"""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..document.base_layer import BaseLayer
from ..document.layers import Group
from ..document.space import Solid
from ..evaluation.depth import lens_at, solid_copy_placing, solid_placing, spread, view_at
from ..evaluation.elements import Elements
from ..geometry.matrices import inverted, product
from ..geometry.outline import Floats
from ..geometry.solid import NEAREST, UNIT, plane_of, seen, solid_product, tangent
from .channels import Channel, made_of
from .lighting import light_at

if TYPE_CHECKING:
    from .builder import Builder

_CLOSE = 0.25
"""Pixels within which a curve stays by its true projection."""
_MOST_PIECES = 16
_LOOKED_AT = 4000
_ORIGIN = np.zeros(1)


@dataclass(frozen=True)
class Space:
    """Where something stands: its way to the stage, the scene's lens, the flat matrix that comes nearest to both, and the light.

    (elements or 1, times or 1, …) at the samples of what stands in it.
    """

    solid: Floats
    lens: Floats
    flat: Floats
    light: Floats

    def within(self, elements: Elements) -> "Space":
        """The same, as the copies of an array inside it have it."""
        return Space(*(spread(one, elements) for one in (self.solid, self.lens, self.flat, self.light)))


_FLAT = np.array([[[1.0, 0, 0, 1, 0, 0]]])


def stage(builder: "Builder", viewed: bool = True) -> Space:
    """The stage itself; `viewed`: as its camera sees it."""
    lens = lens_at(builder.sampler, builder.samples)
    view = view_at(builder.sampler, builder.samples) if viewed else UNIT
    return Space(view, lens, _FLAT, light_at(builder, view))


def of_layer(builder: "Builder", layer: BaseLayer, around: Space) -> Space:
    """Where a layer stands."""
    solid = solid_product(around.solid, solid_placing(builder.sampler, layer.id, builder.samples))
    pivot = builder.sampler.evaluate(f"{layer.id}.pivot", builder.samples)
    if isinstance(layer, Solid):
        return Space(solid, around.lens, facing(solid, around.lens), around.light)
    near = tangent(plane_of(solid, around.lens), pivot[..., 0], pivot[..., 1])
    flat = _held(near, solid, around.lens) if isinstance(layer, Group) else near
    return Space(solid, around.lens, flat, around.light)


def of_copies(builder: "Builder", array: str, around: Space) -> Space:
    """Where the copies of an array stand, at their own samples."""
    solid = solid_product(around.solid, solid_copy_placing(builder.sampler, array, builder.samples))
    near = tangent(plane_of(solid, around.lens), _ORIGIN, _ORIGIN)
    return Space(solid, around.lens, _held(near, solid, around.lens), around.light)


def facing(solid: Floats, lens: Floats) -> Floats:
    """The flat matrix (…, 6) of what faces the viewer where something stands, as large as it is seen there."""
    over = np.where(lens[..., 0] > 0, 1 / np.where(lens[..., 0] > 0, lens[..., 0], 1), 0.0)
    at = solid[..., 3]
    w = np.maximum(1 - at[..., 2] * over, NEAREST)
    size = 1 / w
    x, y = (lens[..., 1 + k] + (at[..., k] - lens[..., 1 + k]) * size for k in (0, 1))
    still = np.zeros(np.broadcast_shapes(size.shape, x.shape))
    return np.stack([size + still, still, still, size + still, x + still, y + still], axis=-1)


def _held(near: Floats, solid: Floats, lens: Floats) -> Floats:
    """A flat matrix that what stands inside can be told by: one seen edge on leaves no room, and is taken to face us."""
    a, b, c, d = np.moveaxis(near[..., :4], -1, 0)
    thin = np.abs(a * d - b * c) < 1e-4 * (a * a + b * b + c * c + d * d)
    return np.where(thin[..., None], facing(solid, lens), near) if thin.any() else near


def matrix(space: Space, around: Space) -> Floats:
    """The flat matrix from one to the other, (elements or 1, times or 1, 6)."""
    return product(inverted(around.flat), space.flat)


def is_bent(space: Space) -> bool:
    """Whether parts of it are nearer to the viewer than others: else its matrix tells all of it."""
    return bool((space.lens[..., 0] > 0).any() and (np.abs(space.solid[..., 2, :2]) > 1e-9).any())


def plane(space: Space) -> Floats:
    """What its matrix does not tell: from own coordinates to own coordinates, x y 1 to x′w y′w w, (…, 9)."""
    back = inverted(space.flat)
    flat = np.zeros((*back.shape[:-1], 3, 3))
    flat[..., 0, 0], flat[..., 1, 0], flat[..., 0, 1], flat[..., 1, 1] = np.moveaxis(back[..., :4], -1, 0)
    flat[..., 0, 2], flat[..., 1, 2] = np.moveaxis(back[..., 4:], -1, 0)
    flat[..., 2, 2] = 1
    made = flat @ plane_of(space.solid, space.lens)
    return np.asarray(made.reshape(*made.shape[:-2], 9))


def projected(
    channels: dict[str, Channel], verbs: dict[str, list[str]], bend: Channel, scale: float
) -> tuple[dict[str, Channel], dict[str, list[str]]]:
    """The outlines of a shape as they are seen: points of channels `name.k` by the verbs `name`[k], through planes (9 numbers).

    Curves are cut into pieces until none lies further than a quarter of a pixel, at `scale`, from where it should.
    """
    made, told = dict(channels), {name: list(some) for name, some in verbs.items()}
    for name, some in verbs.items():
        for k, one in enumerate(some):
            held = [key for key in channels if key == f"{name}.{k}" or (name == "points" and _is_shell(key, k))]
            pieces = 1
            curved = any(verb in one for verb in "QC")
            while curved and pieces < _MOST_PIECES and _strays(channels[held[0]], one, bend, pieces) * scale > _CLOSE:
                pieces *= 2
            for key in held:
                made[key] = _through(channels[key], one, bend, pieces)
            told[name][k] = _cut_verbs(one, pieces)
    return made, told


def _is_shell(key: str, number: int) -> bool:
    return key.startswith("inner.") and key.rpartition(".")[2] == str(number)


def _cut_verbs(verbs: str, pieces: int) -> str:
    return "".join(verb * pieces if verb in "QC" else verb for verb in verbs)


def _cut(points: Floats, verbs: str, pieces: int) -> Floats:
    """Points (…, n, 2) with each curve in so many pieces."""
    if pieces == 1:
        return points
    parts, at = [], 0
    ends = np.arange(pieces + 1) / pieces
    for verb in verbs:
        if verb == "Z":
            continue
        many = {"M": 1, "L": 1, "Q": 2, "C": 3}[verb]
        if verb in "ML":
            parts.append(points[..., at : at + 1, :])
        else:
            whole = points[..., at - 1 : at + many, :]
            for a, b in zip(ends[:-1], ends[1:], strict=True):
                parts.append(_piece(whole, float(a), float(b))[..., 1:, :])
        at += many
    return np.concatenate(parts, axis=-2)


def _piece(whole: Floats, a: float, b: float) -> Floats:
    """The part a … b of a Bézier curve (…, degree + 1, 2), by its blossom."""
    degree = whole.shape[-2] - 1
    made = []
    for k in range(degree + 1):
        level = whole
        for t in [a] * (degree - k) + [b] * k:
            level = level[..., :-1, :] * (1 - t) + level[..., 1:, :] * t
        made.append(level[..., 0, :])
    return np.stack(made, axis=-2)


def _planes(bend: Channel) -> Floats:
    values = bend.values
    return values.reshape(*values.shape[:2], 1, 3, 3)


def _through(points: Channel, verbs: str, bend: Channel, pieces: int) -> Channel:
    values = points.values
    xy = _cut(values.reshape(*values.shape[:2], -1, 2), verbs, pieces)
    planes = _planes(bend)
    x, y, w = seen(planes, xy[..., 0], xy[..., 1])
    # What lies behind the viewer as a whole is nowhere.
    gone = (w <= NEAREST + 1e-7).all(axis=-1, keepdims=True)
    x, y = np.where(gone, 0.0, x), np.where(gone, 0.0, y)
    made = np.clip(np.stack([x, y], axis=-1), -1e7, 1e7)
    rows = np.ascontiguousarray(made.reshape(len(made), -1), dtype=np.float32)
    return made_of(rows, made.shape[1])


def _strays(points: Channel, verbs: str, bend: Channel, pieces: int) -> float:
    """How far the pieces of curves lie from the projected curve, in own px, about, at some frames and copies."""
    values, planes = points.values, _planes(bend)
    frames, each = max(len(values), len(planes)), max(values.shape[1], planes.shape[1])
    step = max(1, int(np.ceil(np.sqrt(frames * each / _LOOKED_AT))))
    picks = []
    for part in (values, planes):
        part = part[::step] if len(part) > 1 else part
        picks.append(part[:, ::step] if part.shape[1] > 1 else part)
    some, planes = picks
    xy = _cut(some.reshape(*some.shape[:2], -1, 2), verbs, pieces)
    at, most = 0, 0.0
    px, py, w = seen(planes, xy[..., 0], xy[..., 1])
    sharp = np.stack([px, py], axis=-1)
    for verb in _cut_verbs(verbs, pieces):
        if verb == "Z":
            continue
        many = {"M": 1, "L": 1, "Q": 2, "C": 3}[verb]
        if verb in "QC":
            own, drawn = xy[..., at - 1 : at + many, :], sharp[..., at - 1 : at + many, :]
            middle, meant = _piece(own, 0.5, 0.5)[..., 0, :], _piece(drawn, 0.5, 0.5)[..., 0, :]
            true = np.stack(seen(planes[..., 0, :, :], middle[..., 0], middle[..., 1])[:2], axis=-1)
            # Only what lies beside the curve is seen, not what lies along it.
            along = drawn[..., -1, :] - drawn[..., 0, :]
            size = np.hypot(along[..., 0], along[..., 1])
            off = true - meant
            beside = np.abs(off[..., 0] * along[..., 1] - off[..., 1] * along[..., 0]) / np.maximum(size, 1e-9)
            seen_at_all = (w[..., at - 1 : at + many] > NEAREST + 1e-3).all(axis=-1) & (size > 1e-6)
            most = max(most, float(np.where(seen_at_all, beside, 0).max(initial=0)))
        at += many
    return most


def size_of(space: Space) -> float:
    """How large it is seen at the most, stage px for one of its own."""
    a, b, c, d = np.moveaxis(space.flat[..., :4], -1, 0)
    return float(np.sqrt(np.abs(a * d - b * c)).max(initial=0.0))


def order_of(near: Channel, places: int, counts: Channel | None = None) -> Channel:
    """In which order things are drawn, the furthest first: the numbers of so many places, again and again in each row.

    `near` has a number for each place of each row; with `counts` only the first ones of them are there.
    """
    values = near.rows.astype(np.float64).reshape(len(near.rows), -1, places)
    if counts is not None:
        there = counts.rows.reshape(len(counts.rows), -1, 1)
        values = np.where(np.arange(places) < there, values, np.inf)
    order = np.argsort(values, axis=2, kind="stable")
    each = order.shape[1] * order.shape[2]
    return made_of(np.ascontiguousarray(order.reshape(len(order), each), dtype=np.float32), each)


def nearness(space: Space) -> Floats:
    """How near to the viewer its origin lies, px, (elements or 1, times or 1, 1)."""
    return np.asarray(space.solid[..., 2, 3, None])
