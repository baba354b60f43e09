"""Pictures, clips and fonts that come in with projects and edits: whether their data is what they say."""

from collections.abc import Iterator

from jaunty_lever.core.document.refused import Refused
from jaunty_lever.core.document.scene import Project

from . import clips, fonts, pictures


def part_problems(project: Project, look_through: bool = True) -> Iterator[str]:
    """What is wrong with the pictures, clips and fonts of a project, in sentences; `look_through`: also frame by
    frame."""
    for picture in project.pictures:
        if wrong := pictures.problem(picture):
            yield f"The picture “{picture.name or picture.id}”: {wrong}"
    for clip in project.clips if look_through else ():
        if wrong := clips.problem(clip):
            yield f"The clip “{clip.name or clip.id}”: {wrong}"
    for font in project.fonts:
        if wrong := fonts.problem(font):
            yield f"The font “{font.name}”: {wrong}"


def refuse_unsound(before: Project | None, after: Project) -> None:
    """Refuses pictures, clips and fonts that have come in since and could not be read from a file."""
    known = before.picture_table if before else {}
    for picture in after.pictures:
        wrong = None if known.get(picture.id) == picture else pictures.problem(picture)
        if wrong:
            raise Refused(f"This picture cannot be taken in: {wrong}", picture.id)
    for clip in after.clips:
        wrong = None if before and clip in before.clips else clips.problem(clip)
        if wrong:
            raise Refused(f"This clip cannot be taken in: {wrong}", clip.id)
    for font in after.fonts:
        wrong = None if before and font in before.fonts else fonts.problem(font)
        if wrong:
            raise Refused(f"The font {font.name} cannot be taken in: {wrong}", font.id)
