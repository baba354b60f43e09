"""What commands take from project files."""

from pathlib import Path
from typing import Annotated

import typer

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.view.frame_span import FIRST_END, frames_in
from jaunty_lever.formats import project_file

from .saying import fail

File = Annotated[Path, typer.Argument(help="A project file.", show_default=False)]
Frames = Annotated[str | None, typer.Option("--frames", help=f"{FIRST_END}; all when left out.", show_default=False)]
SceneName = Annotated[str, typer.Option("--scene", help="The scene's name.", show_default=False)]


def read(path: Path, look_through: bool = True) -> Project:
    """The project in a file; `look_through`: with its clips looked through. Raises what ends the program."""
    try:
        return project_file.read(path.read_bytes(), look_through)
    except OSError as error:
        raise fail(f"{path}: {error.strerror}.") from None
    except project_file.BadFile as error:
        raise fail(*(f"{path}: {problem}" for problem in error.problems)) from None


def scene_named(project: Project, name: str) -> Scene:
    """The scene of a name, or of an id. Raises what ends the program."""
    for scene in project.scenes:
        if name.casefold() in (scene.name.casefold(), scene.id.casefold()):
            return scene
    names = ", ".join(scene.name for scene in project.scenes) or "none"
    raise fail(f"There is no scene “{name}” in {project.name}. There are: {names}.")


def frames_of(text: str | None, scene: Scene) -> tuple[float, float]:
    """First and end (not included) of `0:120`."""
    if text is None:
        return 0, scene.length
    try:
        first, last = frames_in(text)
    except ValueError as error:
        raise fail(str(error)) from None
    if not 0 <= first < last <= scene.length:
        raise fail(f"Frames {text} are not in the scene, which has 0:{scene.length}.")
    return first, last
