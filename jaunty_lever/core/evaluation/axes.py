"""Along which axes each parameter of a scene varies: known from its graph before anything is worked out."""

from threading import RLock

from ..document.axes import CONSTANT, OVER_TIME, Axes, joined_axes
from ..document.index import SceneIndex
from ..document.nodes import ParameterNode, Reading
from .graph import common
from .plan import Plan
from .readings import needed, stage_parameters, timely
from .steps import Line, Step
from .upstream import Upstream


class AxesOfScene:
    """The axes of one scene's parameters, each found once; many threads may ask."""

    def __init__(self, index: SceneIndex) -> None:
        self._index = index
        self._known: dict[tuple[str, int], Axes] = {}
        self._working: set[tuple[str, int]] = set()
        self._lock = RLock()
        self._upstream = Upstream.known(index)
        self._plan = Plan.known(index)

    @classmethod
    def known(cls, index: SceneIndex) -> "AxesOfScene":
        """Those of a scene; remembered on its index, which never changes."""
        made: AxesOfScene | None = index.__dict__.get("_axes")
        return index.__dict__.setdefault("_axes", cls(index)) if made is None else made

    def of(self, parameter: str) -> Axes:
        """The axes of a parameter's result."""
        line = self._plan.line(parameter)
        return CONSTANT if line is None else self.after(line, line.count)

    def heard(self, node: ParameterNode, step: Step, reference: str) -> Axes:
        """The axes of what a step of a parameter listens to, as it hears it."""
        ear = self._plan.ear(node, step, reference)
        if ear.id is None or ear.rests is not None:
            return CONSTANT
        if ear.way is None:
            return self.of(ear.id)
        target = self._index.target(ear.id)
        assert target is not None
        # A value of many taken as one: the same for all copies of the arrays that the two do not share. Who moves shows
        # in time as well: copies come and go, and each may live at a time of its own.
        return Axes(self.of(ear.id).within(shared_depth(self._index, node, target)).elements, True)

    def after(self, line: Line, count: int) -> Axes:
        """The axes of what the first `count` steps of a line give."""
        node = line.node
        asked = (node.id, count)
        known = self._known.get(asked)
        if known is not None:
            return known
        if (before := self._upstream.before) is not None and self._upstream.as_before(node.id):
            return AxesOfScene.known(before).after(line, count)
        with self._lock:
            # A circle that came in by a way round the checks rests.
            if asked in self._working:
                return CONSTANT
            self._working.add(asked)
            try:
                made = self._found(line, count).within(len(self._index.arrays_of(node)))
            finally:
                self._working.discard(asked)
            self._known[asked] = made
        return made

    def _found(self, line: Line, count: int) -> Axes:
        node = line.node
        if not count:
            if node.reads is not None:
                return self._read(node.reads)
            return OVER_TIME if len(node.parameter.keys) > 1 else CONSTANT
        before, step = self.after(line, count - 1), line.steps[count - 1]
        return self._passed(node, step, before) if step.acts else before

    def _read(self, reads: Reading) -> Axes:
        """The axes of what is read off copies."""
        taken = joined_axes(*(self.of(parameter) for parameter in needed(self._index, reads)))
        outside = len(self._index.arrays.get(reads.array, ()))
        return taken | Axes(outside + 1) | (OVER_TIME if timely(self._index, reads) else CONSTANT)

    def _passed(self, node: ParameterNode, step: Step, before: Axes) -> Axes:
        modifier = step.modifier
        settings = [self.of(f"{modifier.id}.{name}") for name in step.moving]
        drivers = [self.heard(node, step, reference) for reference in modifier.references()]
        if modifier.stands:
            drivers += [self.of(parameter) for parameter in stage_parameters(self._index, node)]
        windows = OVER_TIME if modifier.windows else CONSTANT
        return modifier.axes(before, joined_axes(windows, *settings, *drivers))


def shared_depth(index: SceneIndex, one: ParameterNode, other: ParameterNode) -> int:
    """How many arrays, from the outermost in, two parameters both stand in, when the other's copies are taken as one:
    those of its innermost array always are."""
    theirs = index.arrays_of(other)
    return min(common(index.arrays_of(one), theirs), len(theirs) - 1)
