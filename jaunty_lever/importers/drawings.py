"""What drawings and animations that come in have in common: the edit that puts them into a scene."""

from typing import Any

from pydantic import ValidationError

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits.pictures import AddDrawing
from jaunty_lever.formats.lottie import LottieDrawing
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.formats.svg import SvgDrawing

from .importer import Brought


def added(drawing: SvgDrawing | LottieDrawing, scene: str, position: tuple[float, float] | None = None) -> AddDrawing:
    """The edit that brings a drawing into a scene. Raises BadFile when something in it fits no layer."""
    given = {
        "scene": scene,
        "name": drawing.name,
        "width": drawing.width,
        "height": drawing.height,
        "layers": drawing.layers,
        "pictures": drawing.pictures,
        "position": position,
    }
    try:
        return AddDrawing.model_validate(given)
    except ValidationError as error:
        raise BadFile(_misfit(drawing, error.errors()[0]["loc"])) from None


def _misfit(drawing: SvgDrawing | LottieDrawing, where: tuple[int | str, ...]) -> str:
    """What of a drawing no layer can have, by where that stands: in which layer, and which of its values."""
    here: Any = {"layers": drawing.layers}
    named, value = "", ""
    for step in where:
        if isinstance(here, dict) and isinstance(step, str) and step in here:
            here, value = here[step], step
        elif isinstance(here, list | tuple) and isinstance(step, int) and step < len(here):
            here = here[step]
        if isinstance(here, dict) and "name" in here:
            named = str(here["name"])
    what = f"the {value.replace('_', ' ')} of “{named[:60]}”" if named and value else "something in it"
    return (
        f"It draws what no layer can have: {what} is no value that can be drawn. Leave it out of the "
        "drawing, or simplify it."
    )


def alone(drawing: SvgDrawing | LottieDrawing) -> Brought:
    """A drawing as a project with a scene of its size. Raises Refused."""
    scene = Scene(id=new_id("scene"), name=drawing.name, width=drawing.width, height=drawing.height)
    if isinstance(drawing, LottieDrawing):
        scene = scene.changed(fps=drawing.fps, length=drawing.length)
    whole = Project(id=new_id("project"), name=drawing.name, scenes=(scene,))
    return Brought(added(drawing, scene.id).apply(whole), tuple(drawing.remarks))


def stem(name: str) -> str:
    """A file's name without its folders and its ending."""
    last = name.replace("\\", "/").rpartition("/")[2]
    return last.rpartition(".")[0] or last or "Drawing"
