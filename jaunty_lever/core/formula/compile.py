"""From nodes to array operations, with the kinds of all parts checked on the way.

Every node becomes a `Piece`: its kind, and a function from an `Env` (the moments and what is known at
them) to an array with a row for each moment, or one row, and a column for each component.
"""

from collections.abc import Callable, Container
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Protocol

import numpy as np

from ..document.colours import parse_colour
from ..document.references import ALL_KNOWN, OUTER, PREFIX, bare
from ..document.specs import ParameterSpec
from .elsewhere import misfit, unknown_call, unknown_name
from .library import BRANCHES, FUNCTIONS, LENT, OPERATORS, SPEED, TAKINGS, VALUES, Array
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
)
from .pieces import (
    SAID,
    WIDTHS,
    Env,
    Piece,
    Run,
    alike,
    component,
    finite,
    joined_texts,
    masked,
    numbers,
    plain,
    step,
    still,
    truth,
    unified,
)

_ALIKE = {"abs", "min", "max", "clamp", "round", "wrap", "fold"}
"""Functions that make a share of shares."""
_COMPARED = {"step", "smoothstep"}
_NEEDS_NUMBERS = {"noise", "fbm", "random", "text"}


@dataclass(frozen=True)
class Found:
    """What a reference means: a parameter and, when only one is meant, its component."""

    id: str
    spec: ParameterSpec
    component: int | None = None


class Scope(Protocol):
    """Knows the scene's names, or at least its ids."""

    def find(self, node: Node, taken: str = "") -> Found | None:
        """What a Lever, Bound, Name, String or Member node means; None when it is no parameter's name. `taken`: how a
        value of many copies is taken as one.

        Raises Mistake where it is plain that one was meant.
        """
        ...

    def near(self, name: str) -> list[str]:
        """Names in the scene that resemble one."""
        ...


@dataclass(frozen=True)
class Compiled:
    """A formula ready to run. `drivers` are the ids it reads at its own moments; `splits` whether its moments may be
    worked out apart."""

    run: Run
    kind: str
    drivers: tuple[str, ...]
    splits: bool
    share: bool = False


def kind_of(spec: ParameterSpec) -> str:
    """The formula kind of a parameter's values."""
    if spec.kind in ("colour", "switch", "text"):
        return spec.kind
    if spec.kind == "choice":
        return "text"
    return f"vector{spec.components}" if spec.components > 1 else "number"


def compiled(program: Program, spec: ParameterSpec, scope: Scope) -> Compiled:
    """A formula for a parameter with this spec. Raises Mistake."""
    build = _Build(spec, scope)
    for name, start, end, node in program.steps:
        known = name.casefold()
        if (known in VALUES and known not in LENT) or known in FUNCTIONS or known in TAKINGS:
            raise Mistake(f"“{name}” already has a meaning of its own. Choose another name.", start, end)
        if known in build.steps:
            raise Mistake(f"There is already a step named {name}.", start, end)
        piece = build.piece(node)
        build.steps[known] = Piece(piece.kind, step(known, piece.run), piece.share)
    last = build.piece(program.result)
    result = build.fitted(last, program.result)
    return Compiled(result, kind_of(spec), tuple(build.drivers), build.splits, last.share)


def outer_reference(node: Node) -> str | None:
    """What `outer.u`, `outer.outer.rank` … mean; None for another name."""
    if not isinstance(node, Member) or not isinstance(node.of, Name) or node.of.name.casefold() != "outer":
        return None
    *between, last = (name.casefold() for name, _, _ in node.names)
    known = last in ALL_KNOWN and all(name == "outer" for name in between)
    return OUTER * (1 + len(between)) + last if known else None


def is_own(name: str, steps: Container[str]) -> bool:
    """Whether the name before a dot is one of the formula's steps or of the language's values, and not a layer's."""
    plain = name.casefold()
    return plain in steps or (plain in VALUES and plain not in LENT)


