"""Names in formulas: bound to the thing, shown as it is called now.

A formula is stored with `$<id>` for each parameter or lever that it reads. What the artist sees and types
has names instead. A name that means nothing (yet) stays in the text as it was typed.
"""

import re
from collections import Counter
from collections.abc import Callable, Iterator
from difflib import get_close_matches

from ..document.index import SceneIndex, plain_name
from ..document.nodes import ParameterNode
from ..document.references import bare
from ..document.specs import ParameterSpec
from .compile import Compiled, Found, compiled, is_own, outer_reference
from .elsewhere import LIBRARIES, of_library
from .library import VALUES
from .nodes import Bound, Lever, Member, Mistake, Name, Node, Program, String
from .parse import parse

_BOUND = re.compile(r"\$<([^<>\s]+)>")
_TAKING = re.compile(r"\b(?:(mean|least|greatest)\s*\(|copy\s*\(\s*(\d{1,6})\s*,)\s*$", re.IGNORECASE)
_CLOSED = re.compile(r"\s*\)")
_WORD = re.compile(r"[^\W\d]\w*")

Barred = Callable[[str], str | None]
"""Why a parameter cannot be listened to, by its id, in a sentence."""


class Ids:
    """A scope that knows ids alone: all that a stored formula needs to run."""

    def __init__(self, spec_of: Callable[[str], ParameterSpec | None]) -> None:
        self._spec_of = spec_of

    def find(self, node: Node, taken: str = "") -> Found | None:
        """What a bound reference means."""
        bound, names = (node.of, node.names) if isinstance(node, Member) else (node, ())
        if not isinstance(bound, Bound):
            if isinstance(node, Name):
                return None
            raise Mistake(f"There is no {_called(node)}.", node.start, node.end)
        spec = self._spec_of(bound.id)
        if spec is None:
            told = "What stood here has been deleted."
            if "@" in bound.id:
                told = "This has no copies, of which one or their mean could be taken."
            raise Mistake(told, node.start, node.end)
        return Found(bound.id, spec, _only(spec, names))

    def near(self, name: str) -> list[str]:
        """Nothing: names are not known here."""
        return []


