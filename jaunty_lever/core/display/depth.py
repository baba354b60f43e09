"""What lies in depth: where it stands in space, and how its outlines and pictures are seen from before the stage.

The matrix of such a node is the flat one that comes nearest about its pivot, so that whatever goes by matrices
(strokes, gradients, handles, filters) holds there; what is not flat about it is in its points, or in the plane of a
picture.
"""

import numpy as np

from ..document.base_layer import BaseLayer
from ..document.layers import Group
from ..document.space import Solid
from ..evaluation.depth import copy_solid, lens_at, solid_placing, view_at
from ..geometry.matrices import inverted, product
from ..geometry.outline import Floats
from ..geometry.solid import NEAREST, UNIT, plane_of, share_of_lens, solid_product, tangent
from .building import Building
from .channels import Channel, made_of
from .lighting import light_at
from .space import Space

_ORIGIN = np.zeros(1)


_FLAT = np.array([[[1.0, 0, 0, 1, 0, 0]]])


def stage(builder: Building, viewed: bool = True) -> Space:
    """The stage itself; `viewed`: as its camera sees it."""
    lens = lens_at(builder.sampler, builder.samples)
    view = view_at(builder.sampler, builder.samples) if viewed else UNIT
    return Space(view, lens, _FLAT, light_at(builder, view))


def of_layer(builder: Building, layer: BaseLayer, around: Space) -> Space:
    """Where a layer stands."""
    solid = solid_product(around.solid, solid_placing(builder.sampler, layer.id, builder.samples))
    pivot = builder.sampler.evaluate(f"{layer.id}.pivot", builder.samples)
    if _is_solid(layer):
        return Space(solid, around.lens, facing(solid, around.lens), around.light)
    near = tangent(plane_of(solid, around.lens), pivot[..., 0], pivot[..., 1])
    flat = _held(near, solid, around.lens) if isinstance(layer, Group) else near
    return Space(solid, around.lens, flat, around.light)


def of_copies(builder: Building, array: str, around: Space) -> Space:
    """Where the copies of an array stand, at their own samples."""
    solid = solid_product(around.solid, copy_solid(builder.sampler, array, builder.samples))
    if _is_solid(builder.sampler.index.layers[array]):
        return Space(solid, around.lens, facing(solid, around.lens), around.light)
    near = tangent(plane_of(solid, around.lens), _ORIGIN, _ORIGIN)
    return Space(solid, around.lens, _held(near, solid, around.lens), around.light)


def _is_solid(layer: BaseLayer) -> bool:
    """Whether nothing in a layer is flat: it needs no matrix that leans, which not all who play vectors know."""
    if isinstance(layer, Group):
        return bool(layer.layers) and all(_is_solid(inner) for inner in layer.layers)
    return isinstance(layer, Solid)


def facing(solid: Floats, lens: Floats) -> Floats:
    """The flat matrix (…, 6) of what faces the viewer where something stands, as large as it is seen there."""
    at = solid[..., 3]
    w = np.maximum(1 - at[..., 2] * share_of_lens(lens), NEAREST)
    size = 1 / w
    x, y = (lens[..., 1 + k] + (at[..., k] - lens[..., 1 + k]) * size for k in (0, 1))
    still = np.zeros(np.broadcast_shapes(size.shape, x.shape))
    return np.stack([size + still, still, still, size + still, x + still, y + still], axis=-1)


def _held(near: Floats, solid: Floats, lens: Floats) -> Floats:
    """A flat matrix that what stands inside can be told by: one seen edge on leaves no room, and is taken to face
    us."""
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
