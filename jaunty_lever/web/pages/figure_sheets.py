"""Sheets in which what hands drag is typed in figures: when a modifier acts, and the points of a curve over a
passage."""

from typing import Any, NamedTuple

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.curves import READY, Curve
from jaunty_lever.core.document.gauge import LifeGauge
from jaunty_lever.core.document.keys import EASES
from jaunty_lever.core.document.line_style import LineStyle
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.edits.base import modifier_of
from jaunty_lever.core.edits.curves import passage_of
from jaunty_lever.core.motion import Cam
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of
from ..templating import page
from .profiles import path_of, points_of

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")


@router.get("/windows")
def windows(project: str, scene: str, modifier: str, request: Request, frame: int = 0) -> HTMLResponse:
    """The stretches of frames in which a modifier acts; one more would begin at `frame` and last a second."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    found = modifier_of(here, modifier).modifier
    start = max(0, min(frame, here.length - 1))
    fresh = (start, max(start, min(start + here.fps, here.length - 1)), 0, 0)
    return page(
        "sheets/windows.html",
        modifier=found,
        scene=here,
        windows=[[plain_number(v, 6) for v in (w.start, w.end, w.fade_in, w.fade_out)] for w in found.windows],
        fresh=[plain_number(v, 6) for v in fresh],
    )


class _Shown(NamedTuple):
    """A curve that can be taken: what it is called, its points, and its picture as SVG path data."""

    id: str
    name: str
    points: list[dict[str, Any]]
    path: str


def _shown(curve: Curve) -> _Shown:
    own = specs_of(LifeGauge)["profile"]
    points = points_of(Parameter(rest=1.0, keys=curve.points), own)
    return _Shown(curve.id, curve.name, [point.model_dump(mode="json") for point in curve.points], path_of(points))


@router.get("/curve")
def curve(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """A curve over a passage, larger: its points in figures, and the curves that the project keeps."""
    kept = site_of(request).store.state(project).project
    here = scene_in(kept, scene)
    node = passage_of(here, parameter)
    along = node.spec is specs_of(LineStyle)["profile"]
    life = node.spec is specs_of(LifeGauge)["profile"]
    whole = _stroke_width(here, node) if along else None
    cam = node.modifier is not None and isinstance(here.index.modifiers[node.modifier].modifier, Cam)
    host = here.index.parameters[node.within] if cam and node.within else None
    values = f"Values in {node.spec.unit or 'its own unit'}, such as 40 or -12" if cam else "Values: 0.5 or 50%"
    bare = (
        (cam, "nothing is played"),
        (along, "everywhere the same"),
        (life, "from 0 to 1"),
        (True, "the edge itself, from 0 to 1"),
    )
    return page(
        "sheets/curve.html",
        node=node,
        keys=points_of(node.parameter, node.spec),
        flat=along,
        straight=life,
        eases=("hold", *EASES),
        worth="Width" if along else "Value",
        unit="px" if whole else "",
        whole=whole,
        own=node.spec.unit if cam else None,
        keyed=host.spec.label if host is not None and len(host.parameter.keys) > 1 else "",
        bare=next(words for holds, words in bare if holds),
        read=f"{values}, or 3px: of a stroke of {plain_number(whole, 3)} px." if whole else f"{values}.",
        kept=[_shown(one) for one in kept.curves],
        ready=[_shown(one) for one in READY],
    )


def _stroke_width(scene: Scene, node: ParameterNode) -> float | None:
    """How wide the line of a layer is, in pixels; None where that moves or is nothing."""
    layer = scene.index.layers[node.top]
    own = getattr(layer, "stroke_width", None)
    return float(own.rest) if own is not None and not own.moves and own.rest else None
