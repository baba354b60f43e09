"""A field of noise over copies or points: where each of them lies in it, and what it says there. The modifier Noise and
the gauge of that name are this."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..document.gauge import FIELD_OVER
from ..document.parameter import Parameter
from ..document.references import CIRCLE, LENGTH, PLAN
from ..kernels.field import noise_field
from ..kernels.parallel import laid_out, over
from .between_noises import led_apart

Floats = NDArray[np.float64]
Told = Callable[[str], Floats]
"""What those that are asked know of themselves, by name: (…, components)."""

KNOWN_OVER = ((PLAN,), ("col", "row"), ("i",), ("u", CIRCLE, LENGTH), ())
"""What has to be known of them for each of `FIELD_OVER`."""
_FAR, _LEAST = 1e15, 1e-6
_MIDDLE, _BESIDE = (0.37, 0.71), 4096.0
"""Where circles have their middle in the field, and how far apart several of them lie."""


def spots(
    over_what: int, told: Told, zoom: Floats, scroll: Floats, zoom_depth: Floats, scroll_depth: Floats
) -> tuple[Floats, ...]:
    """Where in the field they lie: x, y and depth in steps of the field, (…) each.

    `zoom` and `scroll` (…, 2): how many px, rows or numbers lie from one new value to the next, and how far the field
    is moved along. A zoom in depth of 0: it is the same near and far. What closes lies on a circle as long as it is
    itself, so that it has no seam.
    """
    none = np.zeros(1)
    if FIELD_OVER[over_what] == "along":
        return (*_along(told, zoom, scroll), none)
    depth = none
    if FIELD_OVER[over_what] == "place":
        place = told(PLAN)
        at = place[..., 0], place[..., 1]
        if zoom_depth.any():
            depth = np.where(zoom_depth == 0, 0.0, _stepped(place[..., 2] - scroll_depth, zoom_depth))
    elif FIELD_OVER[over_what] == "row and column":
        at = told("col")[..., 0], told("row")[..., 0]
    else:
        at = (told("i")[..., 0] if FIELD_OVER[over_what] == "number" else none, none)
    x, y = (_stepped(part - scroll[..., k], zoom[..., k]) for k, part in enumerate(at))
    return x, y, depth


def hidden_of_field(over_what: Parameter) -> set[str]:
    """Settings of a field that mean nothing over what it lies on."""
    if over_what.moves or over_what.rest == "place":
        return set()
    return {"zoom_depth", "scroll_depth"} | ({"zoom", "scroll"} if over_what.rest == "time alone" else set())


def _stepped(way: Floats, zoom: Floats) -> Floats:
    # Zoomed to nothing, new values lie closer together than anything can show.
    with np.errstate(over="ignore"):
        return np.clip(way / np.where(np.abs(zoom) < _LEAST, _LEAST, zoom), -_FAR, _FAR)


def _along(told: Told, zoom: Floats, scroll: Floats) -> tuple[Floats, Floats]:
    circle, length = told(CIRCLE), told(LENGTH)[..., 0]
    across = _stepped(-scroll[..., 1], zoom[..., 1])
    line = _stepped(told("u")[..., 0] * length - scroll[..., 0], zoom[..., 0])
    closed = circle[..., 0] >= 0
    if not closed.any():
        return line, across
    own = length * circle[..., 1]
    turn = 2 * np.pi * (circle[..., 0] - scroll[..., 0] / np.where(own == 0, 1.0, own))
    radius = np.abs(_stepped(own, zoom[..., 0])) / (2 * np.pi)
    x = np.where(closed, _MIDDLE[0] + circle[..., 2] * _BESIDE + radius * np.cos(turn), line)
    return x, np.where(closed, _MIDDLE[1] + radius * np.sin(turn) + across, across)


def noises(
    at: tuple[Floats, ...],
    phase: Floats,
    lapse: Floats,
    octaves: Floats,
    persistence: Floats,
    seed: Floats,
    character: int,
    in_step: Floats,
    component: int,
) -> Floats:
    """One component of the field at `at`, −1..1, (…); `in_step` 0..1: how far it is led to the first one's."""
    x, y, w = at
    parts = (x, y, phase, w, np.clip(np.rint(octaves), 1, 8), np.clip(persistence, 0, 1), lapse, np.rint(seed))
    whole = np.broadcast_shapes(*(part.shape for part in parts), in_step.shape)
    rows = [laid_out(part, whole) for part in parts]
    count = int(np.prod(whole))

    def one(which: int) -> Floats:
        made = np.empty(count)
        over(count, noise_field, *rows, which, character, made)
        return made

    apart = 1 - np.clip(laid_out(in_step, whole), 0, 1)
    own = one(component if apart.any() else 0)
    if component and apart.any() and not (apart == 1).all():
        led_apart(one(0), own, apart, 0, np.zeros(1), np.ones(1))
    return own.reshape(whole)
