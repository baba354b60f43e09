"""What a project holds, scene by scene: which of it is new since an earlier state, which ids, and how much."""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from ..document.base_layer import BaseLayer
from ..document.difference import Difference, difference, same_itself
from ..document.index import walk
from ..document.layers import Group
from ..document.lever import Lever
from ..document.limits import MOST_KEYS, MOST_LAYERS, MOST_MODIFIERS
from ..document.node_tables import nodes_of
from ..document.owners import owners
from ..document.scene import Project, Scene
from ..document.snapshot import Snapshot
from ..document.tables import Table
from .problem import Problem

Node = BaseLayer | Lever | Snapshot


class Touched:
    """Which parts of a project are new since an earlier state; all of them when there is none."""

    def __init__(self, before: Project | None) -> None:
        self._before = before
        self._scenes = {id(scene) for scene in before.scenes} if before else set()
        self._tables = {id(table) for table in before.tables} if before else set()
        self._nodes: dict[str, set[int]] = {}

    def scene(self, scene: Scene) -> bool:
        """Whether anything in a scene is new."""
        return id(scene) not in self._scenes

    def old(self, scene: Scene) -> Scene | None:
        """A scene as it was."""
        return self._before.scene(scene.id) if self._before else None

    def difference(self, scene: Scene) -> Difference | None:
        """What is new of a scene in which there is what there was; None where more than that has changed."""
        old = self.old(scene)
        return None if old is None else difference(old, scene)

    def nodes(self, scene: Scene) -> list[Node]:
        """The layers, levers and snapshots of a scene that are new in themselves."""
        new, old = self.difference(scene), self.old(scene)
        if new is None or old is None:
            return [node for node in nodes_in(scene) if self.node(scene, node)]
        return [*new.themselves, *(shot for shot in scene.snapshots if not any(shot is one for one in old.snapshots))]

    def node(self, scene: Scene, node: Any) -> bool:
        """Whether a layer, lever or snapshot is another object than any in its scene before."""
        if scene.id not in self._nodes:
            old = self.old(scene)
            self._nodes[scene.id] = {id(one) for one in nodes_in(old)} if old is not None else set()
        return id(node) not in self._nodes[scene.id]

    def table(self, table: Table) -> bool:
        """Whether a table is new."""
        return id(table) not in self._tables

    def frame(self, scene: Scene) -> bool:
        """Whether something of a scene besides its layers, levers and snapshots is new."""
        old = self.old(scene)
        return old is None or not same_itself(old, scene)


def nodes_in(scene: Scene) -> list[Node]:
    """The layers, levers and snapshots of a scene."""
    return [*(layer for layer, _, _ in walk(scene.layers)), *scene.levers, *scene.snapshots]


@dataclass(frozen=True)
class Held:
    """What a scene holds: the ids in it, with its own, and how much. It is remembered on the scene, which never
    changes, so that an edit of one scene looks through no other."""

    ids: tuple[str, ...]
    alone: frozenset[str]
    layers: int
    modifiers: int
    keys: int


def held_by(scene: Scene, touched: Touched | None) -> Held:
    """What a scene holds; `touched` tells what of it is new, None that it has been looked through already."""
    known: Held | None = scene.__dict__.get("_held")
    if known is None:
        known = (_as_before(scene, touched) if touched is not None else None) or _counted(scene, touched)
        scene.__dict__["_held"] = known
    return known


def _as_before(scene: Scene, touched: Touched) -> Held | None:
    """The same where the ids in it are what they were, by what has changed; None where they are not."""
    new, old = touched.difference(scene), touched.old(scene)
    if new is None or old is None:
        return None
    before = held_by(old, None)
    if old.snapshots is not scene.snapshots and [s.id for s in old.snapshots] != [s.id for s in scene.snapshots]:
        return None
    modifiers, keys = before.modifiers, before.keys
    for node in new.themselves:
        was = old.index.layers.get(node.id) or old.index.levers[node.id]
        if sorted(ids_of(node)) != sorted(_known_ids(was)):
            return None
        (more, fewer), (now, then) = zip(_weight(node), _weight(was), strict=True)
        modifiers, keys = modifiers + more - fewer, keys + now - then
    return Held(before.ids, before.alone, before.layers, modifiers, keys)


def _counted(scene: Scene, touched: Touched | None) -> Held:
    ids, layers, modifiers, keys = [scene.id], 0, 0, 0
    for node in nodes_in(scene):
        ids += ids_of(node) if touched is not None and touched.node(scene, node) else _known_ids(node)
        layers += isinstance(node, BaseLayer)
        more = _weight(node)
        modifiers, keys = modifiers + more[0], keys + more[1]
    return Held(tuple(ids), frozenset(ids), layers, modifiers, keys)


def clashes(held: Sequence[Held], before: Project | None) -> Iterator[Problem]:
    """Ids that stand more than once in a project; none are looked for where all are what they were."""
    were = [scene.__dict__.get("_held") for scene in before.scenes] if before is not None else []
    if len(were) == len(held) and all(
        old is not None and old.ids is one.ids for old, one in zip(were, held, strict=True)
    ):
        return
    if len(frozenset[str]().union(*(one.alone for one in held))) < sum(len(one.ids) for one in held):
        yield from standing_twice(name for one in held for name in one.ids)


def standing_twice(ids: Iterable[str]) -> Iterator[Problem]:
    """What stands more than once among ids."""
    for owner, count in Counter(ids).items():
        if count > 1:
            yield Problem(f"The id “{owner}” stands {count} times; every id must be its own.", owner)


def counts(held: Sequence[Held]) -> Iterator[Problem]:
    """Where a project has more than there may be."""
    for many, most, what in (
        (sum(one.layers for one in held), MOST_LAYERS, "layers"),
        (sum(one.modifiers for one in held), MOST_MODIFIERS, "modifiers"),
        (sum(one.keys for one in held), MOST_KEYS, "keys"),
    ):
        if many > most:
            yield Problem(f"A project has at most {most:,} {what}; this would have {many:,}.")


def ids_of(node: Any) -> tuple[str, ...]:
    """The ids inside a layer (without the layers of a group), lever or snapshot."""
    known: tuple[str, ...] | None = node.__dict__.get("_ids")
    if known is None:
        known = node.__dict__["_ids"] = tuple(owner.id for owner in owners(alone(node)))
    return known


def _known_ids(node: Any) -> tuple[str, ...]:
    """The same for a node that has been looked through already, from the tables that its scene has of it."""
    known: tuple[str, ...] | None = node.__dict__.get("_ids")
    if known is None:
        if isinstance(node, Snapshot):
            return (node.id,)
        stops = (stop for part in ("fill", "edge") for stop in getattr(getattr(node, part, None), "stops", ()))
        inner = (*stops, *getattr(node, "gauges", ()), *getattr(node, "filters", ()), *getattr(node, "stops", ()))
        known = node.__dict__["_ids"] = (node.id, *(one.id for one in inner), *nodes_of(node)[1])
    return known


def _weight(node: Any) -> tuple[int, int]:
    """How many modifiers and keys are inside a layer or lever."""
    known: tuple[int, int] | None = node.__dict__.get("_weight")
    if known is None:
        if isinstance(node, Snapshot):
            known = (0, 0)
        else:
            found = nodes_of(node)
            known = (len(found[1]), sum(len(target.parameter.keys) for target in found[0].values()))
        node.__dict__["_weight"] = known
    return known


def alone(node: Any) -> Any:
    """A node without the layers in it."""
    return node.changed(layers=()) if isinstance(node, Group) and node.layers else node
