"""Formulas of the first version of the language, in which a percentage read as a plain number of percent.

Now a percentage is a share. `$<id>` of one that used to read 57 is written `($<id> / 1%)`, which is 57 to the last bit,
and a result that filled a field of percent with its fraction is divided by 100%. Nothing that a formula gives changes.
"""

from collections.abc import Callable, Iterator
from typing import Any

from ..document.base_layer import BaseLayer
from ..document.model import Model
from ..document.parameter import Parameter
from ..document.scene import Project, Scene
from ..document.specs import ParameterSpec
from .compile import compiled
from .library import FUNCTIONS
from .names import Ids
from .nodes import At, Bound, Call, Chain, Choose, Member, Mistake, Name, Node, Number, Program, Single, Vector
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
    elif isinstance(node, Member):
        yield from _percentages(node.of, spec, spec_of)
    elif isinstance(node, Single):
        yield from _percentages(node.part, spec, spec_of)
    elif isinstance(node, Chain | Vector | Call | Choose):
        for part in node.parts:
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


def upgraded_scene(scene: Scene) -> Scene:
    """A scene of the first version as one of the second."""
    table = upgraded_texts(scene)
    made: Scene = rewritten(scene, table) if table else scene
    return made


def upgraded_texts(scene: Scene) -> dict[str, str]:
    """The formulas of a scene that change, by their modifiers' ids."""
    parameters, found = scene.index.parameters, {}
    for entry in scene.index.modifiers.values():
        text = getattr(entry.modifier, "text", None)
        if entry.modifier.kind == "formula" and isinstance(text, str):
            made = upgraded(
                text, parameters[entry.parameter].spec, lambda i: parameters[i].spec if i in parameters else None
            )
            if made != text:
                found[entry.modifier.id] = made
    return found


def upgraded_project(project: Project) -> Project:
    """A project of the first version as one of the second."""
    return project.changed(scenes=tuple(upgraded_scene(scene) for scene in project.scenes))


def rewritten(node: Any, table: dict[str, str]) -> Any:
    """A document node with the texts of its formulas replaced, by their ids; what does not change is shared."""
    if isinstance(node, tuple):
        parts = tuple(rewritten(part, table) for part in node)
        return parts if any(a is not b for a, b in zip(parts, node, strict=True)) else node
    if isinstance(node, dict):
        return {key: rewritten(part, table) for key, part in node.items()}
    if not isinstance(node, Model) or (isinstance(node, Parameter) and not node.chain):
        return node
    updates = {}
    if (
        getattr(node, "kind", None) == "formula"
        and not isinstance(node, BaseLayer)
        and getattr(node, "id", "") in table
    ):
        updates["text"] = table[node.id]  # type: ignore[attr-defined]
    for name in type(node).model_fields:
        old = getattr(node, name)
        if isinstance(old, Model | tuple | dict):
            new = rewritten(old, table)
            if new is not old:
                updates[name] = new
    return node.changed(**updates) if updates else node
