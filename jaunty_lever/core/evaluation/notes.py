"""What stations tell about themselves, worked out over a whole scene."""

import numpy as np

from ..document.index import Place
from ..document.parameter import KeyedLike, Modifier, Note, Parameter, Values
from ..document.quantity import with_unit
from ..document.slots import slots_of
from . import trains
from .moments import Moments
from .sampler import Sampler


class _Seen:
    """A modifier at work, over all frames of its scene."""

    def __init__(self, sampler: Sampler, place: Place, position: int) -> None:
        self._sampler, self._place = sampler, place
        self._modifier: Modifier = place.parameter.chain[position]
        self._moments = Moments.frames(sampler.scene.fps, 0, sampler.scene.length)
        self.slot, self.parameter, self.position = place.slot, place.id, position
        self.fps, self.length = sampler.scene.fps, sampler.scene.length
        self.own: Parameter = place.parameter

    @property
    def keys(self) -> KeyedLike | None:
        return self._sampler.table(self._place)

    @property
    def incoming(self) -> Values:
        return self._sampler.after(self._place, self._moments, self.position)

    def number(self, name: str) -> Values:
        return self._sampler.evaluate(f"{self._modifier.id}.{name}", self._moments)

    def choice(self, name: str) -> str:
        options = slots_of(type(self._modifier))[name].options
        return options[min(max(int(np.rint(self.number(name)[0, 0])), 0), len(options) - 1)]

    def said(self, value: float) -> str:
        return with_unit(value, self.slot.unit)

    def train(self) -> tuple[str, ...]:
        return trains.told(self._sampler, self._place.id)


def notes(sampler: Sampler, parameter: str) -> list[tuple[Note, ...]]:
    """The notes of each modifier of a parameter's chain, in the chain's order."""
    place = sampler.index.places[parameter]
    return [modifier.notes(_Seen(sampler, place, k)) for k, modifier in enumerate(place.parameter.chain)]
