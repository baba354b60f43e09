"""Pictures, clips and fonts as they come from programs: whether their data is what they say."""

from collections.abc import Iterator
from typing import Any

from jaunty_lever.core.document.clips import Clip
from jaunty_lever.core.document.fonts import Font
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.pictures import Picture

from . import clips, fonts, pictures


def part_problems(node: Any) -> Iterator[str]:
    """What is wrong with the pictures, clips and fonts in a project, an edit, or several of them, in sentences."""
    if isinstance(node, tuple | list):
        for part in node:
            yield from part_problems(part)
    elif isinstance(node, Picture):
        if wrong := pictures.problem(node):
            yield f"The picture “{node.name or node.id}”: {wrong}"
    elif isinstance(node, Clip):
        if wrong := clips.problem(node):
            yield f"The clip “{node.name or node.id}”: {wrong}"
    elif isinstance(node, Font):
        if wrong := fonts.problem(node):
            yield f"The font “{node.name}”: {wrong}"
    elif isinstance(node, Model):
        for name in type(node).model_fields:
            if name in _HOLDS:
                yield from part_problems(getattr(node, name))


_HOLDS = frozenset(("picture", "pictures", "clip", "clips", "font", "fonts", "edits"))
"""Fields of projects and edits that hold such parts."""
