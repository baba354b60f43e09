"""Edits of the fonts that a project keeps, and of which texts are set in them."""

from typing import Literal

from pydantic import Field

from ..document.fonts import Font
from ..document.layers import Text
from ..document.scene import Project, Scene
from .base import Edit, Gone, Refused, SceneEdit, layer_of, with_node


def font_in(project: Project, font: str) -> Font:
    """A font of a project, or Gone."""
    found = project.font(font)
    if found is None:
        raise Gone("This font is not in the project any more.", font)
    return found


def _set_in(scene: Scene, layers: tuple[str, ...], font: str | None) -> Scene:
    for one in layers:
        layer = layer_of(scene, one)
        if not isinstance(layer, Text):
            raise Refused(f"{layer.name} is not a text.", one)
        scene = with_node(scene, layer.id, layer.changed(typeface=font))
    return scene


class AddFont(Edit):
    """A font kept in the project; texts that are named are set in it at once."""

    kind: Literal["add font"] = "add font"
    font: Font
    scene: str | None = None
    layers: tuple[str, ...] = ()

    def made_of(self, project: Project) -> Project:
        if project.font(self.font.id) is None:
            project = project.changed(fonts=(*project.fonts, self.font))
        if self.scene is None or not self.layers:
            return project
        return ChooseFont(scene=self.scene, layers=self.layers, font=self.font.id).made_of(project)

    def label(self, project: Project) -> str:
        return f"Font {self.font.name} brought in"


class RemoveFont(Edit):
    """A font kept no more. Texts that are set in it go back to their shipped font."""

    kind: Literal["remove font"] = "remove font"
    font: str

    def made_of(self, project: Project) -> Project:
        gone = font_in(project, self.font)
        for scene in project.scenes:
            texts = tuple(layer.id for layer in texts_in(scene, gone.id))
            if texts:
                project = project.with_scene(_set_in(scene, texts, None))
        return project.changed(fonts=tuple(font for font in project.fonts if font.id != gone.id))

    def label(self, project: Project) -> str:
        many = sum(len(texts_in(scene, self.font)) for scene in project.scenes)
        more = f", {many} text{'s' if many != 1 else ''} set anew" if many else ""
        return f"Font {font_in(project, self.font).name} taken out{more}"


def texts_in(scene: Scene, font: str) -> list[Text]:
    """The texts of a scene that are set in a font of the project."""
    return [layer for layer in scene.index.layers.values() if isinstance(layer, Text) and layer.typeface == font]


class ChooseFont(SceneEdit):
    """Set texts in one of the project's fonts; without one, in their shipped font again."""

    kind: Literal["choose font"] = "choose font"
    layers: tuple[str, ...] = Field(min_length=1)
    font: str | None = None

    def made_of(self, project: Project) -> Project:
        if self.font is not None:
            font_in(project, self.font)
        return super().made_of(project)

    def apply_to(self, scene: Scene) -> Scene:
        return _set_in(scene, self.layers, self.font)

    def label(self, project: Project) -> str:
        font = project.font(self.font) if self.font is not None else None
        texts = [layer_of(self.found(project), one) for one in self.layers]
        who = texts[0].name if len(texts) == 1 else f"{len(texts)} texts"
        return f"{who} set in {font.name if font else 'the shipped font'}"
