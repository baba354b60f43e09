"""Outlines as they are seen: their points led through planes, curves cut finer where that bends them, and what lies
behind the viewer cut off.
"""

import numpy as np

from ..geometry.outline import Floats
from ..geometry.solid import NEAREST, seen
from .channels import Channel, made_of

_CLOSE = 0.25
"""Pixels within which a curve stays by its true projection."""
_MOST_PIECES = 16
_LOOKED_AT = 4000
_NUMBERS = {"M": 1, "L": 1, "Q": 2, "C": 3, "Z": 0}


def projected(
    channels: dict[str, Channel], verbs: dict[str, list[str]], bend: Channel, scale: float
) -> tuple[dict[str, Channel], dict[str, list[str]]]:
    """The outlines of a shape as they are seen: points of channels `name.k` by the verbs `name`[k], through planes (9
    numbers).

    Curves are cut into pieces until none lies further than a quarter of a pixel, at `scale`, from where it should.
    """
    made, told = dict(channels), {name: list(some) for name, some in verbs.items()}
    for name, some in verbs.items():
        for k, one in enumerate(some):
            held = [key for key in channels if key == f"{name}.{k}" or (name == "points" and _is_shell(key, k))]
            if any(_reaches_behind(channels[key], bend) for key in held):
                for key in held:
                    made[key], told[name][k] = _cut_off(channels[key], one, bend)
                continue
            pieces = 1
            curved = any(verb in one for verb in "QC")
            while curved and pieces < _MOST_PIECES and _strays(channels[held[0]], one, bend, pieces) * scale > _CLOSE:
                pieces *= 2
            for key in held:
                made[key] = _through(channels[key], one, bend, pieces)
            told[name][k] = _cut_verbs(one, pieces)
    return made, told


def _is_shell(key: str, number: int) -> bool:
    return key.startswith("inner.") and key.rpartition(".")[2] == str(number)


def _cut_verbs(verbs: str, pieces: int) -> str:
    return "".join(verb * pieces if verb in "QC" else verb for verb in verbs)


def _cut(points: Floats, verbs: str, pieces: int) -> Floats:
    """Points (…, n, 2) with each curve in so many pieces."""
    if pieces == 1:
        return points
    parts, at = [], 0
    ends = np.arange(pieces + 1) / pieces
    for verb in verbs:
        if verb == "Z":
            continue
        many = _NUMBERS[verb]
        if verb in "ML":
            parts.append(points[..., at : at + 1, :])
        else:
            whole = points[..., at - 1 : at + many, :]
            for a, b in zip(ends[:-1], ends[1:], strict=True):
                parts.append(_piece(whole, float(a), float(b))[..., 1:, :])
        at += many
    return np.concatenate(parts, axis=-2)


def _piece(whole: Floats, a: float, b: float) -> Floats:
    """The part a … b of a Bézier curve (…, degree + 1, 2), by its blossom."""
    degree = whole.shape[-2] - 1
    made = []
    for k in range(degree + 1):
        level = whole
        for t in [a] * (degree - k) + [b] * k:
            level = level[..., :-1, :] * (1 - t) + level[..., 1:, :] * t
        made.append(level[..., 0, :])
    return np.stack(made, axis=-2)


def _planes(bend: Channel) -> Floats:
    values = bend.values
    return values.reshape(*values.shape[:2], 1, 3, 3)


def _through(points: Channel, verbs: str, bend: Channel, pieces: int) -> Channel:
    values = points.values
    xy = _cut(values.reshape(*values.shape[:2], -1, 2), verbs, pieces)
    planes = _planes(bend)
    x, y, w = seen(planes, xy[..., 0], xy[..., 1])
    # What lies behind the viewer as a whole is nowhere.
    gone = (w <= NEAREST + 1e-7).all(axis=-1, keepdims=True)
    x, y = np.where(gone, 0.0, x), np.where(gone, 0.0, y)
    made = np.clip(np.stack([x, y], axis=-1), -1e7, 1e7)
    rows = np.ascontiguousarray(made.reshape(len(made), -1), dtype=np.float32)
    return made_of(rows, made.shape[1])


