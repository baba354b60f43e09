"""Colours along a ramp: as CSS mixes the stops of a gradient."""

import numpy as np

from .outline import Floats


def ramp_colour(place: Floats, offsets: list[Floats], colours: list[Floats]) -> Floats:
    """The colours at places 0..1 (elements or 1, times or 1) of stops, each with an offset of that shape and a colour
    (elements or 1, times or 1, 4); (…, 4). As in CSS, a stop lies no further back than those before it, and between two
    of them premultiplied components are mixed. No stops: grey."""
    if not offsets:
        return np.broadcast_to(np.array([0.5, 0.5, 0.5, 1.0]), (*place.shape, 4)).copy()
    shape = np.broadcast_shapes(place.shape, *(o.shape for o in offsets), *(c.shape[:2] for c in colours))
    at = np.broadcast_to(place, shape)
    made = _premultiplied(np.broadcast_to(colours[0], (*shape, 4)))
    least = np.clip(np.broadcast_to(offsets[0], shape), 0, 1)
    for offset, colour in zip(offsets[1:], colours[1:], strict=True):
        here = np.maximum(np.clip(np.broadcast_to(offset, shape), 0, 1), least)
        span = here - least
        share = np.where(span > 0, (at - least) / np.where(span > 0, span, 1), (at >= here) * 1.0)
        share = np.clip(share, 0, 1)[..., None]
        after = _premultiplied(np.broadcast_to(colour, (*shape, 4)))
        made = np.where((at >= least)[..., None], made_between(made, after, share), made)
        least = here
    alpha = made[..., 3:]
    return np.concatenate([made[..., :3] / np.where(alpha > 0, alpha, 1), alpha], axis=-1)


def made_between(one: Floats, other: Floats, share: Floats) -> Floats:
    """Part of the way from one to another."""
    return np.asarray(one + (other - one) * share)


def _premultiplied(colours: Floats) -> Floats:
    colours = np.clip(colours, 0, 1)
    return np.concatenate([colours[..., :3] * colours[..., 3:], colours[..., 3:]], axis=-1)
