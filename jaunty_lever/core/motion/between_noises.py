"""What lies between several noises: where copies stand among them, and what that gives."""

import numpy as np

from ..document.protocols import Values
from ..kernels import wandering_together
from ..kernels.compiled import Whole
from ..kernels.parallel import over

_MIDDLE, _BESIDE = (0.37, 0.71), 4096
"""Where circles have their middle in the plane of noises, and how far apart several of them lie."""
_PLANE, _ROW = 1 << 40, 1 << 20
"""Numbers of the noises of that plane: beyond those of any line, row by row."""


def _eased(share: Values) -> Values:
    return np.ascontiguousarray(share * share * (3 - 2 * share))


def surrounded(along: Values, place: Values, circle: Values) -> tuple[Whole, Values]:
    """The noises, by number, between which copies stand at `along` times their `place` (copies,), and how much each has
    of which; (copies, 2), or (copies, 4) where some stand on a circle (see `references.CIRCLE`).

    On a line noises stand at whole numbers. A circle as long as the line would be lies in a plane of noises at whole
    numbers in both directions, so that it closes, and its halves are not alike.
    """
    at = along * place
    below = np.floor(at)
    share = _eased(at - below)
    numbers = np.stack([below, below + 1], axis=1).astype(np.int64)
    weights = np.stack([1 - share, share], axis=1)
    closed = circle[:, 0] >= 0
    if not closed.any():
        return numbers, weights
    turn, length, which = 2 * np.pi * circle[:, 0], along * circle[:, 1], circle[:, 2]
    radius = length / (2 * np.pi)
    x, y = _MIDDLE[0] + which * _BESIDE + radius * np.cos(turn), _MIDDLE[1] + radius * np.sin(turn)
    left, top = np.floor(x), np.floor(y)
    right, down = _eased(x - left), _eased(y - top)
    corners = [_PLANE + (top + r) * _ROW + left + c for r in (0, 1) for c in (0, 1)]
    much = [(down if r else 1 - down) * (right if c else 1 - right) for r in (0, 1) for c in (0, 1)]
    round_it = np.stack(np.broadcast_arrays(*corners), axis=1).astype(np.int64)
    shares = np.stack(np.broadcast_arrays(*much), axis=1)
    # On a line the two others have no part.
    numbers, weights = np.concatenate([numbers, numbers], axis=1), np.concatenate([weights, 0 * weights], axis=1)
    mine = closed[:, None]
    return np.where(mine, round_it, numbers), np.where(mine, shares, weights)


def between(table: Values, nodes: Whole, weights: Values, side: int, base: Values, gain: Values, out: Values) -> bool:
    """See `wandering_together.between`; `side`: to which side of 0 the noises lie."""
    sign = (0.0, 1.0, -1.0)[side]
    made = (table, np.ascontiguousarray(nodes), np.ascontiguousarray(weights), sign, base, gain, out)
    return over(out.size, wandering_together.between, *made, looked=out[None])


def led_apart(first: Values, own: Values, apart: Values, side: int, base: Values, gain: Values) -> None:
    """own (n,) = base + gain times what lies between the first component's noise and its own, the share `apart` (n,) or
    (1,) of the way."""
    table, weights = np.stack([first, own]), np.stack([1 - apart, apart], axis=1)
    each = own.size if len(apart) == 1 else 1
    nodes = np.arange(len(apart))[:, None] + len(apart) * np.arange(2)
    between(table.reshape(-1, each), nodes, weights, side, base, gain, own)
