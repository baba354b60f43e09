"""Sheets that float over the Bench: adding a modifier, copying a chain, a lever's details, export, and more."""

import base64
import re
from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from pydantic import BaseModel, Field
from starlette.responses import HTMLResponse, Response

from jaunty_lever.core.checks.closing import offers
from jaunty_lever.core.checks.seam import told
from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.gauge import GAUGES
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.reach import carried, is_difference
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.edits import AnyEdit, Batch, Edit
from jaunty_lever.core.edits.apart import CLOSE, TakeApart
from jaunty_lever.core.edits.bake import Bake, bakeable
from jaunty_lever.core.edits.base import lever_of, place_of
from jaunty_lever.core.edits.chains import AddModifier, leads, taken
from jaunty_lever.core.edits.deleting import left_behind
from jaunty_lever.core.edits.gauges import AddGauge
from jaunty_lever.core.edits.new_gauge import array_of
from jaunty_lever.core.evaluation.depth import camera_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import copies_at
from jaunty_lever.core.motion import MODIFIERS, Follow
from jaunty_lever.core.motion.fits import offered
from jaunty_lever.core.view.copies import Copies, evenly, whole
from jaunty_lever.core.view.scene_view import scene_in

from ..api.checks import looked, loop
from ..shelf_page import RATES, SIZES
from ..site import site_of
from ..templating import page
from .finding import words_of
from .keys import KEYS
from .views import followers_of

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

PREVIEW = 90

_DONE = re.compile(r" (deleted|removed|taken off)(, which drove \d+|, \d+ values? let go)?(?=$| and \d+ more$)")
"""What labels of edits say has been done to the thing that they name."""


class Deletion(BaseModel):
    """Edits that delete something, and the frame at which what is left comes to rest; none where nothing moves."""

    edits: list[AnyEdit] = Field(min_length=1, max_length=2000)
    frame: float | None = Field(default=None, allow_inf_nan=False)


@router.post("/deleting")
def deleting(project: str, scene: str, told: Deletion, request: Request) -> Response:
    """Who listens to what is to be deleted, and what becomes of each; nothing where nobody does."""
    state = site_of(request).store.state(project)
    edit = told.edits[0] if len(told.edits) == 1 else Batch(edits=tuple(told.edits))
    left = left_behind(state.project, edit, told.frame or 0.0)
    if not left:
        return Response(status_code=204)
    return page(
        "sheets/deleting.html",
        label=_DONE.sub("", edit.label(state.project)),
        left=left,
        frame=None if told.frame is None else f"{told.frame:g}",
    )


