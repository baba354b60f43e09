"""Projects for programs: scenes and values by name, sampled as arrays, steered, changed, and taken out.

What is changed here stays here until it is saved; nothing is shared with a server that may have the same project.
"""

from collections.abc import Iterator, Sequence
from os import PathLike
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import AnyEdit, Refused
from jaunty_lever.core.edits.base import misfit_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from jaunty_lever.formats import project_file, table_file
from jaunty_lever.formats.kept_parts import refuse_unsound
from jaunty_lever.importers.into import Where as Into
from jaunty_lever.importers.into import taken_in
from jaunty_lever.rendering.batch import BATCH, asked
from jaunty_lever.rendering.files import runner_for, write_file

Floats = NDArray[np.float64]
Where = str | PathLike[str]
Frames = int | float | range | Sequence[float] | Floats | None

_EDIT: TypeAdapter[AnyEdit] = TypeAdapter(AnyEdit)

__all__ = ["OpenProject", "OpenScene", "Refused", "Value", "opened"]


def opened(path: Where) -> "OpenProject":
    """A project file as an OpenProject. Raises OSError, BadFile."""
    return OpenProject(project_file.read(Path(path).read_bytes()))


class OpenProject:
    """A project: `project["Evening quay"]` is a scene."""

    def __init__(self, project: Project) -> None:
        self.project = project
        """The project as it stands: never changed itself, replaced by what edits make of it."""

    @property
    def name(self) -> str:
        """What it is called."""
        return self.project.name

    def __getitem__(self, scene: str) -> "OpenScene":
        """A scene by its name or id. Raises KeyError, which names the scenes there are."""
        for one in self.project.scenes:
            if scene.casefold() in (one.name.casefold(), one.id.casefold()):
                return OpenScene(self, one.id)
        names = ", ".join(one.name for one in self.project.scenes) or "none"
        raise KeyError(f"There is no scene “{scene}” in {self.name}. There are: {names}.")

    def __iter__(self) -> Iterator["OpenScene"]:
        return (OpenScene(self, one.id) for one in self.project.scenes)

    def __len__(self) -> int:
        return len(self.project.scenes)

    def apply(self, **edit: Any) -> str:
        """Make a change, by its kind and fields as the interface for programs has them; what was done, in words.

        Raises Refused when it makes no sense; then nothing has changed.
        """
        try:
            made = _EDIT.validate_python(edit)
        except ValidationError as error:
            raise misfit_of(error.errors()) from None
        before, after = self.project, made.apply(self.project)
        refuse_unsound(before, after)
        self.project = after
        return made.label(before)

    @property
    def tables(self) -> dict[str, list[dict[str, str]]]:
        """The rows of all tables by the tables' names: cells by the columns' names, as they are written."""
        return {
            one.name: [dict(zip([column.name for column in one.columns], row, strict=True)) for row in one.rows]
            for one in self.project.tables
        }

    def bring_in_table(self, path: Where, name: str = "") -> list[str]:
        """Take in a table from a CSV or JSON file; one of that name gets these rows instead of its own.

        What was guessed and what changed, in sentences. Raises BadFile, Refused, OSError.
        """
        read = table_file.read(Path(path).read_bytes())
        name = name or Path(path).stem
        old = next((one for one in self.project.tables if one.name == name), None)
        if old is None:
            self.apply(kind="add table", name=name, columns=read.columns, data=read.data)
            return read.remarks
        told = table_file.replaced(old, read)
        self.apply(kind="replace table", table=old.id, columns=read.columns, data=read.data)
        return told + read.remarks

    def save(self, path: Where) -> Path:
        """Write the project file; only a whole file gets its name. Raises OSError."""
        target = Path(path)
        part = target.with_name(target.name + ".part")
        try:
            part.write_text(project_file.write(self.project), encoding="utf-8")
            part.replace(target)
        finally:
            part.unlink(missing_ok=True)
        return target


