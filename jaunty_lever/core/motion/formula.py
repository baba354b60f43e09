"""Formula: a line of arithmetic, written by the artist."""

import re
from functools import cached_property, lru_cache
from math import inf
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.axes import CONSTANT, OVER_TIME, Axes
from ..document.ids import retargeted
from ..document.index import SceneIndex
from ..document.modifier import Modifier
from ..document.periodicity import Pace, PeriodContext, Periodicity, Stretch, together
from ..document.protocols import Context, Signal, Values, Words
from ..document.references import KNOWN, PREFIX, VECTORS
from ..document.specs import ParameterSpec
from ..formula.compile import Compiled, Env
from ..formula.library import SPEED
from ..formula.names import bound_ids, ready
from ..formula.nodes import MOST_LETTERS, Mistake
from ..kernels.parallel import over

_AT_ONCE = 1 << 14


_OF_COPIES = re.compile(
    rf"(?<![\w.])((?:outer\.)*)({'|'.join(VECTORS)}|(?:{'|'.join(KNOWN)})\b(?!\s*\.))", re.IGNORECASE
)
_TIMELY = re.compile(r"\b(t|f|noise|fbm|random)\b", re.IGNORECASE)


def _plain(text: str) -> str:
    """A formula without what it reads by id, and without texts."""
    return re.sub(r'\$<[^>]*>|"[^"\n]*"', " ", text)


