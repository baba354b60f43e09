"""Gear: a wheel that is turned by another through teeth, a belt, a chain, a screw or a rack."""

from fractions import Fraction
from functools import cached_property
from math import gcd
from typing import Any, ClassVar, Literal

import numpy as np

from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity, added, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component, rows
from .linked import Linked

MESHES = ("external", "internal", "belt", "chain", "screw", "rack")
MOST_TEETH = 1_000_000
_ALWAYS, _ALONG = np.array([True]), np.ones((1, 1))
_TEETH = ("mesh", "driver_teeth", "driven_teeth", "reverse")


def _lowest(top: int, bottom: int) -> tuple[int, int]:
    """A fraction in lowest terms; a Fraction of the library takes several times as long, for each wheel of a train."""
    shared = gcd(top, bottom)
    return top // shared, bottom // shared


def _teeth(default: float, label: str, help: str) -> Any:
    """A setting that counts teeth."""
    limits = (1, MOST_TEETH)
    return spec(default, label=label, help=help, low=1, high=200, limits=limits, step=1, whole=True, main=True)


class Gear(Linked):
    """Turn with another wheel, by their teeth; or move along as the rack of a turning wheel."""

    title: ClassVar[str] = "Gear"
    called: ClassVar[str] = "wheel teeth cog ratio belt chain rack screw"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("direction",)
    does: ClassVar[str] = "Turns with another wheel, by the teeth of both."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + phase + s·θ·z₁/z₂, θ the driver's angle, z₁ its teeth (or a screw's starts), z₂ the teeth here",
        "s: external −1; internal, belt, chain +1; screw +1, left-handed −1",
        "rack: out = in + phase ± π·module·z₁·θ/360 along its direction",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "A wheel has no tooth, or over a million; a screw has no start.",
        "The module of a rack is not above 0.",
        "What it follows has been deleted.",
    )
    example: ClassVar[dict[str, Any]] = {
        "driver": "wave",
        "settings": {"driver_teeth": 14, "driven_teeth": 35, "mesh": "external"},
    }

    kind: Literal["gear"] = "gear"
    mesh: Parameter = spec(
        "external", "choice", label="Mesh", help="How the driver takes it along.", options=MESHES, main=True
    )
    driver_teeth: Parameter = _teeth(
        20.0, "Teeth of the driver", "How many teeth the driver has; a screw: how many starts."
    )
    driven_teeth: Parameter = _teeth(40.0, "Teeth here", "How many teeth this wheel has.")
    module: Parameter = spec(
        10.0,
        "length",
        label="Module",
        help="Pitch diameter over teeth: how far a rack goes for a turn.",
        low=1,
        high=60,
        step=0.5,
    )
    direction: Parameter = spec(
        0.0, "angle", label="Direction", help="Which way the rack runs; 0 is to the right, −90 upwards.", step=5
    )
    reverse: Parameter = spec(False, "switch", label="Left-handed", help="The thread, or the rack, runs the other way.")
    phase: Parameter = spec(
        0.0, label="Phase", help="Added at all times, so that teeth meet gaps.", owner="span", step=0.5
    )
    meshed: Parameter = spec(
        True,
        "switch",
        label="Teeth in mesh",
        help="Between two gear layers, the phase follows from where they stand.",
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        mesh, z1, z2, sign = context.folded(_TEETH, lambda: self._teeth_of(context))
        if self.component is None:
            given, through, offset = context.turned(self.driver)
        else:
            given, through, offset = context.driver(self.driver, self.component, context.times), Fraction(1), 0.0
        if given.shape[1] != 1:
            given = given[:, :1]
        phase, values = context.number("phase"), incoming.values
        if mesh == "rack":
            module = context.number("module")
            context.fault((module <= 0)[:, 0], "The module of a rack is not above 0")
            factor, divisor = module * (np.pi * z1 * sign) * through.numerator, 360.0 * through.denominator
            phase = phase + module * (np.pi * z1 * sign) * offset / 360
        else:
            # The fraction of the whole train in lowest terms, as long as it is one that numbers can hold.
            own = (int(sign) * z1, max(z2, 1))
            top, bottom = _lowest(own[0] * through.numerator, own[1] * through.denominator)
            if max(abs(top), bottom) >= 1 << 53:
                given, (top, bottom), offset = context.driver(self.driver, None, context.times), _lowest(*own), 0.0
            factor, divisor = np.array([[float(top)]]), float(bottom)
            if offset:
                phase = phase + offset * (sign * z1) / max(z2, 1)
        along = _ALONG
        if context.components > 1:
            turn = np.deg2rad(context.number("direction"))
            # Rounded, so that straight up is straight up.
            along = np.hstack(
                [np.cos(turn).round(15), np.sin(turn).round(15), *[np.zeros_like(turn)] * (context.components - 2)]
            )
        return by_component(
            _gear,
            rows(given, phase, values, factor, along),
            context.components,
            (values, phase, given, factor, along),
            divisor,
        )

    def _teeth_of(self, context: Context) -> tuple[str, int, int, float]:
        """Its mesh, the teeth of both, and which way it turns."""
        mesh, z1, z2 = context.choice("mesh"), context.whole("driver_teeth"), context.whole("driven_teeth")
        if not 1 <= z1 <= MOST_TEETH:
            context.fault(_ALWAYS, "The driver needs 1 to 1,000,000 teeth (or starts)")
        if mesh != "rack" and not 1 <= z2 <= MOST_TEETH:
            context.fault(_ALWAYS, "This wheel needs 1 to 1,000,000 teeth")
        sign = -1.0 if mesh == "external" else 1.0
        if mesh in ("screw", "rack") and context.switch("reverse"):
            sign = -sign
        return mesh, z1, z2, sign

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        given = context.driver(self.driver)
        ratio = self.ratio
        if given is None or not given.drift or ratio is None:
            parts = [context.setting(n) for n in ("driver_teeth", "driven_teeth", "module", "direction", "phase")]
            return together(given, incoming, *parts)
        return added(added(incoming, context.setting("phase")), given, ratio)

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        mesh = self.mesh.rest
        hidden = {"module"} if mesh != "rack" else {"driven_teeth"}
        hidden |= set() if mesh in ("screw", "rack") else {"reverse"}
        return super().hidden_settings(spec) | hidden | (set() if spec.components > 1 else {"direction"})

    def called_here(self) -> dict[str, str]:
        return {"driver_teeth": "Starts of the screw"} if self.mesh.rest == "screw" else {}

    def decides(self) -> bool:
        return True

    @cached_property
    def ratio(self) -> Fraction | None:
        """Turns of this wheel for one of the driver, signed; None for a rack, or where teeth move or are none."""
        teeth = (self.driver_teeth, self.driven_teeth)
        if self.mesh.moves or self.reverse.moves or self.mesh.constant_value == "rack" or any(t.moves for t in teeth):
            return None
        z1, z2 = (round(t.constant_value) if isinstance(t.constant_value, int | float) else 0 for t in teeth)
        if z1 < 1 or z2 < 1:
            return None
        back = self.mesh.constant_value == "external" or (
            self.mesh.constant_value == "screw" and bool(self.reverse.constant_value)
        )
        return Fraction(-z1 if back else z1, z2)

    def tie(self, words: Words) -> str:
        name = words.named(self.driver, self.component)
        if self.mesh.rest == "rack":
            return f"{name} on a rack"
        sign = "−" if (self.ratio or 0) < 0 else ""
        return f"{name} × {sign}{words.of('driver_teeth')}/{words.of('driven_teeth')}"

    def clause(self, words: Words) -> str:
        by = {"external": "teeth", "internal": "a ring's teeth", "screw": "a screw"}.get(
            str(self.mesh.rest), f"a {self.mesh.rest}"
        )
        if self.mesh.rest == "rack":
            return f"runs on a rack under {words.named(self.driver, self.component)}"
        return f"is turned through {by}: {self.tie(words)}"

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        return tuple(Note(text) for text in seen.train())


@kernel(error_model="numpy")
def _gear(
    first: int,
    last: int,
    values: Floats,
    phase: Floats,
    given: Floats,
    factor: Floats,
    along: Floats,
    divisor: float,
    out: Filled,
) -> None:
    sv, sp, sg = values.size > 1, phase.size > 1, given.size > 1
    sf, sa = factor.size > 1, along.size > 1
    # Multiplied before it is divided, so that whole turns come out whole.
    if sg and not (sv or sp or sf or sa):
        value, lead, times, way = values[0], phase[0], factor[0], along[0]
        turned, row = given[first:last], out[first:last]
        for i in range(len(row)):
            row[i] = value + (lead + turned[i] * times / divisor) * way
        return
    for i in range(first, last):
        out[i] = values[i * sv] + (phase[i * sp] + given[i * sg] * factor[i * sf] / divisor) * along[i * sa]
