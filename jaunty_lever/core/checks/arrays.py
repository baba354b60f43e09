"""What is odd about arrays: copies that are all alike, stand on one another or are too many, gauges that touch
nothing."""

from collections.abc import Iterator

import numpy as np

from ..document.arrangement import Emitter
from ..document.base_layer import BaseLayer
from ..document.gauge import Gauge, Sweep, Zone
from ..document.index import walk
from ..document.layers import ArrayLayer, Group
from ..document.node_tables import parameters_of
from ..document.notes import Mend
from ..evaluation.placing import copy_placing
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.sparks import is_emitter
from ..evaluation.taking import copies_at, inside
from ..motion import Wiggle
from .check import Check

PLAYS = 4_000
"""How many shapes of copies a browser draws in real time."""
_MOMENTS, _MOST = 60, 400
_MOST_AT_ONCE, _SHAPES_AT_ONCE = 240, 6_000
"""How many frames are worked out at once, and how many shapes of them: whoever looks through a scene can be left in
between."""


def checks(sampler: Sampler) -> Iterator[Check]:
    """All of them."""
    for layer in sampler.index.layers.values():
        if isinstance(layer, ArrayLayer):
            yield from alike(sampler, layer)
            yield from stacked(sampler, layer)
            yield from seam(sampler, layer)
            for gauge in layer.gauges:
                yield from idle(sampler, layer, gauge)
    yield from too_many(sampler)


def _moments(sampler: Sampler) -> SampleTimes:
    """Moments evenly over the scene."""
    scene = sampler.scene
    return SampleTimes(np.unique(np.linspace(0, scene.length - 1, _MOMENTS).round()) / scene.fps)


def alike(sampler: Sampler, layer: ArrayLayer) -> Iterator[Check]:
    """Copies that move, all of them alike."""
    index, around = sampler.index, len(sampler.index.arrays.get(layer.id, ()))
    if layer.later.moves or layer.later.rest or layer.random_later.moves or layer.random_later.rest:
        return
    if (
        is_emitter(sampler, layer.id)
        or layer.lives.moves
        or layer.lives.rest != "on"
        or sampler.layouts.copies(layer.id, _first(sampler)) < 2
    ):
        return
    own = [f"{layer.id}.copy_{name}" for name in ("position", "rotation", "scale", "opacity")]
    pattern = [parameter for inner, _, _ in walk(layer.layers) for parameter in parameters_of(inner)]
    axes = [sampler.axes.of(parameter) for parameter in (*own, *pattern)]
    if any(one.elements > around for one in axes) or not any(one.times for one in axes):
        return
    later = {"kind": "set value", "parameter": f"{layer.id}.later", "value": 3 / sampler.scene.fps, "frame": 0}
    mends = [Mend("Let each live 3 frames later", (later,))] if any(axes[k].times for k in range(4, len(axes))) else []
    wiggles = [
        entry.modifier.id
        for entry in index.modifiers.values()
        if isinstance(entry.modifier, Wiggle)
        and entry.modifier.over.rest == "alike"
        and entry.parameter in (*own, *pattern)
    ]
    if wiggles:
        apart = tuple(
            {"kind": "set value", "parameter": f"{one}.over", "text": "each its own", "frame": 0} for one in wiggles
        )
        mends.append(Mend("Let each wander by itself", apart))
    count = sampler.layouts.copies(layer.id, _first(sampler))
    yield Check("copies alike", f"The {count:,} copies of {layer.name} all move alike.", layer.id, 0, tuple(mends))


def _first(sampler: Sampler) -> SampleTimes:
    return SampleTimes(np.zeros(1))


def stacked(sampler: Sampler, layer: ArrayLayer) -> Iterator[Check]:
    """Copies that lie entirely on others, at all moments."""
    if sampler.index.arrays.get(layer.id) or is_emitter(sampler, layer.id):
        return
    copies = copies_at(sampler, layer.id, _moments(sampler))
    if copies.elements is None or not 2 <= len(copies.elements) <= _MOST * 5:
        return
    matrices = copy_placing(sampler, layer.id, copies)
    rows = np.broadcast_to(matrices, (len(copies.elements), *matrices.shape[1:])).round(2)
    distinct = max(len(np.unique(rows[:, k], axis=0)) for k in range(rows.shape[1]))
    hidden = len(rows) - distinct
    if hidden:
        one = hidden == 1
        yield Check(
            "copies stacked",
            f"{hidden:,} {'copy' if one else 'copies'} of {layer.name} {'lies' if one else 'lie'} entirely on others.",
            layer.id,
        )


