"""Scenes and projects."""

from functools import cached_property
from typing import Any, Self

from pydantic import Field, field_validator

from .clips import Clip
from .curves import Curve
from .fonts import Font
from .ids import Id, OneLine
from .index import SceneIndex
from .model import Model
from .palettes import Palette
from .pictures import Picture
from .scene_content import MOST_FRAMES as MOST_FRAMES
from .scene_content import SceneContent
from .scene_content import SceneOutline as SceneOutline
from .tables import Table


class Scene(SceneContent):
    """A stage of a size in pixels, a frame rate, a length in frames, layers and levers, with what is known of where
    they stand."""

    @cached_property
    def index(self) -> SceneIndex:
        """Where every parameter, modifier, layer and lever of the scene stands."""
        before: Scene | None = self.__dict__.pop("_before", None)
        return SceneIndex.of(self, before.index if before is not None else None)

    def changed(self, **updates: Any) -> Self:
        copy = super().changed(**updates)
        # What the index of the copy will be made from: none before it is held on to.
        before = self if "index" in self.__dict__ else self.__dict__.get("_before")
        if before is not None:
            copy.__dict__["_before"] = before
        return copy


class Project(Model):
    """What is kept, exported and shared."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    author: str = Field(default="", max_length=200)
    description: str = Field(default="", max_length=4000)
    licence: str = Field(default="", max_length=200)
    link: str = Field(default="", max_length=500)
    scenes: tuple[Scene, ...] = ()
    pictures: tuple[Picture, ...] = ()
    clips: tuple[Clip, ...] = ()
    fonts: tuple[Font, ...] = ()
    palettes: tuple[Palette, ...] = ()
    tables: tuple[Table, ...] = ()
    curves: tuple[Curve, ...] = ()

    @cached_property
    def picture_table(self) -> dict[str, Picture]:
        """The pictures by id."""
        return {picture.id: picture for picture in self.pictures}

    @cached_property
    def footage(self) -> dict[str, Picture | Clip]:
        """Pictures and clips by id: what drawing needs besides a scene."""
        return {**self.picture_table, **{clip.id: clip for clip in self.clips}}

    def clip(self, clip_id: str) -> Clip | None:
        """The clip with that id, or None."""
        return next((clip for clip in self.clips if clip.id == clip_id), None)

    def font(self, font_id: str) -> Font | None:
        """The font with that id, or None."""
        return next((font for font in self.fonts if font.id == font_id), None)

    @field_validator("link")
    @classmethod
    def _web(cls, value: str) -> str:
        if value and not value.startswith(("https://", "http://")):
            raise ValueError("a link begins with https:// or http://")
        return value

    def scene(self, scene_id: str) -> Scene | None:
        """The scene with that id, or None."""
        return next((scene for scene in self.scenes if scene.id == scene_id), None)

    def table(self, table_id: str) -> Table | None:
        """The table with that id, or None."""
        return next((table for table in self.tables if table.id == table_id), None)

    def with_scene(self, scene: Scene) -> "Project":
        """The project with the scene of the same id replaced."""
        return self.changed(scenes=tuple(scene if old.id == scene.id else old for old in self.scenes))