class _Build:
    def __init__(self, spec: ParameterSpec, scope: Scope) -> None:
        self.spec, self.scope = spec, scope
        self.steps: dict[str, Piece] = {}
        self.drivers: dict[str, None] = {}
        self.splits = True

    def piece(self, node: Node) -> Piece:
        return getattr(self, f"_{type(node).__name__.lower()}")(node)  # type: ignore[no-any-return]

    # Leaves

    def _number(self, node: Number) -> Piece:
        if node.frames:
            return Piece("number", lambda env, v=node.value: np.array([[v / env.fps]]))  # type: ignore[misc]
        return Piece("number", still(node.value), node.share, node.value == 0 and not node.share)

    def _colour(self, node: Colour) -> Piece:
        return Piece("colour", still(*parse_colour(node.text)))

    def _string(self, node: String) -> Piece:
        made = np.array([[node.text]], dtype=object)
        return Piece("text", lambda env: made)

    def _name(self, node: Name) -> Piece:
        name = node.name.casefold()
        if name in self.steps:
            return self.steps[name]
        if name in VALUES:
            return self._value(name)
        found = self.scope.find(node)
        if found is not None:
            return self._driver(found, node)
        near = get_close_matches(name, [*self.steps, *VALUES], n=1, cutoff=0.6) or self.scope.near(node.name)
        raise Mistake(unknown_name(node.name, near), node.start, node.end)

    def _value(self, name: str) -> Piece:
        if name == "base":
            return Piece(kind_of(self.spec), _base, self.spec.unit == "%")
        moving: dict[str, Run] = {
            "t": lambda env: env.times,
            "f": lambda env: env.times * env.fps,
            "fps": lambda env: np.array([[env.fps]]),
            "length": lambda env: np.array([[env.length]]),
        }
        if name in moving:
            return Piece("number", moving[name])
        if name in ALL_KNOWN:
            return self._known(f"{PREFIX}{name}")
        fixed = {"pi": np.pi, "true": 1.0}.get(name, 0.0)
        return Piece("switch" if name in ("true", "false") else "number", still(fixed))

    def _known(self, reference: str) -> Piece:
        """What a copy knows of itself, or of the array around its own."""
        self.drivers[reference] = None
        wide = len(ALL_KNOWN[reference.rpartition(".")[2]])
        return Piece("number" if wide == 1 else f"vector{wide}", lambda env: env.drivers[reference])

    def _lever(self, node: Lever | Bound) -> Piece:
        found = self.scope.find(node)
        if found is None:
            raise Mistake("What stood here has been deleted.", node.start, node.end)
        return self._driver(found, node)

    _bound = _lever

    def _driver(self, found: Found, node: Node) -> Piece:
        spec = found.spec
        if spec.kind == "text":
            raise Mistake("A text cannot be listened to.", node.start, node.end)
        self.drivers[found.id] = None
        piece = Piece(kind_of(spec), lambda env: env.drivers[found.id], spec.unit == "%")
        if spec.kind == "choice":
            options = np.array(spec.options, dtype=object)
            last = len(options) - 1
            return Piece("text", lambda env: options[np.clip(np.rint(env.drivers[found.id]), 0, last).astype(int)])
        if found.component is not None:
            k = found.component
            return Piece("number", lambda env: env.drivers[found.id][:, k : k + 1], piece.share)
        return piece

    def _member(self, node: Member) -> Piece:
        outer = outer_reference(node)
        if outer is not None and "outer" not in self.steps:
            return self._known(outer)
        own = node.of.enclosed or (isinstance(node.of, Name) and is_own(node.of.name, self.steps))
        if isinstance(node.of, Name | String | Lever | Bound) and not own:
            found = self.scope.find(node)
            if found is None:
                raise Mistake("There is no such parameter.", node.start, node.end)
            return self._driver(found, node)
        piece = self.piece(node.of)
        for name, start, end in node.names:
            piece = component(piece, name.casefold(), start, end)
        return piece

    # Operators

    def _chain(self, node: Chain) -> Piece:
        first = self.piece(node.parts[0])
        for operator, part in zip(node.operators, node.parts[1:], strict=True):
            first = self._joined(operator, first, self.piece(part), node.parts[0], part)
        return first

    def _joined(self, operator: str, a: Piece, b: Piece, left: Node, right: Node) -> Piece:
        if operator in ("and", "or"):
            return _logical(operator, truth(a, left), truth(b, right))
        if (wrong := misfit(operator, left, right)) is not None:
            raise wrong
        run = OPERATORS[operator]
        if "text" in (a.kind, b.kind) and operator in ("+", "==", "!="):
            if a.kind != b.kind:
                odd = left if a.kind != "text" else right
                raise Mistake(
                    "A text and a number do not go together; text( ) makes a text of a number.", odd.start, odd.end
                )
            if operator == "+":
                return Piece("text", lambda env: joined_texts(env, a.run(env), b.run(env)))
            return Piece("switch", lambda env: np.asarray(run(env.fault, a.run(env), b.run(env)), dtype=bool))
        kind = unified([(a, left), (b, right)])
        if operator in ("<", "<=", ">", ">=", "==", "!="):
            if kind != "number":
                raise Mistake(
                    f"{SAID[kind].capitalize()} cannot be compared; compare one component of it.",
                    left.start,
                    right.end,
                )
            (x, y), _ = alike((a, b))
            said = "is compared"
            return Piece("switch", lambda env: run(env.fault, finite(env, x(env), said), finite(env, y(env), said)))
        (x, y), share = _operands(operator, a, b)
        branch = BRANCHES.get(operator)

        def work(env: Env) -> Array:
            one, two = x(env), y(env)
            if branch and env.trace is not None:
                env.trace += branch(one, two)
            return run(env.fault, one, two)

        if operator == "*" and a.share and b.share:
            return Piece(kind, lambda env: work(env) / 100, True)
        return Piece(kind, work, share)

    def _single(self, node: Single) -> Piece:
        piece = self.piece(node.part)
        if node.operator == "not":
            yes = truth(piece, node.part)
            return Piece("switch", lambda env: np.logical_not(yes(env)))
        unified([(piece, node.part)])
        if node.operator == "+":
            return piece
        kind = "number" if piece.kind == "switch" else piece.kind
        return Piece(kind, lambda env: np.negative(np.asarray(piece.run(env), dtype=np.float64)), piece.share)

    def _choose(self, node: Choose) -> Piece:
        condition, yes, no = (self.piece(part) for part in node.parts)
        chosen = truth(condition, node.parts[0])
        kind = yes.kind if yes.kind == no.kind else unified([(yes, node.parts[1]), (no, node.parts[2])])
        (one, two), share = ([yes.run, no.run], False) if kind == "text" else alike((yes, no))

        def run(env: Env) -> Array:
            # What is not chosen may make no sense: that is what the condition is for.
            first = chosen(env)
            return np.where(first, masked(env, one, first), masked(env, two, ~first))

        return Piece(kind, run, share)

    def _vector(self, node: Vector) -> Piece:
        parts = [self.piece(part) for part in node.parts]
        for piece, part in zip(parts, node.parts, strict=True):
            if piece.kind not in ("number", "switch"):
                raise Mistake(f"A component is a number, not {SAID[piece.kind]}.", part.start, part.end)
        runs, share = alike(parts)
        return Piece(
            f"vector{len(parts)}", lambda env: np.hstack(np.broadcast_arrays(*(run(env) for run in runs))), share
        )

    def _taking(self, node: Call) -> Piece:
        """A value of many copies as one number."""
        name, parts = node.name.casefold(), node.parts
        way = name
        if name == "copy":
            first = parts[0] if parts else None
            if len(parts) != 2 or not isinstance(first, Number) or first.value != int(first.value) or first.value < 0:
                raise Mistake(
                    "copy(number, value) takes the number of a copy, from 0, and a value.", node.start, node.end
                )
            way = str(int(first.value))
        elif len(parts) != 1:
            raise Mistake(f"{name}(value) takes one value of an array's copies.", node.start, node.end)
        part = parts[-1]
        found = self.scope.find(part, way) if isinstance(part, Name | String | Bound | Member) else None
        if found is None:
            raise Mistake(
                f"{name}( ) takes a value of an array's copies, such as Gulls.copy_position.", part.start, part.end
            )
        return self._driver(Found(f"{bare(found.id)}@{way}", found.spec, found.component), part)

    def _call(self, node: Call) -> Piece:
        if node.name.casefold() in TAKINGS:
            return self._taking(node)
        if node.name.casefold() == SPEED:
            return self._speed(node)
        function = FUNCTIONS.get(node.name.casefold())
        if function is None:
            raise Mistake(unknown_call(node.name), node.start, node.start + len(node.name))
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
            if not parts[0].kind.startswith("vector"):
                raise Mistake(
                    f"{function.signature} takes a vector, not {SAID[parts[0].kind]}.",
                    node.parts[0].start,
                    node.parts[0].end,
                )
        elif function.takes == "numbers":
            for piece, part in pairs:
                if piece.kind not in ("number", "switch"):
                    raise Mistake(f"{function.signature} takes numbers, not {SAID[piece.kind]}.", part.start, part.end)
        else:
            kind = unified(pairs)
        name = function.name
        if name == "text":
            self.splits = False
        runs, share = _arguments(name, parts)
        branch = BRANCHES.get(name)

        def run(env: Env) -> Array:
            given = [work(env) for work in runs]
            if name in _NEEDS_NUMBERS:
                given = [finite(env, values, f"{name}( ) is given") for values in given]
            if branch and env.trace is not None:
                env.trace += branch(*given)
            return function.run(env.fault, *given)

        return Piece(kind, run, share)

    def _speed(self, node: Call) -> Piece:
        """How fast a value moves, in its unit a second: by a fifth of a frame around each moment."""
        if len(node.parts) != 1:
            raise Mistake("speed(value) takes one value, such as Boat.position.", node.start, node.end)
        part = node.parts[0]
        found = self.scope.find(part) if isinstance(part, Lever | Name | String | Bound | Member) else None
        if found is None:
            raise Mistake("speed( ) takes a value or a lever, such as Boat.position.", part.start, part.end)
        if not found.spec.numeric or found.spec.stepped:
            raise Mistake(f"{found.spec.label} is no number that moves.", part.start, part.end)
        told = self._told_at(found)

        def run(env: Env) -> Array:
            apart = 0.1 / env.fps
            before, after = (told(env, env.times.ravel() + by) for by in (-apart, apart))
            made: Array = np.sqrt((((after - before) / (2 * apart)) ** 2).sum(axis=1, keepdims=True))
            return made

        return Piece("number", run)

    def _told_at(self, found: Found) -> Callable[[Env, Array], Array]:
        """A value, or one component of it, at moments of the formula's own making, (n,): (n, components)."""
        # Such moments are asked for all together.
        self.splits = False
        k = slice(None) if found.component is None else slice(found.component, found.component + 1)
        return lambda env, times: env.at_times(found.id, np.ascontiguousarray(times))[:, k]

    def _at(self, node: At) -> Piece:
        when = self.piece(node.when)
        if when.kind not in ("number", "switch"):
            raise Mistake("After @ stands a time in seconds, such as (t - 0.5).", node.when.start, node.when.end)
        found = self.scope.find(node.what) if isinstance(node.what, Lever | Bound | Name | String | Member) else None
        if found is None:
            raise Mistake("Before @ stands a parameter or a lever.", node.what.start, node.what.end)
        if found.spec.kind in ("text", "choice"):
            raise Mistake("A text or a choice has no value to take at another time.", node.what.start, node.what.end)
        told = self._told_at(found)
        kind = kind_of(found.spec) if found.component is None else "number"

        moment = plain(when)

        def run(env: Env) -> Array:
            return told(env, finite(env, moment(env), "@ is given")[:, 0])

        return Piece(kind, run, found.spec.unit == "%")

    # The result

    def fitted(self, piece: Piece, node: Node) -> Run:
        """The result as the parameter needs it."""
        wanted, kind, run = kind_of(self.spec), piece.kind, piece.run
        if self.spec.kind == "choice":
            raise Mistake("A choice cannot be written as a formula.", node.start, node.end)
        single = kind in ("number", "switch")
        fits = kind == wanted or (single and wanted not in ("text", "colour"))
        if not fits:
            hint = {"text": " text( ) makes a text of a number.", "colour": " rgb( ) makes one."}.get(wanted, "")
            if wanted in ("number", "switch") and kind.startswith("vector"):
                hint = " Take one component of it, such as .x."
            message = f"{self.spec.label} needs {SAID[wanted]}, and this is {SAID[kind]}.{hint}"
            raise Mistake(message, node.start, node.end)
        if kind == "text":
            return run
        # A share fills a field of percent as it is; a plain number is taken as it is anywhere.
        run = numbers(piece) if self.spec.unit == "%" else plain(piece)
        width = WIDTHS[wanted]

        def result(env: Env) -> Array:
            values = np.asarray(run(env), dtype=np.float64)
            return values if values.shape[1] == width else np.broadcast_to(values, (values.shape[0], width))

        return result


