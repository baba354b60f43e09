"""Edits of clip layers."""

from typing import Any, Literal

from pydantic import Field

from ..document.clips import Clip
from ..document.ids import Id, new_id
from ..document.keys import Finite
from ..document.layers import ClipLayer
from ..document.scene import Project, Scene
from .base import Refused, SceneEdit, layer_of, with_node
from .layers import AddLayer
from .pictures import keep


def _shown(clip: Clip) -> dict[str, Any]:
    """The fields of a layer that tell of its clip."""
    return {"clip": clip.id, "width": clip.width, "height": clip.height, "timing": clip.timing, "sound": clip.sound}


class AddClip(SceneEdit):
    """A new clip layer, on top, at the centre of the stage unless a position is given."""

    kind: Literal["add clip"] = "add clip"
    clip: Clip
    id: Id = Field(default_factory=lambda: new_id("layer"))
    position: tuple[Finite, Finite] | None = None

    def made_of(self, project: Project) -> Project:
        return super().made_of(keep(project, self.clip))

    def apply_to(self, scene: Scene) -> Scene:
        made = AddLayer(
            scene=scene.id,
            id=self.id,
            layer="clip",
            name=(self.clip.name or "Clip")[:120],
            position=self.position,
            fields=_shown(self.clip),
        )
        return made.apply_to(scene)

    def label_in(self, scene: Scene) -> str:
        return f"Clip {self.clip.name or ''} added".replace("  ", " ")


class ChangeClip(SceneEdit):
    """Another clip on a clip layer; how it is placed, moves and plays stays. Of a shorter one less is there to be
    cut."""

    kind: Literal["change clip"] = "change clip"
    layer: str
    clip: Clip

    def made_of(self, project: Project) -> Project:
        return super().made_of(keep(project, self.clip))

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if not isinstance(layer, ClipLayer):
            raise Refused(f"{layer.name} is not a clip.", self.layer)
        return with_node(scene, layer.id, layer.changed(**_shown(self.clip)))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: another clip"
