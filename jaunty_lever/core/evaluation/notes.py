"""What stations tell about themselves, worked out over a whole scene."""

import numpy as np

from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.notes import Note
from ..document.parameter import Parameter
from ..document.protocols import KeyedLike, Values
from ..document.quantity import with_unit
from ..document.references import CIRCLE
from ..document.specs import specs_of
from . import trains
from .readings import stands_moved
from .sample_times import SampleTimes
from .sampler import Sampler


class _Seen:
    """A modifier at work, over all frames of its scene."""

    def __init__(self, sampler: Sampler, node: ParameterNode, position: int) -> None:
        self._sampler, self._node = sampler, node
        self._modifier: Modifier = node.parameter.chain[position]
        self._samples = sampler.of_first(node.id, SampleTimes.frames(sampler.scene.fps, 0, sampler.scene.length))
        self.spec, self.parameter, self.position = node.spec, node.id, position
        self.fps, self.length = sampler.scene.fps, sampler.scene.length
        self.own: Parameter = node.parameter

    @property
    def keys(self) -> KeyedLike | None:
        return self._sampler.table(self._node)

    @property
    def incoming(self) -> Values:
        values: Values = self._sampler.after(self.parameter, self.position, self._samples)[0]
        return values

    def number(self, name: str) -> Values:
        values: Values = self._sampler.evaluate(f"{self._modifier.id}.{name}", self._samples)[0]
        return values

    def choice(self, name: str) -> str:
        options = specs_of(type(self._modifier))[name].options
        return options[min(max(int(np.rint(self.number(name)[0, 0])), 0), len(options) - 1)]

    def said(self, value: float) -> str:
        return with_unit(value, self.spec.unit)

    def closes(self) -> bool:
        arrays = self._sampler.index.arrays_of(self._node)
        circle = None if not arrays else self._sampler.track(f"{arrays[-1]}.{CIRCLE}", self._samples)
        return circle is not None and bool(circle[0, 0] >= 0)

    def ends_in_depth(self, zone: str) -> bool:
        return self._sampler.index.solid_zone(zone)

    def stands_moved(self) -> bool:
        return stands_moved(self._sampler.index, self._node.top)

    def train(self) -> tuple[str, ...]:
        return trains.told(self._sampler, self._node.id)


def notes(sampler: Sampler, parameter: str) -> list[tuple[Note, ...]]:
    """The notes of each modifier of a parameter's chain, in the chain's order."""
    node = sampler.index.parameters[parameter]
    return [modifier.notes(_Seen(sampler, node, k)) for k, modifier in enumerate(node.parameter.chain)]
