"""From a formula's text to its nodes, with the place and the reason of what cannot be read."""

import math
import re
from collections.abc import Iterator
from dataclasses import replace
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any

from lark import Lark, Token, Tree, UnexpectedCharacters, UnexpectedToken
from lark.exceptions import UnexpectedInput
from lark.lark import PostLex

from ..document.units import TYPED, WORDS
from .elsewhere import of_signs, of_unit
from .library import VALUES
from .nodes import (
    MOST_LETTERS,
    MOST_NESTING,
    At,
    Bound,
    Call,
    Chain,
    Choose,
    Colour,
    Lever,
    Member,
    Mistake,
    Name,
    Node,
    Number,
    Program,
    Single,
    String,
    Vector,
)

_NUMBER = re.compile(r"((?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?)(.*)")
#: After one of these, or before one, a line goes on.
_OPEN_BEFORE = {
    "COMPARE",
    "PLUS",
    "MINUS",
    "FACTOR",
    "COMMA",
    "EQUAL",
    "IF",
    "THEN",
    "ELSE",
    "AND",
    "OR",
    "NOT",
    "CIRCUMFLEX",
    "AT",
    "DOT",
    "LPAR",
}
_OPEN_AFTER = {"COMPARE", "FACTOR", "COMMA", "THEN", "ELSE", "AND", "OR", "CIRCUMFLEX", "AT", "DOT", "RPAR"}


class _Lines(PostLex):
    """Drops line ends inside brackets, and those that cannot end anything."""

    always_accept = ("_NL",)

    def process(self, stream: Iterator[Token]) -> Iterator[Token]:
        level, before, held = 0, "", None
        for token in stream:
            if token.type == "_NL":
                if level == 0 and before and before not in _OPEN_BEFORE:
                    held = token
                continue
            if held is not None and token.type not in _OPEN_AFTER:
                yield held
            held, before = None, token.type
            level += (token.type == "LPAR") - (token.type == "RPAR")
            yield token


