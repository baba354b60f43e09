"""Push: how far zones move what is near."""

import numpy as np

from ..kernels.compiled import Filled, Floats, Whole, inlined, inner, kernel
from ..kernels.noise import chance
from .zone import BAR, LEAST, apart_in

WAYS = ("away", "towards", "around")

GIVEN, LINEAR, SMOOTH = -1, 0, 1
_GLANCE = 120
_GOLDEN = 2.399963229728653
"""The golden angle leads copies that stand on one spot apart evenly."""


def pushed_apart(
    away: Floats, near: Floats, way: int, force: Floats, random: Floats, numbers: Whole, seed: int
) -> Floats:
    """How far points (…, 3) that lie `away` from a zone's centre are moved by it, px. See `push`.

    near and force (…,), random (…, 3); numbers go by the points. Around is about the line of sight.
    """
    length = np.linalg.norm(away, axis=-1, keepdims=True)
    turn = numbers * _GOLDEN
    own = np.stack([np.cos(turn), np.sin(turn), np.zeros_like(turn)], axis=-1)
    unit = np.where(length > 0, away / np.where(length > 0, length, 1), own)
    if way == 1:
        unit = -unit
    elif way == 2:
        level = np.maximum(np.linalg.norm(unit[..., :2], axis=-1), LEAST)
        unit = np.stack([-unit[..., 1] / level, unit[..., 0] / level, np.zeros_like(level)], axis=-1)
    much = (force * near)[..., None] * (1 - random * chances_of(numbers, seed))
    return np.asarray(much * unit)


def chances_of(numbers: Whole, seed: int) -> Floats:
    """What is random about each number's push, even in 0..1 for each of three axes: (…, 3)."""
    known, where = np.unique(numbers, return_inverse=True)
    each = np.array([[chance(seed, axis, number) for axis in range(3)] for number in known.tolist()])
    return each.reshape(-1, 3)[where].reshape(*numbers.shape, 3)


@inner
def _eased(share: float, kind: int) -> float:
    return share if kind == LINEAR else share * share * (3.0 - 2.0 * share)