def _logical(operator: str, x: Run, y: Run) -> Piece:
    """Both, or either; what stands behind what has decided already may make no sense."""

    def run(env: Env) -> Array:
        first = x(env)
        if operator == "and":
            return np.logical_and(first, masked(env, y, first))
        return np.logical_or(first, masked(env, y, ~first))

    return Piece("switch", run)


def _operands(operator: str, a: Piece, b: Piece) -> tuple[list[Run], bool]:
    """What an operator works on, and whether it makes a share."""
    if operator in "+-%":
        return alike((a, b))
    if operator == "*":
        return [numbers(a), numbers(b)], a.share or b.share
    if operator == "/" and a.share:
        return [numbers(a), numbers(b)], not b.share
    return [plain(a), plain(b)], False


def _arguments(name: str, parts: list[Piece]) -> tuple[list[Run], bool]:
    """What a function works on, and whether it makes a share."""
    if name in _ALIKE:
        return alike(parts)
    if name == "mix":
        ends, share = alike(parts[:2])
        return [*ends, plain(parts[2])], share
    if name == "remap":
        ends, share = alike(parts[3:])
        return [*alike(parts[:3])[0], *ends], share
    if name in _COMPARED:
        return alike(parts)[0], False
    return [plain(part) for part in parts], False


def _base(env: Env) -> Array:
    assert env.base is not None
    return env.base


def _counted(least: int, most: int) -> str:
    if least == most:
        return f"{least} value{'' if least == 1 else 's'}"
    return f"{least} to {most} values"


__all__ = ["Compiled", "Env", "Found", "Scope", "compiled", "kind_of"]
