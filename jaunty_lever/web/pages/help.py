"""Reference pages: every modifier from its model, and the formula language from its library."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter
from numpy.typing import NDArray
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.parameter import Modifier
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.slots import Slot, slots_of
from jaunty_lever.core.evaluation.moments import Moments
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.library import FUNCTIONS, VALUES
from jaunty_lever.core.formula.parse import UNITS
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.core.words import said
from jaunty_lever.storage.store import NotThere

from ..site import page

router = APIRouter(prefix="/help")

FRAMES, FPS = 90, 30.0
WIDTH, HEIGHT = 640.0, 180.0
KINDS = {"number": "numbers", "vector": "positions, sizes and scales", "colour": "colours", "switch": "switches",
         "choice": "choices", "text": "texts"}  # fmt: skip


@dataclass(frozen=True)
class Plot:
    """SVG points: what comes in, what goes out (a line for each component), the zero line, and the ends of the scale."""

    incoming: tuple[str, ...]
    outgoing: tuple[str, ...]
    trail: str
    zero: float | None
    low: str
    high: str


def slug(kind: str) -> str:
    """A kind as it stands in an address."""
    return kind.replace(" ", "-")


def purposes() -> dict[str, list[tuple[str, str, str]]]:
    """Modifiers by what they are for: (address, title, what it does)."""
    found: dict[str, list[tuple[str, str, str]]] = {}
    for kind, modifier in MODIFIERS.items():
        found.setdefault(modifier.purpose, []).append((slug(kind), modifier.title, modifier.does))
    return found


def plotted(modifier: type[Modifier]) -> Plot | None:
    """The example of a modifier, computed by the modifier itself; None when it has none to plot."""
    example = modifier.example
    if not example:
        return None
    field = example.get("parameter", "rotation")
    settings = dict(example["settings"])
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
    sampler, moments = Sampler(scene), Moments.frames(FPS, 0, FRAMES)
    stations = sampler.stations(f"one.{field}", moments)
    into = sampler.evaluate("driver.rotation", moments) if "driver" in example else stations[-2]
    return _plot(*(np.broadcast_to(v, (FRAMES, v.shape[1])) for v in (into, stations[-1])))


def _plot(into: NDArray[np.float64], out: NDArray[np.float64]) -> Plot:
    low, high = float(min(into.min(), out.min())), float(max(into.max(), out.max()))
    span = (high - low) or 1.0

    def y(v: float) -> float:
        return HEIGHT - 8 - (v - low) / span * (HEIGHT - 16)

    def lines(values: NDArray[np.float64]) -> tuple[str, ...]:
        return tuple(
            " ".join(f"{k / (FRAMES - 1) * WIDTH:.1f},{y(v):.1f}" for k, v in enumerate(column)) for column in values.T
        )

    trail = ""
    if out.shape[1] == 2:
        size = float(np.abs(out).max()) or 1.0
        trail = " ".join(f"{90 + a / size * 78:.1f},{90 + b / size * 78:.1f}" for a, b in out)
    zero = y(0.0) if low < 0 < high else None
    return Plot(lines(into), lines(out), trail, zero, plain_number(low, 1), plain_number(high, 1))


def _setting(name: str, slot: Slot) -> dict[str, Any]:
    unit = slot.unit or {"value": "the parameter's", "step": "the parameter's", "rate": "the parameter's, a second",
                         "acceleration": "the parameter's, a second, each second", "span": "the parameter's"}.get(slot.owner, "")  # fmt: skip
    reach = ""
    if slot.low is not None and slot.high is not None:
        reach = f"{plain_number(slot.low)} to {plain_number(slot.high)}"
    elif slot.low is not None:
        reach = f"from {plain_number(slot.low)}"
    if slot.options:
        reach = ", ".join(slot.options)
    own = slot.owner in ("value", "step", "rate")
    default = "suits the parameter" if own else said(slot.default, slot) if slot.default != "" else "—"
    return {"label": slot.label, "help": slot.help, "unit": unit, "reach": reach, "default": default}


@router.get("/modifiers")
def modifiers() -> HTMLResponse:
    """All modifiers, by what they are for."""
    return page("help/modifiers.html", purposes=purposes())


@router.get("/modifiers/{name}")
def modifier(name: str) -> HTMLResponse:
    """What one modifier does, its formula, an example, its settings and its faults."""
    found = next((cls for kind, cls in MODIFIERS.items() if slug(kind) == name), None)
    if found is None:
        raise NotThere(f"There is no modifier “{name}”.")
    settings = [_setting(n, s) for n, s in slots_of(found).items() if n not in ("strength", "weights")]
    shared = [_setting(n, s) for n, s in slots_of(found).items() if n in ("strength", "weights")]
    return page(
        "help/modifier.html", modifier=found, about=(found.__doc__ or "").strip().split("\n\n")[0], plot=plotted(found),
        settings=settings, shared=shared, purposes=purposes(), here=name,
        works_on=[KINDS[kind] for kind in found.kinds],
    )  # fmt: skip


@router.get("/formula")
def formula() -> HTMLResponse:
    """The formula language."""
    units = sorted({*UNITS, "%", "f"} - {"turns"})
    return page(
        "help/formula.html",
        functions=list(FUNCTIONS.values()),
        values=VALUES,
        units=units,
        purposes=purposes(),
        here="formula-language",
    )
