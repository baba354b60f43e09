"""Where the zones of arrays that lie in depth are seen."""

import numpy as np

from ..display.channels import channel
from ..document.gauge import Zone
from ..document.layers import ArrayLayer
from ..evaluation.depth import in_depth, is_looked_at, lens_at, solid_world, view_at
from ..evaluation.readings import solid_zone
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.solid import UNIT, plane_of, solid_product
from .channels_sent import ChannelsSent
from .copies import Copies


def planes_of(sampler: Sampler, samples: SampleTimes, shown: Copies, sent: ChannelsSent) -> dict[str, str]:
    """By the ids of zones, what the stage makes of the plane that each is drawn in: nine numbers, from x y 1 to x′w y′w w.

    A zone with an end in depth is drawn in the plane of its centre, one that goes on for ever in that of its array. Zones
    of arrays that do not lie in depth lie on the stage itself and are left out.
    """
    scene, index = sampler.scene, sampler.index
    made: dict[str, str] = {}
    for layer in index.layers.values():
        if layer.id not in in_depth(scene) or not isinstance(layer, ArrayLayer):
            continue
        for zone in layer.gauges:
            if not isinstance(zone, Zone):
                continue
            around = shown.around(sampler, layer.id, samples)
            if solid_zone(index, zone.id):
                where = shown.of(sampler, index.parameters[f"{zone.id}.centre_depth"], samples)
                depth = sampler.evaluate(f"{zone.id}.centre_depth", where)[..., 0]
            else:
                depth = solid_world(sampler, layer.id, around)[..., 2, 3]
            solid = np.broadcast_to(UNIT, (*depth.shape, 3, 4)).copy()
            solid[..., 2, 3] = depth
            view = view_at(sampler, samples) if is_looked_at(sampler, layer.id) else UNIT
            plane = plane_of(solid_product(view, solid), lens_at(sampler, samples))
            made[zone.id] = sent.put(channel(plane.reshape(*plane.shape[:2], 9)[:1]))
    return made
