"""Exact periods of a scene's parameters, from what their chains are made of."""

from dataclasses import dataclass
from fractions import Fraction

from ..document.cycle import STILL, Cycle, as_fraction, common, together
from ..document.index import Place, SceneIndex
from ..document.parameter import Modifier
from ..document.slots import components, slots_of


class Periods:
    """Cycles of one scene's parameters, each worked out once; None for what never repeats."""

    def __init__(self, index: SceneIndex) -> None:
        self.index = index
        self._known: dict[str, Cycle | None] = {}
        self._working: set[str] = set()

    def of(self, parameter: str) -> Cycle | None:
        """How a parameter's result repeats."""
        if parameter in self._known:
            return self._known[parameter]
        place = self.index.places.get(parameter)
        if place is None or parameter in self._working:
            return STILL
        self._working.add(parameter)
        made = self._chain(place)
        self._working.discard(parameter)
        self._known[parameter] = made
        return made

    def seen(self, parameter: str) -> Cycle | None:
        """The same as it looks: a rotation that drifts is back after each whole turn."""
        cycle, place = self.of(parameter), self.index.places[parameter]
        if cycle is None or not cycle.drift:
            return cycle
        if place.slot.kind != "angle":
            return None
        return Cycle(common(cycle.period, abs(Fraction(360) / cycle.drift)))

    def _chain(self, place: Place) -> Cycle | None:
        own = place.parameter
        cycle = STILL if len({key.value for key in own.keys}) < 2 else None
        if own.bypassed:
            return cycle
        for modifier in own.chain:
            if modifier.bypassed:
                continue
            if modifier.windows:
                return None
            asked = _Asked(self, place, modifier)
            full = asked.exact("strength")
            if full == 0:
                continue
            after = modifier.repeats(cycle, asked)
            strength, shares = asked.setting("strength"), asked.setting("weights")
            all_of_it = full == 100 and asked.exact("weights") == 1
            # Part of an effect is a blend of what comes in and what goes out.
            cycle = after if all_of_it else together(after, cycle, strength, shares)
        return cycle


@dataclass(frozen=True)
class _Asked:
    periods: Periods
    place: Place
    modifier: Modifier

    @property
    def fps(self) -> float:
        return self.periods.index.scene.fps

    def setting(self, name: str) -> Cycle | None:
        return self.periods.of(f"{self.modifier.id}.{name}")

    def driver(self, parameter: str) -> Cycle | None:
        return self.periods.of(parameter)

    def exact(self, name: str) -> Fraction | None:
        """A setting's value as an exact number, when it is one number that never changes."""
        own = getattr(self.modifier, name)
        cycle = self.setting(name)
        if cycle is None or not cycle.still:
            return None
        if own.chain:
            return self._driven(name)
        slot = slots_of(type(self.modifier))[name].fitted(self.place.slot)
        try:
            numbers = components(own.keys[0].value if own.keys else own.rest, slot)
        except ValueError:
            return None
        return as_fraction(numbers[0], own.typed if not own.keys else ()) if len(set(numbers)) == 1 else None

    def _driven(self, name: str) -> Fraction | None:
        from .sampler import Sampler

        value = Sampler(self.periods.index.scene).sample(f"{self.modifier.id}.{name}", 0.0)
        return as_fraction(float(value[0])) if len(value) == 1 else None

    def keyed(self) -> tuple[Fraction, Fraction, Fraction] | None:
        """First and last key in seconds, and what the value gains between them; None with fewer than two keys."""
        keys = self.place.parameter.keys
        if len(keys) < 2:
            return None
        fps = as_fraction(self.fps) or Fraction(30)
        first, last = (Fraction(str(key.frame)) / fps for key in (keys[0], keys[-1]))
        ends = [components(key.value, self.place.slot) for key in (keys[0], keys[-1])]
        gains = {round(b - a, 9) for a, b in zip(*ends, strict=True)}
        gain = as_fraction(gains.pop()) if len(gains) == 1 else None
        return first, last, gain if gain is not None else Fraction(0)


def moving(index: SceneIndex) -> list[Place]:
    """The parameters of layers that may move and are drawn."""
    return [
        place
        for place in index.places.values()
        if place.within is None
        and place.parameter.moves
        and place.top not in index.levers
        and place.slot.kind != "text"
    ]
