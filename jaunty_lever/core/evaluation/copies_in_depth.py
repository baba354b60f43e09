"""Where copies stand in space, zones that push them nearer or further away included."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from ..document.index import SceneIndex, parameters_of
from ..geometry.outline import Floats
from ..geometry.solid import plane_of, seen, solid_product
from ..motion import Push
from .apply import share_of
from .context import ModifierContext
from .depth import camera_of, is_looked_at, lens_at, plain_copy_placing, solid_placing, view_at
from .placing import outwards
from .pushing import pushed_in_depth
from .readings import deep_parameters, solid_zone, world_parameters
from .sample_times import SampleTimes

if TYPE_CHECKING:
    from .sampler import Sampler


def solid_copy_placing(sampler: "Sampler", array: str, samples: SampleTimes) -> Floats:
    """From a copy's own coordinates to those of its array, in space; (elements or 1, times or 1, 3, 4)."""
    return plain_copy_placing(sampler, array, samples, pushed_nearer(sampler, array, samples))


def seen_from(
    sampler: "Sampler", layer: str, samples: SampleTimes, now: SampleTimes, spots: Floats, inside: Floats | None = None
) -> Floats:
    """Where points of a layer, (…, 2) in its own coordinates, are seen on the stage, and their w: (…, 3). `samples` are those
    of the copies around it, `now` those of the scene; `inside` leads to the layer's coordinates from those of the points."""
    solid = solid_placing(sampler, layer, samples)
    if inside is not None:
        solid = solid_product(solid, inside)
    for around, copies, then in outwards(sampler, layer, samples):
        solid = solid_product((solid_copy_placing if copies else solid_placing)(sampler, around, then), solid)
    if is_looked_at(sampler, layer):
        solid = solid_product(view_at(sampler, now), solid)
    return np.stack(seen(plane_of(solid, lens_at(sampler, now)), spots[..., 0], spots[..., 1]), axis=-1)


def seen_parameters(index: SceneIndex, layer: str) -> Iterator[str]:
    """What decides where a layer that lies in depth is seen, besides where it lies in its plane."""
    yield from deep_parameters(index, layer)
    scene = index.scene
    yield from (f"{scene.id}.perspective", f"{scene.id}.perspective_origin")
    camera = camera_of(scene)
    if camera is not None:
        yield from parameters_of(camera)
        yield from world_parameters(index, camera.id)
        yield from deep_parameters(index, camera.id)


def pushed_nearer(sampler: "Sampler", array: str, samples: SampleTimes) -> Floats | None:
    """How much nearer copies are brought by the pushes of their position, px, (elements, times, 1); None: by none."""
    node = sampler.index.parameters[f"{array}.copy_position"]
    pushes = [
        (k, step)
        for k, step in enumerate(node.parameter.chain)
        if isinstance(step, Push) and not step.bypassed and solid_zone(sampler.index, step.zone)
    ]
    if not pushes or node.parameter.bypassed:
        return None
    whole = samples.shape
    made = np.zeros((*whole, 1))
    for k, step in pushes:
        context = ModifierContext(sampler, node, step, samples)
        incoming = samples.in_rows(sampler.output(node, k, samples))
        settings = (
            context.number("force"),
            context.number("random") / 100,
            context.whole("seed"),
            context.switch("walls"),
        )
        way = context.choice("way")
        moved = pushed_in_depth(
            sampler, array, step.zone, samples, incoming, ("away", "towards", "around").index(way), *settings
        )
        share = np.broadcast_to(share_of(context)[..., :1], (whole[0] * whole[1], 1))
        made = made + moved[..., 2:] * share.reshape(*whole, 1)
    return made