@router.get("/add-modifier")
def add_modifier(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """Modifiers that fit the parameter, by what they are for, each with the curve it would give."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    node = place_of(here, parameter)
    purposes: dict[str, list[tuple[str, str, str, str, str]]] = {one.purpose: [] for one in MODIFIERS.values()}
    for kind, modifier in MODIFIERS.items():
        if not modifier.linked and offered(modifier, node.spec):
            curve = _preview(state.project, scene, parameter, kind)
            purposes[modifier.purpose].append((kind, modifier.title, modifier.does, curve, words_of(modifier)))
    fitting = {purpose: some for purpose, some in purposes.items() if some or purpose == Follow.purpose}
    return page(
        "sheets/add_modifier.html",
        node=node,
        purposes=fitting,
        linking=Follow.purpose,
        linking_words=" ".join(words_of(modifier) for modifier in MODIFIERS.values() if modifier.linked),
        scene=here,
        project=state.project,
    )


def _preview(project: Project, scene: str, parameter: str, kind: str) -> str:
    """An SVG polyline of the parameter's result with the modifier put on it, over the first three seconds."""
    tried = scene_in(AddModifier(scene=scene, parameter=parameter, modifier=kind, seed=7).apply(project), scene)
    samples = SampleTimes.frames(tried.fps, 0, min(tried.length, 3 * tried.fps), max(1.0, 3 * tried.fps / PREVIEW))
    values = Sampler(tried).track(parameter, samples)[:, 0].tolist()
    low, high = min(values), max(values)
    if high == low:
        low, high = low - 1, high + 1
    span = high - low
    return " ".join(
        f"{k * 120 / max(1, len(values) - 1):.1f},{34 - (v - low) / span * 28:.1f}" for k, v in enumerate(values)
    )


def _ready_for(request: Request, project: Project, edit: Edit) -> None:
    """Begin the process beside the server while somebody still reads what an edit that lasts is going to do."""
    if edit.lasts(project):
        site_of(request).aside.begin()


@router.get("/bake")
def bake(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """Over which frames, and how closely, a chain is baked."""
    kept = site_of(request).store.state(project).project
    here = scene_in(kept, scene)
    node = bakeable(here, parameter)
    _ready_for(request, kept, Bake(scene=scene, parameter=parameter))
    tolerance = {"px": "0.5", "°": "0.5", "%": "0.5"}.get(node.spec.unit, "0.01")
    return page("sheets/bake.html", node=node, scene=here, stepped=node.spec.stepped, tolerance=tolerance)


@router.get("/take-apart")
def take_apart(project: str, scene: str, array: str, request: Request) -> HTMLResponse:
    """How closely the motion of copies is kept as keys, when they become layers."""
    kept = site_of(request).store.state(project).project
    here = scene_in(kept, scene)
    layer = array_of(here, array)
    _ready_for(request, kept, TakeApart(scene=scene, array=array, way="baked"))
    copies = copies_at(Sampler(here), array, SampleTimes.frames(here.fps, 0, here.length)).elements
    return page("sheets/take_apart.html", array=layer, scene=here, many=len(copies or ()), close=CLOSE)


@router.get("/make-loop")
def make_loop(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """What closes a value at the scene's end, each with two rounds of the curve that it would give."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    node = place_of(here, parameter)
    now, found = offers(state.project, scene, parameter)
    return page(
        "sheets/make_loop.html",
        node=node,
        scene=here,
        jump=told(now).rstrip(",") if now else "",
        offers=[(one.label, one.does, one.edits, _rounds(one.rounds)) for one in found],
    )


def _rounds(values: np.ndarray) -> str:
    """An SVG polyline of the component that goes furthest, at most 240 points."""
    most = values[:, int(np.ptp(values, axis=0).argmax())]
    some = most[np.unique(np.linspace(0, len(most) - 1, 240).round().astype(int))]
    low, span = float(some.min()), float(np.ptp(some)) or 1.0
    return " ".join(f"{k * 240 / (len(some) - 1):.1f},{42 - (v - low) / span * 36:.1f}" for k, v in enumerate(some))


@router.get("/copy-chain")
def copy_chain(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """Everything that some of the chain can be copied to, the same parameter of the chosen layers ticked.

    What of it would not go there is said at the target.
    """
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    node = place_of(here, parameter)
    layers = request.query_params.getlist("layer")
    chain = node.parameter.chain
    measured = any(is_difference(spec) for modifier in chain for spec in specs_of(type(modifier)).values())
    targets: dict[str, list[tuple[str, str, bool, str]]] = {}
    for other in here.index.parameters.values():
        if other.id == parameter or other.within is not None:
            continue
        left = [m.title for m in chain if taken(here, m, other.spec, other.id)]
        if len(left) == len(chain):
            continue
        same = other.field == node.field and other.top in layers
        told = [f"without {' and '.join(dict.fromkeys(left))}"] if left else []
        ratio = carried(node.spec, other.spec)
        if measured and ratio != 1:
            told.append(f"amplitudes × {plain_number(ratio, 3)}")
        without = ", ".join(told)
        targets.setdefault(other.trail[0][1], []).append(
            (other.id, " ".join(n for _, n in other.trail[1:]) or "value", same, without)
        )
    # What is ticked already comes first, where it can be seen.
    ordered = dict(sorted(targets.items(), key=lambda entry: not any(ticked for _, _, ticked, _ in entry[1])))
    return page("sheets/copy_chain.html", node=node, targets=ordered, field=node.field, leads=any(map(leads, chain)))


@router.get("/lever")
def lever(project: str, scene: str, lever: str, request: Request) -> HTMLResponse:
    """A lever's name, range, group and help, and what it drives."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    found = lever_of(here, lever)
    groups = sorted({other.group for other in here.levers if other.group})
    return page("sheets/lever.html", lever=found, followers=followers_of(here.index, f"{lever}.value"), groups=groups)


@router.get("/scene")
def scene_settings(project: str, scene: str, request: Request) -> HTMLResponse:
    """The scene's name, size, rate, length and background."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    rest = here.background.rest
    return page(
        "sheets/scene.html",
        scene=here,
        camera=camera_of(here),
        background=rest if isinstance(rest, str) else hex_colour(rest),  # type: ignore[arg-type]
    )


@router.get("/new-scene")
def new_scene(project: str, scene: str, request: Request) -> HTMLResponse:
    """A scene beside this one, of its size and rate if nothing else is chosen."""
    whole = site_of(request).store.state(project).project
    here = scene_in(whole, scene)
    return page(
        "sheets/new_scene.html",
        project=whole,
        sizes=SIZES,
        rates=RATES,
        like=here,
        placeholder=f"Scene {len(whole.scenes) + 1}",
    )


@router.get("/project")
def project_details(project: str, scene: str, request: Request) -> HTMLResponse:
    """Who made the project, what it is, its licence and where there is more."""
    return page("sheets/project.html", project=site_of(request).store.state(project).project)


@router.get("/checks")
def checks(project: str, scene: str, request: Request) -> HTMLResponse:
    """What the program noticed, what mends it, and how the scene becomes a perfect loop."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    found = looked(project, scene, request)
    left = 0 if found.finished.is_set() else max(found.total - found.done, 1)
    return page(
        "sheets/checks.html",
        checks=found.found,
        loop_=loop(project, scene, request),
        fps=here.fps,
        done=found.done,
        total=found.total,
        left=left,
    )


@router.get("/keys")
def keys(project: str, scene: str) -> HTMLResponse:
    """The keyboard."""
    return page("sheets/keys.html", all_keys=KEYS)


@router.get("/add-gauge")
def add_gauge(project: str, scene: str, array: str, request: Request) -> HTMLResponse:
    """What a gauge may read, each as a moving picture on the array itself."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    layer = array_of(here, array)
    kinds = [
        (kind, cls.wish, cls.title, cls.does, _sample(state.project, scene, array, kind))
        for kind, cls in GAUGES.items()
    ]
    return page("sheets/add_gauge.html", array=layer, kinds=kinds)


_MOMENTS = 36
_SAMPLED: dict[str, dict[str, Any]] = {
    "picture": {
        "wide": 3,
        "high": 3,
        "data": base64.b64encode(bytes((20, 200, 40, 220, 255, 180, 30, 160, 10))).decode(),
    },
    "noise": {"frequency": 0.6},
    "column": {"cells": (3.1, 4.4, 2.2, 5.0, 1.2, 3.8, 4.7, 0.9, 2.6), "beyond": "from the first on"},
}


def _sample(project: Project, scene: str, array: str, kind: str) -> dict[str, Any]:
    """Where copies stand (0..1 within their extent, x y of each) and what a new gauge reads of them at some moments."""
    fields: dict[str, Any] = _SAMPLED.get(kind, {})
    tried = scene_in(
        AddGauge(scene=scene, array=array, gauge=kind, id="sample-gauge", fields=fields).apply(project), scene
    )
    sampler, samples = Sampler(tried), SampleTimes(np.linspace(0, max(tried.length - 1, 1) / tried.fps, _MOMENTS))
    if kind == "zone":
        samples = SampleTimes(samples.times[:1])
    node = tried.index.parameters["sample-gauge.value"]
    shown = Copies({})
    numbers = evenly(shown.count(sampler, node, samples), 120)
    place = tried.index.known[f"{array}.place"]
    where = shown.numbered(sampler, place, SampleTimes(np.zeros(1)), numbers)
    spots = whole(sampler.evaluate(place.id, where), where)[:, 0]
    here = shown.numbered(sampler, node, samples, numbers)
    values = np.broadcast_to(sampler.evaluate(node.id, here), (len(numbers), samples.shape[1], 1))[:, :, 0]
    low, span = spots.min(axis=0, initial=0), np.ptp(spots, axis=0) if len(spots) else np.ones(2)
    size = max(float(span.max(initial=0)), 1.0)
    spots = (spots - low - span / 2) / size
    return {"places": spots.round(3).ravel().tolist(), "values": values.T.round(2).tolist()}
