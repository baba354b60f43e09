"""Outlines cut into points that lie evenly along them, from corner to corner."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.outline import Floats
from ..kernels.edges import PIECES, cornered, cut, measured, moved, through, turned_out
from ..kernels.parallel import over

Whole = NDArray[np.int64]
_NUMBERS = {"L": 1, "Q": 2, "C": 3}
X, Y, NX, NY, U, HEIGHT = range(6)


@dataclass(frozen=True)
class Cut:
    """Outlines that are cut alike: which they are, by number; how their points hang together (see
    `kernels.edges.through`); the verbs of the curves through these; and for each outline a table (6, points) of x, y,
    the outward normal's x and y, the share of the length, and the height, 0 at the lowest point and 1 at the
    topmost."""

    outlines: Whole
    links: Whole
    verbs: str
    table: Floats

    @property
    def count(self) -> int:
        """How many points there are."""
        return len(self.links)

    @cached_property
    def lengths(self) -> Floats:
        """How long each outline is from point to point, in px; (outlines,)."""
        led = np.flatnonzero(self.links[:, 1] >= 0)
        steps = self.table[:, [X, Y]][:, :, self.links[led, 1]] - self.table[:, [X, Y]][:, :, led]
        made: Floats = np.hypot(steps[:, 0], steps[:, 1]).sum(axis=1)
        return made

    @cached_property
    def circles(self) -> Floats:
        """Of each point: how far round its contour it stands, as a share, −1 where that is open; what share of the
        whole length that contour is; and which one it is; (outlines, points, 3)."""
        contour = np.cumsum(self.links[:, 3] == 1) - 1
        many = int(contour[-1]) + 1 if len(contour) else 0
        first = np.flatnonzero(self.links[:, 3] == 1)
        begins = np.concatenate([self.table[:, U, first], np.ones((len(self.table), 1))], axis=1)
        span = np.diff(begins, axis=1)[:, contour]
        share = (self.table[:, U] - begins[:, contour]) / np.where(span > 0, span, 1.0)
        open_ended = np.isin(np.arange(many), contour[self.links[:, 1] < 0])[contour]
        numbered = np.broadcast_to(contour, share.shape)
        return np.stack([np.where(open_ended, -1.0, share), span, numbered], axis=-1)

    def drawn(self, state: Whole, out_by: Floats, size: Floats, share: Floats, about: Floats) -> Floats:
        """The numbers of the smooth curves through the points, for outlines by their position here, moved outwards by
        `out_by` (rows or 1, points or 1) times `share`, and drawn together to `size` about `about` (rows or 1, 2);
        (rows, numbers)."""
        rows = max(len(state), len(out_by), len(size), len(share), len(about))
        points = np.empty((rows, 2, self.count))
        over(rows, moved, self.table, state, out_by, size, share, about, points, each=self.count)
        made = np.empty((rows, 2 * (self.verbs.count("M") + 3 * self.verbs.count("C"))))
        over(rows, through, points, self.links, made, each=2 * self.count)
        return made


def cut_outlines(
    verbs: str, points: Floats, detail: Floats, smooth: Whole, most: int, least: int, stepped: bool
) -> tuple[list[Cut], Floats]:
    """Outlines with the same verbs, (rows, numbers), cut into points no further apart than `detail` (rows or 1,) px, at
    least `least` and at most `most` of them; where `smooth` (rows or 1,) is not 0, corners are rounded off.

    `stepped`: the numbers of points go by steps, so that few follow one another where outlines change. Also gives how
    many points there would be by the detail alone, (rows,). Outlines without length, or with more contours than there
    may be points, are left out.
    """
    curves, spans, closed = cubics(verbs, points)
    rows = len(curves)
    table, flags = np.empty((*curves.shape[:2], PIECES + 1)), np.empty(curves.shape[:2], dtype=np.int64)
    over(rows, measured, curves, table, each=PIECES * curves.shape[1])
    over(rows, cornered, curves, table, spans, closed, smooth, flags)
    whole = table[:, :, PIECES].sum(axis=1)
    many = (flags == 2).sum(axis=1)
    flags[(many > most // 2) & (many > 0)] = np.minimum(flags[(many > most // 2) & (many > 0)], 1)
    made: list[Cut] = []
    for flag, mine in _alike(flags):
        order, stretches = _stretches(flag, spans, closed)
        if not len(stretches) or len(stretches) > most:
            continue
        lengths = np.add.reduceat(table[mine][:, order, PIECES], stretches[:, 0], axis=1)
        room = max((most / 1.5 if stepped else most) - len(stretches), 1)
        apart = np.clip(np.broadcast_to(detail, rows)[mine], whole[mine] / room, whole[mine] / least)
        parts = np.maximum(np.ceil(lengths / apart[:, None] - 1e-6), 1).astype(np.int64)
        if stepped:
            parts = _steps(parts)
        for number, those in _alike(parts):
            some = mine[those]
            own = np.ascontiguousarray(curves[some][:, order]), np.ascontiguousarray(table[some][:, order])
            made.append(_cut(some, *own, stretches, number))
    return made, whole / np.maximum(detail, 1e-9)


def _alike(rows: Whole) -> list[tuple[Whole, Whole]]:
    """The distinct ones of some rows, and the positions of each."""
    if not len(rows) or (rows == rows[0]).all():
        return [(row, np.arange(len(rows))) for row in rows[:1]]
    kinds, kind = np.unique(rows, axis=0, return_inverse=True)
    return [(one, np.flatnonzero(kind.ravel() == k)) for k, one in enumerate(kinds)]


def _steps(parts: Whole) -> Whole:
    """1, 2, 3, 4, 6, 8, 12 …: the next that is no less."""
    double = 2 ** np.ceil(np.log2(parts)).astype(np.int64)
    return np.where((double >= 4) & (parts <= double * 3 // 4), double * 3 // 4, double)


def cubics(verbs: str, points: Floats) -> tuple[Floats, Whole, Whole]:
    """All curves of outlines (rows, numbers) as cubics (rows, curves, 8), the spans of the contours, and which are
    closed."""
    xy = points.reshape(len(points), -1, 2)
    curves: list[Floats] = []
    spans: list[list[int]] = []
    closed: list[int] = []
    at = start = xy[:, 0] if xy.shape[1] else np.zeros((len(points), 2))
    k = 0
    for verb in verbs:
        if verb == "M":
            at = start = xy[:, k]
            k += 1
            spans.append([len(curves), len(curves)])
            closed.append(0)
            continue
        if verb == "Z":
            inner, closed[-1] = [start], 1
        else:
            many = _NUMBERS[verb]
            inner = [xy[:, k + j] for j in range(many)]
            k += many
        curves.append(_cubic(at, inner))
        at = inner[-1]
        spans[-1][1] = len(curves)
    whole = np.stack(curves, axis=1) if curves else np.zeros((len(points), 0, 8))
    return whole, np.array(spans, dtype=np.int64).reshape(-1, 2), np.array(closed, dtype=np.int64)


def _cubic(at: Floats, inner: list[Floats]) -> Floats:
    """A line, a quadratic or a cubic from `at` as cubics (rows, 8)."""
    end = inner[-1]
    if len(inner) == 3:
        one, two = inner[0], inner[1]
    elif len(inner) == 2:
        one, two = (at + 2 * inner[0]) / 3, (2 * inner[0] + end) / 3
    else:
        one, two = at + (end - at) / 3, end + (at - end) / 3
    return np.concatenate([at, one, two, end], axis=1)


def _stretches(flag: Whole, spans: Whole, closed: Whole) -> tuple[Whole, Whole]:
    """The curves that have a length, each closed contour from its first corner on; and the stretches that they make
    (see `kernels.edges.cut`, their parts still 0), with their contours' beginnings in a sixth column."""
    order: list[int] = []
    made: list[list[int]] = []
    for (first, last), round_it in zip(spans, closed, strict=True):
        own = [int(s) for s in range(first, last) if flag[s]]
        if not own:
            continue
        corners = [k for k, s in enumerate(own) if flag[s] == 2]
        if round_it and corners:
            own = own[corners[0] :] + own[: corners[0]]
        base = len(order)
        starts = [k for k, s in enumerate(own) if k == 0 or flag[s] == 2]
        for j, k in enumerate(starts):
            end = starts[j + 1] if j + 1 < len(starts) else len(own)
            comes = base + (k - 1) % len(own) if flag[own[k]] == 2 and (k or round_it) else -1
            final = not round_it and end == len(own)
            made.append([base + k, base + end, 0, comes, int(final), int(k == 0)])
        order += own
    return np.array(order, dtype=np.int64), np.array(made, dtype=np.int64).reshape(-1, 6)


