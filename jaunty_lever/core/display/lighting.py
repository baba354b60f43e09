"""The one light of a scene, and how light a surface is that faces a way."""

import numpy as np

from ..document.space import Solid
from ..evaluation.depth import light_of, spot_at
from ..geometry.outline import Floats
from ..geometry.solid import through
from .building import Building

_FAR = np.array([-4.5e6, -8e6, 6e6])
"""Where the light comes from when a scene has none: from the upper left, before the stage."""
_PLAIN, _STRONG = 0.48, 1.2
NONE = np.zeros((1, 1, 7))


def light_at(builder: Building, view: Floats) -> Floats:
    """x y z before the stage, r g b as strong as it is, and the share of light in the shade; (elements or 1, times or
    1, 7)."""
    sampler = builder.sampler
    if not sampler.index.of_kind(Solid):
        return NONE
    light = light_of(sampler.scene)
    if light is None:
        spot, rgb, shade = _FAR[None, None], np.full((1, 1, 3), _STRONG), np.full((1, 1, 1), _PLAIN)
    else:
        samples = builder.samples
        spot = spot_at(sampler, light.id, samples, "position", "depth")
        colour, strength, shade = (
            sampler.evaluate(f"{light.id}.{name}", samples) for name in ("colour", "strength", "shade")
        )
        rgb, shade = colour[..., :3] * np.clip(strength / 100, 0, 1e3), np.clip(shade / 100, 0, 1)
    return np.concatenate(_alike(through(view, spot), rgb, shade), axis=-1)


def _alike(*parts: Floats) -> list[Floats]:
    shape = np.broadcast_shapes(*(part.shape[:-1] for part in parts))
    return [np.broadcast_to(part, (*shape, part.shape[-1])) for part in parts]


def lit(colour: Floats, facing: Floats, light: Floats) -> Floats:
    """A colour (…, 4) on a surface that faces the light by so much, (…, 1), −1 … 1."""
    shade = light[..., 6:]
    much = shade + (1 - shade) * np.maximum(facing, 0) * light[..., 3:6]
    rgb = np.clip(colour[..., :3] * much, 0, 1)
    return np.concatenate(_alike(rgb, colour[..., 3:]), axis=-1)