class _Nodes:
    """Builds a node of each rule's parts."""

    def _span(self, meta: Any) -> tuple[int, int]:
        return (meta.start_pos, meta.end_pos) if not meta.empty else (0, 0)

    def _deeper(self, meta: Any, parts: Any) -> int:
        depth = 1 + max((part.depth for part in parts), default=0)
        if depth > MOST_NESTING:
            start, end = self._span(meta)
            raise Mistake(f"This is nested more than {MOST_NESTING} deep. Give a part of it a name first.", start, end)
        return depth

    def start(self, meta: Any, parts: list[Any]) -> Any:
        return parts[:-1], parts[-1]

    def step(self, meta: Any, parts: list[Any]) -> Any:
        return str(parts[0]), parts[0].start_pos, parts[0].end_pos, parts[1]

    def number(self, meta: Any, parts: list[Token]) -> Node:
        start, end = self._span(meta)
        digits, unit = _NUMBER.fullmatch(parts[0]).groups()  # type: ignore[union-attr]
        value, unit = float(digits), unit.lower()
        if not math.isfinite(value):
            raise Mistake("That number is too large.", start, end)
        if unit in ("", "f"):
            return Number(start, end, 0, value, False, unit == "f")
        if unit == "%":
            return Number(start, end, 0, value, True)
        if unit not in WORDS:
            known = ", ".join(sorted({*WORDS, "%", "f"} - {"turns"}))
            told = f"“{unit}” is no unit. There are: {known}.{of_unit(digits, unit)}"
            if unit in VALUES:
                told = f"A sign is missing.{of_unit(digits, unit)}"
            raise Mistake(told, start + len(digits), end)
        kind, factor = TYPED[unit]
        return Number(start, end, 0, value * factor, kind=kind)

    def colour(self, meta: Any, parts: list[Token]) -> Node:
        return Colour(*self._span(meta), 0, str(parts[0]))

    def string(self, meta: Any, parts: list[Token]) -> Node:
        return String(*self._span(meta), 0, str(parts[0])[1:-1])

    def lever(self, meta: Any, parts: list[Token]) -> Node:
        return Lever(*self._span(meta), 0, str(parts[0])[1:].strip('"'))

    def bound(self, meta: Any, parts: list[Token]) -> Node:
        return Bound(*self._span(meta), 0, str(parts[0])[2:-1])

    def name(self, meta: Any, parts: list[Token]) -> Node:
        return Name(*self._span(meta), 0, str(parts[0]))

    def call(self, meta: Any, parts: list[Any]) -> Node:
        given = tuple(part for part in parts[1:] if part is not None)
        return Call(*self._span(meta), self._deeper(meta, given), str(parts[0]), given)

    def enclosed(self, meta: Any, parts: list[Node]) -> Node:
        # The node keeps to its own characters: what takes its place must leave the brackets where they are.
        return replace(parts[0], depth=self._deeper(meta, parts), enclosed=True)

    def vector(self, meta: Any, parts: list[Node]) -> Node:
        start, end = self._span(meta)
        if len(parts) > 3:
            raise Mistake("A vector has two or three components; a colour is made with rgba( ).", start, end)
        return Vector(start, end, self._deeper(meta, parts), tuple(parts))

    def member(self, meta: Any, parts: list[Any]) -> Node:
        names = tuple((str(token), token.start_pos, token.end_pos) for token in parts[1:])
        return Member(*self._span(meta), parts[0].depth, parts[0], names)

    def moment(self, meta: Any, parts: list[Node]) -> Node:
        return At(*self._span(meta), self._deeper(meta, parts), parts[0], parts[1])

    def power(self, meta: Any, parts: list[Node]) -> Node:
        return Chain(*self._span(meta), self._deeper(meta, parts), tuple(parts), ("^",))

    def negate(self, meta: Any, parts: list[Any]) -> Node:
        return Single(*self._span(meta), self._deeper(meta, parts[1:]), "-", parts[1])

    def unchanged(self, meta: Any, parts: list[Any]) -> Node:
        return Single(*self._span(meta), self._deeper(meta, parts[1:]), "+", parts[1])

    def invert(self, meta: Any, parts: list[Node]) -> Node:
        return Single(*self._span(meta), self._deeper(meta, parts), "not", parts[0])

    def choose(self, meta: Any, parts: list[Node]) -> Node:
        return Choose(*self._span(meta), self._deeper(meta, parts), tuple(parts))

    def _row(self, meta: Any, parts: list[Any]) -> Node:
        depth = max(part.depth for part in parts[::2])
        return Chain(*self._span(meta), depth, tuple(parts[::2]), tuple(str(token) for token in parts[1::2]))

    sum = product = comparison = _row

    def any_of(self, meta: Any, parts: list[Node]) -> Node:
        return Chain(*self._span(meta), max(p.depth for p in parts), tuple(parts), ("or",) * (len(parts) - 1))

    def all_of(self, meta: Any, parts: list[Node]) -> Node:
        return Chain(*self._span(meta), max(p.depth for p in parts), tuple(parts), ("and",) * (len(parts) - 1))


@cache
def _parser() -> Lark:
    grammar = files(__package__).joinpath("grammar.lark").read_text(encoding="utf-8")
    return Lark(
        grammar, parser="lalr", lexer="basic", postlex=_Lines(), propagate_positions=True, maybe_placeholders=False
    )


@lru_cache(maxsize=256)
def parse(text: str) -> Program:
    """The nodes of a formula. Raises Mistake."""
    if len(text) > MOST_LETTERS:
        raise Mistake(
            f"A formula has at most {MOST_LETTERS:,} characters; this has {len(text):,}.", MOST_LETTERS, len(text)
        )
    if not text.strip():
        raise Mistake("A formula is needed here, such as base * 2.", 0, len(text))
    try:
        tree = _parser().parse(text)
    except UnexpectedInput as error:
        raise _explained(error, text) from None
    # From the leaves up and without recursion, so that no depth of nesting can exhaust the stack.
    build, made = _Nodes(), dict[int, Any]()
    for subtree in tree.iter_subtrees():
        parts = [made[id(part)] if isinstance(part, Tree) else part for part in subtree.children]
        made[id(subtree)] = getattr(build, subtree.data)(subtree.meta, parts)
    steps, result = made[id(tree)]
    return Program(tuple(steps), result, tuple(_references([*(step[3] for step in steps), result])))