class OpenScene:
    """A scene of an open project: `scene["Lantern 3/opacity"]` is a value."""

    def __init__(self, owner: OpenProject, scene: str) -> None:
        self._owner, self.id = owner, scene

    @property
    def scene(self) -> Scene:
        """The scene as it stands."""
        return next(one for one in self._owner.project.scenes if one.id == self.id)

    @property
    def name(self) -> str:
        """What it is called."""
        return self.scene.name

    @property
    def levers(self) -> dict[str, "Value"]:
        """Its levers by name."""
        return {lever.name: Value(self, f"{lever.id}.value") for lever in self.scene.levers}

    def bring_in(self, path: Where, texts: Sequence[str] = ()) -> list[str]:
        """Take in a file of any kind that comes into a project: a picture, drawing, animation, font, palette or table.

        A font is what the `texts` (ids of layers) are set in. What was guessed and not read, in sentences. Raises
        BadFile, Refused, OSError.
        """
        file = Path(path)
        taken = taken_in(file.read_bytes(), file.name, Into(self._owner.project, self.id, chosen=tuple(texts)))
        self._owner.project = taken.edit.apply(self._owner.project)
        return taken.remarks

    def __getitem__(self, name: str) -> "Value":
        """A value by name, such as `Wind` or `Boat/position.x`. Raises KeyError, with a name that is near."""
        try:
            node, component = self.scene.index.by_name(name)
        except LookupError as error:
            raise KeyError(str(error.args[0])) from None
        return Value(self, node.id, component)

    def apply(self, **edit: Any) -> str:
        """Make a change in this scene; see OpenProject.apply."""
        return self._owner.apply(scene=self.id, **edit)

    def frame(self, number: float, *, size: float = 1.0, transparent: bool = False) -> NDArray[np.uint8]:
        """A frame's pixels (height, width, 4): r, g, b, a in 0..255, not premultiplied."""
        scene = self.scene
        drawn = display_list(Sampler(scene), SampleTimes(np.array([number / scene.fps])))
        return pixels(drawn, 0, Look(transparent, size, self._owner.project.footage))

    def export(
        self, format: str, to: Where, *, processes: int = 1, cluster: str = "", **options: Any
    ) -> dict[str, Any]:
        """Take the scene out as a file of a format (`jaunty-lever formats` lists them); a report of what came of it.

        `to` is the file, or a folder for it; `options` are those of the format. Frames are drawn by this process, by so
        many `processes`, or by a Dask `cluster` (the address of its scheduler, or "local"). Raises Refused for options
        that make no sense, OSError, NoCluster; then no file is left behind.
        """
        if format not in EXPORTERS:
            raise Refused(f"There is no format “{format}”. There are: {', '.join(EXPORTERS)}.", "format")
        exporter, project = EXPORTERS[format], self._owner.project
        source = Source(project, self.scene if exporter.takes == "scene" else None)
        given = read_options(exporter, options)
        plan, target = exporter.plan(source, given), Path(to)
        if target.is_dir():
            target = target / plan.file_name.replace("/", "_")
        report = write_file(exporter, source, given, target, runner_for(processes, cluster))
        return {"file": str(target), "left_out": list(plan.left_out), **report}

    def batch(
        self,
        format: str,
        to: Where,
        table: str,
        *,
        rows: str = "",
        naming: str = "{row:03}",
        processes: int = 1,
        cluster: str = "",
        **options: Any,
    ) -> dict[str, Any]:
        """A file of a format for each row of a table, all of them in a zip; a report with the rows that `failed`.

        `rows` are such as "1-12, 15", all of them if nothing is told; `naming` tells the files' names: {row:03} is the
        row's number, {Name} what stands in the column Name. Raises what `export` raises, and Refused when every row
        fails.
        """
        project = self._owner.project
        source = Source(project, self.scene)
        given = read_options(BATCH, asked(project, table, rows, naming, format, options))
        plan, target = BATCH.plan(source, given), Path(to)
        if target.is_dir():
            target = target / plan.file_name.replace("/", "_")
        report = write_file(BATCH, source, given, target, runner_for(processes, cluster))
        return {"file": str(target), "left_out": list(plan.left_out), **report}


