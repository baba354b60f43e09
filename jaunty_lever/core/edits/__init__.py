"""Every change an artist can make. `AnyEdit` is the union; `Batch` makes several one step."""

from typing import Annotated, Literal, Union

from pydantic import Field, TypeAdapter

from ..document.progress import part
from ..document.scene import Project
from . import (
    apart,
    arrays,
    bake,
    chains,
    clips,
    compositing,
    edges,
    fonts,
    formulas,
    gauges,
    keys,
    layers,
    levers,
    linking,
    palettes,
    pictures,
    placing,
    recipes,
    removing,
    scenes,
    snapshots,
    tables,
    together,
    values,
)
from .base import Edit, Gone, Refused


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
        placing.MoveLayers,
        placing.MovePivot,
        clips.AddClip,
        clips.ChangeClip,
        pictures.AddPicture,
        pictures.AddDrawing,
        pictures.ChangePicture,
        palettes.AddPalette,
        palettes.ChangePalette,
        palettes.RemovePalette,
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
        together.OnEach,
        Batch,
    ],
    Field(discriminator="kind"),
]

for _model in (Batch, together.OnEach):
    _model.model_rebuild(_types_namespace={"AnyEdit": AnyEdit})

EDIT: TypeAdapter[Edit] = TypeAdapter(AnyEdit)

__all__ = ["EDIT", "AnyEdit", "Batch", "Edit", "Gone", "Refused"]
