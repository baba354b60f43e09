"""Edits of snapshots: stored, recalled, blended, and a blend made a lever."""

from itertools import pairwise
from typing import Literal

from pydantic import Field

from ..document.colours import hex_colour
from ..document.ids import Id, OneLine, new_id
from ..document.keys import Finite, Frame, Value
from ..document.lever import Lever
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.snapshot import Snapshot
from ..document.specs import components, value_of
from ..motion import Stops
from ..motion.stops import MOST_STOPS
from .base import Gone, Refused, SceneEdit, free_name, with_modifier_fields
from .chains import with_modifier
from .levers import AddLever
from .linking import without_tie
from .values import SetValue, source_at


def snapshot_of(scene: Scene, snapshot: str) -> Snapshot:
    """A snapshot, or Gone."""
    found = next((one for one in scene.snapshots if one.id == snapshot), None)
    if found is None:
        raise Gone("This snapshot has been deleted.", snapshot)
    return found


def standing_values(scene: Scene, frame: float) -> dict[str, Value]:
    """What the levers stand at: what the hand or the keys give, before any chain."""
    values: dict[str, Value] = {}
    for lever in scene.levers:
        own = lever.value
        if not own.keys:
            values[lever.id] = own.rest
            continue
        numbers = source_at(scene, scene.index.parameters[f"{lever.id}.value"], frame)
        values[lever.id] = hex_colour(numbers) if lever.kind == "colour" else value_of(numbers, lever.spec)
    return values


def known_values(scene: Scene, snapshot: Snapshot) -> dict[str, Value]:
    """A snapshot's values for the levers that are there and still of a kind that can take them."""
    found: dict[str, Value] = {}
    for lever, value in snapshot.values.items():
        if lever in scene.index.levers:
            try:
                components(value, scene.index.levers[lever].spec)
            except ValueError:
                continue
            found[lever] = value
    return found


def _put(scene: Scene, values: dict[str, Value], frame: float) -> Scene:
    for lever, value in values.items():
        edit = SetValue(scene=scene.id, parameter=f"{lever}.value", value=value, frame=min(frame, scene.length - 1))
        scene = edit.apply_to(scene)
    return scene


class StoreSnapshot(SceneEdit):
    """Keep what the levers stand at (or the `values` given) under a name; `instead` stores one anew."""

    kind: Literal["store snapshot"] = "store snapshot"
    id: Id = Field(default_factory=lambda: new_id("snapshot"))
    name: OneLine = "Snapshot"
    instead: str | None = None
    values: dict[str, Value] | None = Field(default=None, max_length=500)
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        if not scene.levers:
            raise Refused("There are no levers to keep in a snapshot yet.")
        values = standing_values(scene, self.frame) | self._given(scene)
        if self.instead is not None:
            old = snapshot_of(scene, self.instead)
            stored = tuple(one.changed(values=values) if one is old else one for one in scene.snapshots)
            return refreshed(scene.changed(snapshots=stored), old.id)
        name = free_name(_name(self.name), [one.name for one in scene.snapshots], 80)
        return scene.changed(snapshots=(*scene.snapshots, Snapshot(id=self.id, name=name, values=values)))

    def _given(self, scene: Scene) -> dict[str, Value]:
        given = self.values or {}
        for lever, value in given.items():
            if lever not in scene.index.levers:
                raise Gone("One of these levers has been deleted.", lever)
            try:
                components(value, scene.index.levers[lever].spec)
            except ValueError as error:
                raise Refused(f"{error}.", lever) from None
        return given

    def label_in(self, scene: Scene) -> str:
        if self.instead is not None:
            return f"Snapshot {snapshot_of(scene, self.instead).name} stored anew"
        return f"Snapshot {self.name.strip()} stored"


def _name(name: str) -> str:
    name = name.strip()
    if not 0 < len(name) <= 80:
        raise Refused("A snapshot needs a name of at most 80 letters.", "name")
    return name


class RenameSnapshot(SceneEdit):
    """Another name for a snapshot."""

    kind: Literal["rename snapshot"] = "rename snapshot"
    snapshot: str
    name: OneLine

    def apply_to(self, scene: Scene) -> Scene:
        old, name = snapshot_of(scene, self.snapshot), _name(self.name)
        if any(one.name.casefold() == name.casefold() and one is not old for one in scene.snapshots):
            raise Refused(f"There is already a snapshot named {name}.", self.snapshot)
        return scene.changed(snapshots=tuple(one.changed(name=name) if one is old else one for one in scene.snapshots))

    def label_in(self, scene: Scene) -> str:
        return f"Snapshot {snapshot_of(scene, self.snapshot).name} renamed {self.name.strip()}"


class RemoveSnapshot(SceneEdit):
    """Forget a snapshot. A blend that was made of it keeps its values."""

    kind: Literal["remove snapshot"] = "remove snapshot"
    snapshot: str

    def apply_to(self, scene: Scene) -> Scene:
        old = snapshot_of(scene, self.snapshot)
        return scene.changed(snapshots=tuple(one for one in scene.snapshots if one is not old))

    def label_in(self, scene: Scene) -> str:
        return f"Snapshot {snapshot_of(scene, self.snapshot).name} deleted"


