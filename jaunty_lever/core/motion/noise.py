"""Noise: moved by what a field of noise says where each copy, or each point, stands."""

from collections.abc import Callable
from typing import Any, ClassVar, Literal

import numpy as np

from ..document.gauge import FIELD_CHARACTERS, FIELD_OVER
from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, added, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.references import PREFIX
from ..document.specs import ParameterSpec
from ..kernels.parallel import column
from .field import KNOWN_OVER, hidden_of_field, noises, spots
from .phase import came_round
from .scale import tenth_of, without_alpha
from .spans import missed

_DIRECTIONS = ("both", "only above", "only below")


class Noise(Modifier):
    """Moved by a field of noise that lies over the copies: neighbours are moved alike."""

    title: ClassVar[str] = "Noise"
    called: ClassVar[str] = (
        "field displace displacement turbulence roughen rough edge coherent scatter terrain hills ripple distort warp"
    )
    purpose: ClassVar[str] = "shake it"
    mixes_elements: ClassVar[bool] = True
    timely: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("over", "in_step")
    does: ClassVar[str] = "A field of noise over the copies, or round an outline: zoomed, scrolled, roughened."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + amount × N((place − scroll)/zoom, φ), |N| ≤ 1, φ the integral of the frequency",
        "octaves add N at 2, 4, 8 … times as fine, each weaker by the persistence, the sum kept within ±1",
        "in step: N of the other components led to that of the first",
        "along, where copies close (a whole ring, a closed path or outline): N on a circle as long, which has no seam",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "The frequency is below 0.",
        "The time to repeat after is below 0.",
        "The persistence is not between 0 and 1.",
        "There are fewer than 1 or more than 8 octaves.",
    )
    example: ClassVar[dict[str, Any]] = {"settings": {"amount": 40, "frequency": 1.5, "octaves": 3, "seed": 5}}
    compared: ClassVar[str] = "character"

    kind: Literal["noise"] = "noise"
    amount: Parameter = spec(
        10.0, label="Amount", help="It never moves further than this.", owner="step", step=1, main=True
    )
    direction: Parameter = spec(
        "both", "choice", label="Direction", help="To which side of the incoming value.", options=_DIRECTIONS
    )
    character: Parameter = spec(
        "smooth",
        "choice",
        label="Character",
        help="Hills, tufts with creases between, ridges, or scattered spots.",
        options=FIELD_CHARACTERS,
        main=True,
    )
    over: Parameter = spec(
        "place",
        "choice",
        label="Over",
        help="What the noise lies on: places, rows and columns, numbers, the outline or the order, or time alone.",
        options=FIELD_OVER,
        copies=True,
        main=True,
    )
    zoom: Parameter = spec(
        (200.0, 200.0),
        "vector",
        label="Zoom",
        help="How far apart new values lie, for each axis.",
        low=0,
        step=5,
        copies=True,
        main=True,
    )
    scroll: Parameter = spec(
        (0.0, 0.0), "vector", label="Scroll", help="How far the field is moved along.", step=5, copies=True
    )
    zoom_depth: Parameter = spec(
        0.0,
        label="Depth zoom",
        help="The same near and far; at 0 it goes on unchanged.",
        low=0,
        high=800,
        step=5,
        deep=True,
        copies=True,
    )
    scroll_depth: Parameter = spec(
        0.0,
        label="Depth scroll",
        help="How far it is moved nearer.",
        low=-800,
        high=800,
        step=5,
        deep=True,
        copies=True,
    )
    frequency: Parameter = spec(
        0.5, "frequency", label="Frequency", help="New values a second.", low=0, high=12, step=0.1, main=True
    )
    repeat: Parameter = spec(
        0.0, "time", label="Repeat every", help="Comes round without a seam; 0 never repeats.", low=0, high=20, step=0.1
    )
    octaves: Parameter = spec(
        1.0, label="Octaves", help="Layers of finer and finer detail.", low=1, high=8, step=1, whole=True
    )
    persistence: Parameter = spec(
        0.5, label="Persistence", help="How strong each finer octave is.", low=0, high=1, step=0.05
    )
    in_step: Parameter = spec(
        0.0,
        "percentage",
        label="In step",
        help="How far the components go with the first; at 100 % they move as one.",
        low=0,
        high=100,
        step=5,
    )
    seed: Parameter = spec(
        1.0, label="Seed", help="Another seed, another field.", low=1, high=99_999, step=1, whole=True
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        values, amount = incoming.values, context.number("amount")
        octaves, persistence = context.number("octaves")[:, 0], context.number("persistence")[:, 0]
        frequency, repeat = (context.number(name)[:, 0] for name in ("frequency", "repeat"))
        for wrong, message in (
            (frequency < 0, "The frequency is below 0"),
            (repeat < 0, "The time to repeat after is below 0"),
            ((persistence < 0) | (persistence > 1), "The persistence is not between 0 and 1"),
            ((octaves < 1) | (octaves > 8), "Octaves go from 1 to 8"),
        ):
            context.fault(wrong, message)
        many = 1 if context.streams is None else len(context.streams)

        def laid(rows: Values) -> Values:
            """Rows as (copies or 1, moments or 1, components)."""
            return rows[None] if len(rows) == 1 else rows.reshape(many, -1, rows.shape[1])

        def told(name: str) -> Values:
            still = context.by_copy(PREFIX + name)
            return laid(context.driver(PREFIX + name, None, context.times)) if still is None else still[:, None]

        zoom, scroll, *depth = (laid(context.number(name)) for name in ("zoom", "scroll", "zoom_depth", "scroll_depth"))
        over, character = context.choice("over"), context.choice("character")
        at = spots(FIELD_OVER.index(over), told, zoom, scroll, *(part[..., 0] for part in depth))
        phase, lapse = self._phase(context, laid)
        seed, in_step = (laid(context.number(name))[..., 0] for name in ("seed", "in_step"))
        shape = (laid(octaves[:, None])[..., 0], laid(persistence[:, None])[..., 0], seed)
        direction = _DIRECTIONS.index(context.choice("direction"))
        out = np.empty((context.components, context.count))
        for c in range(context.components):
            found = noises(at, phase, lapse, *shape, FIELD_CHARACTERS.index(character), in_step / 100, c)
            if direction:
                found = (found + 1) / 2 if direction == 1 else (found - 1) / 2
            if found.size not in (1, context.count):
                found = np.broadcast_to(found, (many, context.count // many))
            np.multiply(found.ravel(), column(amount, c), out=out[c])
            out[c] += column(values, c)
        return out.T

    def _phase(self, context: Context, laid: Callable[[Values], Values]) -> tuple[Values, Values]:
        """The phase and after how many whole ones it comes round, (copies or 1, moments or 1) each."""
        if not self.moves_by_itself():
            return np.zeros((1, 1)), np.zeros((1, 1))
        alike = None if any(context.differs(name) for name in ("frequency", "repeat")) else context.moments
        here = context if alike is None else alike
        every = np.maximum(here.number("repeat")[:, 0], 0.0)
        phase, lapse = came_round(lambda times: here.phase_at("frequency", times), here.times, every)
        if alike is not None:
            context.heed(alike)
            return phase[None], lapse[None]
        return laid(phase[:, None])[..., 0], laid(lapse[:, None])[..., 0]

    def references(self) -> tuple[str, ...]:
        names = set(sum(KNOWN_OVER, ())) if self.over.moves else KNOWN_OVER[FIELD_OVER.index(str(self.over.rest))]
        return tuple(sorted(PREFIX + name for name in names))

    def moves_by_itself(self) -> bool:
        return self.frequency.moves or self.frequency.constant_value != 0

    def swings(self, incoming: float, context: Pace) -> float:
        finest = 2 ** (min(max(context.most("octaves"), 1), 8) - 1)
        return max(super().swings(incoming, context), context.most("frequency") * finest)

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        names = [name for name in type(self).model_fields if name not in _OWN]
        rest = together(
            *(context.setting(name) for name in names), *(context.driver(reference) for reference in self.references())
        )
        if context.exact("frequency") == 0:
            return added(incoming, rest)
        after = context.exact("repeat")
        if after is None or after <= 0 or context.exact("frequency") is None:
            return None
        return added(incoming, together(Periodicity(after), rest))

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Noise":
        updates = {"seed": Parameter(rest=float(seed))}
        if spec.kind == "colour":
            updates["weights"] = without_alpha()
        if spec.kind == "colour" or (spec.low is not None and spec.high is not None):
            updates["amount"] = Parameter(rest=tenth_of(spec))
        return self.changed(**updates)

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        hidden = super().hidden_settings(spec) | (set() if spec.components > 1 else {"in_step"})
        return frozenset(hidden | hidden_of_field(self.over))

    def fresh(self, new_id: str, seed: int) -> "Noise":
        return self.changed(id=new_id, seed=self.seed.changed(rest=float(seed)))

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        fast = missed(seen.number("frequency"), seen.fps)
        return (Note(fast, warn=True),) if fast else ()

    def clause(self, words: Words) -> str:
        said = f"is moved by up to {words.of('amount')} by a {words.resting('character')} noise"
        over = words.resting("over")
        if over != "time alone":
            said += " along it" if over == "along" else f" over {'the ' if over == 'place' else ''}{over}"
        direction = words.resting("direction")
        if direction != "both":
            said += f", {direction}"
        if words.moves("frequency") or words.resting("frequency"):
            said += f", {words.of('frequency')}"
        if words.moves("repeat") or words.resting("repeat"):
            said += f", coming round every {words.of('repeat')}"
        return said


_OWN = ("id", "kind", "bypassed", "windows", "strength", "weights", "frequency", "repeat")
"""What does not decide how the field looks."""
