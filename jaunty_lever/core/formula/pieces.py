"""The parts that a compiled formula is made of: a kind, and a function from the moments to an array.

A *share* is a kind of number of its own: what was written with %, percentages of the document, and what is made of
them alone. Its array holds percent (57 % is 57, so that nothing is lost on the way to a field of percent); it becomes
the fraction where a plain number is needed.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .library import Array
from .nodes import Mistake, Node

WIDTHS = {"number": 1, "switch": 1, "vector2": 2, "vector3": 3, "vector4": 4, "colour": 4, "text": 1}
SAID = {
    "number": "a number",
    "switch": "a yes or no",
    "vector2": "a vector (x, y)",
    "vector3": "a vector (x, y, z)",
    "vector4": "four numbers",
    "colour": "a colour",
    "text": "a text",
}
_AXES = {"x": 0, "y": 1, "z": 2}
_CHANNELS = {"r": 0, "g": 1, "b": 2, "a": 3}
MOST_TEXT = 20_000
"""Letters of the longest text that a formula may make."""

Faults = dict[str, Array]
"""At which moments (n or 1, 1) each thing has no answer, by what is said of it."""


@dataclass
class Env:
    """The moments of one stretch (rows), and what is known at them.

    `trace` collects, when it is asked for, whole numbers that tell which branch each moment took.
    """

    times: Array
    fps: float
    length: float
    base: Array | None
    drivers: dict[str, Array]
    at_times: Callable[[str, NDArray[np.float64]], Array]
    fault: Callable[[Array, str], None]
    steps: dict[str, tuple[Array, Faults]] = field(default_factory=dict)
    trace: list[Array] | None = None


Run = Callable[[Env], Array]


@dataclass(frozen=True)
class Piece:
    """A compiled part. `share`: its array holds percent; `nothing`: it is the literal 0, which is 0 in any unit."""

    kind: str
    run: Run
    share: bool = False
    nothing: bool = False


def still(*numbers: float) -> Run:
    """The same numbers at all moments."""
    made = np.array([numbers], dtype=np.float64)
    made.setflags(write=False)
    return lambda env: made


def numbers(piece: Piece) -> Run:
    """Its numbers, a yes as 1."""

    def run(env: Env) -> Array:
        values = piece.run(env)
        return values if values.dtype != np.bool_ else values.astype(np.float64)

    return run


def plain(piece: Piece) -> Run:
    """Its numbers, a share as the fraction that it is."""
    run = numbers(piece)
    return (lambda env: run(env) / 100) if piece.share else run


def alike(pieces: Sequence[Piece]) -> tuple[list[Run], bool]:
    """Parts that are added, compared or chosen between: all as shares when all are, else all as plain numbers."""
    share = any(piece.share for piece in pieces) and all(piece.share or piece.nothing for piece in pieces)
    return [numbers(piece) if share else plain(piece) for piece in pieces], share


def watched(env: Env, work: Run) -> tuple[Array, Faults]:
    """What `work` gives, and its faults, which are not told yet."""
    report, found = env.fault, Faults()

    def note(mask: Array, message: str) -> None:
        rows = np.asarray(mask.any(axis=1, keepdims=True))
        found[message] = rows | found[message] if message in found else rows

    env.fault = note
    try:
        return work(env), found
    finally:
        env.fault = report


def masked(env: Env, work: Run, where: Array) -> Array:
    """What `work` gives, its faults told only where it decides the result."""
    made, found = watched(env, work)
    for message, mask in found.items():
        if (mask & where).any():
            env.fault(mask & where, message)
    return made


def step(name: str, work: Run) -> Run:
    """A named step: worked out when it is first used, its faults told wherever it is."""

    def run(env: Env) -> Array:
        known = env.steps.get(name)
        if known is None:
            known = env.steps[name] = watched(env, work)
        for message, mask in known[1].items():
            env.fault(mask, message)
        return known[0]

    return run


def finite(env: Env, values: Array, where: str) -> Array:
    """The values, 0 instead of what is no number, which is a fault."""
    if values.dtype == object:
        return values
    wrong = ~np.isfinite(values)
    if not wrong.any():
        return values
    env.fault(wrong, f"What {where} is not a finite number")
    return np.where(wrong, 0.0, values)


def joined_texts(env: Env, a: Array, b: Array) -> Array:
    """Texts one behind the other; the first alone where both together are too long."""
    sizes = np.vectorize(len, otypes=[np.int64])
    wrong = sizes(a) + sizes(b) > MOST_TEXT
    if wrong.any():
        env.fault(wrong, f"The text has more than {MOST_TEXT:,} letters")
        b = np.where(wrong, "", b)
    return np.asarray(a + b)


def truth(piece: Piece, node: Node) -> Run:
    """Its yes or no at each moment. Raises Mistake where it is none."""
    if piece.kind not in ("number", "switch"):
        raise Mistake(f"Here stands a yes or no, such as t > 2, not {SAID[piece.kind]}.", node.start, node.end)

    def run(env: Env) -> Array:
        made = np.asarray(piece.run(env), dtype=bool)
        if env.trace is not None:
            env.trace.append(made)
        return made

    return run


def unified(pairs: Sequence[tuple[Piece, Node]]) -> str:
    """The kind of parts that are worked on together. Raises Mistake at the first that does not fit."""
    kind = "number"
    for piece, node in pairs:
        if piece.kind == "text":
            raise Mistake("A text cannot be calculated with; only + joins texts.", node.start, node.end)
        if piece.kind in ("number", "switch"):
            continue
        if kind not in ("number", piece.kind):
            raise Mistake(f"{SAID[kind].capitalize()} and {SAID[piece.kind]} do not go together.", node.start, node.end)
        kind = piece.kind
    return kind


def component(piece: Piece, name: str, start: int, end: int) -> Piece:
    """One component of a vector or colour. Raises Mistake where there is none of that name."""
    table: dict[str, int] = (
        _CHANNELS if piece.kind in ("colour", "vector4") else _AXES if piece.kind.startswith("vector") else {}
    )
    k = table.get(name)
    if k is None or k >= WIDTHS[piece.kind]:
        own = ", ".join(f".{known}" for known, place in table.items() if place < WIDTHS[piece.kind])
        raise Mistake(
            f"{SAID[piece.kind].capitalize()} has no “{name}”." + (f" It has {own}." if own else ""), start, end
        )
    return Piece("number", lambda env: piece.run(env)[:, k : k + 1], piece.share)
