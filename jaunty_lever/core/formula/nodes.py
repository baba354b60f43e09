"""What a formula is made of. Every node knows where it stands in the text, so that a mistake can point at it."""

from dataclasses import dataclass, field

MOST_LETTERS = 10_000
MOST_NESTING = 64


class Mistake(Exception):
    """What is wrong with a formula, for the artist, and the characters start..end that it concerns."""

    def __init__(self, message: str, start: int = 0, end: int = 0) -> None:
        super().__init__(message)
        self.message, self.start, self.end = message, start, max(end, start)


@dataclass(frozen=True)
class Node:
    """A piece of a formula, from the character `start` to before `end`; `depth` counts what it is nested in.

    `enclosed` says that it stands in brackets, which are not among its characters: a name in brackets is a value
    and not the beginning of a path.
    """

    start: int
    end: int
    depth: int = field(default=0, compare=False)
    enclosed: bool = field(default=False, compare=False, kw_only=True)


@dataclass(frozen=True)
class Number(Node):
    """A number in its base unit; `share` when it was written with %: then it is in percent. `kind` is that of its
    unit."""

    value: float = 0.0
    share: bool = False
    frames: bool = False
    kind: str = ""


@dataclass(frozen=True)
class Colour(Node):
    """A colour literal."""

    text: str = "#000000"


@dataclass(frozen=True)
class String(Node):
    """A text literal."""

    text: str = ""


@dataclass(frozen=True)
class Lever(Node):
    """A lever by its name."""

    name: str = ""


@dataclass(frozen=True)
class Bound(Node):
    """A parameter or lever by its id, however it is called now."""

    id: str = ""


@dataclass(frozen=True)
class Name(Node):
    """A bare name: a step, one of the language's own values, or the head of a parameter's path."""

    name: str = ""


@dataclass(frozen=True)
class Member(Node):
    """Something with names behind dots: a parameter's path, or components of a value."""

    of: Node = field(default_factory=lambda: Node(0, 0))
    names: tuple[tuple[str, int, int], ...] = ()


@dataclass(frozen=True)
class Chain(Node):
    """Parts joined by operators of one strength, from left to right."""

    parts: tuple[Node, ...] = ()
    operators: tuple[str, ...] = ()


@dataclass(frozen=True)
class Single(Node):
    """An operator before its only part: `-` or `not`."""

    operator: str = "-"
    part: Node = field(default_factory=lambda: Node(0, 0))


@dataclass(frozen=True)
class Vector(Node):
    """Components in brackets."""

    parts: tuple[Node, ...] = ()


@dataclass(frozen=True)
class Call(Node):
    """A function and what it is given."""

    name: str = ""
    parts: tuple[Node, ...] = ()


@dataclass(frozen=True)
class Choose(Node):
    """if … then … else …"""

    parts: tuple[Node, ...] = ()


@dataclass(frozen=True)
class At(Node):
    """A parameter or lever at another time."""

    what: Node = field(default_factory=lambda: Node(0, 0))
    when: Node = field(default_factory=lambda: Node(0, 0))


def parts_of(node: Node) -> tuple[Node, ...]:
    """The nodes that stand directly in another."""
    if isinstance(node, At):
        return node.what, node.when
    if isinstance(node, Member):
        return (node.of,)
    if isinstance(node, Single):
        return (node.part,)
    if isinstance(node, Chain | Vector | Call | Choose):
        return tuple(node.parts)
    return ()


@dataclass(frozen=True)
class Program:
    """Named steps, then the result; `references` are all places that may mean a parameter or lever."""

    steps: tuple[tuple[str, int, int, Node], ...]
    result: Node
    references: tuple[Node, ...]
