"""What drawings and animations that come in have in common: the edit that puts them into a scene."""

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
        "scene": scene, "name": drawing.name, "width": drawing.width, "height": drawing.height,
        "layers": drawing.layers, "pictures": drawing.pictures, "position": position,
    }  # fmt: skip
    try:
        return AddDrawing.model_validate(given)
    except ValidationError as error:
        first = error.errors()[0]
        field = next((str(step) for step in reversed(first["loc"]) if isinstance(step, str)), "something")
        said = first["msg"].removeprefix("Value error, ")
        raise BadFile(f"Its {field.replace('_', ' ')} fits no layer here: {said}.") from None


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
