"""The sampler: any parameter of a scene at any array of times."""

import sys
from collections.abc import Callable, Hashable, Iterable
from functools import cached_property
from math import ceil, floor
from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..document.index import ParameterNode
from ..document.parameter import Parameter
from ..document.protocols import Values
from ..document.scene import Scene
from ..document.specs import ParameterSpec, numbers
from ..motion.easing import KeyTable, key_table
from ..motion.phase import Beyond, Phase
from .at_work import At, Signal, by_state, run, written
from .breaks import Breaks
from .cache import Cache, Fault
from .periods import Periods
from .sample_times import SampleTimes, Times
from .turning import Turning
from .upstream import Upstream

Result = TypeVar("Result")

_TOO_MANY = 1 << 18
"""Results at more moments than this are not remembered: they would push out all else."""
MOST_LENGTHS = 100
"""Over how many lengths of the scene a value is integrated at the most."""

# Each link of a long train of followers takes some ten calls, one inside the other.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 30_000))


class Sampler:
    """Values of one scene's parameters as pure functions of time.

    A cache may be shared by many samplers and threads; one sampler belongs to one thread.
    """

    def __init__(self, scene: Scene, cache: Cache | None = None) -> None:
        self.scene = scene
        self.index = scene.index
        self.cache = cache if cache is not None else Cache(64 << 20)
        self.upstream = Upstream(self.index, scene.fps)
        self.faults: dict[tuple[str, str], Fault] = {}
        self.computed: set[str] = set()
        self._working: set[tuple[str, int]] = set()
        self.breaks = Breaks(self)
        #: How far from 0, in seconds, a value can be integrated that neither rests nor repeats.
        self.reach = float(
            ceil(min(MOST_LENGTHS * scene.length / scene.fps, max(2 * scene.length / scene.fps, 10_000)))
        )

    @cached_property
    def turning(self) -> Turning:
        """What turns the scene's wheels."""
        return Turning.known(self.index)

    @cached_property
    def periods(self) -> Periods:
        """How the scene's parameters repeat."""
        return Periods(self.index)

    def sample(self, parameter: str, times: ArrayLike) -> Values:
        """The parameter at times (…) in seconds, shape (…, components). Raises KeyError for an unknown id."""
        asked = np.asarray(times, dtype=np.float64)
        values = self.evaluate(parameter, SampleTimes(asked.ravel()))
        return np.broadcast_to(values, (asked.size, values.shape[1])).reshape(*asked.shape, values.shape[1])

    def evaluate(self, parameter: str, samples: SampleTimes) -> Values:
        """The parameter at some moments: (n, components), or (1, components) when it never changes."""
        node = self.index.parameters[parameter]
        own = node.parameter
        if not own.keys and not own.chain:
            return _resting(own, node.spec)
        return self._known(node, samples, len(own.chain))

    def _known(self, node: ParameterNode, samples: SampleTimes, count: int) -> Values:
        """What `count` modifiers of a chain give, worked out once for the same moments."""

        def work() -> Values:
            values = self._last(node, samples, count)
            values.setflags(write=False)
            if samples.grid is not None:
                self.computed.add(node.id)
            return values

        if len(samples.times) > _TOO_MANY:
            return self._last(node, samples, count)
        return self.remembered((self.upstream.key(node.id), count, samples.key), work, lambda v: v.nbytes + 256)

    def remembered(self, key: Hashable, work: Callable[[], Result], size: Callable[[Result], int]) -> Result:
        """`work()`, or what the cache holds of it; the faults found on the way are remembered with it."""
        entry = self.cache.get(key)
        if entry is not None:
            self.note_all(entry.faults)
            known: Result = entry.value
            return known
        before, self.faults = self.faults, {}
        try:
            made = work()
        finally:
            mine, self.faults = self.faults, before
        self.note_all(mine.values())
        self.cache.put(key, made, tuple(mine.values()), size(made))
        return made

    def chain_outputs(self, parameter: str, samples: SampleTimes) -> list[Values]:
        """What the resting value or keys give, and then what each modifier of the chain passes on."""
        node = self.index.parameters[parameter]
        return self.chain(node, samples, len(node.parameter.chain))

    def texts(self, parameter: str, samples: SampleTimes) -> tuple[tuple[str, ...], NDArray[np.int64]]:
        """A text parameter's distinct texts, and which of them stands at each moment (n,) or (1,)."""
        node = self.index.parameters[parameter]
        own = node.parameter
        if own.keys:
            frames = np.array([key.frame for key in own.keys]) / self.scene.fps
            which = np.maximum(np.searchsorted(frames, samples.times, side="right") - 1, 0)
            given = np.array([str(key.value) for key in own.keys], dtype=object)[which]
        else:
            given = np.array([str(own.rest)], dtype=object)
        for modifier in () if own.bypassed else own.chain:
            if not modifier.bypassed:
                given = written(At(self, node, modifier, samples), modifier, given)
        if given.shape[0] == 1:
            return (given[0],), np.zeros(1, dtype=np.int64)
        distinct, which = np.unique(given, return_inverse=True)
        return tuple(distinct), which

    def note(self, fault: Fault) -> None:
        """Something that makes no sense, besides what modifiers tell."""
        self.note_all([fault])

    def note_all(self, faults: Iterable[Fault]) -> None:
        for fault in faults:
            key = (fault.modifier, fault.message)
            known = self.faults.get(key)
            if known is None or fault.time < known.time:
                self.faults[key] = fault

    def _last(self, node: ParameterNode, samples: SampleTimes, count: int) -> Values:
        asked = (node.id, count)
        if asked in self._working:
            # A circle that came in by a way round the checks: the value rests rather than recursing.
            return np.array([numbers(node.parameter.rest, node.spec)])
        self._working.add(asked)
        try:
            return self.after(node, samples, count)
        finally:
            self._working.discard(asked)

    def pieces(self, node: ParameterNode, position: int, times: Times) -> NDArray[np.int64] | None:
        """On which piece of what the modifier at `position` gives each moment lies, (n, any number); None: all one."""
        modifier, samples = node.parameter.chain[position], SampleTimes(times)
        signal = Signal(self, node, position, samples)

        def told(at: At, signal: Signal, count: int) -> NDArray[Any]:
            with np.errstate(all="ignore"):
                parts = [np.asarray(part, dtype=np.float64) for part in modifier.pieces(signal, at)]
            columns = [part[:, None] if part.ndim == 1 else part for part in parts]
            return np.hstack([np.zeros((count, 0)), *(np.broadcast_to(c, (count, c.shape[1])) for c in columns)])

        made = by_state(self, node, modifier, signal, samples, told)
        return np.clip(np.nan_to_num(made), -1e18, 1e18).astype(np.int64) if made.shape[1] else None

    def chain(self, node: ParameterNode, samples: SampleTimes, count: int) -> list[Values]:
        """The values after each of the first `count` modifiers, from the resting value or keys on."""
        given = [self._source(node, samples)]
        for position in range(count):
            given.append(self._passed(node, samples, position, given[-1]))
        return given

    def after(self, node: ParameterNode, samples: SampleTimes, count: int) -> Values:
        """The values after `count` modifiers. What a modifier does not ask for is never worked out."""
        if count == 0:
            return self._source(node, samples)
        return self._passed(node, samples, count - 1, None)

    def before(self, node: ParameterNode, samples: SampleTimes, count: int) -> Values:
        """The values after `count` modifiers at moments that may be asked for again."""
        return self._known(node, samples, count) if count else self._source(node, samples)

    def _passed(self, node: ParameterNode, samples: SampleTimes, position: int, known: Values | None) -> Values:
        """What the modifier at `position` passes on; `known` is what comes in, when that has been worked out."""
        modifier = node.parameter.chain[position]
        signal = Signal(self, node, position, samples, known)
        # Texts have no numbers: what they become is worked out by `texts`.
        if node.parameter.bypassed or modifier.bypassed or node.spec.kind == "text":
            return signal.values
        return run(self, node, modifier, signal, samples)

    def _source(self, node: ParameterNode, samples: SampleTimes) -> Values:
        own = node.parameter
        if not own.keys or node.spec.kind == "text":
            return np.array([numbers(own.rest if not own.keys else own.keys[0].value, node.spec)])
        return key_table(own, node.spec, self.scene.fps).at(samples.times)

    def table(self, node: ParameterNode) -> KeyTable | None:
        """The keys of a parameter that has two or more."""
        own = node.parameter
        return key_table(own, node.spec, self.scene.fps) if len(own.keys) > 1 else None

    def phase(self, parameter: str, low: float, high: float, component: int = 0, signed: bool = False) -> Phase:
        """The integral of one component of a parameter from 0, usable from `low` to `high` seconds, and beyond where
        the parameter rests or repeats. Unless it is `signed`, values below 0 count as 0.
        """
        node = self.index.parameters[parameter]
        count = len(node.parameter.chain)

        def rate(times: Times) -> Times:
            values = self.after(node, SampleTimes(times), count)[:, component]
            return np.broadcast_to(values if signed else np.maximum(values, 0.0), times.shape)

        first, last, beyond = self._bounds(node, low, high, rate)
        key = ("phase", self.upstream.key(parameter), first, last, component, signed, self.reach)

        def work() -> Phase:
            breaks, swings = self.breaks.of(parameter, first, last), self.breaks.swings(node, count)
            return Phase(rate, breaks, swings, first, last, beyond)

        return self.remembered(key, work, lambda phase: phase.powers.nbytes * 2)

    def _bounds(
        self, node: ParameterNode, low: float, high: float, rate: Callable[[Times], Times]
    ) -> tuple[int, int, Beyond]:
        """Over which whole seconds a rate is integrated in panels, and how it goes on beyond them."""
        reach = int(self.reach)
        # Whole spans keep the remembered phase useful for many questions.
        first = max(min(0, floor(max(low, -reach) / 8) * 8), -reach)
        last = min(max(8, ceil(min(high, reach) / 8) * 8), reach)
        stretch = self.breaks.stretch(node, len(node.parameter.chain))
        if stretch is not None:
            ends = (floor(max(min(stretch[0], 0.0), -reach)) - 1, ceil(min(max(stretch[1], 0.0), reach)) + 1)
            rest = rate(np.array([ends[0] - 1.0, ends[1] + 1.0]))
            below = float(rest[0]) if stretch[0] >= -reach else None
            above = float(rest[1]) if stretch[1] <= reach else None
            return (first if below is None else ends[0]), (last if above is None else ends[1]), Beyond(below, above)
        cycle = self.periods.of(node.id)
        if cycle is not None and not cycle.drift and 0 < cycle.period <= reach / 2 - 1:
            scene = self.scene.length / self.scene.fps
            return first, min(max(16, 2 * ceil(cycle.period), ceil(scene)), reach), Beyond(period=float(cycle.period))
        return first, last, Beyond()


def _resting(own: Parameter, spec: ParameterSpec) -> Values:
    """The resting value as (1, components); remembered on the parameter, which never changes."""
    known: tuple[tuple[str, int], Values] | None = own.__dict__.get("_resting")
    asked = (spec.kind, spec.components)
    if known is None or known[0] != asked:
        known = (asked, np.array([_numbers_at_rest(own, spec)]))
        known[1].setflags(write=False)
        own.__dict__["_resting"] = known
    return known[1]


def _numbers_at_rest(own: Parameter, spec: ParameterSpec) -> tuple[float, ...]:
    try:
        return numbers(own.rest, spec)
    except ValueError:
        # A setting that nobody has set, of a modifier on a parameter of another kind.
        return numbers(spec.default, spec)
