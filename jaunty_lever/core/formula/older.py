"""Formulas of earlier versions of the language, led over so that nothing changes that they give.

Up to the fourth version, `noise(x, seed)` and `noise(x, y, seed)` had their seeds last: they are written with the zeros
between.

In the first version a percentage read as a plain number of percent. Now it is a share. `$<id>` of one that used to read
57 is written `($<id> / 1%)`, which is 57 to the last bit, and a result that filled a field of percent with its fraction
is divided by 100%.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from ..document.base_layer import BaseLayer
from ..document.model import Model
from ..document.modifier import Modifier
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.specs import ParameterSpec
from .compile import compiled
from .library import FUNCTIONS
from .names import Ids
from .nodes import At, Bound, Call, Chain, Choose, Member, Mistake, Name, Node, Number, Program, Single, parts_of
from .parse import parse

SpecOf = Callable[[str], ParameterSpec | None]


def upgraded(text: str, spec: ParameterSpec, spec_of: SpecOf) -> str:
    """A stored formula of the first version for a parameter with this spec, as one of the second.

    What cannot be read stays as it is: it is passed over in either version.
    """
    try:
        program = parse(text)
        marks: list[tuple[int, str]] = []
        for root in [*(step[3] for step in program.steps), program.result]:
            for node in _percentages(root, spec, spec_of):
                marks += [(node.start, "("), (node.end, " / 1%)")]
        made = _marked(text, marks)
        if spec.unit == "%" and not _was_share(program.result):
            # Whether it fills the field with a share now is known only from what has been made of it.
            program = parse(made)
            if _is_share(program, spec, spec_of):
                first, last = _with_brackets(made, program.result)
                made = _marked(made, [(first, "("), (last, ") / 100%")])
    except Mistake:
        return text
    return made


def _marked(text: str, marks: list[tuple[int, str]]) -> str:
    """A text with marks put in, each at its place."""
    for at, mark in sorted(marks, key=lambda one: one[0], reverse=True):
        text = text[:at] + mark + text[at:]
    return text


def _percentages(node: Node, spec: ParameterSpec, spec_of: SpecOf) -> Iterator[Node]:
    """The outermost nodes that read a percentage."""
    if isinstance(node, At):
        if _is_percentage(node.what, spec, spec_of):
            yield node
        yield from _percentages(node.when, spec, spec_of)
    elif _is_percentage(node, spec, spec_of):
        yield node
    else:
        for part in parts_of(node):
            yield from _percentages(part, spec, spec_of)


def _is_percentage(node: Node, spec: ParameterSpec, spec_of: SpecOf) -> bool:
    head = node.of if isinstance(node, Member) else node
    if isinstance(head, Bound):
        found = spec_of(head.id)
        return found is not None and found.unit == "%"
    return isinstance(head, Name) and head.name.casefold() == "base" and spec.unit == "%"


def _was_share(node: Node) -> bool:
    """Whether the first version filled a field of percent with a hundred times the result."""
    if isinstance(node, Number):
        return node.share
    if isinstance(node, Chain):
        return set(node.operators) <= {"+", "-"} and all(_was_share(part) for part in node.parts)
    if isinstance(node, Single):
        return node.operator != "not" and _was_share(node.part)
    if isinstance(node, Choose):
        return all(_was_share(part) for part in node.parts[1:])
    if isinstance(node, Call):
        function = FUNCTIONS.get(node.name.casefold())
        each = function is not None and (function.takes, function.gives) == ("each", "same")
        return each and all(_was_share(part) for part in node.parts)
    return False


def _is_share(program: Program, spec: ParameterSpec, spec_of: SpecOf) -> bool:
    return compiled(program, spec, Ids(spec_of)).share


def _with_brackets(text: str, node: Node) -> tuple[int, int]:
    """Where a node begins and ends with all brackets around it."""
    first, last = node.start, node.end
    while first > 0 and text[first - 1] in "( \t":
        first -= 1
    while last < len(text) and text[last] in ") \t":
        last += 1
    return first, last


def seeds_last(text: str) -> str:
    """A stored formula of the fourth version as one of the fifth."""
    try:
        program = parse(text)
    except Mistake:
        return text
    marks: list[tuple[int, str]] = []
    for root in [*(step[3] for step in program.steps), program.result]:
        for node in _nodes(root):
            if isinstance(node, Call) and node.name.casefold() == "noise" and len(node.parts) in (2, 3):
                before, seed = node.parts[-2:]
                marks.append((_after_comma(text, before.end, seed.start), " 0," * (4 - len(node.parts))))
    return _marked(text, marks)


def _after_comma(text: str, first: int, last: int) -> int:
    """Where the comma between two parts ends; those in comments are none."""
    between = re.sub("#[^\\n]*", lambda comment: " " * len(comment[0]), text[first:last])
    return first + between.index(",") + 1


def _nodes(node: Node) -> Iterator[Node]:
    """A node and all in it."""
    yield node
    for part in parts_of(node):
        yield from _nodes(part)


def texts_of_today(scene: Scene, version: int) -> dict[str, str]:
    """The formulas of a scene of an earlier version that change, by their modifiers' ids."""
    parameters, found = scene.index.parameters, {}
    for entry in scene.index.modifiers.values():
        text = getattr(entry.modifier, "text", None)
        if entry.modifier.kind == "formula" and isinstance(text, str):
            made = text
            if version < 2:
                spec = parameters[entry.parameter].spec
                made = upgraded(made, spec, lambda i: parameters[i].spec if i in parameters else None)
            if version < 5:
                made = seeds_last(made)
            if made != text:
                found[entry.modifier.id] = made
    return found


def rewritten(node: Any, table: Mapping[str, str | Model]) -> Any:
    """A document node with the texts of its formulas, or modifiers themselves, replaced, by their ids; what does not
    change is shared."""
    if isinstance(node, tuple):
        parts = tuple(rewritten(part, table) for part in node)
        return parts if any(a is not b for a, b in zip(parts, node, strict=True)) else node
    if isinstance(node, dict):
        return {key: rewritten(part, table) for key, part in node.items()}
    if not isinstance(node, Model) or (isinstance(node, Parameter) and not node.chain):
        return node
    known = table.get(getattr(node, "id", ""))
    if isinstance(known, Model) and isinstance(node, Modifier):
        return known
    updates: dict[str, Any] = {}
    if getattr(node, "kind", None) == "formula" and not isinstance(node, BaseLayer) and isinstance(known, str):
        updates["text"] = known
    for name in type(node).model_fields:
        old = getattr(node, name)
        if isinstance(old, Model | tuple | dict):
            new = rewritten(old, table)
            if new is not old:
                updates[name] = new
    return node.changed(**updates) if updates else node