def _strays(points: Channel, verbs: str, bend: Channel, pieces: int) -> float:
    """How far the pieces of curves lie from the projected curve, in own px, about, at some frames and copies."""
    values, planes = points.values, _planes(bend)
    frames, each = max(len(values), len(planes)), max(values.shape[1], planes.shape[1])
    step = max(1, int(np.ceil(np.sqrt(frames * each / _LOOKED_AT))))
    picks = []
    for part in (values, planes):
        part = part[::step] if len(part) > 1 else part
        picks.append(part[:, ::step] if part.shape[1] > 1 else part)
    some, planes = picks
    xy = _cut(some.reshape(*some.shape[:2], -1, 2), verbs, pieces)
    at, most = 0, 0.0
    px, py, w = seen(planes, xy[..., 0], xy[..., 1])
    sharp = np.stack([px, py], axis=-1)
    for verb in _cut_verbs(verbs, pieces):
        if verb == "Z":
            continue
        many = _NUMBERS[verb]
        if verb in "QC":
            own, drawn = xy[..., at - 1 : at + many, :], sharp[..., at - 1 : at + many, :]
            middle, meant = _piece(own, 0.5, 0.5)[..., 0, :], _piece(drawn, 0.5, 0.5)[..., 0, :]
            true = np.stack(seen(planes[..., 0, :, :], middle[..., 0], middle[..., 1])[:2], axis=-1)
            # Only what lies beside the curve is seen, not what lies along it.
            along = drawn[..., -1, :] - drawn[..., 0, :]
            size = np.hypot(along[..., 0], along[..., 1])
            off = true - meant
            beside = np.abs(off[..., 0] * along[..., 1] - off[..., 1] * along[..., 0]) / np.maximum(size, 1e-9)
            seen_at_all = (w[..., at - 1 : at + many] > NEAREST + 1e-3).all(axis=-1) & (size > 1e-6)
            most = max(most, float(np.where(seen_at_all, beside, 0).max(initial=0)))
        at += many
    return most


def _reaches_behind(points: Channel, bend: Channel) -> bool:
    """Whether any point lies behind the viewer, or as good as there."""
    values, planes = points.values, _planes(bend)
    xy = values.reshape(*values.shape[:2], -1, 2)
    w = planes[..., 2, 0] * xy[..., 0] + planes[..., 2, 1] * xy[..., 1] + planes[..., 2, 2]
    return bool((w < NEAREST).any())


def _cut_off(points: Channel, verbs: str, bend: Channel) -> tuple[Channel, str]:
    """What of an outline lies before the viewer, as straight lines: two points for each of its own, and its verbs."""
    values, planes = points.values, _planes(bend)
    xy = _cut(values.reshape(*values.shape[:2], -1, 2), verbs, _MOST_PIECES)
    parts, at, told = [], 0, ""
    for part in _subpaths(_cut_verbs(verbs, _MOST_PIECES)):
        ends = []
        for verb in part.rstrip("Z"):
            at += _NUMBERS[verb]
            ends.append(at - 1)
        parts.append(_before(xy[..., ends, :], planes))
        told += "M" + "L" * (2 * len(ends) - 1) + ("Z" if part.endswith("Z") else "")
    made = np.clip(np.concatenate(parts, axis=-2), -1e7, 1e7)
    rows = np.ascontiguousarray(made.reshape(len(made), -1), dtype=np.float32)
    return made_of(rows, made.shape[1]), told


def _subpaths(verbs: str) -> list[str]:
    return ["M" + part for part in verbs.split("M")[1:]]


def _before(xy: Floats, planes: Floats) -> Floats:
    """The corners (…, n, 2) of one line as they are seen, each twice: as the line comes to it, and as it leaves it.
    Where one lies behind the viewer, it is where the line goes there, and where it comes back."""
    n = [planes[..., k, 0] * xy[..., 0] + planes[..., k, 1] * xy[..., 1] + planes[..., k, 2] for k in range(3)]
    whole = np.stack(n, axis=-1)
    w = whole[..., 2]
    there = w >= NEAREST

    def crossing(other: Floats) -> Floats:
        span = other[..., 2] - w
        share = (NEAREST - w) / np.where(np.abs(span) > 1e-12, span, 1)
        return np.asarray(whole + share[..., None] * (other - whole))

    came, goes = np.roll(whole, 1, axis=-2), np.roll(whole, -1, axis=-2)
    first = np.where(there[..., None], whole, crossing(came))
    last = np.where(there[..., None], whole, crossing(goes))
    known = np.stack([there | (came[..., 2] >= NEAREST), there | (goes[..., 2] >= NEAREST)], axis=-1)
    made = np.stack([first, last], axis=-2)
    made = made.reshape(*made.shape[:-3], -1, 3)
    known = known.reshape(*known.shape[:-2], -1)
    # What lies behind with both its neighbours adds nothing: it stays at the last place that was seen.
    number = np.where(known, np.arange(known.shape[-1]), -1)
    before = np.maximum.accumulate(number, axis=-1)
    before = np.where(before < 0, number.max(axis=-1, keepdims=True), before)
    made = np.take_along_axis(made, np.maximum(before, 0)[..., None], axis=-2)
    seen_at = made[..., :2] / np.maximum(made[..., 2:], NEAREST)
    return np.asarray(np.where((before >= 0)[..., None], seen_at, 0.0))