class Value:
    """A value of a scene: a parameter, or one of its components."""

    def __init__(self, owner: OpenScene, parameter: str, component: int | None = None) -> None:
        self._owner, self.id, self.component = owner, parameter, component

    @property
    def _node(self) -> ParameterNode:
        node = self._owner.scene.index.target(self.id)
        if node is None:
            raise KeyError(f"{self.id} is no longer in {self._owner.name}.")
        return node

    @property
    def name(self) -> str:
        """What it is called."""
        return self._node.label

    @property
    def unit(self) -> str:
        """What its numbers count: px, °, %, s … or nothing."""
        return self._node.spec.unit

    def sample(self, frames: Frames = None) -> Floats:
        """The value at frames (whole or not; all of the scene when left out): (frames, components).

        For a value of many copies (copies, frames, components), for one of an emitter's sparks (sparks, frames,
        components) with NaN where a spark is not alive, in the order of `sparks`; without the last axis for one
        component. Raises TypeError for a text: `texts` gives those.
        """
        node, scene = self._node, self._owner.scene
        if node.spec.kind == "text":
            raise TypeError(f"{self.name} is a text; use texts().")
        sampler, samples = Sampler(scene), self._samples(frames)
        many = bool(scene.index.arrays_of(node))
        where = inside(sampler, node.id, samples) if many else samples
        made = sampler.evaluate(node.id, where)
        shape = (where.shape if many else (1, samples.shape[1]), node.spec.components)
        whole: Floats = np.array(np.broadcast_to(made, (*shape[0], shape[1])))
        if where.elements is not None and where.elements.when is not None:
            _, rows = self._flock(where)
            by_spark = np.full((int(rows.max(initial=-1)) + 1, samples.shape[1], shape[1]), np.nan)
            by_spark[rows, where.elements.when] = whole[:, 0]
            whole = by_spark
        values = whole if many else whole[0]
        return values if self.component is None else values[..., self.component]

    def sparks(self, frames: Frames = None) -> tuple[NDArray[np.int64], Floats]:
        """Of an emitter's value: the number of each spark that is alive at some of the frames, in the order in which
        `sample` has them, and when it is born, in seconds. Raises TypeError for a value of anything else."""
        node, scene = self._node, self._owner.scene
        arrays = scene.index.arrays_of(node)
        where = inside(Sampler(scene), node.id, self._samples(frames)) if arrays else None
        if where is None or where.elements is None or where.elements.when is None:
            raise TypeError(f"{self.name} is no value of sparks.")
        numbers, rows = self._flock(where)
        sampler = Sampler(scene)
        age = sampler.evaluate(f"{arrays[-1]}.age", where.outside(arrays[-1]))[:, 0, 0]
        born = np.empty(len(numbers))
        born[rows] = where.outside(arrays[-1]).times[:, 0] - age
        return numbers, born

    @staticmethod
    def _flock(where: SampleTimes) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The numbers of the sparks in pairs of spark and moment, and which of them each pair is of."""
        assert where.elements is not None
        parents = where.elements.parents
        around = np.zeros(len(where.elements), dtype=np.int64) if parents is None else parents
        sparks, rows = np.unique(np.stack([around, where.elements.numbers]), axis=1, return_inverse=True)
        return sparks[1], rows.ravel()

    def texts(self, frames: Frames = None) -> list[str]:
        """A text at frames."""
        samples = self._samples(frames)
        distinct, which = Sampler(self._owner.scene).texts(self.id, samples)
        return [distinct[k] for k in np.broadcast_to(which, (samples.shape[1],)).tolist()]

    def _samples(self, frames: Frames) -> SampleTimes:
        scene = self._owner.scene
        asked = np.arange(scene.length) if frames is None else np.atleast_1d(np.asarray(frames, dtype=np.float64))
        return SampleTimes(np.ascontiguousarray(asked / scene.fps, dtype=np.float64))

    def set(self, value: Any, *, frame: int | None = None) -> str:
        """Set the resting value, or with `frame` a key there; what was done, in words. Raises Refused.

        A text that begins with “=” is a formula, as in a field: `scene["Boat/rotation"].set("= 20 * noise(t)")`.
        """
        if isinstance(value, str) and self._node.spec.kind != "text" and value.lstrip().startswith("="):
            if self.component is not None:
                raise Refused(f"A formula is of all of {self.name}: write (x, y), and base.x for what stays.", self.id)
            if frame is not None:
                raise Refused("A formula holds at all frames; leave the frame out.", self.id)
            return self._owner.apply(kind="write formula", parameter=self.id, text=value)
        given: dict[str, Any] = (
            {"text": value} if isinstance(value, str) and self._node.spec.kind != "text" else {"value": value}
        )
        if self.component is not None:
            given["component"] = self.component
        if frame is not None:
            given |= {"frame": frame, "key": True}
        return self._owner.apply(kind="set value", parameter=self.id, **given)