def _references(roots: list[Node]) -> Iterator[Node]:
    """Nodes that may mean a parameter or lever, in the order of the text."""
    for node in roots:
        if isinstance(node, Lever | Bound | Name | String):
            yield node
        elif isinstance(node, Member):
            if isinstance(node.of, Name | String | Lever | Bound) and not node.of.enclosed:
                yield node
            else:
                yield from _references([node.of])
        elif isinstance(node, At):
            yield from _references([node.what, node.when])
        elif isinstance(node, Single):
            yield from _references([node.part])
        elif isinstance(node, Chain | Vector | Call | Choose):
            yield from _references(list(node.parts))


def _explained(error: UnexpectedInput, text: str) -> Mistake:
    if isinstance(error, UnexpectedCharacters):
        at = int(error.pos_in_stream or 0)
        if (known := of_signs(text, at)) is not None:
            return known
        sign = text[at]
        if sign == '"':
            return Mistake(
                "This text has no closing quotation mark.",
                at,
                len(text.splitlines()[0]) if "\n" not in text else at + 1,
            )
        if sign == "$":
            return Mistake("After $ stands the name of a lever, such as $wind.", at, at + 1)
        return Mistake(f"“{sign}” means nothing here.", at, at + 1)
    assert isinstance(error, UnexpectedToken)
    token, expected = error.token, error.accepts or error.expected
    level = 0
    for one in text[: token.start_pos or 0]:
        level += (one == "(") - (one == ")")
    if token.type == "$END":
        end = len(text.rstrip())
        if "NUMBER" in expected:
            return Mistake("The formula ends too early: a value is missing here.", max(end - 1, 0), end)
        if "THEN" in expected or "ELSE" in expected:
            return Mistake(f"“{'then' if 'THEN' in expected else 'else'} …” is missing here.", max(end - 1, 0), end)
        if "RPAR" in expected:
            return Mistake("A “)” is missing at the end.", max(end - 1, 0), end)
        if "_NL" in expected:
            return Mistake("After the steps stands the formula's result, on a line of its own.", max(end - 1, 0), end)
        return Mistake("The formula ends too early.", max(end - 1, 0), end)
    start, stop = int(token.start_pos or 0), int(token.end_pos or 0)
    if token.type in ("FACTOR", "EQUAL", "COMPARE", "LPAR") and (known := of_signs(text, start)) is not None:
        return known
    if token.type == "_NL" and "NUMBER" in expected:
        return Mistake("This line ends too early: a value is missing here.", max(start - 1, 0), start)
    if token.type == "_NL":
        line = text.rfind("\n", 0, start) + 1
        return Mistake("Only the last line is the result. Give this one a name: name = …", line, start)
    if "NUMBER" in expected:
        return Mistake(f"A value is expected here, not “{token}”.", start, stop)
    if token.type == "RPAR":
        return Mistake("This “)” closes nothing.", start, stop)
    if token.type == "EQUAL":
        return Mistake(
            "Two values are compared with ==. A step, name = value, stands on a line of its own.", start, stop
        )
    if {"THEN", "ELSE"} & set(expected) and token.type not in ("COMMA",):
        return Mistake(f"“{'then' if 'THEN' in expected else 'else'}” is expected before “{token}”.", start, stop)
    if token.type == "COMMA" and level == 0:
        return Mistake("A comma stands only between values in brackets.", start, stop)
    if token.type == "COLOUR":
        return Mistake("A colour stands here by itself. For a remark, write a space after the #.", start, stop)
    if expected <= {"NAME"}:
        return Mistake("After the dot stands a name.", start, stop)
    return Mistake(f"Before “{token}” an operator is missing, such as + or *.", start, stop)
