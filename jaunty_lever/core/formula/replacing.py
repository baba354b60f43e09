"""What is left of a formula when something that it reads is deleted: a number in its place."""

from collections.abc import Callable, Iterator

from .library import SPEED
from .names import bound_ids
from .nodes import At, Bound, Call, Member, Mistake, Node, parts_of
from .parse import parse

Written = Callable[[str], str | None]
"""What stands for a bound reference from now on, as text of the language; None for one that stays."""


def replaced(text: str, written: Written) -> str:
    """A stored formula with what `written` knows in the place of references.

    A value at another time is the same at all of them. A text that cannot be read keeps its shape.
    """
    try:
        program = parse(text)
    except Mistake:
        for reference in bound_ids(text):
            told = written(reference)
            text = text if told is None else text.replace(f"$<{reference}>", told)
        return text
    found: list[tuple[int, int, str]] = []
    for root in [*(step[3] for step in program.steps), program.result]:
        found += _replacements(root, written)
    for start, end, told in sorted(found, reverse=True):
        text = text[:start] + told + text[end:]
    return text


def _replacements(node: Node, written: Written) -> Iterator[tuple[int, int, str]]:
    head = node.of if isinstance(node, Member) else node
    if isinstance(head, Bound):
        told = written(head.id)
        if told is not None:
            yield head.start, head.end, told
        return
    if isinstance(node, At):
        what = node.what.of if isinstance(node.what, Member) else node.what
        told = written(what.id) if isinstance(what, Bound) else None
        if told is not None:
            # Names of components behind it stay.
            yield what.start, what.end, told
            yield node.what.end, node.end, ""
            return
    if isinstance(node, Call) and node.name.casefold() == SPEED and len(node.parts) == 1:
        part = node.parts[0]
        what = part.of if isinstance(part, Member) else part
        if isinstance(what, Bound) and written(what.id) is not None:
            # What is a number from now on moves no more.
            yield node.start, node.end, "0"
            return
    for part in parts_of(node):
        yield from _replacements(part, written)
