"""Involute gear outlines: wheels, rings with teeth inside, racks.

Teeth follow the basic rack of ISO 53: addendum one module, dedendum 1.25 modules, flanks leaning by the
pressure angle φ. A wheel's flank is the involute of its base circle, r_b = r·cos φ, as far down as it
goes; below it stands the trochoid that the tip of the cutting rack leaves, which undercuts small wheels
so that they turn with any other. See for both: ISO 21771-1.

A tooth of a wheel (a gap of a ring, a tooth of a rack) points upwards, at −90°.
"""

from collections.abc import Mapping

import numpy as np

from .outline import KAPPA, Floats, Outline, over_time

DEDENDUM, RIM = 1.25, 1.6
FLANK, ARC = 9, 3
"""Points along a flank, and pieces of the arc at its tip and root."""

BACKLASH = 0.012
"""How much thinner a tooth is than its gap, in modules."""


def involute(angle: Floats) -> Floats:
    """inv α = tan α − α, radians."""
    made: Floats = np.tan(angle) - angle
    return made


def _flank(teeth: int, pressure: Floats, radii: Floats) -> Floats:
    """Half the angle of a wheel's tooth at radii in modules; pressure (n, 1), radii (n, k) → (n, k), radians."""
    pitch = teeth / 2
    base = pitch * np.cos(pressure)
    lean = np.arccos(np.clip(base / radii, -1, 1))
    half = np.pi / (2 * teeth) - BACKLASH / teeth + involute(pressure) - involute(lean)
    # The cutting rack's corner, DEDENDUM below the pitch line and `corner` beside the middle of its tooth.
    corner = np.maximum(np.pi / 4 - DEDENDUM * np.tan(pressure), 0)
    depth = pitch - DEDENDUM
    along = np.sqrt(np.maximum(radii**2 - depth**2, 0))
    gap = np.full(radii.shape, -np.inf)
    for side in (along, -along):
        gap = np.maximum(gap, np.arctan2(side, depth) - (side - corner) / pitch)
    half = np.where(radii >= base, half, np.inf)
    made: Floats = np.clip(np.minimum(half, np.pi / teeth - gap), 0, np.pi / teeth)
    return made


def _ring_flank(teeth: int, pressure: Floats, radii: Floats) -> Floats:
    """Half the angle of a ring's gap at radii in modules: as wide as the tooth that would fit it, and the play."""
    lean = np.arccos(np.clip(teeth / 2 * np.cos(pressure) / radii, -1, 1))
    half = np.pi / (2 * teeth) + BACKLASH / teeth + involute(pressure) - involute(lean)
    made: Floats = np.clip(half, 0, np.pi / teeth)
    return made


def _around(half: Floats, radii: Floats, teeth: int, module: Floats) -> list[Floats]:
    """The closed toothed line, clockwise from the first tooth's tip; half and radii go from root to tip (or gap)."""
    columns: list[Floats] = []
    k = np.arange(1, ARC) / ARC
    for tooth in range(teeth):
        middle = -np.pi / 2 + 2 * np.pi * tooth / teeth
        up, down = middle - half, middle + half[:, ::-1]
        rise, fall = radii, radii[:, ::-1]
        tip = up[:, -1:] + (down[:, :1] - up[:, -1:]) * k
        following = middle + 2 * np.pi / teeth - half[:, :1]
        root = down[:, -1:] + (following - down[:, -1:]) * k
        angles = np.hstack([up, tip, down, root])
        lengths = np.hstack([rise, np.repeat(rise[:, -1:], ARC - 1, 1), fall, np.repeat(fall[:, -1:], ARC - 1, 1)])
        points = np.stack([np.cos(angles), np.sin(angles)], axis=2) * (lengths * module)[:, :, None]
        columns += list(points.reshape(len(points), -1).T)
    return columns


def _circle(radius: Floats, backwards: bool) -> tuple[str, list[Floats]]:
    """A circle of four cubics from the rightmost point on; against the clock when it is to be a hole."""
    turn = -1.0 if backwards else 1.0
    r, k, o = radius, radius * KAPPA, np.zeros(1)
    columns = [
        r,
        o,
        r,
        turn * k,
        k,
        turn * r,
        o,
        turn * r,
        -k,
        turn * r,
        -r,
        turn * k,
        -r,
        o,
        -r,
        -turn * k,
        -k,
        -turn * r,
        o,
        -turn * r,
        k,
        -turn * r,
        r,
        -turn * k,
        r,
        o,
    ]
    return "MCCCCZ", columns


def gear(settings: Mapping[str, Floats]) -> Outline:
    """A wheel, ring or rack from module (px), teeth, pressure angle (degrees) and bore (px), each (n or 1, 1)."""
    form = int(settings["form"][0, 0])
    teeth = int(np.clip(np.rint(settings["teeth"][0, 0]), 4, 400))
    module = np.maximum(settings["module"], 0)
    pressure = np.deg2rad(np.clip(settings["pressure_angle"], 10, 32))
    if form == 2:
        return _rack(teeth, module, pressure)
    count = max(len(module), len(pressure))
    pitch = np.broadcast_to(teeth / 2, (len(pressure), 1))
    base = pitch * np.cos(pressure)
    share = np.linspace(0, 1, FLANK)
    if form == 1:
        tip = np.maximum(pitch - 1, base)
        radii = tip + (pitch + DEDENDUM - tip) * share
        line = _around(_ring_flank(teeth, pressure, radii), radii, teeth, module)
        verbs, rim = _circle(((pitch + DEDENDUM + RIM) * module)[:, 0], backwards=True)
    else:
        root = np.maximum(pitch - DEDENDUM, 0.2)
        # Closer together near the root, where the outline bends most.
        radii = root + (pitch + 1 - root) * share**1.3
        line = _around(_flank(teeth, pressure, radii), radii, teeth, module)
        most = (root * module)[:, 0] * 0.9
        verbs, rim = _circle(np.clip(settings["bore"][:, 0], 0, most), backwards=True)
        if not np.any(settings["bore"] > 0):
            verbs, rim = "", []
    made = over_time([*line, *rim])
    toothed = "M" + "L" * (len(line) // 2 - 1) + "Z"
    return Outline(toothed + verbs, np.broadcast_to(made, (max(len(made), count), made.shape[1])))


def _rack(teeth: int, module: Floats, pressure: Floats) -> Outline:
    """Straight-flanked teeth, one above the middle; the pitch line lies at y = 0."""
    tan, m = np.tan(pressure)[:, 0], module[:, 0]
    columns: list[Floats | float] = []
    first = -(teeth // 2)
    for tooth in range(first, first + teeth):
        middle = tooth * np.pi
        for x, y in (
            (-np.pi / 4 - DEDENDUM * tan, DEDENDUM),
            (-np.pi / 4 + tan, -1.0),
            (np.pi / 4 - tan, -1.0),
            (np.pi / 4 + DEDENDUM * tan, DEDENDUM),
        ):
            thin = BACKLASH / 2 * np.sign(x)
            columns += [(middle + x - thin) * m, y * m]
    right = ((first + teeth - 0.5) * np.pi) * m
    left = ((first - 0.5) * np.pi) * m
    low = (DEDENDUM + RIM) * m
    columns += [right, DEDENDUM * m, right, low, left, low, left, DEDENDUM * m]
    return Outline("M" + "L" * (len(columns) // 2 - 1) + "Z", over_time(columns))