def _cut(outlines: Whole, curves: Floats, table: Floats, stretches: Whole, parts: Whole) -> Cut:
    whole = stretches.copy()
    whole[:, 2] = parts
    links, verbs, round_it = _links(whole.tobytes())
    made = np.empty((len(outlines), 6, len(links)))
    over(len(outlines), cut, curves, table, np.ascontiguousarray(whole[:, :5]), made, each=4 * len(links))
    over(len(outlines), turned_out, links, round_it, made, each=len(links))
    return Cut(outlines, links, verbs, made)


@lru_cache(32)
def _links(written: bytes) -> tuple[Whole, str, Whole]:
    """How the points of stretches, written side by side, hang together, the verbs of the curves through them, and which
    belong to closed contours. What moves is cut alike over and over."""
    stretches = np.frombuffer(written, dtype=np.int64).reshape(-1, 6)
    made: list[Whole] = []
    verbs: list[str] = []
    closed: list[Whole] = []
    begin = 0
    fresh = [*np.flatnonzero(stretches[:, 5]).tolist(), len(stretches)]
    for first, last in zip(fresh[:-1], fresh[1:], strict=True):
        own = stretches[first:last]
        ends = bool(own[-1, 4])
        many = int(own[:, 2].sum()) + int(ends)
        corner = np.zeros(many, dtype=bool)
        corner[np.cumsum(own[:, 2])[:-1][own[1:, 3] >= 0]] = True
        corner[0] = ends or own[0, 3] >= 0
        corner[-1] |= ends
        i = np.arange(many)
        after = (i + 1) % many
        links = np.stack(
            [np.where(corner, i, (i - 1) % many), after, np.where(corner[after], after, (i + 2) % many), i], axis=1
        )
        links += begin
        links[:, 3] = i == 0
        if ends:
            links[-1, 1:3] = -1
        else:
            closed.append(begin + i)
        made.append(links)
        begin += many
        verbs.append("M" + "C" * (many - int(ends)) + ("" if ends else "Z"))
    whole = np.concatenate(closed) if closed else np.zeros(0, dtype=np.int64)
    links = np.concatenate(made)
    for one in (links, whole):
        one.setflags(write=False)
    return links, "".join(verbs), whole
