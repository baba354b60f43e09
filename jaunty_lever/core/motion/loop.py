"""Loop: repeat the keyed stretch."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.notes import Mend, Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity
from ..document.protocols import Context, KeyedLike, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, Whole, kernel
from ..kernels.parallel import over
from .easing import BLOCK, progress, run_end, segment, travel
from .keyed import without_keys

_WAYS = ("hold", "repeat", "alternate", "accumulate", "continue")
_STRETCHES = ("all keys", "last keys", "first keys", "from … to")
_HELP = "hold: the keys as they are; accumulate: each cycle goes on from where the last one ended."


class Loop(Modifier):
    """Repeat the keyed stretch after itself, before itself, or both, each in its own way."""

    title: ClassVar[str] = "Loop"
    called: ClassVar[str] = "cycle repeat ping-pong there and back boomerang endless again"
    purpose: ClassVar[str] = "keep it going"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Repeats its keys: round and round, there and back, on and on."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "choice")
    formula: ClassVar[tuple[str, ...]] = (
        "P = b − a, n = ⌊(t − a)/P⌋, r = t − a − n·P",
        "repeat K(a + r); alternate K(b − r) in every other cycle; accumulate K(a + r) + n·(K(b) − K(a)); "
        "continue K(b) + K′(b)·(t − b); and the mirror of each before a",
    )
    faults: ClassVar[tuple[str, ...]] = ("The stretch does not end after it starts.",)
    example: ClassVar[dict[str, Any]] = {
        "keys": [{"frame": 0, "value": 0}, {"frame": 12, "value": 40}, {"frame": 24, "value": 10}],
        "settings": {"after": "alternate"},
    }

    timely: ClassVar[bool] = True
    compared: ClassVar[str] = "after"

    kind: Literal["loop"] = "loop"
    after: Parameter = spec("repeat", "choice", label="After", help=_HELP, options=_WAYS, main=True)
    before: Parameter = spec("hold", "choice", label="Before", help=_HELP, options=_WAYS, main=True)
    cycles: Parameter = spec(
        0.0,
        label="Times",
        help="Further cycles on either side, then it holds; 0 goes on for ever.",
        low=0,
        high=100,
        step=1,
        whole=True,
        main=True,
    )
    stretch: Parameter = spec("all keys", "choice", label="Stretch", help="What is repeated.", options=_STRETCHES)
    count: Parameter = spec(
        2.0, label="Keys", help="How many keys the stretch holds.", low=2, high=50, step=1, whole=True
    )
    start: Parameter = spec(
        0.0, label="From", unit="frames", help="The stretch's first frame.", low=0, step=1, whole=True
    )
    end: Parameter = spec(30.0, label="To", unit="frames", help="The stretch's last frame.", low=1, step=1, whole=True)
    seam: Parameter = spec(
        0.0,
        label="Smooth seam",
        unit="frames",
        low=0,
        high=60,
        step=1,
        whole=True,
        help="The last frames of a cycle fade into the value before the next one's start (repeat, accumulate).",
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        keys = incoming.keys
        if keys is None:
            return incoming.values
        count = context.whole("count")
        start, end = _stretch(
            keys,
            context.choice("stretch"),
            count,
            context.whole("start") / context.fps,
            context.whole("end") / context.fps,
        )
        context.fault(np.array([end <= start]), "The stretch does not end after it starts")
        if end <= start:
            return incoming.values
        seam = min(max(context.whole("seam"), 0) / context.fps, end - start)
        ends = keys.at(np.array([start, end]))
        slopes = np.stack([keys.slope_at(start, False), keys.slope_at(end, True)])
        out = np.empty((context.components, context.count))
        ways = _WAYS.index(context.choice("after")), _WAYS.index(context.choice("before"))
        over(
            context.count,
            _loop,
            context.times,
            *keys.parts,
            start,
            end,
            *ways,
            max(context.whole("cycles"), 0),
            seam,
            ends,
            slopes,
            out,
        )
        return out.T

    def takes_at_once(self) -> bool:
        return False

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        keys = incoming.keys
        if keys is None:
            return (incoming.passed(context.times),)
        count, fps = context.whole("count"), context.fps
        start, end = _stretch(
            keys, context.choice("stretch"), count, context.whole("start") / fps, context.whole("end") / fps
        )
        if end <= start:
            return (incoming.passed(context.times),)
        period = end - start
        cycle = np.floor((context.times - start) / period + 1e-9)
        since = context.times - start - cycle * period
        seam = min(max(context.whole("seam"), 0) / fps, period)
        there = np.searchsorted(keys.times, start + since, side="right")
        back = np.searchsorted(keys.times, end - since, side="right")
        return cycle, there, back, np.searchsorted(keys.times, context.times, side="right"), since > period - seam

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        found = context.keyed()
        if found is None:
            return incoming
        first, last, gain = found
        whole = self.stretch.constant_value == "all keys" and not self.cycles.moves and self.cycles.constant_value == 0
        ways = {str(self.after.constant_value)} | ({str(self.before.constant_value)} if first > 0 else set())
        if not whole or self.after.moves or self.before.moves or len(ways) > 1 or last <= first:
            return None
        span = last - first
        made = {
            "repeat": Periodicity(span),
            "alternate": Periodicity(2 * span),
            "accumulate": Periodicity(span, gain / span),
        }
        return made.get(ways.pop())

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        hidden = {"all keys": {"count", "start", "end"}, "from … to": {"count"}}
        return super().hidden_settings(spec) | hidden.get(str(self.stretch.rest), {"start", "end"})

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        if seen.keys is None:
            return (without_keys("nothing to repeat"),)
        found = []
        if seen.position:
            move = {"kind": "move modifier", "modifier": self.id, "position": 0}
            text = "It reads the keys, so what stands before it in the chain is lost."
            found.append(Note(text, warn=True, mends=(Mend("Move it to the front", (move,)),)))
        ways = {seen.choice("after"), seen.choice("before")}
        gap = seen.keys.values[-1] - seen.keys.values[0]
        if "repeat" in ways and np.any(gap != 0) and seen.choice("stretch") == "all keys":
            by = ", ".join(seen.said(float(v)) for v in gap)
            close = {"kind": "close keys", "parameter": seen.parameter}
            found.append(
                Note(f"First and last key differ by {by}: a jump at each turn.", mends=(Mend("Close", (close,)),))
            )
        if ways & {"repeat", "alternate", "accumulate"} and seen.choice("stretch") == "all keys":
            seconds = float(seen.keys.times[-1] - seen.keys.times[0])
            found.append(Note(f"One cycle is {plain_number(seconds * seen.fps, 2)} frames."))
        return tuple(found)

    def clause(self, words: Words) -> str:
        after, before = str(words.resting("after")), str(words.resting("before"))
        said = {
            "repeat": "repeats",
            "alternate": "goes there and back",
            "accumulate": "goes on cycle by cycle",
            "continue": "carries straight on",
            "hold": "holds",
        }
        text = said[after] if after != "hold" or before == "hold" else f"{said[before]} before its keys"
        if before not in ("hold", after) and after != "hold":
            text += f" (before its keys it {said[before]})"
        cycles = words.resting("cycles")
        return f"{text}, {words.of('cycles')} times" if words.moves("cycles") or cycles else text


def _stretch(keys: KeyedLike, which: str, count: int, start: float, end: float) -> tuple[float, float]:
    """The times a and b of the stretch that is repeated."""
    if which == "from … to":
        return start, end
    many = min(max(count, 2), len(keys.times))
    first = len(keys.times) - many if which == "last keys" else 0
    last = many - 1 if which == "first keys" else len(keys.times) - 1
    return float(keys.times[first]), float(keys.times[last])


@kernel
def _loop(
    first: int,
    last: int,
    times: Floats,
    key_times: Floats,
    values: Floats,
    kinds: Whole,
    points: Floats,
    near: Floats,
    a: float,
    b: float,
    after: int,
    before: int,
    cycles: int,
    seam: float,
    ends: Floats,
    slopes: Floats,
    out: Filled,
) -> None:
    width = values.shape[1]
    period, count = b - a, len(key_times)
    k, i = 0, first - 1
    scratch, spot = np.empty(BLOCK), np.empty(BLOCK)
    while i + 1 < last:
        i += 1
        t = times[i]
        # A whole number of periods is meant as one, however its division was rounded.
        n = np.floor((t - a) / period + 1e-9)
        way = 0
        if n >= 1.0:
            way = after
        elif n < 0.0:
            way = before
        elif seam > 0.0 and (after == 1 or after == 3):
            way = after
        gain, slope, fade, ended = 0.0, 0.0, 0.0, False
        place = t
        if way == 4:
            side = 1 if n >= 1.0 else 0
            slope = t - (b if side else a)
            if cycles > 0:
                slope = min(max(slope, -cycles * period), cycles * period)
            for c in range(width):
                out[c, i] = ends[side, c] + slopes[side, c] * slope
            continue
        if way > 0:
            r = max(t - a - n * period, 0.0)
            if cycles > 0 and n > cycles:
                n, r, ended = float(cycles), period, True
            elif cycles > 0 and n < -cycles:
                n, r, ended = float(-cycles), 0.0, True
            place = a + r
            if way == 2 and n % 2.0 != 0.0:
                place = b - r
            elif way == 3:
                gain = n
            if seam > 0.0 and way != 2 and r > period - seam:
                fade = (r - (period - seam)) / seam
                fade = fade * fade * (3.0 - 2.0 * fade)
        k = segment(place, k, key_times)
        weight = progress(place, k, key_times, kinds, points, near)
        for c in range(width):
            y = values[k, c]
            if weight != 0.0:
                y += (values[k + 1, c] - values[k, c]) * weight
            out[c, i] = y + gain * (ends[1, c] - ends[0, c]) if gain != 0.0 else y
        if fade > 0.0:
            early = place - period
            k = segment(early, k, key_times)
            weight = progress(early, k, key_times, kinds, points, near)
            for c in range(width):
                y = values[k, c]
                if weight != 0.0:
                    y += (values[k + 1, c] - values[k, c]) * weight
                if way == 3:
                    y += (gain + 1.0) * (ends[1, c] - ends[0, c])
                out[c, i] += fade * (y - out[c, i])
        if seam > 0.0 or ended or k + 1 >= count or place <= key_times[k]:
            continue
        # The samples that follow in the same cycle and between the same two keys need no searching.
        low, high = key_times[k], key_times[k + 1]
        back = way == 2 and n % 2.0 != 0.0
        if way == 0:
            low, high = (
                (max(low, b), high) if t >= b else (max(low, a), min(high, b)) if t >= a else (low, min(high, a))
            )
        else:
            shift = a + n * period
            low, high = (shift + b - high, shift + b - low) if back else (shift + low - a, shift + high - a)
            low, high = max(low, shift), min(high, shift + period)
        margin = 1e-8 * (1.0 + abs(t) + period)
        j = i + run_end(times[i:last], low + margin, high - margin)
        start, span = key_times[k], key_times[k + 1] - key_times[k]
        for begin in range(i + 1, j, BLOCK):
            some = times[begin : min(begin + BLOCK, j)]
            spots = spot[: len(some)]
            if way == 0:
                spots[:] = some
            elif back:
                for m in range(len(some)):
                    spots[m] = b - max(some[m] - a - n * period, 0.0)
            else:
                for m in range(len(some)):
                    spots[m] = a + max(some[m] - a - n * period, 0.0)
            travel(spots, start, span, values[k], values[k + 1], kinds[k], points[k], near[k], scratch, out, begin)
            if gain != 0.0:
                for c in range(width):
                    row, more = out[c, begin : begin + len(some)], gain * (ends[1, c] - ends[0, c])
                    for m in range(len(row)):
                        row[m] += more
        i = j - 1
