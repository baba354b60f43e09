"""Outlines of shape layers, as channels."""

from dataclasses import dataclass

import numpy as np

from ..document.fills import FOCUS_WITHIN
from ..document.layers import ShapeLayer
from ..evaluation.lines import PART, drawn_line, is_parted, is_ribbon, length_of, ribbon_of
from ..evaluation.moved_outlines import drawn_outlines, shell_counts
from ..evaluation.outlines import Outlines
from ..geometry.ramps import ramp_colour
from .building import Building
from .channels import Channel


@dataclass(frozen=True)
class Variants:
    """Outlines that take turns: their verbs, their points, and which of them stands at each frame."""

    verbs: tuple[str, ...]
    points: tuple[Channel, ...]
    which: Channel


Drawn = tuple[Variants, tuple[Variants, ...], Variants | None]
"""The outline of a shape, those of the shells inside it, and its line where that is not all of the outline."""


def drawn_of(builder: Building, layer: ShapeLayer) -> Drawn:
    """One outline for each combination of the whole-number settings that comes up."""
    sampler, samples = builder.sampler, builder.samples

    def variants(found: Outlines) -> Variants:
        return Variants(
            tuple(outline.verbs for outline in found.each),
            tuple(builder.laid(found.points(k)) for k in range(len(found.each))),
            builder.laid(found.which[..., None].astype(np.float64)),
        )

    outlines, *shells = drawn_outlines(sampler, layer, samples)
    drawn = drawn_line(sampler, layer, outlines, samples) if is_parted(layer) else None
    if is_ribbon(layer):
        drawn = ribbon_of(sampler, layer, drawn or outlines, samples)
    line = None if drawn is None else variants(drawn)
    return variants(outlines), tuple(variants(one) for one in shells), line


def dash_of(builder: Building, layer: ShapeLayer) -> Channel:
    """A line's dash, gap and phase, px. Dashes stay where they are on the outline while its drawn part grows or
    shrinks."""
    sampler, samples, at = builder.sampler, builder.samples, f"{layer.id}.line"
    dash, gap, offset = (sampler.evaluate(f"{at}.{n}", samples)[..., 0] for n in ("dash", "gap", "offset"))
    begins = np.zeros((1, 1))
    if is_parted(layer):
        start, end, turn = (sampler.evaluate(f"{at}.{n}", samples)[..., 0] / 100 for n in ("start", "end", "turn"))
        start, end = np.clip(start, 0, 1), np.clip(end, 0, 1)
        length = length_of(sampler, layer, drawn_outlines(sampler, layer, samples)[0], samples)
        begins = np.where(np.abs(end - start) < 1, np.mod(np.minimum(start, end) + turn, 1), 0) * length
    dash, gap = np.maximum(dash, 0), np.maximum(gap, 0)
    # Dashes finer than can be seen are no more than a grey.
    gap = np.where(dash + gap < LEAST_DASH, LEAST_DASH, gap)
    whole = np.broadcast_arrays(dash, gap, begins - offset)
    return builder.laid(np.stack(whole, axis=-1))


def part_of(builder: Building, layer: ShapeLayer) -> Channel:
    """Which part of its outline a shape's line is: start, end and turn as shares, and whether each contour by
    itself."""
    found = [builder.sampler.evaluate(f"{layer.id}.line.{name}", builder.samples)[..., 0] for name in PART]
    return builder.laid(np.stack(np.broadcast_arrays(*found), axis=-1) * (0.01, 0.01, 0.01, 1.0))


def focus_of(builder: Building, layer: ShapeLayer) -> Channel:
    """Where a radial gradient begins, px from its centre: never so far out that nothing could be drawn beyond it."""
    focus, radius = (
        builder.sampler.evaluate(f"{layer.id}.fill.{name}", builder.samples) for name in ("focus", "radius")
    )
    most, far = np.maximum(radius, 1e-3) * FOCUS_WITHIN, np.linalg.norm(focus, axis=-1, keepdims=True)
    return builder.laid(focus * np.where(far > most, most / np.maximum(far, 1e-9), 1))


LEAST_DASH = 0.5
"""Pixels that a dash and its gap take at least."""


def shell_colour(builder: Building, layer: ShapeLayer, number: int) -> Channel:
    """The colour of a shell, by its place in the ramp of the edge; clear where there are fewer shells."""
    edge = layer.edge
    assert edge is not None
    decides = [
        f"{layer.id}.edge.shells",
        *(f"{stop.id}.{name}" for stop in edge.stops for name in ("offset", "colour")),
    ]

    def made() -> Channel:
        sampler, samples = builder.sampler, builder.samples
        counts = shell_counts(sampler, layer, samples)
        stops = [
            (
                sampler.evaluate(f"{stop.id}.offset", samples)[..., 0] / 100,
                sampler.evaluate(f"{stop.id}.colour", samples),
            )
            for stop in edge.stops
        ]
        # A single shell has the colour of the innermost.
        place = np.where(counts > 1, number / np.maximum(counts - 1, 1), 1.0)
        rgba = ramp_colour(place, [offset for offset, _ in stops], [colour for _, colour in stops])
        return builder.laid(rgba * np.stack(np.broadcast_arrays(1.0, 1.0, 1.0, number < counts), axis=-1), rests=False)

    return builder.remembered(f"shell {number}", decides, made)
