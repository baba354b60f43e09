"""Bounce: rebounds after the last key, or a drop from rest."""

from math import ceil, log, sqrt
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.notes import Mend, Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, inner, kernel
from ..kernels.parallel import by_component
from .keyed import ease_mends, without_keys

_WHEN = ("after the keys", "drop")
_ALONG = ("direction of arrival", "x", "y")
_SIDES = ("larger values", "smaller values")
_SEEN = 0.5
"""The smallest rebound that counts as seen: half a pixel, or half of the unit."""


class Bounce(Modifier):
    """Land: the value rebounds after its last key, each time lower, or drops from a height without any key."""

    title: ClassVar[str] = "Bounce"
    called: ClassVar[str] = "drop fall ball hit ground rebound gravity"
    purpose: ClassVar[str] = "land it"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("along", "towards")
    does: ClassVar[str] = "Rebounds on landing, lower each time; or drops without a key."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector")
    formula: ClassVar[tuple[str, ...]] = (
        "rebound k = 1, 2 …: take-off speed |v|·eᵏ, flight 2|v|eᵏ/g, value K(t_L) − sign(v)·(|v|eᵏ·τ − g·τ²/2)",
        "v: speed of arrival at the last key, g: gravity, e: rebound; all is over 2|v|e/(g(1 − e)) s after landing",
        "drop: falls for √(2h/g) and lands with √(2gh)",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "Gravity is not above 0.",
        "The rebound is not between 0 and 1.",
        "The height is below 0.",
    )
    example: ClassVar[dict[str, Any]] = {
        "keys": [{"frame": 0, "value": 60, "ease": "ease-in"}, {"frame": 20, "value": 0}],
        "settings": {"gravity": 900, "rebound": 0.7},
    }

    timely: ClassVar[bool] = True

    kind: Literal["bounce"] = "bounce"
    when: Parameter = spec(
        "after the keys",
        "choice",
        label="Start",
        help="After the last key, or as a drop that needs no keys.",
        options=_WHEN,
        main=True,
    )
    gravity: Parameter = spec(
        2000.0,
        label="Gravity",
        help="How fast it is pulled back.",
        low=0,
        high=8000,
        step=50,
        main=True,
        owner="acceleration",
    )
    rebound: Parameter = spec(
        0.6,
        label="Rebound",
        help="The share of its speed that it keeps at each bounce.",
        low=0,
        high=1,
        step=0.02,
        main=True,
    )
    height: Parameter = spec(
        200.0, label="Height", help="How far away a drop starts.", low=0, step=5, owner="span", main=True
    )
    most: Parameter = spec(
        0.0, label="At most", help="Bounces; 0 is as many as there are.", low=0, high=40, step=1, whole=True
    )
    along: Parameter = spec(
        "direction of arrival",
        "choice",
        label="Along",
        help="The line on which it bounces; a drop falls along y unless x is chosen.",
        options=_ALONG,
    )
    towards: Parameter = spec(
        "larger values", "choice", label="Falls towards", help="On the stage, y grows downwards.", options=_SIDES
    )
    start: Parameter = spec(0.0, "time", label="Starts at", help="When a drop lets go.", low=0, step=0.1)

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        return None if self.when.constant_value != "after the keys" or context.keyed() else incoming

    def apply(self, incoming: Signal, context: Context) -> Values:
        gravity, rebound, height = context.number("gravity"), context.number("rebound"), context.number("height")
        context.fault((gravity <= 0)[:, 0], "Gravity is not above 0")
        context.fault(((rebound < 0) | (rebound > 1))[:, 0], "The rebound is not between 0 and 1")
        keys, drop = incoming.keys, context.choice("when") == "drop"
        begin = context.number("start")
        if drop:
            context.fault((height < 0)[:, 0], "The height is below 0")
            direction = np.zeros((1, context.components))
            axis = 1 if context.components > 1 and context.choice("along") != "x" else 0
            direction[0, axis] = 1.0 if context.choice("towards") == "larger values" else -1.0
            speed = 0.0
        elif keys is None:
            return incoming.values
        else:
            direction, speed = _arrival(keys.slope(len(keys.times) - 1), context.choice("along"))
            begin = np.array([[keys.times[-1]]])
        values = (context.times[:, None], incoming.values, gravity, rebound, height, begin, direction)
        return by_component(_bounce, context.count, context.components, values, speed, drop, context.whole("most"))

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        gravity, rebound = context.number("gravity")[:, 0], np.clip(context.number("rebound")[:, 0], 0, 1)
        gravity = np.where(gravity > 0, gravity, np.inf)
        keys = incoming.keys
        if context.choice("when") == "drop":
            height = np.maximum(context.number("height")[:, 0], 0)
            speed, since = (
                np.sqrt(2 * gravity * height),
                context.times - context.number("start")[:, 0] - np.sqrt(2 * height / gravity),
            )
        elif keys is None:
            return ()
        else:
            speed = np.array([_arrival(keys.slope(len(keys.times) - 1), context.choice("along"))[1]])
            since = context.times - keys.times[-1]
        parts = np.broadcast_arrays(np.ascontiguousarray(since), 2 * speed / gravity, rebound)
        flights = np.empty(context.count)
        lasting, longest, kept = (np.ascontiguousarray(np.broadcast_to(part, flights.shape)) for part in parts)
        _flights(lasting, longest, kept, flights)
        return (flights,)

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Bounce":
        if spec.unit in ("px", "°"):
            return self
        span = spec.high - spec.low if spec.low is not None and spec.high is not None else 100.0
        return self.changed(gravity=Parameter(rest=span * 8), height=Parameter(rest=span / 2))

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        hidden = {"height", "towards", "start"} if self.when.rest != "drop" else set()
        return super().hidden_settings(spec) | hidden | (set() if spec.components > 1 else {"along"})

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        gravity, rebound, most = (float(seen.number(name)[0, 0]) for name in ("gravity", "rebound", "most"))
        if gravity <= 0 or not 0 <= rebound <= 1:
            return ()
        if seen.choice("when") == "drop":
            height = float(seen.number("height")[0, 0])
            speed = sqrt(2 * gravity * max(height, 0))
            landing = float(seen.number("start")[0, 0]) + sqrt(2 * max(height, 0) / gravity)
        elif seen.keys is None:
            drop = {"kind": "set value", "parameter": f"{self.id}.when", "value": "drop"}
            return (without_keys("nothing to bounce from", Mend("Let it drop instead", (drop,))),)
        else:
            last = len(seen.keys.times) - 1
            speed = _arrival(seen.keys.slope(last), seen.choice("along"))[1]
            landing = float(seen.keys.times[-1])
            if speed * speed / (2 * gravity) < 1e-9:
                text = "It arrives at rest, so there is nothing to bounce."
                return (Note(text, warn=True, mends=ease_mends(seen, last)),)
        return (Note(_said(speed, gravity, rebound, int(most), landing, seen.fps)),)

    def clause(self, words: Words) -> str:
        if words.resting("when") == "drop":
            return f"drops from {words.of('height')} away and bounces, keeping {words.of('rebound')} of its speed"
        return f"bounces on landing, keeping {words.of('rebound')} of its speed"


