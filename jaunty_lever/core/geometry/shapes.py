"""Outlines of the plain shapes, for settings that may change over time.

Every function takes a mapping from field name to values (n or 1, components) and gives one outline;
whole-number settings (sides, points) are constant within one call.
"""

from collections.abc import Callable, Mapping

import numpy as np

from .corners import rounded
from .gears import gear
from .outline import KAPPA, Floats, Outline, over_time

Settings = Mapping[str, Floats]


def ellipse(settings: Settings) -> Outline:
    """Four cubic quarters about the origin, from the rightmost point on."""
    rx, ry = settings["size"].T / 2
    kx, ky = rx * KAPPA, ry * KAPPA
    zero = 0.0
    columns = [
        rx,
        zero,
        rx,
        ky,
        kx,
        ry,
        zero,
        ry,
        -kx,
        ry,
        -rx,
        ky,
        -rx,
        zero,
        -rx,
        -ky,
        -kx,
        -ry,
        zero,
        -ry,
        kx,
        -ry,
        rx,
        -ky,
        rx,
        zero,
    ]
    return Outline("MCCCCZ", over_time(columns))


def rectangle(settings: Settings) -> Outline:
    """Four sides about the origin; the corner radius never exceeds half of the shorter side."""
    w, h = np.maximum(settings["size"], 0).T / 2
    r = np.clip(settings["corner"][:, 0], 0, np.minimum(w, h))
    if not np.any(r):
        return Outline("MLLLZ", over_time([-w, -h, w, -h, w, h, -w, h]))
    k = r * (1 - KAPPA)
    columns = [
        -w + r,
        -h,
        w - r,
        -h,
        w - k,
        -h,
        w,
        -h + k,
        w,
        -h + r,
        w,
        h - r,
        w,
        h - k,
        w - k,
        h,
        w - r,
        h,
        -w + r,
        h,
        -w + k,
        h,
        -w,
        h - k,
        -w,
        h - r,
        -w,
        -h + r,
        -w,
        -h + k,
        -w + k,
        -h,
        -w + r,
        -h,
    ]
    return Outline("MLCLCLCLCZ", over_time(columns))


def _ring(radii: list[Floats]) -> Outline:
    count = len(radii)
    columns: list[Floats | float] = []
    for k, radius in enumerate(radii):
        turn = 2 * np.pi * k / count
        columns += [radius * np.sin(turn), radius * -np.cos(turn)]
    return Outline("M" + "L" * (count - 1) + "Z", over_time(columns))


def polygon(settings: Settings) -> Outline:
    """A regular polygon with a corner upwards."""
    sides = int(np.clip(np.rint(settings["sides"][0, 0]), 3, 500))
    return _rounded(_ring([settings["radius"][:, 0]] * sides), settings)


def star(settings: Settings) -> Outline:
    """A star with a point upwards."""
    points = int(np.clip(np.rint(settings["points"][0, 0]), 2, 500))
    return _rounded(_ring([settings["outer"][:, 0], settings["inner"][:, 0]] * points), settings)


def _rounded(outline: Outline, settings: Settings) -> Outline:
    radius = settings["corner"][:, 0]
    return rounded(outline, radius) if (radius > 0).any() else outline


def line(settings: Settings) -> Outline:
    """From start to end."""
    return Outline("ML", over_time([*settings["start"].T, *settings["end"].T]))


SHAPES: dict[str, Callable[[Settings], Outline]] = {
    "ellipse": ellipse,
    "rectangle": rectangle,
    "polygon": polygon,
    "star": star,
    "gear": gear,
    "line": line,
}
