"""From nodes to array operations, with the kinds of all parts checked on the way.

Every node becomes a `Piece`: its kind, and a function from an `Env` (the moments and what is known at
them) to an array with a row for each moment, or one row, and a column for each component.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..document.colours import parse_colour
from ..document.slots import Slot
from .library import FUNCTIONS, OPERATORS, VALUES, Array
from .nodes import (
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
)  # fmt: skip

_WIDTHS = {"number": 1, "switch": 1, "vector2": 2, "vector3": 3, "colour": 4, "text": 1}
_SAID = {
    "number": "a number", "switch": "a yes or no", "vector2": "a vector (x, y)", "vector3": "a vector (x, y, z)",
    "colour": "a colour", "text": "a text",
}  # fmt: skip
_AXES = {"x": 0, "y": 1, "z": 2}
_CHANNELS = {"r": 0, "g": 1, "b": 2, "a": 3}


@dataclass(frozen=True)
class Found:
    """What a reference means: a parameter and, when only one is meant, its component."""

    id: str
    slot: Slot
    component: int | None = None


class Scope(Protocol):
    """Knows the scene's names, or at least its ids."""

    def find(self, node: Node) -> Found | None:
        """What a Lever, Bound, Name, String or Member node means; None when it is no parameter's name.

        Raises Mistake where it is plain that one was meant.
        """
        ...

    def near(self, name: str) -> list[str]:
        """Names in the scene that resemble one."""
        ...


@dataclass
class Env:
    """The moments of one stretch (rows), and what is known at them."""

    times: Array
    fps: float
    length: float
    base: Array | None
    drivers: dict[str, Array]
    at_times: Callable[[str, NDArray[np.float64]], Array]
    fault: Callable[[Array, str], None]
    steps: dict[str, Array] = field(default_factory=dict)


Run = Callable[[Env], Array]


@dataclass(frozen=True)
class Piece:
    """A compiled part. `share` says that it is made of percentages alone, so that 50% fills a field of % as 50."""

    kind: str
    run: Run
    share: bool = False


@dataclass(frozen=True)
class Compiled:
    """A formula ready to run. `drivers` are the ids it reads; `splits` whether its moments may be worked out apart."""

    run: Run
    kind: str
    drivers: tuple[str, ...]
    splits: bool


def kind_of(slot: Slot) -> str:
    """The formula kind of a parameter's values."""
    if slot.kind in ("vector", "colour", "switch", "text"):
        return f"vector{slot.components}" if slot.kind == "vector" else slot.kind
    return "text" if slot.kind == "choice" else "number"


def compiled(program: Program, slot: Slot, scope: Scope) -> Compiled:
    """A formula for a parameter with this slot. Raises Mistake."""
    build = _Build(slot, scope)
    steps: list[tuple[str, Run]] = []
    for name, start, end, node in program.steps:
        known = name.casefold()
        if known in VALUES or known in FUNCTIONS:
            raise Mistake(f"“{name}” already has a meaning of its own. Choose another name.", start, end)
        if known in build.steps:
            raise Mistake(f"There is already a step named {name}.", start, end)
        piece = build.piece(node)
        build.steps[known] = piece.kind
        steps.append((known, piece.run))
    result = build.fitted(build.piece(program.result), program.result)

    def run(env: Env) -> Array:
        for name, work in steps:
            env.steps[name] = work(env)
        return result(env)

    return Compiled(run, kind_of(slot), tuple(build.drivers), build.splits)


