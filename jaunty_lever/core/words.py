"""The rig in words: sentences made from the model."""

from .document.colours import hex_colour
from .document.index import Place, SceneIndex
from .document.keys import Value
from .document.parameter import Modifier
from .document.quantity import plain_number, with_unit
from .document.slots import Slot, components, slots_of
from .formula.names import shown


def said(value: Value, slot: Slot) -> str:
    """A value for people, with its unit: `85 %`, `12, 40 px`, `on`, `#e0b050`."""
    if slot.kind == "text":
        return f"“{value}”"
    if slot.kind == "choice":
        return str(value)
    numbers = components(value, slot)
    if slot.kind == "switch":
        return "on" if numbers[0] else "off"
    if slot.kind == "colour":
        return hex_colour(numbers)
    if len(set(numbers)) == 1:
        return with_unit(numbers[0], slot.unit)
    return ", ".join(plain_number(n, 2) for n in numbers) + (f" {slot.unit}" if slot.unit else "")


class SettingWords:
    """Says the settings of one modifier."""

    def __init__(self, index: SceneIndex, modifier: Modifier, slot: Slot) -> None:
        self._index, self._modifier, self.slot = index, modifier, slot
        self._slots = slots_of(type(modifier))

    def resting(self, name: str) -> Value:
        """The setting's resting value."""
        value: Value = getattr(self._modifier, name).rest
        return value

    def moves(self, name: str) -> bool:
        """Whether the setting changes over time."""
        moving: bool = getattr(self._modifier, name).moves
        return moving

    def named(self, reference: str, component: int | None = None) -> str:
        """A driver's name, with its component."""
        place = self._index.places.get(reference)
        if place is None:
            return "something deleted"
        axis = (
            f" {place.slot.component_names[component]}" if component is not None and place.slot.component_names else ""
        )
        return place.label.replace(" / ", " ") + axis

    def written(self, text: str) -> str:
        """A formula with the names that things have now."""
        return shown(text, self._index)

    def of(self, name: str) -> str:
        """The setting in words: its value, its keys' range, or what drives it."""
        parameter = getattr(self._modifier, name)
        slot = self._slots[name].fitted(self.slot)
        first = parameter.chain[0] if parameter.chain and not parameter.bypassed else None
        if first is not None and not first.bypassed and first.references():
            clause: str = first.clause(SettingWords(self._index, first, slot))
            return clause.removeprefix("follows ").removeprefix("is ")
        if len(parameter.keys) > 1:
            values = [components(key.value, slot)[0] for key in parameter.keys]
            low, high = plain_number(min(values), 2), with_unit(max(values), slot.unit)
            return (
                f"{low} to {high}" if slot.unit != "Hz" else f"{low} to {plain_number(max(values), 2)} times a second"
            )
        if parameter.keys:
            return said(parameter.keys[0].value, slot)
        if len(parameter.typed) == 1 and parameter.typed[0]:
            typed: str = parameter.typed[0]
            return typed.replace("-", "−")
        return said(parameter.rest, slot)


def sentence(index: SceneIndex, place: Place) -> str:
    """A parameter's rig in one sentence: "Opacity rests at 85 %, wiggles by up to 12 %, 3 times a second."."""
    own, slot = place.parameter, place.slot
    name = place.trail[-1][1]
    name = name[:1].upper() + name[1:]
    if len(own.keys) > 1:
        first, last = said(own.keys[0].value, slot), said(own.keys[-1].value, slot)
        way = f"goes from {first} to {last}" if first != last else f"starts and ends at {first}"
        clauses = [f"{name} {way} over {len(own.keys)} keys"]
    else:
        clauses = [f"{name} rests at {said(own.keys[0].value if own.keys else own.rest, slot)}"]
    for modifier in own.chain:
        clause = modifier.clause(SettingWords(index, modifier, slot))
        strength = modifier.strength
        if strength.moves or strength.rest != 100:
            clause += f" at {SettingWords(index, modifier, slot).of('strength')} strength"
        if modifier.windows:
            spans = [f"{plain_number(w.start, 1)}–{plain_number(w.end, 1)}" for w in modifier.windows[:3]]
            more = " and more" if len(modifier.windows) > 3 else ""
            clause += f" (frames {', '.join(spans)}{more})"
        if modifier.bypassed or own.bypassed:
            clause += " (bypassed)"
        clauses.append(clause)
    if len(clauses) > 1 and own.chain and clauses[1].startswith("follows ") and not own.keys:
        clauses[:2] = [f"{name} {clauses[1]}"]
    return ", ".join(clauses) + "."
