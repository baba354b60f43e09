"""Edits of the palettes that a project keeps."""

from typing import Literal

from pydantic import Field

from ..document.ids import Id, OneLine, new_id
from ..document.palettes import MOST_COLOURS, Palette, Swatch
from ..document.scene import Project
from .base import Edit, Gone, Refused, free_name


def palette_in(project: Project, palette: str) -> Palette:
    """A palette of a project, or Gone."""
    found = next((one for one in project.palettes if one.id == palette), None)
    if found is None:
        raise Gone("This palette has been deleted.", palette)
    return found


class AddPalette(Edit):
    """A palette kept in the project."""

    kind: Literal["add palette"] = "add palette"
    id: Id = Field(default_factory=lambda: new_id("palette"))
    name: OneLine = Field(default="Palette", min_length=1, max_length=120)
    colours: tuple[Swatch, ...] = Field(min_length=1, max_length=MOST_COLOURS)

    def made_of(self, project: Project) -> Project:
        if any(one.id == self.id for one in project.palettes):
            raise Refused(f"The id “{self.id}” is taken already; every id must be its own.", self.id)
        name = free_name(self.name, [one.name for one in project.palettes])
        made = Palette(id=self.id, name=name, colours=self.colours)
        return project.changed(palettes=(*project.palettes, made))

    def label(self, project: Project) -> str:
        return f"Palette {self.name} added"


class ChangePalette(Edit):
    """A palette's name, or its colours."""

    kind: Literal["change palette"] = "change palette"
    palette: str
    name: OneLine | None = Field(default=None, min_length=1, max_length=120)
    colours: tuple[Swatch, ...] | None = Field(default=None, min_length=1, max_length=MOST_COLOURS)

    def made_of(self, project: Project) -> Project:
        old = palette_in(project, self.palette)
        given = {"name": self.name, "colours": self.colours}
        new = old.changed(**{name: value for name, value in given.items() if value is not None})
        return project.changed(palettes=tuple(new if one is old else one for one in project.palettes))

    def label(self, project: Project) -> str:
        old = palette_in(project, self.palette)
        return f"Palette {old.name} {f'renamed {self.name}' if self.name else 'changed'}"


class RemovePalette(Edit):
    """Delete a palette. Colours that were taken from it stay."""

    kind: Literal["remove palette"] = "remove palette"
    palette: str

    def made_of(self, project: Project) -> Project:
        gone = palette_in(project, self.palette)
        return project.changed(palettes=tuple(one for one in project.palettes if one is not gone))

    def label(self, project: Project) -> str:
        return f"Palette {palette_in(project, self.palette).name} deleted"
