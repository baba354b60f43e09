"""Sheets of what a project keeps at hand: its fonts, and its palettes."""

import numpy as np
from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.layers import Text
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.base import place_of
from jaunty_lever.core.edits.fonts import texts_in
from jaunty_lever.core.geometry.faces import SHIPPED, weights_of
from jaunty_lever.core.geometry.path_data import written
from jaunty_lever.core.geometry.text import text_outline
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

_LETTERS = 22
_HIGH = 30.0


def _sample(family: str, said: str) -> dict[str, str]:
    """A line in a font as path data, and the box that it fits in."""
    size, still = np.full((1,), _HIGH), np.zeros(1)
    line = text_outline(said, family, 500.0, "start", size, still, np.full((1,), 120.0))
    points = line.points[0].reshape(-1, 2)
    wide = float(points[:, 0].max()) if len(points) else 1.0
    return {
        "data": written(line.verbs, line.points[0]),
        "box": f"-2 {-0.8 * _HIGH:g} {max(wide + 4, 160):.0f} {1.6 * _HIGH:g}",
    }


def _weights(family: str) -> str:
    found = weights_of(family)
    return f"weights {found[0]:g} to {found[1]:g}" if found else "one weight"


@router.get("/fonts")
def fonts(project: str, scene: str, request: Request) -> HTMLResponse:
    """Every font that texts may be set in, each showing what the chosen text says."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    found = here.index.layers.get(request.query_params.get("layer", ""))
    layer = found if isinstance(found, Text) else None
    said = str(layer.text.rest) if layer is not None else "Lantern Quay"
    said = (said.split("\n")[0] or "Lantern Quay")[:_LETTERS]
    kept = [
        {
            "id": one.id,
            "name": one.name,
            "weights": _weights(one.id),
            "used": _used(state.project, one.id),
            "sample": _sample(one.id, said),
        }
        for one in state.project.fonts
    ]
    shipped = [{"name": name, "weights": _weights(name), "sample": _sample(name, said)} for name in SHIPPED]
    now = (layer.typeface or str(layer.font.rest)) if layer is not None else None
    return page(
        "sheets/fonts.html", project=state.project, scene=here, layer=layer, kept=kept, shipped=shipped, now=now
    )


def _used(project: Project, font: str) -> int:
    return sum(len(texts_in(scene, font)) for scene in project.scenes)


@router.get("/colours")
def colours(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """The project's palettes, to take a colour from."""
    state = site_of(request).store.state(project)
    node = place_of(scene_in(state.project, scene), parameter)
    return page("sheets/colours.html", project=state.project, node=node)
