"""Scenes and projects."""

from functools import cached_property
from typing import Any, Self

from pydantic import Field, field_validator

from .clips import Clip
from .fonts import Font
from .ids import Id, OneLine
from .index import SceneIndex
from .layers import Layer
from .lever import Lever
from .limits import MOST_EXPOSED
from .model import Model
from .palettes import Palette
from .parameter import Parameter, spec
from .pictures import Picture
from .snapshot import Snapshot
from .tables import Table

MOST_PIXELS = 8192
MOST_FRAMES = 36_000
LEAST_RATE, MOST_RATE = 1.0, 240.0


class SceneOutline(Model):
    """What can be said of a scene without reading what is in it: its name, size in pixels, frame rate and frames."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    width: int = 1280
    height: int = 720
    fps: float = 30.0
    length: int = 300

    @field_validator("width", "height")
    @classmethod
    def _side(cls, value: int) -> int:
        if not 1 <= value <= MOST_PIXELS:
            raise ValueError(f"A stage side is between 1 and {MOST_PIXELS:,} pixels; {value:,} is not.")
        return value

    @field_validator("length")
    @classmethod
    def _frames(cls, value: int) -> int:
        if not 1 <= value <= MOST_FRAMES:
            raise ValueError(f"A scene is between 1 and {MOST_FRAMES:,} frames long; {value:,} is not.")
        return value

    @field_validator("fps")
    @classmethod
    def _rate(cls, value: float) -> float:
        if not LEAST_RATE <= value <= MOST_RATE:
            raise ValueError(f"A frame rate is between 1 and 240 frames a second; {value:g} is not.")
        return value


class Scene(SceneOutline):
    """A stage of a size in pixels, a frame rate, a length in frames, layers and levers.

    Layers are drawn in order: the last one lies on top.
    """

    loops: bool = Field(default=True, description="Whether it plays round and round; then its seam is checked.")
    background: Parameter = spec("#fffdf8", "colour", label="Background")
    motion_blur: bool = Field(default=False, description="Whether frames are exposed for a while, as by a camera.")
    shutter_angle: Parameter = spec(
        180.0,
        "angle",
        label="Shutter angle",
        help="How long a frame is exposed: 360° is all of it.",
        low=0,
        high=360,
        limits=(0, 720),
    )
    shutter_phase: Parameter = spec(
        -90.0,
        "angle",
        label="Shutter phase",
        help="When the shutter opens: at 0° with the frame.",
        low=-360,
        high=360,
        limits=(-720, 720),
    )
    least_samples: int = Field(
        default=4, ge=1, le=MOST_EXPOSED, description="Moments of a frame that are averaged, at least."
    )
    most_samples: int = Field(default=32, ge=1, le=MOST_EXPOSED, description="And at most.")
    perspective: Parameter = spec(
        0.0,
        "length",
        label="Perspective",
        help="How far before the stage the viewer stands; at 0 nothing is nearer or further.",
        low=0,
        high=4000,
        step=10,
    )
    perspective_origin: Parameter = spec(
        (50.0, 50.0), "vector", unit="%", label="Perspective origin", help="Where the viewer stands before it.", step=1
    )
    layers: tuple[Layer, ...] = ()
    levers: tuple[Lever, ...] = ()
    snapshots: tuple[Snapshot, ...] = ()

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