@inner
def _push_each(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    placed: Floats,
    matrix: Floats,
    each: int,
    near: Floats,
    cx: Floats,
    cy: Floats,
    wide: Floats,
    high: Floats,
    angle: Floats,
    inner: Floats,
    force: Floats,
    random: Floats,
    random_y: Floats,
    numbers: Whole,
    seed: int,
    way: int,
    shape: int,
    edge: int,
    backwards: bool,
    walls: bool,
    out: Floats,
) -> None:
    """See `push`."""
    mv, mp, mm, mn = x.size > 1, placed.shape[1], matrix.shape[1] > 1, near.size > 1
    by_copy = mp == len(numbers)
    mx, my, mw, mh, ma = cx.size > 1, cy.size > 1, wide.size > 1, high.size > 1, angle.size > 1
    mi, mf = inner.size > 1, force.size > 1
    mr, ms = random.size > 1, random_y.size > 1
    cos, sin = np.cos(np.deg2rad(angle[0])), np.sin(np.deg2rad(angle[0]))
    a, b, c, d, e, f = matrix[0, 0], matrix[1, 0], matrix[2, 0], matrix[3, 0], matrix[4, 0], matrix[5, 0]
    copy = first // each
    ends = (copy + 1) * each
    for i in range(first, last):
        if i == ends:
            copy += 1
            ends += each
        if mm:
            a, b, c, d, e, f = matrix[0, i], matrix[1, i], matrix[2, i], matrix[3, i], matrix[4, i], matrix[5, i]
        if ma:
            cos, sin = np.cos(np.deg2rad(angle[i])), np.sin(np.deg2rad(angle[i]))
        at = 0 if mp == 1 else (copy if by_copy else i)
        vx, vy = x[i * mv], y[i * mv]
        px, py = placed[0, at] + vx, placed[1, at] + vy
        dx, dy = a * px + c * py + e - cx[i * mx], b * px + d * py + f - cy[i * my]
        w, h, q = wide[i * mw], high[i * mh], inner[i * mi]
        if edge == GIVEN:
            much = near[i * mn]
        else:
            lx, ly = dx * cos + dy * sin, dy * cos - dx * sin
            if not backwards and (abs(lx) >= w > 0.0 or (shape != BAR and abs(ly) >= h > 0.0)):
                # Beyond one of its edges by a glance: most copies are.
                out[0, i], out[1, i] = vx, vy
                continue
            apart = apart_in(lx, ly, w, h, shape)
            much = 1.0
            if apart > q:
                much = 0.0 if apart >= 1.0 else _eased((1.0 - apart) / (1.0 - q), edge)
            if backwards:
                much = 1.0 - much
        if much == 0.0:
            out[0, i], out[1, i] = vx, vy
            continue
        number = numbers[copy]
        length = np.sqrt(dx * dx + dy * dy)
        if length > 0.0:
            ux, uy = dx / length, dy / length
        else:
            ux, uy = np.cos(number * _GOLDEN), np.sin(number * _GOLDEN)
        rx, ry = ux, uy
        if way == 1:
            ux, uy = -ux, -uy
        elif way == 2:
            ux, uy = -uy, ux
        sx = sy = force[i * mf] * much
        r, s = random[i * mr], random_y[i * ms]
        if r != 0.0:
            sx *= 1.0 - r * chance(seed, 0, number)
        if s != 0.0:
            sy *= 1.0 - s * chance(seed, 1, number)
        gx, gy = sx * ux, sy * uy
        if walls:
            ex, ey = dx + gx, dy + gy
            lx, ly = ex * cos + ey * sin, ey * cos - ex * sin
            out_to = apart_in(lx, ly, w, h, shape)
            if out_to < q:
                if out_to <= 1e-12:
                    # In the very middle: out along the way that is its own.
                    lx, ly = rx * cos + ry * sin, ry * cos - rx * sin
                    out_to = apart_in(lx, ly, w, h, shape)
                if out_to > 0.0:
                    lx, ly = lx * q / out_to, ly * q / out_to
                gx, gy = lx * cos - ly * sin - dx, lx * sin + ly * cos - dy
        # Back from the stage to the position's own coordinates, lengths alone.
        size = a * d - b * c
        if size == 0.0:
            out[0, i], out[1, i] = vx, vy
        else:
            out[0, i], out[1, i] = vx + (d * gx - c * gy) / size, vy + (a * gy - b * gx) / size


@inlined
def _push_some(
    x: Floats,
    y: Floats,
    px: float,
    py: float,
    matrix: Floats,
    cx: float,
    cy: float,
    cos: float,
    sin: float,
    w: float,
    h: float,
    inner: float,
    force: Floats,
    way: int,
    shape: int,
    edge: int,
    spare: Floats,
    to_x: Floats,
    to_y: Floats,
) -> bool:
    """`push` for some positions about a place, without branches, so that several go at once; False where one lies in
    the very middle, or there is no way back from the stage. `spare` (5, n)."""
    a, b, c, d, e, f = matrix[0, 0], matrix[1, 0], matrix[2, 0], matrix[3, 0], matrix[4, 0], matrix[5, 0]
    count, size = len(x), a * d - b * c
    dx, dy, across = spare[0, :count], spare[1, :count], spare[2, :count]
    down, much = spare[3, :count], spare[4, :count]
    wide, high = w if w != 0.0 else LEAST, h if h != 0.0 else LEAST
    reach = high if shape != BAR else np.inf
    found = 0
    for i in range(count):
        qx, qy = px + x[i], py + y[i]
        ox, oy = a * qx + c * qy + e - cx, b * qx + d * qy + f - cy
        found |= (abs(ox * cos + oy * sin) < wide) & (abs(oy * cos - ox * sin) < reach)
    # Most copies are beyond reach for a long while.
    if not found:
        to_x[:] = x
        to_y[:] = y
        return True
    if size == 0.0:
        return False
    for i in range(count):
        qx, qy = px + x[i], py + y[i]
        dx[i], dy[i] = a * qx + c * qy + e - cx, b * qx + d * qy + f - cy
    for i in range(count):
        across[i], down[i] = abs(dx[i] * cos + dy[i] * sin) / wide, abs(dy[i] * cos - dx[i] * sin) / high
    if shape == 0:
        for i in range(count):
            across[i] = np.sqrt(across[i] * across[i] + down[i] * down[i])
    elif shape != BAR:
        for i in range(count):
            across[i] = max(across[i], down[i])
    for i in range(count):
        share = min(max((1.0 - across[i]) / (1.0 - inner), 0.0), 1.0)
        share = 1.0 if across[i] <= inner else share
        much[i] = share if edge == LINEAR else share * share * (3.0 - 2.0 * share)
    if force.size == 1:
        for i in range(count):
            much[i] = force[0] * much[i]
    else:
        for i in range(count):
            much[i] = force[i] * much[i]
    ahead = 1.0 if way == 0 else (-1.0 if way == 1 else 0.0)
    aside = 1.0 if way == 2 else 0.0
    middle = 0
    for i in range(count):
        length = np.sqrt(dx[i] * dx[i] + dy[i] * dy[i])
        middle |= length == 0.0
        ux, uy = dx[i] / length, dy[i] / length
        gx, gy = much[i] * (ahead * ux - aside * uy), much[i] * (ahead * uy + aside * ux)
        to_x[i], to_y[i] = x[i] + (d * gx - c * gy) / size, y[i] + (a * gy - b * gx) / size
    return middle == 0


