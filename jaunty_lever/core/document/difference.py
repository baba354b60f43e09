"""What of a scene is another than in an earlier state of it: known by what is the very same object."""

from collections.abc import Iterator
from dataclasses import dataclass
from operator import is_
from typing import Any
from weakref import ref

from .model import Model
from .scene_content import SceneContent

_INSIDE = ("layers", "levers", "snapshots")


@dataclass(frozen=True)
class Difference:
    """What is new of a scene in which there is what there was, in the same places.

    `nodes` are the layers and levers by id that are other objects now, whatever has changed in them; `tops` the ids of
    those that are other in themselves, and not only in the layers inside them, with the scene's own where that is:
    `frame`.
    """

    nodes: dict[str, Any]
    tops: frozenset[str]
    frame: bool

    @property
    def themselves(self) -> list[Any]:
        """The layers and levers that are other in themselves."""
        return [node for name, node in self.nodes.items() if name in self.tops]


def difference(before: SceneContent, now: SceneContent) -> Difference | None:
    """What is new of a scene since an earlier state of it; None where there is something else in it, or something
    stands elsewhere.

    It costs next to nothing for what is the same, and a scene has many layers. It is asked again and again of the same
    two.
    """
    known: list[tuple[ref[SceneContent], Difference | None]] = now.__dict__.setdefault("_since", [])
    for one, made in known:
        if one() is before:
            return made
    found = _found(before, now)
    # Those before are not held on to.
    now.__dict__["_since"] = [(ref(before), found), *known[:2]]
    return found


def _found(before: SceneContent, now: SceneContent) -> Difference | None:
    nodes: dict[str, Any] = {}
    tops: set[str] = set()
    if before.id != now.id:
        return None
    try:
        for old, new in (*_pairs(before.layers, now.layers), *_pairs(before.levers, now.levers)):
            nodes[new.id] = new
            if not same_itself(old, new):
                tops.add(new.id)
    except _Elsewhere:
        return None
    frame = not same_itself(before, now)
    return Difference(nodes, frozenset(tops | {now.id} if frame else tops), frame)


class _Elsewhere(Exception):
    """Something is there that was not, or stands where something else was."""


def _pairs(before: tuple[Any, ...], now: tuple[Any, ...]) -> Iterator[tuple[Any, Any]]:
    """Layers or levers that are other objects now, each with what it was."""
    if before is now:
        return
    if len(before) != len(now):
        raise _Elsewhere
    same = list(map(is_, before, now))
    at = -1
    for _ in range(len(same) - sum(same)):
        at = same.index(False, at + 1)
        old, new = before[at], now[at]
        if old.id != new.id or type(old) is not type(new):
            raise _Elsewhere
        yield old, new
        if hasattr(old, "layers"):
            yield from _pairs(old.layers, new.layers)


def same_itself(one: Model, other: Model) -> bool:
    """Whether two states of a scene, a layer or a lever are the same but for the layers, levers and snapshots in it."""
    if one is other:
        return True
    if type(one) is not type(other):
        return False
    return same_but(one, other, *_INSIDE)


def same_but(one: Model, other: Model, *fields: str) -> bool:
    """Whether two models of a kind hold the very same objects but for some of their fields."""
    mine, theirs = one.__dict__, other.__dict__
    return all(mine[name] is theirs[name] for name in type(one).model_fields if name not in fields)
