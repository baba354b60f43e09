"""Reference pages: every modifier from its model, and the formula language from its library."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from numpy.typing import NDArray
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.lever import lever_step
from jaunty_lever.core.document.modifier import Modifier
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import ParameterSpec, specs_of
from jaunty_lever.core.document.units import WORDS
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.library import FUNCTIONS, VALUES
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.core.words import said
from jaunty_lever.storage.store import NotThere

from ..templating import page
from .addresses import slug

router = APIRouter(prefix="/help")

FRAMES, FPS = 90, 30.0
STEP = 0.25
"""Frames from one plotted point to the next: what is smooth has to look it."""
POINTS = round(FRAMES / STEP)
WIDTH, HEIGHT = 640.0, 180.0
KINDS = {
    "number": "numbers",
    "vector": "positions, sizes and scales",
    "colour": "colours",
    "switch": "switches",
    "choice": "choices",
    "text": "texts",
}


@dataclass(frozen=True)
class Plot:
    """SVG points: what comes in, what goes out (a line for each component), the ends of the scale, and its ticks: where
    they stand and what they say."""

    incoming: tuple[str, ...]
    outgoing: tuple[str, ...]
    trail: str
    low: str
    high: str
    ticks: tuple[tuple[float, str], ...] = ()


def purposes() -> dict[str, list[tuple[str, str, str]]]:
    """Modifiers by what they are for: (address, title, what it does)."""
    found: dict[str, list[tuple[str, str, str]]] = {}
    for kind, modifier in MODIFIERS.items():
        found.setdefault(modifier.purpose, []).append((slug(kind), modifier.title, modifier.does))
    return found


def plotted(modifier: type[Modifier], tried: dict[str, Any] | None = None) -> Plot | None:
    """The example of a modifier with some settings otherwise, computed by the modifier itself; None when it has
    none."""
    example = modifier.example
    if not example:
        return None
    field = example.get("parameter", "rotation")
    settings = dict(example["settings"]) | (tried or {})
    swing = {"chain": [{"kind": "wave", "id": "w", "amplitude": 40, "frequency": 0.7}]}
    if "driver" in example:
        settings["driver"] = "driver.rotation"
    before = [{**step, "id": f"before{k}"} for k, step in enumerate(example.get("chain", ()))]
    made = {"kind": modifier.model_fields["kind"].default, "id": "m", **settings}
    own = {"rest": example.get("rest", 0), "keys": example.get("keys", ()), "chain": [*before, made]}
    layers = [
        {"kind": "ellipse", "id": "one", "name": "One", field: own},
        {"kind": "ellipse", "id": "driver", "name": "Driver", "rotation": swing},
    ]
    scene = Scene.model_validate({"id": "s", "name": "Example", "fps": FPS, "length": FRAMES, "layers": layers})
    sampler, samples = Sampler(scene), SampleTimes.frames(FPS, 0, FRAMES, STEP)
    stations = sampler.chain_outputs(f"one.{field}", samples)
    into = sampler.track("driver.rotation", samples) if "driver" in example else stations[-2]
    unit = sampler.index.parameters[f"one.{field}"].spec.unit
    came, went = (np.broadcast_to(v, (POINTS, v.shape[1])) for v in (into, stations[-1]))
    return _plot(came, went, unit)


def _plot(into: NDArray[np.float64], out: NDArray[np.float64], unit: str) -> Plot:
    low, high = float(min(into.min(), out.min())), float(max(into.max(), out.max()))
    span = (high - low) or 1.0

    def y(v: float) -> float:
        return HEIGHT - 8 - (v - low) / span * (HEIGHT - 16)

    def lines(values: NDArray[np.float64]) -> tuple[str, ...]:
        return tuple(
            " ".join(f"{k / (POINTS - 1) * WIDTH:.1f},{y(v):.1f}" for k, v in enumerate(column)) for column in values.T
        )

    trail = ""
    if out.shape[1] == 2:
        size = float(np.abs(out).max()) or 1.0
        trail = " ".join(f"{90 + a / size * 78:.1f},{90 + b / size * 78:.1f}" for a, b in out)
    behind = unit if unit in ("", "°") else f" {unit}"
    marks = tuple((y(value), f"{plain_number(value, 3)}{behind}") for value in round_values(low, high))
    return Plot(lines(into), lines(out), trail, plain_number(low, 1), plain_number(high, 1), marks)


def round_values(low: float, high: float, most: int = 5) -> list[float]:
    """Round numbers between two others, at most so many: steps of 1, 2 or 5 times a power of ten."""
    if high <= low:
        return [low]
    rough = (high - low) / most
    power = 10.0 ** math.floor(math.log10(rough))
    step = next(power * part for part in (1, 2, 5, 10, 20) if (high - low) / (power * part) <= most - 1)
    return [k * step for k in range(math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9) + 1)]


@dataclass(frozen=True)
class Knob:
    """A main setting that can be tried on the page: a number between two ends, or one of several options."""

    name: str
    label: str
    unit: str
    value: Any
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    options: tuple[str, ...] = ()


def knobs(modifier: type[Modifier]) -> list[Knob]:
    """The main settings of a modifier whose example shows what they do."""
    found = []
    example = modifier.example.get("settings", {})
    for name, spec in specs_of(modifier).items():
        value = example.get(name, spec.default)
        if not spec.main or isinstance(value, dict):
            continue
        if spec.kind == "choice":
            found.append(Knob(name, spec.label, "", value, options=spec.options))
        elif spec.numeric and spec.kind != "switch":
            pair = value[0] if isinstance(value, list | tuple) else value
            found.append(_knob(name, spec, float(pair)))
    return found


def _knob(name: str, spec: ParameterSpec, value: float) -> Knob:
    reach = max(abs(value) * 2, 1.0)
    low = spec.low if spec.low is not None else (0.0 if spec.owner in ("step", "span") and value >= 0 else -reach)
    high = spec.high if spec.high is not None else reach
    step = 1.0 if spec.whole else lever_step(high - low)
    return Knob(name, spec.label, spec.unit, value, low, high, step)


def tried(modifier: type[Modifier], given: Mapping[str, str]) -> dict[str, Any]:
    """Settings for the example out of an address; what makes no sense is left as it was."""
    made: dict[str, Any] = {}
    example = modifier.example.get("settings", {})
    for knob in knobs(modifier):
        text = given.get(knob.name, "")
        if knob.options:
            if text in knob.options:
                made[knob.name] = text
            continue
        try:
            value = min(max(float(text), knob.low), knob.high)
        except ValueError:
            continue
        if math.isfinite(value):
            default = example.get(knob.name, specs_of(modifier)[knob.name].default)
            made[knob.name] = [value] * len(default) if isinstance(default, list | tuple) else value
    return made


def compared(modifier: type[Modifier]) -> list[tuple[str, Plot]]:
    """The example once for each option of the choice by which a modifier's ways are compared."""
    if not modifier.compared:
        return []
    options = specs_of(modifier)[modifier.compared].options
    return [(one, plot) for one in options if (plot := plotted(modifier, {modifier.compared: one})) is not None]


