"""The sampler: any parameter of a scene at any array of times, for one thing or for each element of an array.

From a question to its value: `evaluate` finds the line of the parameter in the scene's plan, `output` what is known of
it, `_worked_out` walks its steps, `apply_modifier` lets one of them act with its settings at hand, and the modifier's
`apply` does the mathematics.
"""

import sys
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..document.nodes import ParameterNode
from ..document.protocols import Values
from ..document.references import Taken
from ..document.scene import Scene
from ..document.specs import numbers
from ..motion.easing import KeyTable, key_table
from .apply import apply_modifier, by_state, write_text
from .axes import AxesOfScene
from .breaks import Breaks, breaks_of
from .bringing import brought
from .cache import Cache, Fault
from .context import Incoming, ModifierContext
from .edges import Edges
from .elements import Elements
from .gauging import reading
from .integrals import reach
from .layouts import Layouts
from .periods import Periods, periods_of
from .plan import Plan
from .sample_times import SampleTimes
from .sparks import Sparks
from .steps import Line
from .taking import inside, taken_of
from .turning import Turning
from .upstream import Upstream

Result = TypeVar("Result")

_TOO_MANY = 1 << 18
"""Results at more moments than this are not remembered: they would push out all else."""

# Each link of a long train of followers takes some ten calls, one inside the other.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 30_000))


@dataclass
class Record:
    """What has been asked for while something was made: parameters by id, and the faults that were found."""

    reads: set[str] = field(default_factory=set)
    faults: dict[tuple[str, str], Fault] = field(default_factory=dict)