class Formula(Modifier):
    """Write the value: arithmetic, waves, noise, levers and parameters at any time."""

    title: ClassVar[str] = "Formula"
    called: ClassVar[str] = "expression script code maths calculate function"
    purpose: ClassVar[str] = "write it"
    mixes_elements: ClassVar[bool] = True
    minds_length: ClassVar[bool] = True
    does: ClassVar[str] = "A line of arithmetic, with levers, waves and other values."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "text")
    formula: ClassVar[tuple[str, ...]] = ("out = what the text says; base is what comes in",)
    faults: ClassVar[tuple[str, ...]] = (
        "A mistake in the text: the formula is passed over until it is mended.",
        "A division by 0, the root of a negative number, and whatever else has no answer at some moment.",
    )
    example: ClassVar[dict[str, Any]] = {"settings": {"text": "base + 40 * osc(0.7 * t) * smoothstep(0, 2, t)"}}

    kind: Literal["formula"] = "formula"
    text: str = Field(
        default="base", max_length=4 * MOST_LETTERS, description="The formula; $<id> stands for a parameter."
    )

    def references(self) -> tuple[str, ...]:
        return self._references

    @cached_property
    def _references(self) -> tuple[str, ...]:
        known = (
            f"{found[1].casefold() or PREFIX}{found[2].casefold()}" for found in _OF_COPIES.finditer(_plain(self.text))
        )
        return (*bound_ids(self.text), *dict.fromkeys(known))

    def retargeted(self, table: dict[str, str]) -> "Formula":
        text = self.text
        for reference in bound_ids(text):
            text = text.replace(f"$<{reference}>", f"$<{retargeted(reference, table)}>")
        return self.changed(text=text)

    def apply(self, incoming: Signal, context: Context) -> Values:
        program = self._ready(context)
        if program is None:
            return incoming.values
        count = context.count
        env = self._env(program, incoming, context)
        if not program.splits or count <= _AT_ONCE:
            with np.errstate(all="ignore"):
                return _numbers(program.run(env))
        # Stretch by stretch, so that what is worked out on the way stays in the nearest memory.
        out = np.empty((count, context.components))
        found: list[tuple[slice, NDArray[np.bool_], str]] = []

        def stretch(first: int, last: int) -> None:
            with np.errstate(all="ignore"):
                for a in range(first, last, _AT_ONCE):
                    here = slice(a, min(a + _AT_ONCE, last))
                    part = Env(
                        env.times[here],
                        env.fps,
                        env.length,
                        _cut(env.base, here),
                        {name: cut for name, values in env.drivers.items() if (cut := _cut(values, here)) is not None},
                        env.at_times,
                        lambda mask, message, here=here: found.append((here, mask, message)),  # type: ignore[misc]
                    )
                    out[here] = program.run(part)

        over(count, stretch)
        for message in sorted({message for _, _, message in found}):
            whole = np.zeros(count, dtype=bool)
            for here, mask, said in found:
                if said == message:
                    rows = np.asarray(mask.any(axis=1))
                    whole[here] |= rows if len(rows) > 1 else bool(rows[0])
            context.fault(whole, message)
        return out

    def write(self, incoming: NDArray[Any], context: Context) -> NDArray[Any]:
        program = self._ready(context)
        if program is None:
            return incoming
        env = self._env(program, None, context)
        env.base = incoming[:, None]
        with np.errstate(all="ignore"):
            return np.asarray(program.run(env), dtype=object)[:, 0]

    def whole(self, spec: ParameterSpec, index: SceneIndex) -> bool:
        """Whether the formula holds no mistake for a parameter with this spec."""
        specs = tuple((r, node.spec if (node := index.target(r)) is not None else None) for r in self.references())
        return isinstance(_compiled(self.text, spec, specs), Compiled)

    @property
    def _speaks_of_time(self) -> bool:
        """Whether its result may go on changing for ever though nothing that it reads does."""
        return _TIMELY.search(_plain(self.text)) is not None

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        program = self._ready(context)
        if program is None or program.kind == "text":
            return ()
        env = self._env(program, incoming, context)
        env.trace = []
        env.fault = lambda mask, message: None

        def at_times(name: str, times: NDArray[np.float64]) -> NDArray[Any]:
            assert env.trace is not None
            env.trace.append(context.passed(name, times)[:, None])
            return context.driver(name, None, times)

        env.at_times = at_times
        program.run(env)
        return tuple(np.asarray(part) for part in env.trace)

    def axes(self, incoming: Axes, taken: Axes) -> Axes:
        return super().axes(incoming, taken) | (OVER_TIME if self._speaks_of_time else CONSTANT)

    def swings(self, incoming: float, context: Pace) -> float:
        return inf if self._speaks_of_time else super().swings(incoming, context)

    def lasts(self, incoming: Stretch | None, context: Pace) -> Stretch | None:
        made = None if self._speaks_of_time else super().lasts(incoming, context)
        if made is None or SPEED not in self.text.casefold():
            return made
        # How fast something moves is told by the moments around: it rests a little after what it asks does.
        return made[0] - 1 / context.fps, made[1] + 1 / context.fps

    def _ready(self, context: Context) -> Compiled | None:
        made = context.standing(lambda: self._made(context))
        if isinstance(made, Compiled):
            return made
        context.fault(np.array([True]), made)
        return None

    def _made(self, context: Context) -> Compiled | str:
        specs = tuple((reference, context.spec_of(reference)) for reference in self.references())
        return _compiled(self.text, context.spec, specs)

    def _env(self, program: Compiled, incoming: Signal | None, context: Context) -> Env:
        drivers = {name: context.driver(name, None, context.times) for name in program.drivers}
        base = incoming.values if incoming is not None and "base" in self.text.casefold() else None
        return Env(
            context.times[:, None],
            context.fps,
            context.length,
            base,
            drivers,
            lambda name, times: context.driver(name, None, times),
            lambda mask, message: context.fault(mask.any(axis=1), message),
        )

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        if self._speaks_of_time:
            return None
        return together(incoming, *(context.driver(reference) for reference in self.references()))

    def clause(self, words: Words) -> str:
        text = " ".join(words.written(self.text).split())
        return f"is {text}" if len(text) <= 60 else f"is {text[:57]} …"

    def decides(self) -> bool:
        return "base" not in self.text.casefold()


def _numbers(values: NDArray[Any]) -> Values:
    return np.asarray(values, dtype=np.float64)


def _cut(values: Values | None, here: slice) -> Values | None:
    return values if values is None or values.shape[0] == 1 else values[here]


@lru_cache(maxsize=4096)
def _compiled(text: str, spec: ParameterSpec, specs: tuple[tuple[str, ParameterSpec | None], ...]) -> Compiled | str:
    """A formula for one kind of parameter and drivers, or what is wrong with it; the last ones are remembered."""
    try:
        return ready(text, spec, dict(specs).get)
    except Mistake as mistake:
        return mistake.message.rstrip(".")
