"""Frames that an export takes: from one to another, both included."""

from pydantic import Field

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused

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

    def frames(self, scene: Scene) -> tuple[int, int]:
        """First frame, and the one after the last. Raises Refused when they are not in the scene."""
        last = scene.length - 1 if self.stop is None else self.stop
        if not 0 <= self.start <= last < scene.length:
            raise Refused(
                f"Frames {self.start} to {last} are not in the scene, which has frames 0 to {scene.length - 1}.",
                "start",
            )
        return self.start, last + 1
