"""Where what stands in depth, copies too, is seen on the stage."""

from collections.abc import Iterator

import numpy as np

from ..document.index import SceneIndex
from ..document.node_tables import parameters_of
from ..geometry.outline import Floats
from ..geometry.solid import plane_of, seen, solid_product
from .depth import camera_in, copy_solid, is_looked_at, lens_at, solid_placing, view_at
from .placing import outwards
from .readings import deep_parameters, world_parameters
from .sample_times import SampleTimes
from .sampling import Sampling


def seen_from(
    sampler: Sampling, layer: str, samples: SampleTimes, now: SampleTimes, spots: Floats, inside: Floats | None = None
) -> Floats:
    """Where points of a layer, (…, 2) in its own coordinates, are seen on the stage, and their w: (…, 3). `samples` are
    those of the copies around it, `now` those of the scene; `inside` leads to the layer's coordinates from those of the
    points."""
    solid = solid_placing(sampler, layer, samples)
    if inside is not None:
        solid = solid_product(solid, inside)
    for around, copies, then in outwards(sampler, layer, samples):
        solid = solid_product((copy_solid if copies else solid_placing)(sampler, around, then), solid)
    if is_looked_at(sampler, layer):
        solid = solid_product(view_at(sampler, now), solid)
    return np.stack(seen(plane_of(solid, lens_at(sampler, now)), spots[..., 0], spots[..., 1]), axis=-1)


def seen_parameters(index: SceneIndex, layer: str) -> Iterator[str]:
    """What decides where a layer that lies in depth is seen, besides where it lies in its plane."""
    yield from deep_parameters(index, layer)
    scene = index.scene
    yield from (f"{scene.id}.perspective", f"{scene.id}.perspective_origin")
    camera = camera_in(index)
    if camera is not None:
        yield from parameters_of(camera)
        yield from world_parameters(index, camera.id)
        yield from deep_parameters(index, camera.id)
