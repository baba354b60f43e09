"""Remap: from one range to another."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.keys import NAMED
from ..document.modifier import Modifier
from ..document.notes import Mend, Note
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.cyclic import folded, led_over, wrapped
from ..kernels.parallel import by_component, rows
from .easing import bezier, bezier_anew, guesses
from .spans import around, spans_in_words

_ENDS = ("carry on", "stop", "wrap", "fold")
_EASES = ("linear", "ease", "ease-in", "ease-out", "ease-in-out", "cubic-bezier", "steps")
_POINTS = ("x1", "y1", "x2", "y2")


def _point(default: float, name: str) -> Any:
    return spec(default, label=f"Curve {name}", help="A control point of CSS's cubic-bezier().", step=0.05)


class Remap(Modifier):
    """Take a value from one range to another, whose unit may differ: 0–15 of wind to 0–80 % of light."""

    title: ClassVar[str] = "Remap"
    called: ClassVar[str] = "range map rescale convert fit normalise"
    purpose: ClassVar[str] = "shape it"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("ends",)
    does: ClassVar[str] = "From one range to another: 0–15 becomes 0–80 %."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "x = (in − from low)/(from high − from low), at its ends carried on, stopped, wrapped or folded",
        "out = to low + (to high − to low) × E(x); reverse swaps to low and to high",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "The range it comes from is empty.",
        "A curve is chosen while the ends do not stop: a curve is known only between 0 and 1.",
        "The curve's x1 and x2 are not between 0 and 1.",
        "There is not at least one step.",
    )
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wave", "amplitude": 30, "offset": 20, "frequency": 0.7}],
        "settings": {"from_low": 0, "from_high": 40, "to_low": -60, "to_high": 60, "ends": "fold"},
    }

    compared: ClassVar[str] = "ends"

    kind: Literal["remap"] = "remap"
    from_low: Parameter = spec(0.0, label="From low", help="What comes in at the low end.", step=1, main=True)
    from_high: Parameter = spec(100.0, label="From high", help="What comes in at the high end.", step=1, main=True)
    to_low: Parameter = spec(0.0, label="To low", help="What goes out for it.", owner="value", step=1, main=True)
    to_high: Parameter = spec(100.0, label="To high", help="What goes out for it.", owner="value", step=1, main=True)
    reverse: Parameter = spec(False, "switch", label="Reverse", help="The low end gives the high one.")
    ends: Parameter = spec(
        "carry on", "choice", label="Ends", help="What happens outside the range it comes from.", options=_ENDS
    )
    ease: Parameter = spec("linear", "choice", label="Way between", help="Curves need ends that stop.", options=_EASES)
    x1: Parameter = _point(0.4, "x1")
    y1: Parameter = _point(0.0, "y1")
    x2: Parameter = _point(0.6, "x2")
    y2: Parameter = _point(1.0, "y2")
    steps: Parameter = spec(
        4.0, label="Steps", help="How many, as in CSS's steps().", low=1, high=60, whole=True, step=1
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        start, end = context.number("from_low"), context.number("from_high")
        low, high = context.number("to_low"), context.number("to_high")
        context.fault((start == end)[:, 0], "The range it comes from is empty")
        if context.switch("reverse"):
            low, high = high, low
        ends, ease, steps = context.choice("ends"), context.choice("ease"), 0
        points = np.zeros((1, 4))
        if ease == "steps":
            steps = context.whole("steps")
            context.fault(np.array([steps < 1]), "There is not at least one step")
        elif ease != "linear":
            points = self._points(context, ease)
            context.fault(np.array([ends != "stop"]), "A curve needs ends that stop")
            across = points[:, ::2]
            context.fault(((across < 0) | (across > 1)).any(axis=1), "The curve's x1 and x2 are not between 0 and 1")
            across[:] = np.clip(across, 0, 1)
        curved = ease not in ("linear", "steps")
        values = incoming.values
        return by_component(
            _remap,
            rows(values, start, end, low, high, points),
            context.components,
            (values, start, end, low, high),
            _ENDS.index(ends),
            max(steps, 0),
            curved,
            points,
            # Points that may move have no table of guesses, not at a single moment either.
            guesses(*points[0, ::2].tolist()) if curved and not self._bends(context, ease) else np.zeros(1),
        )

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        start, end = context.number("from_low"), context.number("from_high")
        x = (incoming.values - start) / np.where(start == end, 1.0, end - start)
        ends = context.choice("ends")
        found = [np.sign(x), np.sign(x - 1)] if ends == "stop" else [] if ends == "carry on" else [np.floor(x)]
        if context.choice("ease") == "steps":
            found.append(np.floor(x * max(context.whole("steps"), 1) + 1e-9))
        return tuple(found)

    def _bends(self, context: Context, ease: str) -> bool:
        return ease not in NAMED and any(context.varies(name) for name in _POINTS)

    def _points(self, context: Context, ease: str) -> NDArray[np.float64]:
        if ease in NAMED:
            return np.array([NAMED[ease]])
        return np.hstack(np.broadcast_arrays(*(context.number(name) for name in _POINTS)))

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Remap":
        if spec.kind == "colour":
            ends = {"to_low": "#000000", "to_high": "#ffffff", "from_low": 0.0, "from_high": 1.0}
            return self.changed(**{name: Parameter(rest=end) for name, end in ends.items()})
        low, high = around(spec, value)
        first = [end[0] if isinstance(end, tuple) else end for end in (low, high)]
        ends = {"to_low": low, "to_high": high, "from_low": first[0], "from_high": first[1]}
        return self.changed(**{name: Parameter(rest=end) for name, end in ends.items()})

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        hidden = set() if self.ease.rest == "cubic-bezier" else set(_POINTS)
        return super().hidden_settings(spec) | hidden | (set() if self.ease.rest == "steps" else {"steps"})

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        values, start, end = seen.incoming, seen.number("from_low"), seen.number("from_high")
        low, high = np.minimum(start, end), np.maximum(start, end)
        outside = ((values < low - 1e-9) | (values > high + 1e-9)).any(axis=1)
        spans = spans_in_words(np.broadcast_to(outside, seen.length))
        if not spans:
            return (Note("What comes in stays inside its range."),)
        least, most = float(values.min()), float(values.max())
        fit = tuple(
            {"kind": "set value", "parameter": f"{self.id}.{name}", "value": round(v, 4), "frame": 0}
            for name, v in (("from_low", least), ("from_high", most))
        )
        mends = (
            (Mend("Fit the range to what comes in", fit),)
            if most > least and not (self.from_low.moves or self.from_high.moves)
            else ()
        )
        return (
            Note(f"What comes in leaves its range at {spans}: there it {_WORDS[seen.choice('ends')]}.", mends=mends),
        )

    def tie(self, words: Words) -> str:
        ends = (words.of("to_low"), words.of("to_high"))
        low, high = ends[::-1] if self.reverse.rest is True else ends
        return f"{_span(words.of('from_low'), words.of('from_high'))} → {_span(low, high)}"

    def clause(self, words: Words) -> str:
        start, end = words.of("from_low"), words.of("from_high")
        low, high = words.of("to_low"), words.of("to_high")
        if words.resting("reverse"):
            low, high = high, low
        ends = "" if words.resting("ends") == "carry on" else f", ends {words.resting('ends')}"
        return f"remapped from {start} … {end} to {low} … {high}{ends}"


_WORDS = {"carry on": "carries on", "stop": "stops at the end", "wrap": "wraps round", "fold": "folds back"}


def _span(low: str, high: str) -> str:
    """Two ends as short as they can be read: `0–80 %`, `−30 … 30 px`."""
    unit = high.lstrip("−0123456789.,/")
    if unit and low.endswith(unit):
        low = low.removesuffix(unit).rstrip()
    return f"{low} … {high}" if "−" in low + high else f"{low}–{high}"


@kernel
def _remap(
    first: int,
    last: int,
    values: Floats,
    start: Floats,
    end: Floats,
    low: Floats,
    high: Floats,
    ends: int,
    steps: int,
    curved: bool,
    points: Floats,
    near: Floats,
    out: Filled,
) -> None:
    sv, ss, se = values.size > 1, start.size > 1, end.size > 1
    sl, sh, sp = low.size > 1, high.size > 1, len(points) > 1
    if ends == 0 and steps == 0 and not (ss or se or sl or sh) and start[0] != end[0]:
        a, span, y0, rise = start[0], end[0] - start[0], low[0], high[0] - low[0]
        for i in range(first, last):
            out[i] = y0 + rise * (values[i * sv] - a) / span
        return
    for i in range(first, last):
        a, b, y0, y1 = start[i * ss], end[i * se], low[i * sl], high[i * sh]
        if a == b:
            out[i] = values[i * sv]
            continue
        if ends == 0 and steps == 0:
            out[i] = led_over(values[i * sv], a, b, y0, y1)
            continue
        x = (values[i * sv] - a) / (b - a)
        if ends == 1:
            x = min(max(x, 0.0), 1.0)
        elif ends == 2:
            x = wrapped(x, 1.0)
        elif ends == 3:
            x = folded(x, 1.0)
        if curved:
            x = bezier(x, points[0], near) if near.size > 1 else bezier_anew(x, points[i * sp])
        elif steps > 0:
            x = np.floor(x * steps + 1e-9) / steps
        out[i] = y0 + (y1 - y0) * x
