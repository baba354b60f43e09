"""Frames that an export takes: as they are written everywhere, or from one to another, both included."""

from pydantic import Field, ValidationInfo, field_validator

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.view.frame_span import FIRST_END, whole_frames_in

from .exporter import Options


class FrameRange(Options):
    """Options of what is taken out frame by frame."""

    start: int = Field(0, title="First frame", description="The first frame.", json_schema_extra={"field": "frame"})
    stop: int | None = Field(
        None,
        title="Last frame",
        description="The last frame, included; the scene's last when left out.",
        json_schema_extra={"field": "frame"},
    )

    frames: str | None = Field(
        None,
        title="Frames",
        description=f"{FIRST_END}; all when left out.",
        json_schema_extra={"field": "written"},
    )

    @field_validator("frames")
    @classmethod
    def _written(cls, text: str | None, info: ValidationInfo) -> str | None:
        if text is not None:
            whole_frames_in(text, info.data.get("start"), info.data.get("stop"))
        return text

    def range_in(self, scene: Scene) -> tuple[int, int]:
        """First frame, and the one after the last. Raises Refused when they are not in the scene."""
        if self.frames is not None:
            first, end = whole_frames_in(self.frames, 0, None)
            if not 0 <= first < end <= scene.length:
                raise Refused(f"Frames {self.frames} are not in the scene, which has 0:{scene.length}.", "frames")
            return first, end
        last = scene.length - 1 if self.stop is None else self.stop
        if not 0 <= self.start <= last < scene.length:
            raise Refused(
                f"Frames {self.start} to {last} are not in the scene, which has frames 0 to {scene.length - 1}.",
                "start",
            )
        return self.start, last + 1
