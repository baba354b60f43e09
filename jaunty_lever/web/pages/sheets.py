"""Sheets that float over the Bench: adding a modifier, copying a chain, a lever's details, export, and more."""

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.layers import LAYER_KINDS
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits.base import Refused, lever_of, place_of
from jaunty_lever.core.edits.chains import AddModifier, taken
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS, Follow
from jaunty_lever.core.motion.fits import offered
from jaunty_lever.core.view.scene_view import scene_in

from ..api.checks import loop, noticed
from ..site import page, site_of
from .views import followers_of

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

PREVIEW = 90


@router.get("/add-modifier")
def add_modifier(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """Modifiers that fit the parameter, by what they are for, each with the curve it would give."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    node = place_of(here, parameter)
    purposes: dict[str, list[tuple[str, str, str, str]]] = {modifier.purpose: [] for modifier in MODIFIERS.values()}
    for kind, modifier in MODIFIERS.items():
        if not modifier.linked and offered(modifier, node.spec):
            curve = _preview(state.project, scene, parameter, kind)
            purposes[modifier.purpose].append((kind, modifier.title, modifier.does, curve))
    fitting = {purpose: some for purpose, some in purposes.items() if some or purpose == Follow.purpose}
    return page(
        "sheets/add_modifier.html",
        node=node,
        purposes=fitting,
        linking=Follow.purpose,
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


@router.get("/bake")
def bake(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """Over which frames, and how closely, a chain is baked."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    node = place_of(here, parameter)
    if not node.parameter.chain:
        raise Refused(f"{node.label} has no chain to bake.", parameter)
    tolerance = {"px": "0.5", "°": "0.5", "%": "0.5"}.get(node.spec.unit, "0.01")
    return page("sheets/bake.html", node=node, scene=here, stepped=node.spec.stepped, tolerance=tolerance)


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
    targets: dict[str, list[tuple[str, str, bool, str]]] = {}
    for other in here.index.parameters.values():
        if other.id == parameter or other.within is not None:
            continue
        left = [m.title for m in chain if taken(here, m, other.spec, other.id)]
        if len(left) == len(chain):
            continue
        same = other.field == node.field and other.top in layers
        without = f"without {' and '.join(dict.fromkeys(left))}" if left else ""
        targets.setdefault(other.trail[0][1], []).append(
            (other.id, " ".join(n for _, n in other.trail[1:]) or "value", same, without)
        )
    # What is ticked already comes first, where it can be seen.
    ordered = dict(sorted(targets.items(), key=lambda entry: not any(ticked for _, _, ticked, _ in entry[1])))
    return page("sheets/copy_chain.html", node=node, targets=ordered, field=node.field)


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
    return page("sheets/scene.html", scene=here, background=rest if isinstance(rest, str) else hex_colour(rest))  # type: ignore[arg-type]


@router.get("/project")
def project_details(project: str, scene: str, request: Request) -> HTMLResponse:
    """Who made the project, what it is, its licence and where there is more."""
    return page("sheets/project.html", project=site_of(request).store.state(project).project)


@router.get("/find")
def find(project: str, scene: str, request: Request) -> HTMLResponse:
    """Everything in the scene that can be chosen by name."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    return page("sheets/find.html", places=_places(here))


def _places(scene: Scene) -> list[tuple[str, str, str]]:
    levers = {f"{lever.id}.value" for lever in scene.levers}
    found = [
        (node.id, node.label, "lever" if node.id in levers else "modifier" if node.within else "layer")
        for node in scene.index.parameters.values()
    ]
    return sorted(found, key=lambda entry: (entry[2] != "lever", entry[2] == "modifier"))


@router.get("/checks")
def checks(project: str, scene: str, request: Request) -> HTMLResponse:
    """What the program noticed, what mends it, and how the scene becomes a perfect loop."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    found = noticed(project, scene, request)
    left = 0 if found.finished.is_set() else found.total - found.done
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
    return page("sheets/keys.html", kinds=LAYER_KINDS)