def _found(name: str) -> type[Modifier]:
    found = next((cls for kind, cls in MODIFIERS.items() if slug(kind) == name), None)
    if found is None:
        raise NotThere(f"There is no modifier “{name}”.")
    return found


def setting_row(name: str, spec: ParameterSpec) -> dict[str, Any]:
    """A setting as a line of a table: what it is called, what it does, its unit, useful range and value at first."""
    unit = spec.unit or {
        "value": "the parameter's",
        "step": "the parameter's",
        "rate": "the parameter's, a second",
        "acceleration": "the parameter's, a second, each second",
        "span": "the parameter's",
    }.get(spec.owner, "")
    reach = ""
    if spec.low is not None and spec.high is not None:
        reach = f"{plain_number(spec.low)} to {plain_number(spec.high)}"
    elif spec.low is not None:
        reach = f"from {plain_number(spec.low)}"
    if spec.options:
        reach = ", ".join(spec.options)
    own = spec.owner in ("value", "step", "rate")
    default = "suits the parameter" if own else said(spec.default, spec) if spec.default != "" else "—"
    return {"name": name, "label": spec.label, "help": spec.help, "unit": unit, "reach": reach, "default": default}


@router.get("/modifiers")
def modifiers() -> HTMLResponse:
    """All modifiers, by what they are for."""
    return page("help/modifiers.html", purposes=purposes())


@router.get("/modifiers/{name}")
def modifier(name: str) -> HTMLResponse:
    """What one modifier does, its formula, an example, its settings and its faults."""
    found = _found(name)
    settings = [setting_row(n, s) for n, s in specs_of(found).items() if n not in ("strength", "weights")]
    shared = [setting_row(n, s) for n, s in specs_of(found).items() if n in ("strength", "weights")]
    return page(
        "help/modifier.html",
        modifier=found,
        about=(found.__doc__ or "").strip().split("\n\n")[0],
        plot=plotted(found),
        settings=settings,
        shared=shared,
        purposes=purposes(),
        here=name,
        works_on=[KINDS[kind] for kind in found.kinds],
        knobs=knobs(found),
        compared=compared(found),
    )


@router.get("/modifiers/{name}/plot")
def plot(name: str, request: Request) -> HTMLResponse:
    """The example's plot with settings as they stand in the address."""
    found = _found(name)
    return page("help/plot.html", modifier=found, plot=plotted(found, tried(found, request.query_params)))


@router.get("/formula")
def formula() -> HTMLResponse:
    """The formula language."""
    units = sorted({*WORDS, "%", "f"} - {"turns"})
    return page(
        "help/formula.html",
        functions=list(FUNCTIONS.values()),
        values=VALUES,
        units=units,
        purposes=purposes(),
        here="formula-language",
    )