class _Build:
    def __init__(self, slot: Slot, scope: Scope) -> None:
        self.slot, self.scope = slot, scope
        self.steps: dict[str, str] = {}
        self.drivers: dict[str, None] = {}
        self.splits = True

    def piece(self, node: Node) -> Piece:
        return getattr(self, f"_{type(node).__name__.lower()}")(node)  # type: ignore[no-any-return]

    # Leaves

    def _number(self, node: Number) -> Piece:
        if node.frames:
            return Piece("number", lambda env, v=node.value: np.array([[v / env.fps]]))  # type: ignore[misc]
        return Piece("number", _still(node.value), node.share)

    def _colour(self, node: Colour) -> Piece:
        return Piece("colour", _still(*parse_colour(node.text)))

    def _string(self, node: String) -> Piece:
        made = np.array([[node.text]], dtype=object)
        return Piece("text", lambda env: made)

    def _name(self, node: Name) -> Piece:
        name = node.name.casefold()
        if name in self.steps:
            return Piece(self.steps[name], lambda env: env.steps[name])
        if name in VALUES:
            return self._value(name)
        found = self.scope.find(node)
        if found is not None:
            return self._driver(found, node)
        near = get_close_matches(name, [*self.steps, *VALUES], n=1, cutoff=0.6) or self.scope.near(node.name)
        hint = f" Did you mean {near[0]}?" if near else ""
        if not near and name in FUNCTIONS:
            hint = f" It is a function: {FUNCTIONS[name].signature}."
        raise Mistake(f"“{node.name}” is not known here.{hint}", node.start, node.end)

    def _value(self, name: str) -> Piece:
        if name == "base":
            return Piece(kind_of(self.slot), _base)
        moving: dict[str, Run] = {
            "t": lambda env: env.times, "f": lambda env: env.times * env.fps,
            "fps": lambda env: np.array([[env.fps]]), "length": lambda env: np.array([[env.length]]),
        }  # fmt: skip
        if name in moving:
            return Piece("number", moving[name])
        still = {"n": 1.0, "pi": np.pi, "true": 1.0}.get(name, 0.0)
        return Piece("switch" if name in ("true", "false") else "number", _still(still))

    def _lever(self, node: Lever | Bound) -> Piece:
        found = self.scope.find(node)
        if found is None:
            raise Mistake("What stood here has been deleted.", node.start, node.end)
        return self._driver(found, node)

    _bound = _lever

    def _driver(self, found: Found, node: Node) -> Piece:
        slot = found.slot
        if slot.kind == "text":
            raise Mistake("A text cannot be listened to.", node.start, node.end)
        self.drivers[found.id] = None
        piece = Piece(kind_of(slot), lambda env: env.drivers[found.id])
        if slot.kind == "choice":
            options = np.array(slot.options, dtype=object)
            last = len(options) - 1
            return Piece("text", lambda env: options[np.clip(np.rint(env.drivers[found.id]), 0, last).astype(int)])
        if found.component is not None:
            k = found.component
            return Piece("number", lambda env: env.drivers[found.id][:, k : k + 1])
        return piece

    def _member(self, node: Member) -> Piece:
        own = isinstance(node.of, Name) and (node.of.name.casefold() in self.steps or node.of.name.casefold() in VALUES)
        if isinstance(node.of, Name | String | Lever | Bound) and not own:
            found = self.scope.find(node)
            if found is None:
                raise Mistake("There is no such parameter.", node.start, node.end)
            return self._driver(found, node)
        piece = self.piece(node.of)
        for name, start, end in node.names:
            piece = _component(piece, name.casefold(), start, end)
        return piece

    # Operators

    def _chain(self, node: Chain) -> Piece:
        first = self.piece(node.parts[0])
        for operator, part in zip(node.operators, node.parts[1:], strict=True):
            first = self._joined(operator, first, self.piece(part), node.parts[0], part)
        return first

    def _joined(self, operator: str, a: Piece, b: Piece, left: Node, right: Node) -> Piece:
        if operator in ("and", "or"):
            join = np.logical_and if operator == "and" else np.logical_or
            x, y = _truth(a, left), _truth(b, right)
            return Piece("switch", lambda env: join(x(env), y(env)))
        if "text" in (a.kind, b.kind) and operator in ("+", "==", "!="):
            if a.kind != b.kind:
                odd = left if a.kind != "text" else right
                raise Mistake(
                    "A text and a number do not go together; text( ) makes a text of a number.", odd.start, odd.end
                )
            run = OPERATORS[operator]
            if operator == "+":
                return Piece("text", lambda env: np.asarray(a.run(env) + b.run(env)))
            return Piece("switch", lambda env: np.asarray(run(env.fault, a.run(env), b.run(env)), dtype=bool))
        kind = _unified([(a, left), (b, right)])
        run = OPERATORS[operator]
        if operator in ("<", "<=", ">", ">=", "==", "!="):
            if kind != "number":
                raise Mistake(
                    f"{_SAID[kind].capitalize()} cannot be compared; compare one component of it.",
                    left.start,
                    right.end,
                )
            return Piece("switch", lambda env: run(env.fault, a.run(env), b.run(env)))
        share = operator in "+-" and a.share and b.share
        return Piece(kind, lambda env: run(env.fault, a.run(env), b.run(env)), share)

    def _single(self, node: Single) -> Piece:
        piece = self.piece(node.part)
        if node.operator == "not":
            truth = _truth(piece, node.part)
            return Piece("switch", lambda env: np.logical_not(truth(env)))
        _unified([(piece, node.part)])
        if node.operator == "+":
            return piece
        kind = "number" if piece.kind == "switch" else piece.kind
        return Piece(kind, lambda env: np.negative(np.asarray(piece.run(env), dtype=np.float64)), piece.share)

    def _choose(self, node: Choose) -> Piece:
        condition, yes, no = (self.piece(part) for part in node.parts)
        truth = _truth(condition, node.parts[0])
        kind = yes.kind if yes.kind == no.kind else _unified([(yes, node.parts[1]), (no, node.parts[2])])

        def run(env: Env) -> Array:
            chosen, report = truth(env), env.fault
            faults: list[tuple[Array, str]] = []
            values = []
            # What is not chosen may make no sense: that is what the condition is for.
            for branch, where in ((yes, chosen), (no, ~chosen)):
                env.fault = lambda mask, message, where=where: faults.append(
                    (mask.any(axis=1, keepdims=True) & where, message)
                )  # type: ignore[misc]
                values.append(branch.run(env))
            env.fault = report
            for mask, message in faults:
                if mask.any():
                    report(mask, message)
            return np.where(chosen, values[0], values[1])

        return Piece(kind, run, yes.share and no.share)

    def _vector(self, node: Vector) -> Piece:
        parts = [self.piece(part) for part in node.parts]
        for piece, part in zip(parts, node.parts, strict=True):
            if piece.kind not in ("number", "switch"):
                raise Mistake(f"A component is a number, not {_SAID[piece.kind]}.", part.start, part.end)
        return Piece(f"vector{len(parts)}", lambda env: np.hstack(np.broadcast_arrays(*(p.run(env) for p in parts))))

    def _call(self, node: Call) -> Piece:
        function = FUNCTIONS.get(node.name.casefold())
        if function is None:
            near = get_close_matches(node.name.casefold(), FUNCTIONS, n=1, cutoff=0.5)
            hint = f" Did you mean {near[0]}?" if near else ""
            raise Mistake(f"There is no function “{node.name}”.{hint}", node.start, node.start + len(node.name))
        many = len(node.parts)
        if not function.least <= many <= function.most:
            raise Mistake(
                f"{function.signature} takes {_counted(function.least, function.most)}, not {many}.",
                node.start,
                node.end,
            )
        parts = [self.piece(part) for part in node.parts]
        pairs = list(zip(parts, node.parts, strict=True))
        kind = function.gives
        if function.takes == "vector":
            if parts[0].kind not in ("vector2", "vector3"):
                raise Mistake(
                    f"{function.signature} takes a vector, not {_SAID[parts[0].kind]}.",
                    node.parts[0].start,
                    node.parts[0].end,
                )
        elif function.takes == "numbers":
            for piece, part in pairs:
                if piece.kind not in ("number", "switch"):
                    raise Mistake(f"{function.signature} takes numbers, not {_SAID[piece.kind]}.", part.start, part.end)
        else:
            kind = _unified(pairs)
        if function.name == "text":
            self.splits = False
        share = function.gives == "same" and function.takes == "each" and all(p.share for p in parts)
        return Piece(kind, lambda env: function.run(env.fault, *(_numbers(p, env) for p in parts)), share)

    def _at(self, node: At) -> Piece:
        when = self.piece(node.when)
        if when.kind not in ("number", "switch"):
            raise Mistake("After @ stands a time in seconds, such as (t - 0.5).", node.when.start, node.when.end)
        found = self.scope.find(node.what) if isinstance(node.what, Lever | Bound | Name | String | Member) else None
        if found is None:
            raise Mistake("Before @ stands a parameter or a lever.", node.what.start, node.what.end)
        if found.slot.kind in ("text", "choice"):
            raise Mistake("A text or a choice has no value to take at another time.", node.what.start, node.what.end)
        self.drivers[found.id] = None
        self.splits = False
        k = slice(None) if found.component is None else slice(found.component, found.component + 1)
        kind = kind_of(found.slot) if found.component is None else "number"

        def run(env: Env) -> Array:
            times = np.clip(np.nan_to_num(_numbers(when, env)[:, 0]), -1e6, 1e6)
            return env.at_times(found.id, np.ascontiguousarray(times))[:, k]

        return Piece(kind, run)

    # The result

    def fitted(self, piece: Piece, node: Node) -> Run:
        """The result as the parameter needs it."""
        wanted, kind, run = kind_of(self.slot), piece.kind, piece.run
        if self.slot.kind == "choice":
            raise Mistake("A choice cannot be written as a formula.", node.start, node.end)
        plain = kind in ("number", "switch")
        fits = kind == wanted or (plain and wanted in ("number", "switch", "vector2", "vector3"))
        if not fits:
            hint = {"text": " text( ) makes a text of a number.", "colour": " rgb( ) makes one."}.get(wanted, "")
            if wanted in ("number", "switch") and kind.startswith("vector"):
                hint = " Take one component of it, such as .x."
            message = f"{self.slot.label} needs {_SAID[wanted]}, and this is {_SAID[kind]}.{hint}"
            raise Mistake(message, node.start, node.end)
        if kind == "text":
            return run
        factor = 100.0 if piece.share and self.slot.unit == "%" else 1.0
        width = _WIDTHS[wanted]

        def result(env: Env) -> Array:
            values = np.asarray(run(env), dtype=np.float64)
            if factor != 1.0:
                values = values * factor
            return values if values.shape[1] == width else np.broadcast_to(values, (values.shape[0], width))

        return result


