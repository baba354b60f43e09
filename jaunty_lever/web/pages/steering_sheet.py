"""The sheet in which values are led by a gauge: what each has now, and what it will have where the gauge is 1."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.gauge import Gauge
from jaunty_lever.core.document.index import walk
from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.edits.gauges import gauge_in
from jaunty_lever.core.edits.steering import Steering
from jaunty_lever.core.evaluation.depth import OF_COPIES, uses_depth
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.motion.steer import WAYS
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

#: In which way each value is led to begin with, and what is typed for it.
_BEGIN: dict[str, tuple[Steering, str]] = {
    "copy_depth": ("by", "120"),
    "copy_tilt": ("by", "0, 180"),
    "copy_position": ("by", "0, -60"),
    "copy_rotation": ("by", "90"),
    "copy_scale": ("times", "1.5"),
    "copy_opacity": ("towards", "20"),
}
_COLOUR = "#1f6f78"


@dataclass(frozen=True)
class Candidate:
    """A value that may be led: what it is called and has, and between what it lies now on the copies (low and high of
    each component), a colour as it is on the first."""

    parameter: str
    label: str
    kind: str
    unit: str
    ways: tuple[str, ...]
    way: str
    goal: str
    now: tuple[tuple[float, ...], ...] | str
    has: str
    parts: tuple[tuple[str, str], ...] = ()


@router.get("/tie-gauge")
def tie_gauge(project: str, scene: str, gauge: str, request: Request, frame: float = 0.0) -> HTMLResponse:
    """Which values may be led by a gauge, with what they are at a frame and what they might become."""
    site = site_of(request)
    here = scene_in(site.store.state(project).project, scene)
    layer, position = gauge_in(here, gauge)
    sampler = Sampler(here, site.cache)
    moment = SampleTimes(np.array([max(0.0, min(frame, here.length)) / here.fps]))
    read = layer.gauges[position]
    values = [_with_parts(one, read) for one in _candidates(sampler, layer, moment)]
    return page("sheets/tie_gauge.html", gauge=read, values=values)


def _with_parts(value: Candidate, gauge: Gauge) -> Candidate:
    """By which of the gauge's numbers a value may be led, where it has several: what is sent, and in words."""
    if not gauge.others:
        return value
    numbers = (("x", "x"), *((name, name) for name in gauge.others))
    if value.parameter.endswith(".copy_position"):
        return replace(value, goal="60, 60", parts=(("each", "x and y"), *numbers))
    return replace(value, parts=numbers)


def _candidates(sampler: Sampler, layer: ArrayLayer, moment: SampleTimes) -> Iterator[Candidate]:
    index = sampler.index
    for name, (way, goal) in _BEGIN.items():
        if name in OF_COPIES and not uses_depth(index):
            continue
        node = index.parameters[f"{layer.id}.{name}"]
        label = node.spec.label.removeprefix("Copy ").capitalize()
        yield _candidate(sampler, node, label, (*WAYS, "plays"), way, goal, moment)
    for inner, _, _ in walk(layer.layers):
        for node_id in (f"{inner.id}.fill.colour", f"{inner.id}.stroke"):
            found = index.parameters.get(node_id)
            if found is not None and (node_id.endswith("colour") or _stroked(inner)):
                words = "fill" if node_id.endswith("colour") else "stroke"
                yield _candidate(sampler, found, f"{inner.name}: {words}", WAYS[:1], WAYS[0], _COLOUR, moment)


def _candidate(
    sampler: Sampler,
    node: ParameterNode,
    label: str,
    ways: tuple[str, ...],
    way: str,
    goal: str,
    moment: SampleTimes,
) -> Candidate:
    values = sampler.evaluate(node.id, inside(sampler, node.id, moment)).reshape(-1, node.spec.components)
    now: tuple[tuple[float, ...], ...] | str = ""
    if node.spec.kind == "colour":
        now = hex_colour(values[0].tolist()) if len(values) else ""
    elif len(values):
        now = tuple(tuple(round(float(v), 2) for v in (c.min(), c.max())) for c in values.T)
    own = node.parameter
    titles = dict.fromkeys(step.title for step in own.chain if not step.bypassed and not own.bypassed)
    has = [*(["keys"] if len(own.keys) > 1 else []), *titles]
    return Candidate(node.id, label, node.spec.kind, node.spec.unit, ways, way, goal, now, ", ".join(has))


def _stroked(layer: BaseLayer) -> bool:
    width = getattr(layer, "stroke_width", None)
    return width is not None and (width.moves or width.constant_value != 0)