def _arrival(slope: NDArray[np.float64], along: str) -> tuple[NDArray[np.float64], float]:
    """The direction (1, components) in which a value arrives, and its speed along it."""
    if along != "direction of arrival" and len(slope) > 1:
        slope = np.where(np.arange(len(slope)) == _ALONG.index(along) - 1, slope, 0.0)
    speed = float(np.sqrt((slope * slope).sum()))
    return (slope / speed if speed > 0 else slope)[None, :], speed


def seen_bounces(speed: float, gravity: float, rebound: float, most: int) -> float:
    """How many rebounds rise above what can be seen; infinite when they never end."""
    if rebound <= 0 or (speed * rebound) ** 2 / (2 * gravity) <= _SEEN:
        return 0
    if rebound >= 1:
        return most or np.inf
    many = ceil(log(sqrt(2 * gravity * _SEEN) / speed) / log(rebound) - 1e-9) - 1
    return min(many, most) if most else many


def _said(speed: float, gravity: float, rebound: float, most: int, landing: float, fps: float) -> str:
    many = seen_bounces(speed, gravity, rebound, most)
    if many == np.inf:
        return "It bounces for ever: with a rebound of 1 nothing is lost."
    if rebound >= 1:
        lasts = most * 2 * speed / gravity
    else:
        whole = 1 - rebound**most if most else 1.0
        lasts = 2 * speed * rebound / (gravity * (1 - rebound)) * whole
    words = {0: "No bounce can be seen", 1: "One bounce can be seen"}.get(int(many), f"{many:.0f} bounces can be seen")
    rest = landing + lasts
    return (
        f"{words}; lands at frame {plain_number(landing * fps, 1)}, at rest from frame "
        f"{ceil(rest * fps - 1e-6)} ({plain_number(rest, 2)} s)."
    )