class Sampler:
    """Values of one scene's parameters as pure functions of time and of the element.

    A cache may be shared by many samplers and threads; one sampler belongs to one thread. Values have the shape
    (elements or 1, times or 1, components): an axis along which nothing varies has the length 1 and costs nothing.
    """

    def __init__(self, scene: Scene, cache: Cache | None = None) -> None:
        self.scene = scene
        self.index = scene.index
        self.cache = cache if cache is not None else Cache(64 << 20)
        self.upstream = Upstream.known(self.index)
        self.faults: dict[tuple[str, str], Fault] = {}
        self.computed: set[str] = set()
        self._record: Record | None = None
        self._working: set[tuple[str, int]] = set()
        self.memory: dict[Hashable, Any] = {}
        #: The steps that lead to the scene's values.
        self.plan = Plan.known(self.index)
        #: Along which axes the scene's parameters vary.
        self.axes = AxesOfScene.known(self.index)
        self.reach = reach(scene)
        #: What turns the scene's wheels.
        self.turning = Turning.known(self.index)

    # Made at each asking: were they kept, a sampler and all it holds would be freed only when a collector finds the
    # circle.
    @property
    def layouts(self) -> Layouts:
        """Where the copies of the scene's arrays stand."""
        return Layouts(self)

    @property
    def edges(self) -> Edges:
        """The points of its edges."""
        return Edges(self)

    @property
    def sparks(self) -> Sparks:
        """The sparks of its emitters."""
        return Sparks(self)

    @property
    def periods(self) -> Periods:
        """How the scene's parameters repeat."""
        return periods_of(self)

    def breaks(self, elements: Elements | None = None) -> Breaks:
        """Where values of some elements may jump or bend, or those of what stands in no array."""
        return breaks_of(self, elements)

    def key(self, parameter: str) -> bytes:
        """The hash of everything that decides a parameter's values."""
        if self._record is not None:
            self._record.reads.add(parameter)
        return self.upstream.key(parameter)

    def joined(self, parameters: Sequence[str], what: str = "") -> bytes:
        """The hash of everything that decides several parameters, and of what is made of them."""
        if self._record is not None:
            self._record.reads.update(parameters)
        return self.upstream.joined(parameters, what)

    @contextmanager
    def recorded(self) -> Iterator[Record]:
        """Notes what is asked for meanwhile; whoever notes around it notes it, too."""
        record = Record()
        before, self._record = self._record, record
        faults, self.faults = self.faults, record.faults
        try:
            yield record
        finally:
            self._record, self.faults = before, faults
            self.heed(record.reads, record.faults.values())

    def heed(self, reads: Iterable[str], faults: Iterable[Fault]) -> None:
        """Takes over what was asked for, and found, when something was made that is made use of again."""
        if self._record is not None:
            self._record.reads.update(reads)
        self.note_all(faults)

    def node(self, parameter: str) -> ParameterNode | None:
        """A parameter of the scene, or something that copies know, by id."""
        return self.index.target(parameter)

    def sample(self, parameter: str, times: ArrayLike) -> Values:
        """The parameter at times (…) in seconds, shape (…, components). Raises KeyError for an unknown id."""
        asked = np.asarray(times, dtype=np.float64)
        values = self.track(parameter, SampleTimes(asked.ravel()))
        return np.broadcast_to(values, (asked.size, values.shape[1])).reshape(*asked.shape, values.shape[1])

    def track(self, parameter: str, samples: SampleTimes) -> Values:
        """The parameter as (times, components), or (1, components) when it never changes; of copies, the first."""
        values: Values = self.evaluate(parameter, self.of_first(parameter, samples))[0]
        return values

    def of_first(self, parameter: str, samples: SampleTimes) -> SampleTimes:
        """Samples of the scene as those of a parameter's first copy, where it stands in an array."""
        node = self.node(parameter)
        arrays = () if node is None or samples.elements is not None else self.index.arrays_of(node)
        return inside(self, parameter, samples, dict.fromkeys(arrays, 0)) if arrays else samples

    def line(self, parameter: str) -> Line:
        """The steps that lead to a parameter, or to something that copies know. Raises KeyError for an unknown id."""
        line = self.plan.line(parameter)
        if line is None:
            raise KeyError(parameter)
        return line

    def evaluate(self, parameter: str, samples: SampleTimes) -> Values:
        """The parameter at some samples: (elements or 1, times or 1, components). Raises KeyError for an unknown id."""
        line = self.line(parameter)
        if self._record is not None:
            self._record.reads.add(parameter)
        return self.output(line, line.count, samples) if line.rests is None else line.rests

    def after(self, parameter: str, count: int, samples: SampleTimes) -> Values:
        """What the first `count` modifiers of a parameter's chain give at some samples."""
        return self.output(self.line(parameter), count, samples)

    def taken(self, parameter: str, way: Taken, samples: SampleTimes, shared: int) -> Values:
        """A value of many copies as one number for each element of the outermost `shared` arrays, which it stands in
        too: that of a copy, or the mean, least or greatest of those that are there."""
        return taken_of(self, parameter, way, samples, shared)

    def output(self, line: Line, count: int, samples: SampleTimes, remember: bool = True) -> Values:
        """What the first `count` steps of a line give, worked out once for the same samples and only as far as it
        varies; `remember`: whether they may be asked for again."""
        name, asked, most = line.node.id, samples, _TOO_MANY
        if self._record is not None:
            self.key(name)
        if count == 0 and line.begins is not None:
            return line.begins
        if samples.elements is not None:
            asked = samples.reduced(self.axes.after(line, count))
            # What is laid out over many elements is remembered too: each setting of each modifier asks for the same.
            most = _TOO_MANY if asked.elements is None else _TOO_MANY << 3
        if not remember or asked.count > most:
            return samples.spread(self._worked_out(line, count, asked), asked)
        key = (self.upstream.key(name), count, asked.key)
        values: Values = self.remembered(key, lambda: self._new(line, count, asked), _size)
        return values if samples.elements is None else samples.spread(values, asked)

    def _new(self, line: Line, count: int, asked: SampleTimes) -> Values:
        values = self._worked_out(line, count, asked)
        values.setflags(write=False)
        if asked.grid is not None:
            self.computed.add(line.node.id)
        return values

    def remembered(self, key: Hashable, work: Callable[[], Result], size: Callable[[Result], int]) -> Result:
        """`work()`, or what the cache holds of it; the faults found on the way are remembered with it."""
        entry = self.cache.get(key)
        if entry is not None:
            if entry.faults:
                self.note_all(entry.faults)
            known: Result = entry.value
            return known
        before, self.faults = self.faults, {}
        try:
            made = work()
        finally:
            mine, self.faults = self.faults, before
        if mine:
            self.note_all(mine.values())
        self.cache.put(key, made, tuple(mine.values()), size(made))
        return made

    def _worked_out(self, line: Line, count: int, samples: SampleTimes, known: Values | None = None) -> Values:
        """What `count` steps give; `known` is what comes into the last of them, when that has been worked out."""
        if count == 0:
            return self._source(line, samples)
        node, step = line.node, line.steps[count - 1]
        # Texts have no numbers: what they become is worked out by `texts`.
        if not step.acts or node.spec.kind == "text":
            return known[None] if known is not None else self.output(line, count - 1, samples, False)
        asked = (node.id, count)
        if asked in self._working:
            # A circle that came in by a way round the checks: the value rests rather than recursing.
            return np.array([[numbers(node.parameter.rest, node.spec)]])
        self._working.add(asked)
        try:
            incoming = Incoming(self, line, count - 1, samples, known)
            return samples.from_rows(apply_modifier(ModifierContext(self, line, step, samples), incoming))
        finally:
            self._working.discard(asked)

    def _source(self, line: Line, samples: SampleTimes) -> Values:
        if line.begins is not None:
            return line.begins
        node, own = line.node, line.node.parameter
        if node.reads is not None:
            return reading(self, node.reads, samples)
        if node.spec.kind == "text":
            return np.array([[numbers(own.rest if not own.keys else own.keys[0].value, node.spec)]])
        return samples.from_rows(key_table(own, node.spec, self.scene.fps).at(samples.rows))

    def chain_outputs(self, parameter: str, samples: SampleTimes) -> list[Values]:
        """What the resting value or keys give, and then what each modifier passes on: (times or 1, components) each."""
        line = self.line(parameter)
        if self.index.arrays_of(line.node):
            where = self.of_first(parameter, samples)
            return [values[0] for values in self.chain_of_copies(parameter, where)]
        given = [self._source(line, samples)[0]]
        for count in range(1, line.count + 1):
            given.append(self._worked_out(line, count, samples, given[-1])[0])
        return given

    def chain_of_copies(self, parameter: str, samples: SampleTimes) -> list[Values]:
        """The same for copies: (elements or 1, times or 1, components) each."""
        line = self.line(parameter)
        return [self.output(line, count, samples) for count in range(line.count + 1)]

    def brought(self, array: str, samples: SampleTimes, before: str | None = None) -> Values:
        """How much nearer copies are brought by the pushes of their position, or by those that stand before one of
        them, px."""
        return brought(self, array, samples, before)

    def texts(self, parameter: str, samples: SampleTimes) -> tuple[tuple[str, ...], NDArray[np.int64]]:
        """A text parameter's distinct texts, and which of them stands in each row of the samples (rows,) or (1,)."""
        line = self.line(parameter)
        if self._record is not None:
            self.key(parameter)
        own, samples = line.node.parameter, self.of_first(parameter, samples)
        if own.keys:
            frames = np.array([key.frame for key in own.keys]) / self.scene.fps
            which = np.maximum(np.searchsorted(frames, samples.rows, side="right") - 1, 0)
            given = np.array([str(key.value) for key in own.keys], dtype=object)[which]
        else:
            given = np.array([str(own.rest)], dtype=object)
        for step in line.acting():
            given = write_text(ModifierContext(self, line, step, samples), given)
        if given.shape[0] == 1:
            return (given[0],), np.zeros(1, dtype=np.int64)
        distinct, which = np.unique(given, return_inverse=True)
        return tuple(distinct), which

    def note(self, fault: Fault) -> None:
        """Something that makes no sense, besides what modifiers tell."""
        self.note_all([fault])

    def note_all(self, faults: Iterable[Fault]) -> None:
        """Faults that were found on the way; the earliest of each kind is kept."""
        for fault in faults:
            key = (fault.modifier, fault.message)
            known = self.faults.get(key)
            if known is None or fault.time < known.time:
                self.faults[key] = fault

    def pieces(self, line: Line, position: int, samples: SampleTimes) -> NDArray[np.int64] | None:
        """On which piece of what the modifier at `position` gives each sample lies, (n, any number); None: all one."""
        step = line.steps[position]
        modifier, context = step.modifier, ModifierContext(self, line, step, samples)
        if samples.shape[0] > 1 and not modifier.mixes(context):
            return self._pieces_one_by_one(line, position, samples)

        def told(here: ModifierContext, incoming: Incoming, count: int) -> NDArray[Any]:
            with np.errstate(all="ignore"):
                parts = [np.asarray(part, dtype=np.float64) for part in modifier.pieces(incoming, here)]
            columns = [part[:, None] if part.ndim == 1 else part for part in parts]
            return np.hstack([np.zeros((count, 0)), *(np.broadcast_to(c, (count, c.shape[1])) for c in columns)])

        made = by_state(context, Incoming(self, line, position, samples), told)
        return np.clip(np.nan_to_num(made), -1e18, 1e18).astype(np.int64) if made.shape[1] else None

    def _pieces_one_by_one(self, line: Line, position: int, samples: SampleTimes) -> NDArray[np.int64] | None:
        many, each = samples.shape
        parts = [self.pieces(line, position, samples.one(k)) for k in range(many)]
        width = max((0 if part is None else part.shape[1] for part in parts), default=0)
        made = np.zeros((many, each, width), dtype=np.int64)
        for k, part in enumerate(parts):
            if part is not None:
                made[k, :, : part.shape[1]] = part
        return made.reshape(many * each, width) if width else None

    def table(self, node: ParameterNode) -> KeyTable | None:
        """The keys of a parameter that has two or more."""
        own = node.parameter
        return key_table(own, node.spec, self.scene.fps) if len(own.keys) > 1 else None


def _size(values: Values) -> int:
    return values.nbytes + 256
