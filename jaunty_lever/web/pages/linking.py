"""Linking by pointing: what can drive a value, and the sheet that ties the two together."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter, Query, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.arrangement import Emitter, Rails
from jaunty_lever.core.document.gauge import Gauge
from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.references import PREFIX, bare, known_name, parted, said
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import components
from jaunty_lever.core.edits.base import Refused, place_of
from jaunty_lever.core.edits.linking import unfit, ways_for
from jaunty_lever.core.edits.meshing import gear_layer, mesh_between, snap
from jaunty_lever.core.evaluation.graph import circle, out_of_reach, path_between
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.motion.gear import MESHES
from jaunty_lever.core.motion.spans import around
from jaunty_lever.core.motion.steer import WAYS
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of
from ..templating import page
from .gauge_views import gauge_followers
from .layer_parts import mattes_for
from .views import followers_of

router = APIRouter(prefix="/projects/{project}/scenes/{scene}")


@dataclass(frozen=True)
class Offered:
    """Something that can drive a parameter: how it is referred to, the component where one has to be chosen, in words
    by itself and in full, and what it belongs to on the page."""

    reference: str
    node: ParameterNode
    part: int | None
    words: str
    label: str
    top: str


def drivers_of(scene: Scene, follower: ParameterNode) -> list[Offered]:
    """Everything that can drive a parameter: values in reach, what its copy knows, and values of many taken as one."""
    index = scene.index
    found: list[Offered] = []
    arrays = index.arrays_of(follower)
    known = _known_words(scene, arrays[-1]) if arrays else {}
    for name, told in known.items():
        found += _offered(scene, follower, f"{PREFIX}{name}", index.known[f"{arrays[-1]}.{name}"], told)
    for node in index.parameters.values():
        if node.id == follower.id or node.spec.kind == "text":
            continue
        if out_of_reach(index, follower, node.id) is None:
            found += _offered(scene, follower, node.id, node, "")
        elif node.within is None and node.spec.numeric and not node.spec.stepped:
            for way, words in _TAKEN:
                found += _offered(scene, follower, f"{node.id}@{way}", node, words)
    return found


_OF_COPIES = {
    "u": "the copy's place in the order, 0 to 1",
    "rank": "the copy's rank",
    "i": "the copy's number",
    "row": "the copy's row",
    "col": "the copy's column",
    "x": "the copy's place across",
    "y": "the copy's place downwards",
    "z": "the copy's place towards the viewer",
    "across": "the way to its partner on the other rail",
    "height": "how high up the copy stands, 0 for the lowest to 1",
}
_OF_SPARKS = {
    "life": "how much of its life the spark has lived, 0 to 1",
    "age": "how many seconds the spark has lived",
    "i": "the spark's number",
    "x": "the spark's place across",
    "y": "the spark's place downwards",
    "z": "the spark's place towards the viewer",
}
_OF_POINTS = {
    "u": "the point's share of the outline's length, 0 to 1",
    "height": "how high up the point lies, 0 at the bottom to 1 at the top",
    "i": "the point's number",
    "x": "the point's place across",
    "y": "the point's place downwards",
}
_TAKEN = (("mean", "the mean of all copies"), ("least", "the least"), ("greatest", "the greatest"), ("0", "copy 0"))


def _known_words(scene: Scene, array: str) -> dict[str, str]:
    """What a copy or a spark of an array, or a point of an edge, knows of itself, in words."""
    layer = scene.index.layers[array]
    if not isinstance(layer, ArrayLayer):
        return _OF_POINTS
    kind = layer.arrangement if isinstance(layer, ArrayLayer) else None
    if isinstance(kind, Emitter):
        return _OF_SPARKS
    return {name: words for name, words in _OF_COPIES.items() if name != "across" or isinstance(kind, Rails)}


def _offered(scene: Scene, follower: ParameterNode, reference: str, node: ParameterNode, more: str) -> list[Offered]:
    parts: list[int | None] = [None]
    if unfit(follower.spec, node.spec, None) is not None and node.spec.kind == "vector":
        parts = list(range(node.spec.components))
    elif node.spec.kind == "vector" and follower.spec.components == node.spec.components:
        parts = [None, *range(node.spec.components)]
    fits = [part for part in parts if unfit(follower.spec, node.spec, part) is None]
    if not fits or path_between(scene.index, node.id, follower.id) is not None:
        return []
    lever = node.top in scene.index.levers
    own = node.label if lever else node.trail[-1][1]
    reads = isinstance(node.reads.what, Gauge) if node.reads else False
    top = (
        node.trail[1][0].rpartition(".")[0] if len(node.trail) > 1 and node.trail[1][0].endswith(".value") else node.top
    )
    made = []
    for part in fits:
        words = f"{own}{_axis(node, part)}" + (f", {more}" if more else "")
        label = f"{node.label}{_axis(node, part)}" + (f", {more}" if more else "")
        if reference.startswith(PREFIX):
            words = label = more
        made.append(Offered(reference, node, part, own if reads and not more else words, label, top))
    return made


def _axis(node: ParameterNode, part: int | None) -> str:
    return f" {node.spec.component_names[part]}" if part is not None else ""


@router.get("/drivers")
def drivers(project: str, scene: str, parameter: str, request: Request) -> dict[str, Any]:
    """What can drive a parameter: [reference, component, its label, what it belongs to] each."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    follower = place_of(here, parameter)
    found = [
        [one.reference, one.part, one.words, one.top]
        for one in drivers_of(here, follower)
        if one.node.within is None or one.node.top in here.index.levers
    ]
    return {"parameter": parameter, "label": follower.label, "drivers": found}