@inner
def _flight(tau: float, longest: float, e: float) -> tuple[float, float, float, float]:
    """Number (from 0; −1: all is over), start, end and share of speed of the flight at `tau` seconds after landing."""
    # A first flight of less than a billionth of a millisecond is none, and may be too short to divide by.
    if longest * e < 1e-12:
        return -1.0, 0.0, -1.0, 0.0
    if e > 1.0 - 1e-9:
        k = np.floor(tau / longest)
        return k, k * longest, (k + 1.0) * longest, 1.0
    whole = longest * e / (1.0 - e)
    left = 1.0 - tau / whole
    if left <= 0.0:
        return -1.0, 0.0, -1.0, 0.0
    k = max(np.floor(np.log(left) / np.log(e)), 0.0)
    # The logarithm may be off by its rounding: the flight before or after is meant then.
    if whole * (1.0 - e**k) > tau and k > 0.0:
        k -= 1.0
    elif whole * (1.0 - e ** (k + 1.0)) <= tau:
        k += 1.0
    return k, whole * (1.0 - e**k), whole * (1.0 - e ** (k + 1.0)), e ** (k + 1.0)


@kernel
def _flights(since: Floats, longest: Floats, rebound: Floats, out: Filled) -> None:
    """out[i] = the number of the flight at since[i] seconds after landing: −1 before it, −2 when all is over."""
    for i in range(len(out)):
        tau, first, e = since[i], longest[i], rebound[i]
        out[i] = -1.0
        if tau > 0.0:
            out[i] = _flight(tau, first, e)[0] if first > 0.0 and e > 0.0 else -2.0


@kernel
def _bounce(
    first: int,
    last: int,
    times: Floats,
    values: Floats,
    gravity: Floats,
    rebound: Floats,
    height: Floats,
    begin: Floats,
    direction: Floats,
    speed: float,
    drop: bool,
    most: int,
    out: Filled,
) -> None:
    sv, sg, sr, sh = values.size > 1, gravity.size > 1, rebound.size > 1, height.size > 1
    sb, st = begin.size > 1, times.size > 1
    unit = direction[0]
    still = not (sg or sr or sh)
    # The flight that the last sample was in: most samples are in the same one as their neighbour.
    start, end, power = 0.0, -1.0, 0.0
    for i in range(first, last):
        base = values[i * sv]
        g, e = gravity[i * sg], rebound[i * sr]
        tau = times[i * st] - begin[i * sb]
        out[i] = base
        v = speed
        if unit == 0.0 or not g > 0.0 or not (0.0 <= e <= 1.0):
            continue
        if drop:
            h = max(height[i * sh], 0.0)
            fall = np.sqrt(2.0 * h / g)
            v = np.sqrt(2.0 * g * h)
            if tau < fall:
                out[i] = base - unit * (h - 0.5 * g * max(tau, 0.0) ** 2)
                continue
            tau -= fall
        if tau <= 0.0 or e == 0.0 or v == 0.0:
            continue
        if not (still and start <= tau < end):
            k, start, end, power = _flight(tau, 2.0 * v / g, e)
            if k < 0.0 or (most > 0 and k >= most):
                start, end = 0.0, -1.0
                continue
        s = max(tau - start, 0.0)
        out[i] = base - unit * max(v * power * s - 0.5 * g * s * s, 0.0)
