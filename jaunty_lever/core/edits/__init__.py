"""Every change an artist can make. `AnyEdit` is the union; `Batch` makes several one step."""

from typing import Annotated, Literal, Union

from pydantic import Field, TypeAdapter

from ..document.progress import part
from ..document.scene import Project, Scene
from . import (
    aligning,
    apart,
    arrays,
    bake,
    chains,
    clips,
    compositing,
    curves,
    edges,
    fonts,
    formulas,
    gauges,
    keys,
    layers,
    levers,
    linking,
    orders,
    palettes,
    pictures,
    placing,
    recipes,
    removing,
    scenes,
    snapshots,
    swinging,
    tables,
    values,
)
from .base import Edit, Gone, Refused, SceneEdit
from .together import label_on_each, made_on_each


class Batch(Edit):
    """Several edits as one step: all of them or none."""

    kind: Literal["batch"] = "batch"
    edits: tuple["AnyEdit", ...] = Field(min_length=1, max_length=2000)
    named: str = Field(default="", max_length=200)

    def made_of(self, project: Project) -> Project:
        for k, edit in enumerate(self.edits):
            with part(k / len(self.edits), (k + 1) / len(self.edits)):
                project = edit.made_of(project)
        return project

    def lasts(self, project: Project) -> bool:
        return any(edit.lasts(project) for edit in self.edits)

    def doing(self, project: Project) -> str:
        return next((edit.doing(project) for edit in self.edits if edit.lasts(project)), super().doing(project))

    def label(self, project: Project) -> str:
        if self.named:
            return self.named
        first = self.edits[0].label(project)
        return first if len(self.edits) == 1 else f"{first} and {len(self.edits) - 1} more"


class OnEach(SceneEdit):
    """Make edits of one layer's values, modifiers or fields on each of some layers that have the same.

    What corresponds is found by where it stands: the opacity of each, the second Wiggle in the chain of its rotation. A
    layer that has no such thing, or where it cannot be done, is left out, and the label names it; where it can be done
    on none, the edit is refused as it would be on the first. What belongs to none of the layers is edited alone.
    """

    kind: Literal["on each"] = "on each"
    layers: tuple[str, ...] = Field(min_length=1, max_length=2000)
    edits: tuple["AnyEdit", ...] = Field(min_length=1, max_length=100)

    def apply_to(self, scene: Scene) -> Scene:
        if any(isinstance(edit, OnEach) for edit in self.edits):
            raise Refused("An edit on each of some layers holds no other of its kind.")
        return made_on_each(scene, self.layers, self.edits)[0]

    def lasts(self, project: Project) -> bool:
        return any(edit.lasts(project) for edit in self.edits)

    def doing(self, project: Project) -> str:
        return self.edits[0].doing(project)

    def label(self, project: Project) -> str:
        return label_on_each(project, self.found(project), self.layers, self.edits)


AnyEdit = Annotated[
    Union[
        values.SetValue,
        values.SetKey,
        values.MoveKey,
        values.RemoveKey,
        values.SetEase,
        values.ClearKeys,
        values.ResetValue,
        formulas.WriteFormula,
        bake.Bake,
        keys.MoveKeys,
        keys.RemoveKeys,
        keys.EaseKeys,
        keys.ArrangeKeys,
        keys.PasteKeys,
        keys.CloseKeys,
        chains.AddModifier,
        removing.RemoveModifier,
        chains.MoveModifier,
        chains.Bypass,
        chains.SetWindows,
        linking.LinkTo,
        linking.Unlink,
        chains.PasteChain,
        chains.CopyOfModifier,
        removing.ClearChain,
        levers.AddLever,
        levers.MakeLever,
        levers.ChangeLever,
        levers.MoveLever,
        levers.RemoveLever,
        layers.AddLayer,
        layers.RemoveLayers,
        layers.ChangeLayer,
        layers.ArrangeLayer,
        layers.GroupLayers,
        layers.DuplicateLayers,
        layers.SetFill,
        layers.ChangeStops,
        layers.FollowPoint,
        compositing.AddFilter,
        compositing.RemoveFilter,
        compositing.MoveFilter,
        compositing.BypassFilter,
        compositing.SetMatte,
        edges.SetEdge,
        edges.SetLine,
        arrays.RepeatLayers,
        arrays.IntoLetters,
        arrays.SetArrangement,
        apart.TakeApart,
        gauges.AddGauge,
        gauges.ChangeGauge,
        gauges.SetGaugePicture,
        gauges.RemoveGauge,
        gauges.TieToGauge,
        gauges.LaterEach,
        orders.ChangeOrder,
        swinging.SwingOutOfStep,
        placing.MoveLayers,
        placing.MovePivot,
        aligning.AlignLayers,
        aligning.SpreadLayers,
        clips.AddClip,
        clips.ChangeClip,
        pictures.AddPicture,
        pictures.AddDrawing,
        pictures.ChangePicture,
        palettes.AddPalette,
        palettes.ChangePalette,
        palettes.RemovePalette,
        curves.DrawCurve,
        curves.TakeKeys,
        curves.KeepCurve,
        curves.RemoveCurve,
        fonts.AddFont,
        fonts.RemoveFont,
        fonts.ChooseFont,
        snapshots.StoreSnapshot,
        snapshots.RenameSnapshot,
        snapshots.RemoveSnapshot,
        snapshots.RecallSnapshot,
        recipes.ApplyRecipe,
        snapshots.BlendSnapshots,
        snapshots.MakeBlend,
        scenes.RenameProject,
        scenes.DescribeProject,
        scenes.AddScene,
        scenes.DuplicateScene,
        scenes.RemoveScene,
        scenes.ChangeScene,
        tables.AddTable,
        tables.RemoveTable,
        tables.RenameTable,
        tables.ReplaceTable,
        tables.SetCells,
        tables.FillPictures,
        tables.AddRow,
        tables.RemoveRows,
        tables.AddColumn,
        tables.RemoveColumn,
        tables.ChangeColumn,
        tables.FollowColumn,
        tables.LetGoOfColumn,
        tables.ShowRow,
        OnEach,
        Batch,
    ],
    Field(discriminator="kind"),
]

for _model in (Batch, OnEach):
    _model.model_rebuild(_types_namespace={"AnyEdit": AnyEdit})

EDIT: TypeAdapter[Edit] = TypeAdapter(AnyEdit)

__all__ = ["EDIT", "AnyEdit", "Batch", "Edit", "Gone", "Refused"]
