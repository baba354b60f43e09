"""A scene's plan: the steps that lead to each of its values.

They are compiled once for each structure, which is what there is and who listens to whom, and handed on from state to
state as long as that stays; what a number is worth is no part of it. A value's line is compiled when somebody first
asks for the value. Moments are not in it: which of them are asked for by way of which links only shows in the numbers,
where many ways lead to one moment (sixty-four levers that each listen twice have 2^64 ways, and 2,080 moments).
"""

import numpy as np

from ..document.index import SceneIndex
from ..document.nodes import ParameterNode
from ..document.references import ALL_TOLD, OUTER, PREFIX, parted
from ..document.specs import Kind, ParameterSpec
from .listening import listening
from .readings import heard
from .steps import Ear, Line, Step


def _outside(name: str) -> Ear:
    rest = ALL_TOLD[name]
    kind: Kind = "number" if len(rest) == 1 else "vector"
    spec = ParameterSpec(kind, rest[0] if len(rest) == 1 else rest, name, components=len(rest))
    return Ear(PREFIX + name, None, spec, np.array([[rest]]))


#: What is known of itself by what stands in no array.
OUTSIDE = {name: _outside(name) for name in ALL_TOLD}


class Plan:
    """The lines of one state of a scene; many threads may ask."""

    def __init__(self, index: SceneIndex) -> None:
        self._index = index
        self._lines: dict[str, Line] = {}
        self._compiled: dict[str, Line] = index.carried("plan", dict, listening)

    @classmethod
    def known(cls, index: SceneIndex) -> "Plan":
        """That of a scene; remembered on its index, which never changes."""
        made: Plan | None = index.__dict__.get("_plan")
        return index.__dict__.setdefault("_plan", cls(index)) if made is None else made

    def line(self, parameter: str) -> Line | None:
        """The line of a parameter, or of something that copies know, by id; None for what is not there."""
        line = self._lines.get(parameter)
        if line is None:
            node = self._index.target(parameter)
            if node is None:
                return None
            line = self._compiled.get(parameter)
            if line is None or line.node is not node:
                line = self._compiled[parameter] = _line(node, line)
            self._lines[parameter] = line
        return line

    def at(self, node: ParameterNode) -> Line:
        """The line of what stands at a place."""
        line = self.line(node.id)
        assert line is not None
        return line

    def ear(self, node: ParameterNode, step: Step, reference: str) -> Ear:
        """What a step of a value means by a reference; a copy that stands in no array knows nothing but what holds
        there."""
        ear = step.ears.get(reference)
        if ear is None:
            ear = step.ears[reference] = self._heard(node, reference)
        return ear

    def _heard(self, node: ParameterNode, reference: str) -> Ear:
        index = self._index
        meant, way = index.heard(node, reference), parted(reference)[1]
        target = index.target(meant)
        if target is not None:
            return Ear(meant, way, target.spec, None, way is not None and not index.arrays_of(target))
        outside = OUTSIDE.get(meant.rpartition(OUTER)[2].removeprefix(PREFIX))
        return Ear(None) if outside is None else outside._replace(way=way, alone=way is not None)

    def hears(self, node: ParameterNode, step: Step) -> tuple[str, ...]:
        """Ids of all that a step of a value listens to, and of what decides which copies it hears."""
        if step.hears is None:
            step.hears = tuple(heard(self._index, node, step.modifier))
        return step.hears


def _line(node: ParameterNode, before: Line | None) -> Line:
    """The line of a place; steps that are as they were before are the very same."""
    known = before.steps if before is not None and before.node.spec == node.spec else ()

    def step(position: int) -> Step:
        modifier, acts = stations[position], node.acts(position)
        if position < len(known) and known[position].modifier is modifier and known[position].acts == acts:
            return known[position]
        return Step(modifier, position, acts, node.spec)

    stations = node.stations
    return Line(node, tuple(map(step, range(len(stations)))))
