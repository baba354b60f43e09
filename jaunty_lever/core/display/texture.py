"""A texture: coherent noise over a rectangle, led through a ramp of colours."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..document.counts import resting_copies
from ..document.layers import TextureLayer
from ..document.limits import LEAST_TEXELS, MOST_TEXELS
from ..document.parameter import Parameter
from ..document.specs import specs_of
from ..evaluation.cache import Fault
from ..geometry.ramps import ramp_colour
from ..kernels.parallel import over
from ..kernels.texture import clouds
from .building import Building
from .channels import Channel, ChannelSpec
from .node import DisplayNode

KIND = "texture"
DRAWS = (TextureLayer,)
CHANNELS = {
    "size": ChannelSpec(2, "width and height, px, about its middle"),
    "light": ChannelSpec(None, "how light it is, 0..1 in steps of 1/255, row by row of its grid"),
    "plane": ChannelSpec(
        9, "where it lies in depth: what its matrix does not tell, from x y 1 to x′w y′w w, in its own coordinates"
    ),
    "ramp": ChannelSpec(1024, "r g b a, 0..1, for each of the 256 steps from dark to light"),
}
FIXED = {"grid": "how many columns and rows the grid has that is laid over it"}

_FINE = 4
"""How many columns of the grid the smallest thing in a texture takes."""


def parts(
    builder: Building, layer: TextureLayer
) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
    """See NodeKind."""
    grid = _grid(builder, layer)
    own = [f"{layer.id}.{name}" for name in _DECIDE]
    ramp = [f"{stop.id}.{name}" for stop in layer.stops for name in ("offset", "colour")]
    channels = {
        "size": builder.channel(f"{layer.id}.size"),
        "light": builder.remembered(f"texture {grid}", own, lambda: builder.laid(_light(builder, layer, grid))),
        "ramp": builder.remembered(f"ramp {len(layer.stops)}", ramp, lambda: builder.laid(_ramp(builder, layer))),
    }
    return channels, {"grid": list(grid)}, ()


_DECIDE = tuple(
    name
    for name in specs_of(TextureLayer)
    if name
    in (
        "size",
        "zoom",
        "octaves",
        "persistence",
        "contrast",
        "brightness",
        "scroll",
        "evolution",
        "repeat",
        "seed",
        "character",
    )
)


def _least(own: Parameter, component: int | None = None) -> float:
    """The smallest value of a parameter by its keys, before any chain."""
    values = [key.value for key in own.keys] or [own.rest]
    numbers = [v[component] if component is not None and isinstance(v, tuple) else v for v in values]
    return min(float(v) for v in numbers if isinstance(v, int | float))


def _greatest(own: Parameter, component: int) -> float:
    values = [key.value for key in own.keys] or [own.rest]
    return max(float(v[component]) if isinstance(v, tuple) else float(v) for v in values)


def _grid(builder: Building, layer: TextureLayer) -> tuple[int, int]:
    """Columns and rows: as fine as its detail asks, the same at all frames, and no more than may be."""
    wide, high = (max(_greatest(layer.size, k), 1.0) for k in (0, 1))
    octaves = min(max(round(_greatest(layer.octaves, 0)), 1), 8)
    step = max(_least(layer.zoom), 1.0) / 2 ** (octaves - 1) / _FINE
    most = max(LEAST_TEXELS, MOST_TEXELS // max(resting_copies(builder.sampler.index, layer.id), 1))
    asked = np.ceil(wide / step) * np.ceil(high / step)
    if asked > most:
        message = (
            f"Its detail asks for {asked:,.0f} points, and it is drawn with {most:,}: let it be coarser, or smaller"
        )
        builder.sampler.note(Fault(f"{layer.id}.zoom", "", message, 0.0))
        step *= float(np.sqrt(asked / most))
    while True:
        grid = max(int(np.ceil(wide / step)), 2), max(int(np.ceil(high / step)), 2)
        if grid[0] * grid[1] <= max(most, 4):
            return grid
        step *= 1.02


def _light(builder: Building, layer: TextureLayer, grid: tuple[int, int]) -> np.ndarray[Any, np.dtype[np.float64]]:
    sampler, samples = builder.sampler, builder.samples
    told = {name: np.nan_to_num(sampler.evaluate(f"{layer.id}.{name}", samples)) for name in _DECIDE}
    shape = np.broadcast_shapes(*(values.shape[:2] for values in told.values()))

    def column(name: str, component: int = 0) -> Any:
        return np.broadcast_to(told[name][..., component], shape).ravel()

    zoom = np.maximum(column("zoom"), 0.5)
    columns = [
        *(np.clip(column("size", k), 0, 1e6) for k in (0, 1)),
        zoom,
        *(np.clip(column("scroll", k), -1e9, 1e9) for k in (0, 1)),
        np.clip(column("evolution"), -1e9, 1e9),
        np.clip(column("repeat"), 0, 1e6),
        np.clip(column("persistence") / 100, 0, 1),
        column("contrast") / 100,
        column("brightness") / 100,
        np.rint(column("seed")),
    ]
    settings = np.ascontiguousarray(np.stack(columns, axis=1))
    octaves = np.clip(np.rint(column("octaves")), 1, 8).astype(int)
    character = np.clip(np.rint(column("character")), 0, 2).astype(int)
    made = np.empty((len(settings), grid[0] * grid[1]))
    for many, kind in set(zip(octaves.tolist(), character.tolist(), strict=True)):
        mine = np.flatnonzero((octaves == many) & (character == kind))
        out = np.empty((len(mine), made.shape[1]))
        over(len(mine), clouds, np.ascontiguousarray(settings[mine]), *grid, many, kind, out, each=made.shape[1] * many)
        made[mine] = out
    return made.reshape(*shape, -1)


def _ramp(builder: Building, layer: TextureLayer) -> np.ndarray[Any, np.dtype[np.float64]]:
    sampler, samples = builder.sampler, builder.samples
    stops = [
        (sampler.evaluate(f"{stop.id}.offset", samples)[..., 0] / 100, sampler.evaluate(f"{stop.id}.colour", samples))
        for stop in layer.stops
    ]
    if not stops:
        return np.tile([0.5, 0.5, 0.5, 1.0], 256).reshape(1, 1, -1)
    shape = np.broadcast_shapes(*(part.shape[:2] for stop in stops for part in stop))
    # Every element at every moment has the 256 steps side by side.
    offsets = [np.broadcast_to(offset, shape).reshape(-1, 1) for offset, _ in stops]
    colours = [np.broadcast_to(colour, (*shape, 4)).reshape(-1, 1, 4) for _, colour in stops]
    return ramp_colour(np.arange(256)[None] / 255, offsets, colours).reshape(*shape, -1)
