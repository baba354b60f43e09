"""The project file: JSON with a version, in a stable order, that reads well in a diff."""

from itertools import islice
from typing import Any

from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.document.versions import VERSION
from jaunty_lever.core.older import project_of_today
from jaunty_lever.core.soundness import problems

from .kept_parts import part_problems
from .open_json import MOST_PROBLEMS, BadFile, load, schema_of, validated, written
from .sizes import MOST_PROJECT

FORMAT = "jaunty-lever project"
ENDING = ".lever.json"


def as_data(project: Project) -> dict[str, Any]:
    """The project as plain data, with the format's name and version first."""
    return {"format": FORMAT, "version": VERSION, **plain(project)}


def write(project: Project) -> str:
    """The file's text."""
    return written(as_data(project), "") + "\n"


def read(content: bytes, look_through: bool = True) -> Project:
    """The project in a file's content.

    Its clips are not looked through where that is not asked for: where nothing is drawn of them, or where they are
    known to be sound. Raises BadFile, with every problem in the artist's words, when it cannot be taken in.
    """
    return from_data(load(content, MOST_PROJECT), look_through)


def from_data(data: Any, look_through: bool = True) -> Project:
    """The project in plain data. Raises BadFile."""
    project = validated(data, Project, "project", FORMAT, VERSION)
    project = project_of_today(project, data["version"])
    found = [one.text for one in islice(problems(project), MOST_PROBLEMS)]
    found += part_problems(project, look_through)
    if found:
        raise BadFile(*found)
    return project


def schema() -> dict[str, Any]:
    """The JSON Schema of the file."""
    return schema_of(Project, "project", FORMAT, VERSION)


__all__ = ["BadFile", "as_data", "from_data", "read", "schema", "write"]
