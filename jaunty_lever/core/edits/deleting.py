"""What listens to things that are deleted: links rest where they stand, formulas get the number that was there."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..document.colours import hex_colour
from ..document.followed import Followed, followed
from ..document.index import SceneIndex
from ..document.nodes import ModifierNode
from ..document.references import bare, parted
from ..document.scene import Project, Scene
from ..document.tables import Follower, Table
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..formula.replacing import replaced
from ..motion.formula import Formula
from ..words import said
from .base import Edit, with_modifier_fields
from .linking import unlinked


def listeners(index: SceneIndex, gone: set[str]) -> Iterator[ModifierNode]:
    """The modifiers that listen to any of the parameters in `gone`, of parameters that stay."""
    for entry in index.modifiers.values():
        if entry.parameter in gone:
            continue
        node = index.parameters[entry.parameter]
        if any(index.heard(node, reference) in gone for reference in entry.modifier.references()):
            yield entry


def without_links_to(scene: Scene, gone: set[str], frame: float) -> Scene:
    """The scene with every link to a parameter in `gone` cut, followers resting where they were at a frame, and with
    the numbers that these had then in all formulas."""
    found = list(listeners(scene.index, gone))
    written = _Written(scene, gone, frame)
    formulas = {
        entry.modifier.id: replaced(entry.modifier.text, written.of)
        for entry in found
        if isinstance(entry.modifier, Formula)
    }
    for entry in found:
        if entry.modifier.linked and entry.modifier.id in scene.index.modifiers:
            scene = unlinked(scene, entry.modifier.id, frame)
    for modifier, text in formulas.items():
        if modifier in scene.index.modifiers:
            scene = with_modifier_fields(scene, modifier, text=text)
    return scene


class _Written:
    """Values at a frame as formulas write them."""

    def __init__(self, scene: Scene, gone: set[str], frame: float) -> None:
        self._sampler, self._gone = Sampler(scene), gone
        self._now = SampleTimes(np.array([frame / scene.fps]))

    def of(self, reference: str) -> str | None:
        """What stands for a reference to something that goes; None for one to something that stays."""
        if bare(reference) not in self._gone:
            return None
        node = self._sampler.node(bare(reference))
        if node is None:
            return None
        way = parted(reference)[1]
        if way is not None and self._sampler.index.arrays_of(node):
            values = self._sampler.taken(node.id, way, self._now, 0)[0, 0]
        else:
            # Of many copies the first one decides, as where a link is cut.
            values = self._sampler.track(node.id, self._now)[0]
        spec = node.spec
        if spec.kind == "choice":
            return f'"{spec.options[min(max(round(float(values[0])), 0), len(spec.options) - 1)]}"'
        if spec.kind == "switch":
            return "true" if values[0] >= 0.5 else "false"
        if spec.kind == "colour":
            return f"({hex_colour(values.tolist())})"
        told = [_number(float(value)) + ("%" if spec.unit == "%" else "") for value in values]
        if len(told) > 1:
            return f"({', '.join(told)})"
        return f"({told[0]})" if told[0].startswith("-") else told[0]


def _number(value: float) -> str:
    made = f"{value:.6f}".rstrip("0").rstrip(".")
    return "0" if made == "-0" else made


@dataclass(frozen=True)
class Left:
    """Something that listened to what an edit deletes: the value (none where it stands beyond the scene), what it is
    called, and what becomes of it."""

    parameter: str
    label: str
    becomes: str


def left_behind(project: Project, edit: Edit, frame: float) -> list[Left]:
    """Whatever stays but listens to something that an edit deletes, and at which values of a frame that rests from then
    on.

    Raises Refused, as the edit itself does.
    """
    after, found = edit.apply(project), []
    for scene in project.scenes:
        then = after.scene(scene.id)
        if then is None or then is scene:
            continue
        gone = (scene.index.parameters.keys() | scene.index.known.keys()) - (
            then.index.parameters.keys() | then.index.known.keys()
        )
        told: dict[str, str] = {}
        sampler = Sampler(then)
        for entry in listeners(scene.index, gone):
            node = then.index.parameters.get(entry.parameter)
            if node is None:
                continue
            if isinstance(entry.modifier, Formula):
                told[node.id] = "its formula gets the number"
            elif node.parameter.alone:
                told[node.id] = f"rests at {said(node.parameter.rest, node.spec)}"
            elif node.spec.numeric:
                value = sampler.track(node.id, SampleTimes(np.array([frame / then.fps])))[0]
                told[node.id] = f"is {', '.join(_number(float(v)) for v in value)} here, and goes on by itself"
            else:
                told[node.id] = "stays as it is here"
        found += [Left(one, then.index.parameters[one].label, becomes) for one, becomes in told.items()]
    return found + _off_tables(project, after)


def _off_tables(project: Project, after: Project) -> list[Left]:
    """What followed columns of tables that are gone: all of it rests as the table has set it."""
    found = []
    for table in project.tables:
        then = after.table(table.id)
        kept = {(one.scene, one.parameter) for one in then.followers} if then else set()
        for one in table.followers:
            there, scene = followed(after, one), after.scene(one.scene)
            if (one.scene, one.parameter) in kept or there is None or scene is None:
                continue
            where = f"{scene.name}: {there.title}" if len(after.scenes) > 1 else there.title
            found.append(Left("", where, _rests(table, one, there)))
    return found


def _rests(table: Table, one: Follower, there: Followed) -> str:
    if there.node is None:
        return "shows the picture that it shows now"
    if there.node.parameter.keys:
        return "goes by its keys"
    if one.takes == "column":
        return f"keeps {len(table.rows):,} rows as they are now"
    rest = there.node.parameter.rest
    return f"rests at {said(rest if not isinstance(rest, str) else rest[:60], there.node.spec)}"