class Names:
    """A scope that knows the scene's names, says which one was probably meant, and refuses what cannot be listened
    to."""

    def __init__(self, index: SceneIndex, barred: Barred, known: dict[str, str] | None = None) -> None:
        self._index, self._barred, self._known = index, barred, known or {}

    def find(self, node: Node, taken: str = "") -> Found | None:
        """What a name, a path, a lever or a bound reference means."""
        bound, names = (node.of, node.names) if isinstance(node, Member) else (node, ())
        if isinstance(bound, Bound):
            way = bound.id.partition("@")[2] or taken
            return self._found(self._index.target(bare(bound.id)), names, node, way)
        if isinstance(bound, Lever):
            return self._found(self._lever(bound), names, node, taken)
        if not isinstance(bound, Name | String):
            return None
        if not names:
            self._refuse_layer(bound)
            return None
        return self._path(bound, names, taken)

    def near(self, name: str) -> list[str]:
        """The lever or layer that resembles a bare name."""
        wanted = plain_name(name)
        levers = {plain_name(lever.name): f"${_word(lever.name)}" for lever in self._index.levers.values()}
        layers = {plain_name(layer.name): f"{_word(layer.name)}.…" for layer in self._index.layers.values()}
        table = layers | levers
        return [table[close] for close in get_close_matches(wanted, table, n=1, cutoff=0.6)]

    def _found(
        self, target: ParameterNode | None, names: tuple[tuple[str, int, int], ...], node: Node, taken: str
    ) -> Found:
        if target is None:
            raise Mistake("What stood here has been deleted.", node.start, node.end)
        meant = f"{target.id}@{taken}" if taken else target.id
        wrong = self._barred(meant)
        if wrong:
            raise Mistake(wrong, node.start, node.end)
        return Found(meant, target.spec, _only(target.spec, names))

    def _lever(self, node: Lever) -> ParameterNode:
        known = self._known.get(f"${_word(node.name)}".casefold())
        if known in self._index.parameters:
            return self._index.parameters[str(known)]
        wanted = plain_name(node.name)
        table = {plain_name(lever.name): lever for lever in self._index.levers.values()}
        if wanted in table:
            return self._index.parameters[f"{table[wanted].id}.value"]
        near = get_close_matches(wanted, table, n=1, cutoff=0.5)
        hint = f" Did you mean ${_word(table[near[0]].name)}?" if near else ""
        raise Mistake(f"There is no lever “{node.name}”.{hint}", node.start, node.end)

    def _refuse_layer(self, node: Name | String) -> None:
        name = node.name if isinstance(node, Name) else node.text
        layer = next((la for la in self._index.layers.values() if plain_name(la.name) == plain_name(name)), None)
        if layer is not None and isinstance(node, Name):
            raise Mistake(
                f"{layer.name} is a layer. Say which value of it, such as {_word(layer.name)}.rotation.",
                node.start,
                node.end,
            )

    def _path(self, head: Name | String, names: tuple[tuple[str, int, int], ...], taken: str) -> Found:
        first = head.name if isinstance(head, Name) else head.text
        spelled = ".".join([_word(first), *(name for name, _, _ in names)]).casefold()
        trail = (plain_name(first), *(plain_name(name) for name, _, _ in names))
        table = self._index.by_trail
        for many in (len(trail), len(trail) - 1):
            target = table.get(trail[:many])
            known = self._known.get(spelled if many == len(trail) else spelled.rpartition(".")[0])
            if known in self._index.parameters:
                target = self._index.parameters[str(known)]
            if target is not None and many > 1:
                whole = Member(head.start, names[-1][2], 0, head, names)
                return self._found(target, names[many - 1 :], whole, taken)
        heads = {key[0] for key in table}
        if trail[0] not in heads and first in LIBRARIES:
            raise of_library(names[0][0], head.start, names[-1][2])
        if trail[0] not in heads:
            near = get_close_matches(trail[0], heads, n=1, cutoff=0.5)
            shown = next((target.trail[0][1] for key, target in table.items() if near and key[0] == near[0]), "")
            hint = f" Did you mean {_word(shown)}?" if shown else ""
            raise Mistake(f"There is no layer “{first}”.{hint}", head.start, head.end)
        reached = max(k for k in range(1, len(trail) + 1) if any(key[:k] == trail[:k] for key in table))
        name, start, end = names[min(reached, len(names)) - 1]
        choices = {
            key[reached]: target.trail[reached][1]
            for key, target in table.items()
            if key[:reached] == trail[:reached] and len(key) > reached
        }
        near = get_close_matches(plain_name(name), choices, n=1, cutoff=0.4)
        hint = f" Did you mean {_word(choices[near[0]])}?" if near else ""
        on = next(target.trail[reached - 1][1] for key, target in table.items() if key[:reached] == trail[:reached])
        if not near and (target := table.get(trail[:reached])) is not None and target.spec.component_names:
            hint = f" It has .{', .'.join(target.spec.component_names)}."
        raise Mistake(f"There is no “{name}” on {on}.{hint}", start, end)


def _only(spec: ParameterSpec, names: tuple[tuple[str, int, int], ...]) -> int | None:
    """The component that is meant by the names behind a parameter."""
    if not names:
        return None
    name, start, end = names[0]
    if len(names) > 1 or name.casefold() not in spec.component_names:
        odd = names[1] if len(names) > 1 and name.casefold() in spec.component_names else names[0]
        own = f" It has .{', .'.join(spec.component_names)}." if spec.component_names else ""
        raise Mistake(f"There is no “{odd[0]}” on {spec.label.lower()}.{own}", odd[1], odd[2])
    return spec.component_names.index(name.casefold())


def _called(node: Node) -> str:
    if isinstance(node, Lever):
        return f"lever “{node.name}”"
    if isinstance(node, Member):
        head = node.of.name if isinstance(node.of, Name) else getattr(node.of, "text", getattr(node.of, "name", ""))
        return f"“{'.'.join([head, *(name for name, _, _ in node.names)])}”"
    return "such name"


def _word(name: str) -> str:
    """A name as it is written in a formula: spaces as _, in quotation marks where it is no plain word."""
    plain = name.strip().replace(" ", "_")
    return plain if _WORD.fullmatch(plain) else f'"{name}"'