@router.get("/followers")
def followers(project: str, scene: str, of: str, request: Request) -> dict[str, Any]:
    """What a lever or a gauge drives: [parameter, label] each."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    reads = place_of(here, f"{of}.value").reads
    if reads is not None and isinstance(reads.what, Gauge):
        return {"followers": gauge_followers(here.index, reads.what)}
    return {"followers": followers_of(here.index, f"{of}.value")}


@router.get("/mattes")
def mattes(project: str, scene: str, layer: str, request: Request) -> dict[str, Any]:
    """The layers where another one may show: [id, name] each."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    return {"mattes": mattes_for(here.index, layer) if layer in here.index.layers else []}


@router.get("/meshing")
def meshing(project: str, scene: str, layer: str, request: Request) -> dict[str, Any]:
    """The gear that a gear layer stands in mesh with while neither turns the other: driver, follower and its name."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    found = snap(here, layer, 0.01)
    if found is None:
        return {"other": None}
    mine, other = here.index.layers[layer], found[1]
    one, two = (f"{gear.id}.{'position' if gear.form.rest == 'rack' else 'rotation'}" for gear in (other, mine))  # type: ignore[attr-defined]
    # A rack is driven, whichever of the two was moved.
    driver, follower = (two, one) if one.endswith("position") else (one, two)
    tied = any(path_between(here.index, a, b) is not None for a, b in ((one, two), (two, one)))
    return {"other": None if tied else other.name, "driver": driver, "follower": follower}


@router.get("/sheets/link")
def choose(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """Everything that can drive a parameter, as a list to choose from by name."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    follower = place_of(here, parameter)
    entries = [
        (
            one.reference,
            one.part,
            one.label,
            "lever" if one.node.top in here.index.levers else "modifier" if one.node.within else "layer",
        )
        for one in drivers_of(here, follower)
    ]
    entries.sort(key=lambda entry: (entry[3] != "lever", entry[3] == "modifier"))
    return page("sheets/drivers.html", places=entries, link=follower, also=request.query_params.getlist("also"))


