"""Edits of picture layers."""

from typing import Literal

from pydantic import Field

from ..document.clips import Clip
from ..document.ids import Id, OneLine, new_id
from ..document.keys import Finite
from ..document.layers import Layer, PictureLayer
from ..document.pictures import Picture
from ..document.scene import Project, Scene
from .base import Refused, SceneEdit, layer_of, with_node
from .layers import AddLayer


def keep(project: Project, one: Picture | Clip) -> Project:
    """The project with a picture or a clip among those it keeps."""
    field = "clips" if isinstance(one, Clip) else "pictures"
    known: tuple[Picture | Clip, ...] = getattr(project, field)
    return project if any(kept.id == one.id for kept in known) else project.changed(**{field: (*known, one)})


class AddPicture(SceneEdit):
    """A new picture layer, on top, at the centre of the stage unless a position is given."""

    kind: Literal["add picture"] = "add picture"
    picture: Picture
    id: Id = Field(default_factory=lambda: new_id("layer"))
    position: tuple[Finite, Finite] | None = None

    def made_of(self, project: Project) -> Project:
        return super().made_of(keep(project, self.picture))

    def apply_to(self, scene: Scene) -> Scene:
        one = self.picture
        fields = {"picture": one.id, "width": one.width, "height": one.height}
        made = AddLayer(
            scene=scene.id,
            id=self.id,
            layer="picture",
            name=(one.name or "Picture")[:120],
            position=self.position,
            fields=fields,
        )
        return made.apply_to(scene)

    def label_in(self, scene: Scene) -> str:
        return f"Picture {self.picture.name or ''} added".replace("  ", " ")


class AddDrawing(SceneEdit):
    """Layers of a drawing that was brought in, as one group on top, with the pictures that it holds."""

    kind: Literal["add drawing"] = "add drawing"
    id: Id = Field(default_factory=lambda: new_id("layer"))
    name: OneLine = Field(min_length=1, max_length=120)
    width: Finite = Field(gt=0)
    height: Finite = Field(gt=0)
    layers: tuple[Layer, ...] = Field(min_length=1)
    pictures: tuple[Picture, ...] = ()
    position: tuple[Finite, Finite] | None = None

    def made_of(self, project: Project) -> Project:
        for picture in self.pictures:
            project = keep(project, picture)
        return super().made_of(project)

    def apply_to(self, scene: Scene) -> Scene:
        fitted = min(1.0, scene.width / self.width, scene.height / self.height) * 100
        made = AddLayer(
            scene=scene.id,
            id=self.id,
            layer="group",
            name=self.name,
            position=self.position,
            fields={"pivot": (self.width / 2, self.height / 2), "scale": (fitted, fitted)},
        ).apply_to(scene)
        group = layer_of(made, self.id)
        return with_node(made, group.id, group.changed(layers=self.layers))

    def label_in(self, scene: Scene) -> str:
        return f"{self.name} brought in"


class ChangePicture(SceneEdit):
    """Another picture on a picture layer; how it is placed and moves stays."""

    kind: Literal["change picture"] = "change picture"
    layer: str
    picture: Picture

    def made_of(self, project: Project) -> Project:
        return super().made_of(keep(project, self.picture))

    def apply_to(self, scene: Scene) -> Scene:
        layer = layer_of(scene, self.layer)
        if not isinstance(layer, PictureLayer):
            raise Refused(f"{layer.name} is not a picture.", self.layer)
        one = self.picture
        return with_node(scene, layer.id, layer.changed(picture=one.id, width=one.width, height=one.height))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: another picture"