def spelled(target: ParameterNode) -> str:
    """How a parameter or lever is written in a formula now."""
    labels = [label for _, label in target.trail]
    if target.spec.kind and target.field == "value" and len(labels) == 1:
        return f"${_word(labels[0])}"
    return ".".join(_word(label) for label in labels)


def shown(text: str, index: SceneIndex) -> str:
    """A stored formula with the names that things have now.

    What has no name that could be read back (two things of one name in the same formula, a quotation mark inside
    a name) stands as its id.
    """
    names = {i: spelled(node) for i in bound_ids(text) if (node := index.target(bare(i))) is not None}
    count = Counter(name.casefold() for name in names.values())
    return _BOUND.sub(lambda found: _taken(found[1], _readable(found[0], names.get(found[1]), count)), text)


def _taken(reference: str, name: str) -> str:
    """A name with how its value of many is taken: `mean(Gulls.copy_position)`, `copy(12, …)`."""
    way = reference.partition("@")[2]
    if not way or name.startswith("$<"):
        return name
    return f"copy({way}, {name})" if way.isdecimal() else f"{way}({name})"


def _readable(raw: str, name: str | None, count: Counter[str]) -> str:
    if name is None or count[name.casefold()] > 1:
        return raw
    try:
        references = parse(name).references
    except Mistake:
        return raw
    return name if [(one.start, one.end) for one in references] == [(0, len(name))] else raw


def bound_ids(text: str) -> tuple[str, ...]:
    """The ids of everything that a stored formula reads."""
    return tuple(dict.fromkeys(_BOUND.findall(text)))


def _meant(program: Program) -> Iterator[Node]:
    """References that are not the formula's own steps or the language's values."""
    steps = {step[0].casefold() for step in program.steps}
    for node in program.references:
        head = node.of if isinstance(node, Member) else node
        if isinstance(head, Name):
            inside = isinstance(node, Member)
            if is_own(head.name, steps) if inside else head.name.casefold() in steps | set(VALUES):
                continue
            if outer_reference(node) is not None and "outer" not in steps:
                continue
        yield node


def _spelled_before(stored: str, index: SceneIndex) -> dict[str, str]:
    """What each name in a stored formula means, by how it is spelled now."""
    return {spelled(index.parameters[i]).casefold(): i for i in bound_ids(stored) if i in index.parameters}


def bind(text: str, index: SceneIndex, barred: Barred, was: str = "") -> str:
    """The text with every name that means something replaced by its id.

    `was` is what was stored before: a name that is still spelled as it was means what it meant then. A text
    that cannot be read stays as it is.
    """
    known = _spelled_before(was, index)
    scope = Names(index, barred, known)
    try:
        program = parse(text)
    except Mistake:
        return text
    for node in sorted(_meant(program), key=lambda node: node.start, reverse=True):
        head = node.of if isinstance(node, Member) else node
        if isinstance(head, Bound):
            continue
        before, behind = _TAKING.search(text[: node.start]), _CLOSED.match(text[node.end :])
        way = (before[2] or before[1].casefold()) if before and behind else ""
        try:
            found = scope.find(node, way)
        except Mistake:
            continue
        if found is not None:
            end = node.end
            if isinstance(node, Member) and found.component is not None:
                end = node.names[-2][2] if len(node.names) > 1 else node.of.end
            start, rest = node.start, text[end:]
            if before and behind:
                start, rest = before.start(), text[end : node.end] + text[node.end + behind.end() :]
            text = f"{text[:start]}$<{found.id}>{rest}"
    return text


def mistake_in(text: str, spec: ParameterSpec, index: SceneIndex, barred: Barred, was: str = "") -> Mistake | None:
    """What is wrong with a formula as the artist sees it, or None."""
    known = _spelled_before(was, index)
    try:
        compiled(parse(text), spec, Names(index, barred, known))
    except Mistake as mistake:
        return mistake
    return None


def ready(text: str, spec: ParameterSpec, spec_of: Callable[[str], ParameterSpec | None]) -> Compiled:
    """A stored formula, compiled. Raises Mistake."""
    return compiled(parse(text), spec, Ids(spec_of))