@router.get("/sheets/tie")
def tie(
    project: str,
    scene: str,
    parameter: str,
    driver: str,
    request: Request,
    component: int | None = None,
    also: list[str] = Query(default=[], max_length=500),
) -> HTMLResponse:
    """How a driver drives a follower: the ways that fit both, filled in from what both really do."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    follower = place_of(here, parameter)
    other = here.index.target(here.index.heard(follower, driver)) or place_of(here, bare(driver))
    if component is not None and not 0 <= component < other.spec.components:
        raise Refused(f"{other.label} has no such component.", driver)
    closed = circle(here.index, parameter, other.id)
    wrong = out_of_reach(here.index, follower, driver) or unfit(follower.spec, other.spec, component)
    told = f"This link would close a circle: {closed}. Cut one of its links first." if closed else ""
    if wrong:
        told = f"“{follower.label}” cannot follow “{other.label}”: {wrong}."
    sampler = Sampler(here, site_of(request).cache)
    ways = ways_for(follower.spec, other.spec, component)
    if known_name(driver) is not None:
        # What a copy knows of itself stands still.
        ways = tuple(way for way in ways if way != "how fast")
    one, two = gear_layer(here, driver), gear_layer(here, parameter)
    chosen = "gears" if one and two and "gears" in ways else ways[0]
    apart = other.spec.unit != follower.spec.unit and (other.spec.unit or follower.spec.unit == "%")
    if chosen == "as it is" and "remap" in ways and apart:
        chosen = "remap"
    return page(
        "sheets/tie.html",
        follower=follower,
        driver=other,
        reference=driver,
        taken=_taken_words(driver),
        component=component,
        ways=ways,
        chosen=chosen,
        told=told,
        source=_reach(sampler, other, component),
        fastest=_fastest(sampler, other) if "how fast" in ways else "",
        steers=WAYS[:1] if follower.spec.kind == "colour" else WAYS,
        target=_reach(sampler, follower, None),
        meshes=MESHES,
        mesh=mesh_between(one, two) if one and two else "rack" if follower.spec.components > 1 else "external",
        teeth=(_teeth(one, 20), _teeth(two, 40)),
        module=_module(one or two),
        both=bool(one and two),
        colours=_colours(follower),
        axis=_axis(other, component),
        places=_places(other, follower),
        also=[
            p
            for p in also
            if p != parameter
            and p in here.index.parameters
            and unfit(here.index.parameters[p].spec, other.spec, component) is None
            and circle(here.index, p, other.id) is None
        ],
    )


def _taken_words(driver: str) -> str:
    """How a value of many is taken, behind its name; nothing for what is one value."""
    taken = parted(driver)[1]
    return "" if taken is None else f", {said(taken)}"


def _places(driver: ParameterNode, follower: ParameterNode) -> list[tuple[str, str]]:
    """For each place of a switch or a choice its name, and a value to begin with."""
    names = ("off", "on") if driver.spec.kind == "switch" else driver.spec.options
    spec, rest = follower.spec, follower.parameter.rest
    if spec.kind == "switch":
        values = ["off" if k == 0 else "on" for k in range(len(names))]
    elif spec.kind == "choice":
        values = [spec.options[k % len(spec.options)] for k in range(len(names))]
    elif spec.kind == "colour":
        values = [_colours(follower)[k % 2] for k in range(len(names))]
    else:
        now = components(rest, spec)[0] if not isinstance(rest, str) else 0.0
        high = now or (spec.high if spec.high is not None else 100.0)
        values = [plain_number(high * k / max(len(names) - 1, 1), 2).replace("−", "-") for k in range(len(names))]
    return list(zip(names, values, strict=True))


def _teeth(layer: Any, otherwise: int) -> str:
    return plain_number(float(layer.teeth.rest)) if layer else str(otherwise)


def _module(layer: Any) -> str:
    return plain_number(float(layer.module.rest)) if layer else "10"


def _colours(follower: ParameterNode) -> tuple[str, str]:
    rest = follower.parameter.rest
    return (rest if isinstance(rest, str) and rest.startswith("#") else "#22303c", "#fffdf8")


def _fastest(sampler: Sampler, node: ParameterNode) -> str:
    """How fast a value moves at most over the scene, in its unit a second, as far as a few moments tell; 100 where it
    rests."""
    scene, step = sampler.scene, max(1.0, sampler.scene.length / 60)
    first = SampleTimes.frames(scene.fps, 0, scene.length, step)
    then = SampleTimes(first.times + 0.5 / scene.fps)
    ways = []
    for samples in (first, then):
        where = inside(sampler, node.id, samples) if sampler.index.arrays_of(node) else samples
        values = sampler.evaluate(node.id, where)
        ways.append(values.reshape(-1, node.spec.components))
    if ways[0].shape != ways[1].shape or not len(ways[0]):
        return "100"
    fastest = float(np.sqrt(((ways[1] - ways[0]) ** 2).sum(axis=1)).max()) * 2 * scene.fps
    return plain_number(float(f"{fastest:.3g}")) if fastest > 1e-9 else "100"


def _reach(sampler: Sampler, node: ParameterNode, component: int | None) -> tuple[str, str]:
    """The ends between which a value really moves over the scene; its useful range, or one around it, where it
    rests."""
    spec, scene = node.spec, sampler.scene
    if not spec.numeric:
        return ("0", "100")
    samples = SampleTimes.frames(scene.fps, 0, scene.length)
    if sampler.index.arrays_of(node):
        # Over all copies, at as many moments as can be looked at in a blink.
        where = inside(sampler, node.id, SampleTimes.frames(scene.fps, 0, scene.length, max(1.0, scene.length / 60)))
        values = sampler.evaluate(node.id, where).reshape(-1, spec.components)
        values = values if len(values) else np.zeros((1, spec.components))
    else:
        values = sampler.track(node.id, samples)
    if component is not None:
        values = values[:, component : component + 1]
    low, high = float(values.min()), float(values.max())
    if high - low < 1e-9 or values.shape[0] == 1:
        if spec.low is not None and spec.high is not None:
            low, high = spec.low, spec.high
        else:
            ends = [around(spec, components(node.parameter.rest, spec))[k] for k in (0, 1)]
            low, high = (float(end[component or 0] if isinstance(end, tuple) else end) for end in ends)
    return plain_number(low, 2).replace("−", "-"), plain_number(high, 2).replace("−", "-")
