"""The rig in words: sentences made from the model."""

import re

from .document.colours import hex_colour
from .document.gauge import Gauge
from .document.index import SceneIndex
from .document.keys import Value
from .document.modifier import Modifier
from .document.nodes import ParameterNode
from .document.quantity import plain_number, with_unit
from .document.references import known_name, parted
from .document.references import said as said_taken
from .document.specs import ParameterSpec, components, specs_of
from .formula.names import shown

_OF_COPIES = {
    "circle": "place on the circle",
    "i": "number",
    "n": "count",
    "u": "place in the order",
    "rank": "rank",
    "row": "row",
    "col": "column",
    "x": "x",
    "y": "y",
}
_RATIO = re.compile(r"\s*-?[\d.]+\s*/\s*[\d.]+\s*")


def said(value: Value, spec: ParameterSpec) -> str:
    """A value for people, with its unit: `85 %`, `12, 40 px`, `on`, `#e0b050`."""
    if spec.kind == "text":
        return f"“{value}”"
    if spec.kind == "choice":
        return str(value)
    numbers = components(value, spec)
    if spec.kind == "switch":
        return "on" if numbers[0] else "off"
    if spec.kind == "colour":
        return hex_colour(numbers)
    if len(set(numbers)) == 1:
        return with_unit(numbers[0], spec.unit)
    return ", ".join(plain_number(n, 2) for n in numbers) + (f" {spec.unit}" if spec.unit else "")


class SettingWords:
    """Says the settings of one modifier."""

    def __init__(self, index: SceneIndex, modifier: Modifier, spec: ParameterSpec) -> None:
        self._index, self._modifier, self.spec = index, modifier, spec
        self._specs = specs_of(type(modifier))

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
        known = known_name(reference)
        if known is not None:
            return (
                f"its {_OF_COPIES[known[0]]}" if not known[1] else f"the {_OF_COPIES[known[0]]} of the copy around it"
            )
        own, taken = parted(reference)
        node = self._index.target(own)
        if node is None:
            return "something deleted"
        axis = f" {node.spec.component_names[component]}" if component is not None and node.spec.component_names else ""
        return node.label.replace(" / ", " ") + axis + ("" if taken is None else f" ({said_taken(taken)})")

    def written(self, text: str) -> str:
        """A formula with the names that things have now."""
        return shown(text, self._index)

    def of(self, name: str) -> str:
        """The setting in words: its value, its keys' range, or what drives it."""
        node = self._index.parameters.get(f"{self._modifier.id}.{name}")
        parameter = getattr(self._modifier, name) if node is None else node.parameter
        spec = self._specs[name].fitted(self.spec) if node is None else node.spec
        first = parameter.chain[0] if parameter.chain and not parameter.bypassed else None
        if first is not None and not first.bypassed and first.references():
            clause: str = first.clause(SettingWords(self._index, first, spec))
            return clause.removeprefix("follows ").removeprefix("is ")
        if len(parameter.keys) > 1:
            values = [components(key.value, spec)[0] for key in parameter.keys]
            low, high = plain_number(min(values), 2), with_unit(max(values), spec.unit)
            return (
                f"{low} to {high}" if spec.unit != "Hz" else f"{low} to {plain_number(max(values), 2)} times a second"
            )
        if parameter.keys:
            return said(parameter.keys[0].value, spec)
        if len(parameter.typed) == 1 and _RATIO.fullmatch(parameter.typed[0]):
            # A ratio says more than its figures; other arithmetic is said by what comes of it.
            typed: str = parameter.typed[0]
            return typed.replace("-", "−")
        return said(parameter.rest, spec)


def sentence(index: SceneIndex, node: ParameterNode) -> str:
    """A parameter's rig in one sentence: "Opacity rests at 85 %, wiggles by up to 12 %, 3 times a second."."""
    own, spec = node.parameter, node.spec
    name = node.trail[-1][1]
    name = name[:1].upper() + name[1:]
    if node.reads is not None and isinstance(node.reads.what, Gauge):
        clauses = [f"{name} reads {node.reads.what.does[0].lower()}{node.reads.what.does[1:].rstrip('.')}"]
    elif len(own.keys) > 1:
        first, last = said(own.keys[0].value, spec), said(own.keys[-1].value, spec)
        way = f"goes from {first} to {last}" if first != last else f"starts and ends at {first}"
        clauses = [f"{name} {way} over {len(own.keys)} keys"]
    else:
        clauses = [f"{name} rests at {said(own.keys[0].value if own.keys else own.rest, spec)}"]
    for position, modifier in enumerate(node.stations):
        clause = modifier.clause(SettingWords(index, modifier, spec))
        strength = modifier.strength
        if strength.moves or strength.rest != 100:
            clause += f" at {SettingWords(index, modifier, spec).of('strength')} strength"
        reached = [k for k in range(spec.components) if modifier.reaches(k)]
        # Of a colour what one sees through it stays as it is, if nothing else is said.
        some = 0 < len(reached) < spec.components and not (spec.kind == "colour" and reached == [0, 1, 2])
        if some:
            clause += f" in {' and '.join(spec.component_names[k] for k in reached)} alone"
        if modifier.windows:
            spans = [f"{plain_number(w.start, 1)}–{plain_number(w.end, 1)}" for w in modifier.windows[:3]]
            more = " and more" if len(modifier.windows) > 3 else ""
            clause += f" (frames {', '.join(spans)}{more})"
        if not node.acts(position):
            clause += " (bypassed)"
        clauses.append(clause)
    if len(clauses) > 1 and own.chain and clauses[1].startswith("follows ") and not own.keys:
        clauses[:2] = [f"{name} {clauses[1]}"]
    return ", ".join(clauses) + "."
