"""Clips that a project keeps for its clip layers."""

from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from .ids import Id, OneLine
from .model import Model
from .pictures import MOST_SIDE

MOST_CLIP_FRAMES = 54_000
"""Half an hour at 30 frames a second."""
MOST_CLIP_PIXELS = 4096 * 2304
"""Pixels of a frame."""

Container = Literal["video/mp4", "video/quicktime", "video/webm", "video/x-matroska"]


class Timing(Model):
    """When the frames of a clip are shown: runs of frames that stand equally long, so many ticks each."""

    tick: float = Field(gt=0, le=1, description="Seconds.")
    runs: tuple[tuple[int, int], ...] = Field(
        min_length=1,
        max_length=MOST_CLIP_FRAMES,
        description="How many frames, and how many ticks each of them stands.",
    )

    @model_validator(mode="after")
    def _bounded(self) -> "Timing":
        if any(many < 1 or not 1 <= ticks <= 1e9 for many, ticks in self.runs):
            raise ValueError("a run has a frame at least, and each stands for a tick at least")
        if self.frames > MOST_CLIP_FRAMES:
            raise ValueError(f"a clip has at most {MOST_CLIP_FRAMES:,} frames")
        return self

    @property
    def frames(self) -> int:
        """How many there are."""
        return sum(many for many, _ in self.runs)

    @property
    def seconds(self) -> float:
        """How long all of it is."""
        return sum(many * ticks for many, ticks in self.runs) * self.tick

    @cached_property
    def begins(self) -> NDArray[np.float64]:
        """When each frame begins, seconds from the first (frames,)."""
        each = np.repeat([ticks for _, ticks in self.runs], [many for many, _ in self.runs])
        return np.concatenate([[0], np.cumsum(each[:-1])]) * self.tick

    def shown(self, seconds: NDArray[np.float64]) -> NDArray[np.int64]:
        """Which frame is shown at moments of the clip; its first before it and its last after it."""
        # A moment that is worked out may lie a hair before the frame that it means.
        found = np.searchsorted(self.begins, seconds + 1e-6, side="right") - 1
        return np.clip(found, 0, self.frames - 1)


class Clip(Model):
    """A video file as it came, or what a moving picture or numbered ones were made into, without loss. Its id is made
    from its content."""

    id: Id
    name: OneLine = Field(default="", max_length=200)
    media: Container
    width: int = Field(ge=1, le=MOST_SIDE)
    height: int = Field(ge=1, le=MOST_SIDE)
    timing: Timing
    sound: bool = Field(default=False, description="Whether it has any.")
    data: str = Field(description="The file's bytes in base64.")
