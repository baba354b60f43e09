"""The sample project, kept as an ordinary project file and built with the edits an artist makes."""

from importlib.resources import files
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jaunty_lever.core.document.scene import Project

FILE = "lantern-quay.lever.json"
ID, FIRST_SCENE = "lantern-quay", "evening-quay"
"""What its address is made of, so that nobody has to read it for that."""


def demo_project() -> "Project":
    """The sample project, read from its file. What is in that was looked through when it was made."""
    # Only here: who asks for its address alone need not wait for all that reads it.
    from jaunty_lever.formats.project_file import read

    return read((files("jaunty_lever.demo") / FILE).read_bytes(), look_through=False)
