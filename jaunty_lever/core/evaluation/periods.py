"""Exact periods of a scene's parameters, from what their chains are made of."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from ..document.arrangement import Emitter
from ..document.gauge import NoiseGauge
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode, Reading
from ..document.periodicity import STILL, Periodicity, as_fraction, common, together
from ..document.protocols import Values
from ..document.specs import components, specs_of
from .plan import Plan
from .readings import needed, timely
from .sample_times import SampleTimes
from .sampling import Sampling
from .symmetry import smallest_turn


class Periods:
    """Periodicities of one scene's parameters, each worked out once; None for what never repeats."""

    def __init__(self, index: SceneIndex, constant: Callable[[str], Values]) -> None:
        """`constant` gives the value of a parameter that never changes, (components,)."""
        self.index, self.constant = index, constant
        self._plan = Plan.known(index)
        self._known: dict[str, Periodicity | None] = {}
        self._working: set[str] = set()

    def of(self, parameter: str) -> Periodicity | None:
        """How a parameter's result repeats."""
        if parameter in self._known:
            return self._known[parameter]
        node = self.index.target(parameter)
        if node is None or parameter in self._working:
            return STILL
        self._working.add(parameter)
        made = self._chain(node)
        self._working.discard(parameter)
        self._known[parameter] = made
        return made

    def seen(self, parameter: str) -> Periodicity | None:
        """The same as it looks: a rotation that drifts is back after each turn that looks like none."""
        cycle, node = self.of(parameter), self.index.parameters[parameter]
        if cycle is None or not cycle.drift:
            return cycle
        if node.spec.kind != "angle":
            return None
        return Periodicity(common(cycle.period, abs(smallest_turn(self.index, node) / cycle.drift)))

    def _chain(self, node: ParameterNode) -> Periodicity | None:
        own = node.parameter
        cycle = STILL if len({key.value for key in own.keys}) < 2 else None
        if node.reads is not None:
            # What is read depends on the present values of what it needs, and on nothing else.
            parts = [self.of(needs) for needs in needed(self.index, node.reads)]
            cycle = together(*parts)
            if timely(self.index, node.reads):
                again = self._comes_round(node.reads)
                cycle = None if again is None else together(cycle, again)
        line = self._plan.at(node)
        for step in line.acting():
            modifier = step.modifier
            if modifier.windows:
                return None
            asked = _Asked(self, node, modifier)
            full = asked.exact("strength")
            if full == 0:
                continue
            after = modifier.periodicity(cycle, asked)
            strength, shares = asked.setting("strength"), asked.setting("weights")
            all_of_it = full == 100 and asked.exact("weights") == 1
            # Part of an effect is a blend of what comes in and what goes out.
            cycle = after if all_of_it else together(after, cycle, strength, shares)
        return cycle

    def _comes_round(self, reads: Reading) -> Periodicity | None:
        """How what moves by itself repeats; None where it does not."""
        what, layer = reads.what, self.index.layers[reads.array]
        if not isinstance(what, NoiseGauge) or what.frequency.moves or what.repeat.moves:
            return None
        if isinstance(layer, ArrayLayer) and isinstance(layer.arrangement, Emitter):
            return None
        after = as_fraction(what.repeat.constant_value, what.repeat.typed)
        return Periodicity(after) if after is not None and after > 0 else None


@dataclass(frozen=True)
class _Asked:
    periods: Periods
    node: ParameterNode
    modifier: Modifier

    @property
    def fps(self) -> float:
        return self.periods.index.scene.fps

    def setting(self, name: str) -> Periodicity | None:
        return self.periods.of(f"{self.modifier.id}.{name}")

    def driver(self, parameter: str) -> Periodicity | None:
        # As one of many, it goes by which copies are there and what they show at each moment.
        return None if "@" in parameter else self.periods.of(self.periods.index.heard(self.node, parameter))

    def exact(self, name: str) -> Fraction | None:
        """A setting's value as an exact number, when it is one number that never changes."""
        own = getattr(self.modifier, name)
        cycle = self.setting(name)
        if cycle is None or not cycle.still:
            return None
        if own.chain:
            return self._driven(name)
        spec = specs_of(type(self.modifier))[name].fitted(self.node.spec)
        try:
            numbers = components(own.keys[0].value if own.keys else own.rest, spec)
        except ValueError:
            return None
        return as_fraction(numbers[0], own.typed if not own.keys else ()) if len(set(numbers)) == 1 else None

    def _driven(self, name: str) -> Fraction | None:
        value = self.periods.constant(f"{self.modifier.id}.{name}")
        return as_fraction(float(value[0])) if len(value) == 1 else None

    def keyed(self) -> tuple[Fraction, Fraction, Fraction] | None:
        """First and last key in seconds, and what the value gains between them; None with fewer than two keys."""
        keys = self.node.parameter.keys
        if len(keys) < 2:
            return None
        fps = as_fraction(self.fps) or Fraction(30)
        first, last = (Fraction(str(key.frame)) / fps for key in (keys[0], keys[-1]))
        ends = [components(key.value, self.node.spec) for key in (keys[0], keys[-1])]
        gains = {round(b - a, 9) for a, b in zip(*ends, strict=True)}
        gain = as_fraction(gains.pop()) if len(gains) == 1 else None
        return first, last, gain if gain is not None else Fraction(0)


def moving(index: SceneIndex) -> list[ParameterNode]:
    """The parameters of layers that may move and are drawn. Curves over a passage are none, and what sparks are and are
    thrown by comes round with their emitter."""
    emitters = {
        layer.id
        for layer in index.layers.values()
        if isinstance(layer, ArrayLayer) and isinstance(layer.arrangement, Emitter)
    }
    return [
        node
        for node in index.parameters.values()
        if node.within is None
        and node.parameter.moves
        and node.top not in index.levers
        and node.spec.kind != "text"
        and not node.spec.passage
        and not (emitters and (emitters.intersection(index.arrays_of(node)) or _throws(node, emitters)))
    ]


def _throws(node: ParameterNode, emitters: set[str]) -> bool:
    return node.top in emitters and node.id.startswith(f"{node.top}.arrangement.")


def periods_of(sampler: Sampling) -> Periods:
    """How the parameters of a scene repeat; made once for each sampler."""
    if "periods" not in sampler.memory:
        sampler.memory["periods"] = Periods(sampler.index, lambda parameter: _at_once(sampler, parameter))
    made: Periods = sampler.memory["periods"]
    return made


def _at_once(sampler: Sampling, parameter: str) -> Values:
    values: Values = sampler.track(parameter, SampleTimes(np.zeros(1)))[0]
    return values
