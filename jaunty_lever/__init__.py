"""Jaunty Lever: procedural motion that is steered, not keyed frame by frame.

`jaunty_lever.open("boat.lever.json")` gives a project to programs; see docs/python.md.
"""

from os import PathLike
from typing import TYPE_CHECKING

from .version import __version__

if TYPE_CHECKING:
    from .scripting import OpenProject

__all__ = ["__version__", "open"]


def open(path: "str | PathLike[str]") -> "OpenProject":
    """A project file, ready to be sampled, steered, changed and taken out.

    Raises OSError when it cannot be read, and BadFile, with every problem in words, when it is no project.
    """
    # Whoever asks for the version alone need not wait for the mathematics.
    from .scripting import opened

    return opened(path)
