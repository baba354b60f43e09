"""Layers that arrays stand along, inside, whose way sparks go, or whose shape zones have: what is left of them when
they are deleted."""

from typing import Any

import numpy as np

from ..document.arrangement import Emitter, Order
from ..document.gauge import Gauge, Zone
from ..document.layers import ArrayLayer, ShapeLayer, TraceLayer
from ..document.model import Model
from ..document.scene import Scene
from ..evaluation.outlines import outlines_of
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.matrices import applied, inverted, product
from ..geometry.outline import Floats
from ..geometry.path_data import written
from .base import with_node


def without_leads(scene: Scene, gone: set[str], frame: float) -> Scene:
    """The scene with arrays that stand along layers which are to go standing along path data, the outlines as they are
    at a frame; sparks start where those layers stood."""
    sampler = Sampler(scene)
    for layer in list(scene.index.layers.values()):
        if layer.matte is not None and layer.matte.layer in gone and layer.id not in gone:
            # Where there was a matte, the layer shows everywhere.
            layer = layer.changed(matte=None)
            scene = with_node(scene, layer.id, layer)
        if isinstance(layer, TraceLayer) and layer.follows.split(".")[0] in gone and layer.id not in gone:
            scene = with_node(scene, layer.id, layer.changed(follows=""))
        if not isinstance(layer, ArrayLayer) or layer.id in gone:
            continue
        kind: Any = layer.arrangement
        for rail in ("", "other_"):
            lead = getattr(kind, f"{rail}outline", None)
            if lead in gone:
                kind = kind.changed(**{f"{rail}outline": None}, **_left(sampler, layer, kind, lead, rail, frame))
        gauges = tuple(_left_of(sampler, layer, one, gone, frame) for one in layer.gauges)
        order = _left_of_order(sampler, layer, layer.order, gone, frame)
        if kind is not layer.arrangement or gauges != layer.gauges or order is not layer.order:
            scene = with_node(scene, layer.id, layer.changed(arrangement=kind, gauges=gauges, order=order))
    return scene


def _left_of(sampler: Sampler, array: ArrayLayer, gauge: Gauge, gone: set[str], frame: float) -> Any:
    """A gauge of an array: a zone, or an order of its own, that had the outline of a layer which is gone has it as it
    is at a frame."""
    if (own := getattr(gauge, "order", None)) is not None:
        return gauge.changed(order=_left_of_order(sampler, array, own, gone, frame))
    if not isinstance(gauge, Zone) or gauge.outline not in gone or gauge.outline is None:
        return gauge
    return gauge.changed(**_drawn(sampler, array, gauge.outline, frame, own=False))


def _left_of_order(sampler: Sampler, array: ArrayLayer, order: Order, gone: set[str], frame: float) -> Order:
    if order.outline not in gone or order.outline is None:
        return order
    return order.changed(**_drawn(sampler, array, order.outline, frame, own=True))


def _drawn(sampler: Sampler, array: ArrayLayer, lead: str, frame: float, own: bool) -> dict[str, Any]:
    """The fields that stand for a layer that goes: its outline on the stage, or in an array's `own` coordinates."""
    here = sampler.of_first(f"{array.id}.position", SampleTimes(np.array([frame / sampler.scene.fps])))
    way, layer = world_matrix(sampler, lead, here), sampler.index.layers[lead]
    if own:
        way = product(inverted(world_matrix(sampler, array.id, here)), way)
    data = _written(sampler, layer, way, here) if isinstance(layer, ShapeLayer) else ""
    return {"outline": None} | ({"data": data} if data else {})


def _left(sampler: Sampler, array: ArrayLayer, kind: Model, lead: str, rail: str, frame: float) -> dict[str, Any]:
    """The fields that stand for a lead which is gone."""
    samples = SampleTimes(np.array([frame / sampler.scene.fps]))
    # Of what stands in arrays, the first copy tells.
    here = sampler.of_first(f"{array.id}.position", samples)
    back = inverted(world_matrix(sampler, array.id, here))
    way = product(back, world_matrix(sampler, lead, here))
    layer = sampler.index.layers[lead]
    if isinstance(kind, Emitter) and not kind.origin.moves:
        pivot = sampler.evaluate(f"{lead}.pivot", here)
        x, y = applied(way, pivot[..., 0], pivot[..., 1])
        start = kind.origin.rest
        assert isinstance(start, tuple)
        rest = (round(float(x.ravel()[0]) + start[0], 2), round(float(y.ravel()[0]) + start[1], 2))
        return {"origin": kind.origin.changed(rest=rest, typed=())}
    if not isinstance(layer, ShapeLayer):
        return {}
    data = _written(sampler, layer, way, here)
    return {f"{rail}data": data} if data else {}


def _written(sampler: Sampler, layer: ShapeLayer, way: Floats, here: SampleTimes) -> str:
    """The outline of a layer through a matrix, as path data; nothing where that would be too long."""
    found = outlines_of(sampler, layer, here)
    number = int(found.which.ravel()[0])
    points = found.points(number).reshape(-1, found.each[number].points.shape[1])[0].reshape(-1, 2)
    x, y = applied(way.reshape(-1, 6)[:1], points[:, 0], points[:, 1])
    data = written(found.each[number].verbs, np.stack([x, y], axis=1).ravel())
    return data if len(data) <= 100_000 else ""