def seam(sampler: Sampler, layer: ArrayLayer) -> Iterator[Check]:
    """Sparks that do not come round with a scene that does."""
    scene, kind = sampler.scene, layer.arrangement
    if not isinstance(kind, Emitter) or not scene.loops:
        return
    seconds = scene.length / scene.fps
    again = sampler.sample(f"{layer.id}.arrangement.repeat", 0.0)[0]
    if (again and abs(seconds / again - round(seconds / again)) < 1e-6) or not sampler.sparks.born(
        layer.id, SampleTimes(np.array([seconds]))
    ):
        return
    edit = {"kind": "set value", "parameter": f"{layer.id}.arrangement.repeat", "value": seconds, "frame": 0}
    yield Check(
        "sparks seam",
        f"The sparks of {layer.name} do not come round at the scene's end.",
        f"{layer.id}.arrangement.repeat",
        0,
        (Mend(f"Let them repeat every {seconds:g} s", (edit,)),),
    )


def idle(sampler: Sampler, layer: ArrayLayer, gauge: Gauge) -> Iterator[Check]:
    """A sweep that touches nothing, a zone that no copy ever enters."""
    if not isinstance(gauge, Sweep | Zone):
        return
    parameter = f"{gauge.id}.value"
    node = sampler.index.parameters[parameter]
    where = inside(sampler, parameter, _moments(sampler), {})
    if where.elements is None or not len(where.elements):
        return
    many = np.unique(np.linspace(0, len(where.elements) - 1, _MOST).round().astype(np.int64))
    some = SampleTimes(where.times if where.times.ndim == 1 else where.times[many], None, where.elements.part(many))
    values = sampler.after(node.id, 0, some)
    if isinstance(gauge, Zone):
        if not gauge.backwards.moves and gauge.backwards.rest is not True and not (values > 0).any():
            yield Check("zone empty", f"No copy of {layer.name} ever enters {gauge.name}.", parameter)
    elif not np.ptp(values):
        yield Check(
            "sweep idle", f"{gauge.name} touches no copy of {layer.name}: its travel never passes one.", parameter
        )


def shapes_drawn(sampler: Sampler, frame: int) -> int:
    """How many shapes a frame draws, those inside arrays once for each copy."""

    def of(layers: tuple[BaseLayer, ...]) -> int:
        whole = 0
        for layer in layers:
            if layer.hidden:
                continue
            inner = of(layer.layers) if isinstance(layer, Group) else 1
            if isinstance(layer, ArrayLayer):
                inner *= int(
                    sampler.layouts.count(layer.id, SampleTimes(np.array([frame / sampler.scene.fps]))).max(initial=0)
                )
            whole += inner
        return whole

    return of(sampler.scene.layers)


def stretches(sampler: Sampler) -> Iterator[SampleTimes]:
    """The frames of a scene, so many at a time as are worked out at once without anyone having to wait for it to
    end."""
    scene = sampler.scene
    at_once = max(1, min(_MOST_AT_ONCE, _SHAPES_AT_ONCE // max(1, shapes_drawn(sampler, 0))))
    for first in range(0, scene.length, at_once):
        yield SampleTimes.frames(scene.fps, first, min(first + at_once, scene.length))


def too_many(sampler: Sampler) -> Iterator[Check]:
    """More copies than play in real time."""
    drawn = max(shapes_drawn(sampler, frame) for frame in (0, sampler.scene.length // 2, sampler.scene.length - 1))
    array = next((one for one in sampler.index.layers.values() if isinstance(one, ArrayLayer)), None)
    if array is not None and drawn > PLAYS:
        yield Check(
            "many copies",
            f"A frame draws {drawn:,} shapes; about {PLAYS:,} play in real time. It is exported all the same.",
            array.id,
        )