@kernel(error_model="numpy")
def push(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    placed: Floats,
    matrix: Floats,
    each: int,
    near: Floats,
    cx: Floats,
    cy: Floats,
    wide: Floats,
    high: Floats,
    angle: Floats,
    inner: Floats,
    force: Floats,
    random: Floats,
    random_y: Floats,
    numbers: Whole,
    seed: int,
    way: int,
    shape: int,
    edge: int,
    backwards: bool,
    walls: bool,
    out: Filled,
) -> None:
    """out[:, i] = the position x[i], y[i], moved by force · near · dir on the stage, each axis times 1 − random ·
    R(number, axis).

    dir: away from the centre (way 0), towards it (1), or around it (2), a right angle, clockwise; exactly at the centre
    it is drawn from the number. With walls, what is near ends no further in than the inner share. `placed` (2, 1,
    copies or n) is added to a position before the matrix (6, 1 or n) takes it to the stage. `edge` LINEAR or SMOOTH:
    how it passes from 1 to 0; GIVEN: `near` (1 or n) tells. Arrays (n,) or (1,); a number for each copy, which has
    `each` points side by side.
    """
    steady = max(matrix.shape[1], cx.size, cy.size, wide.size, high.size, angle.size, inner.size) == 1
    steady = (
        steady
        and random.size == 1
        and random[0] == 0.0
        and random_y.size == 1
        and random_y[0] == 0.0
        and wide[0] >= 0.0
        and high[0] >= 0.0
    )
    by_copy = placed.shape[1] == len(numbers)
    if x.size == 1 or not steady or not (by_copy or placed.shape[1] == 1) or edge == GIVEN or backwards or walls:
        _push_each(
            first,
            last,
            x,
            y,
            placed,
            matrix,
            each,
            near,
            cx,
            cy,
            wide,
            high,
            angle,
            inner,
            force,
            random,
            random_y,
            numbers,
            seed,
            way,
            shape,
            edge,
            backwards,
            walls,
            out,
        )
        return
    cos, sin, spare = np.cos(np.deg2rad(angle[0])), np.sin(np.deg2rad(angle[0])), np.empty((5, _GLANCE))
    start = first
    while start < last:
        copy = start // each
        stop = min((copy + 1) * each, last, start + _GLANCE)
        at = copy if by_copy else 0
        much = force if force.size == 1 else force[start:stop]
        if not _push_some(
            x[start:stop],
            y[start:stop],
            placed[0, at],
            placed[1, at],
            matrix,
            cx[0],
            cy[0],
            cos,
            sin,
            wide[0],
            high[0],
            inner[0],
            much,
            way,
            shape,
            edge,
            spare,
            out[0, start:stop],
            out[1, start:stop],
        ):
            _push_each(
                start,
                stop,
                x,
                y,
                placed,
                matrix,
                each,
                near,
                cx,
                cy,
                wide,
                high,
                angle,
                inner,
                force,
                random,
                random_y,
                numbers,
                seed,
                way,
                shape,
                edge,
                backwards,
                walls,
                out,
            )
        start = stop