class RecallSnapshot(SceneEdit):
    """Put the levers where a snapshot has them; keyed ones get a key at the frame."""

    kind: Literal["recall snapshot"] = "recall snapshot"
    snapshot: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        values = known_values(scene, snapshot_of(scene, self.snapshot))
        if not values:
            raise Refused("None of this snapshot's levers is there any more.", self.snapshot)
        return _put(scene, values, self.frame)

    def label_in(self, scene: Scene) -> str:
        one = snapshot_of(scene, self.snapshot)
        gone = len(one.values) - len(known_values(scene, one))
        left = f"; {gone} of its levers {'is' if gone == 1 else 'are'} gone" if gone else ""
        return f"Snapshot {one.name} recalled{left}"


def blended(scene: Scene, snapshots: tuple[str, ...], amount: float) -> dict[str, Value]:
    """Lever values between snapshots that stand evenly along 0 to 100; switches and choices take the nearer one's."""
    known = [known_values(scene, snapshot_of(scene, one)) for one in snapshots]
    x = min(max(amount / 100, 0.0), 1.0) * (len(known) - 1)
    at = min(int(x), len(known) - 2)
    share, values = x - at, {}
    for lever in known[at]:
        if lever not in known[at + 1]:
            continue
        spec = scene.index.levers[lever].spec
        first, second = (components(one[lever], spec) for one in known[at : at + 2])
        if spec.stepped:
            values[lever] = known[at + round(share)][lever]
            continue
        numbers = tuple(a + (b - a) * share for a, b in zip(first, second, strict=True))
        values[lever] = hex_colour(numbers) if spec.kind == "colour" else value_of(numbers, spec)
    return values


class BlendSnapshots(SceneEdit):
    """Put the levers between two or more snapshots."""

    kind: Literal["blend snapshots"] = "blend snapshots"
    snapshots: tuple[str, ...] = Field(min_length=2, max_length=MOST_STOPS)
    amount: Finite
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        values = blended(scene, self.snapshots, self.amount)
        if not values:
            raise Refused("These snapshots have no lever in common.")
        return _put(scene, values, self.frame)

    def label_in(self, scene: Scene) -> str:
        return f"Blend of {' and '.join(snapshot_of(scene, one).name for one in self.snapshots)}"


class MakeBlend(SceneEdit):
    """A lever that blends snapshots, so that the blend can be keyed. It drives every lever in which they differ."""

    kind: Literal["make blend"] = "make blend"
    snapshots: tuple[str, ...] = Field(min_length=2, max_length=MOST_STOPS)
    id: Id = Field(default_factory=lambda: new_id("lever"))
    name: OneLine = "Blend"
    amount: Finite = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        known = [known_values(scene, snapshot_of(scene, one)) for one in self.snapshots]
        levers = [
            lever.id
            for lever in scene.levers
            if all(lever.id in one for one in known) and any(a[lever.id] != b[lever.id] for a, b in pairwise(known))
        ]
        if not levers:
            raise Refused("These snapshots have the same values: there is nothing to blend.")
        first = scene.index.levers[levers[0]]
        names = [snapshot_of(scene, one).name for one in self.snapshots]
        scene = AddLever(
            scene=scene.id,
            id=self.id,
            name=self.name,
            lever="percentage",
            low=0,
            high=100,
            value=self.amount,
            group=first.group,
        ).apply_to(scene)
        made: Lever = scene.index.levers[self.id].changed(help=f"From {' over '.join(names)}."[:400])
        scene = scene.changed(levers=(made, *(lever for lever in scene.levers if lever.id != self.id)))
        for number, lever in enumerate(levers):
            stops = {f"stop_{k + 1}": Parameter(rest=one[lever]) for k, one in enumerate(known)}
            link = Stops(
                id=f"{self.id[:34]}-s{number}",
                driver=f"{self.id}.value",
                count=len(known),
                snapshots=self.snapshots,
                high=Parameter(rest=100.0),
                **stops,
            )
            scene = with_modifier(without_tie(scene, f"{lever}.value"), f"{lever}.value", link, 0)
        return scene

    def label_in(self, scene: Scene) -> str:
        return f"Lever {self.name} blends {' and '.join(snapshot_of(scene, one).name for one in self.snapshots)}"


def refreshed(scene: Scene, snapshot: str) -> Scene:
    """The scene after a snapshot was stored anew: the blends made of it take over its values."""
    values = known_values(scene, snapshot_of(scene, snapshot))
    for entry in list(scene.index.modifiers.values()):
        lever = entry.parameter.removesuffix(".value")
        if not isinstance(entry.modifier, Stops) or snapshot not in entry.modifier.snapshots or lever not in values:
            continue
        stops = {
            f"stop_{k + 1}": Parameter(rest=values[lever])
            for k, one in enumerate(entry.modifier.snapshots)
            if one == snapshot
        }
        scene = with_modifier_fields(scene, entry.modifier.id, **stops)
    return scene