def _base(env: Env) -> Array:
    assert env.base is not None
    return env.base


def _still(*numbers: float) -> Run:
    made = np.array([numbers], dtype=np.float64)
    made.setflags(write=False)
    return lambda env: made


def _numbers(piece: Piece, env: Env) -> Array:
    values = piece.run(env)
    return values if values.dtype != np.bool_ else values.astype(np.float64)


def _truth(piece: Piece, node: Node) -> Run:
    if piece.kind not in ("number", "switch"):
        raise Mistake(f"Here stands a yes or no, such as t > 2, not {_SAID[piece.kind]}.", node.start, node.end)
    return lambda env: np.asarray(piece.run(env), dtype=bool)


def _unified(pairs: list[tuple[Piece, Node]]) -> str:
    """The kind of parts that are worked on together. Raises Mistake at the first that does not fit."""
    kind = "number"
    for piece, node in pairs:
        if piece.kind == "text":
            raise Mistake("A text cannot be calculated with; only + joins texts.", node.start, node.end)
        if piece.kind in ("number", "switch"):
            continue
        if kind not in ("number", piece.kind):
            raise Mistake(
                f"{_SAID[kind].capitalize()} and {_SAID[piece.kind]} do not go together.", node.start, node.end
            )
        kind = piece.kind
    return kind


def _component(piece: Piece, name: str, start: int, end: int) -> Piece:
    table: dict[str, int] = _CHANNELS if piece.kind == "colour" else _AXES if piece.kind.startswith("vector") else {}
    k = table.get(name)
    if k is None or k >= _WIDTHS[piece.kind]:
        own = ", ".join(f".{known}" for known, place in table.items() if place < _WIDTHS[piece.kind])
        raise Mistake(
            f"{_SAID[piece.kind].capitalize()} has no “{name}”." + (f" It has {own}." if own else ""), start, end
        )
    return Piece("number", lambda env: piece.run(env)[:, k : k + 1])


def _counted(least: int, most: int) -> str:
    if least == most:
        return f"{least} value{'' if least == 1 else 's'}"
    return f"{least} to {most} values" if most < 32 else f"at least {least} values"


__all__ = ["Compiled", "Env", "Found", "Scope", "compiled", "kind_of"]
