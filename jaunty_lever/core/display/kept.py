"""Nodes of a display list that an edit leaves as they are: known without looking at them."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..document.difference import difference
from ..document.index import SceneIndex
from ..document.scene import Scene
from ..document.space import Solid
from ..evaluation.cache import Fault
from ..evaluation.depth import camera_of, in_depth, light_of
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Record, Sampler
from ..evaluation.upstream import Ways
from .node import DisplayNode

_MOST = 48
"""Layers that have to be made anew, from which on, where they are a quarter of all, a list is begun anew."""
_FEW = 8
"""The same, from which on the list of a state is what later ones are compared with."""


@dataclass
class Kept:
    """The nodes of a scene's layers in some state of it, outside arrays, with what each was made from besides what is
    its own."""

    scene: Scene
    ways: Ways
    surroundings: tuple[object, ...]
    top: tuple[DisplayNode, ...] = ()
    numbers: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    nodes: dict[str, DisplayNode] = field(default_factory=dict)
    faults: dict[str, tuple[Fault, ...]] = field(default_factory=dict)
    reads: dict[str, frozenset[str]] = field(default_factory=dict)
    readers: dict[str, set[str]] = field(default_factory=dict)
    size: int = 0
    """Bytes that it takes, about."""
    own: set[str] = field(default_factory=set)
    """Parameters whose readers are a set of its own, that no earlier one has."""

    @classmethod
    def of(cls, sampler: Sampler) -> "Kept":
        """One for the state that a sampler is at, that knows nothing yet."""
        return cls(sampler.scene, sampler.upstream.ways, _surroundings(sampler.scene))

    def put(self, layer: str, node: DisplayNode, record: Record) -> None:
        """Remember the node of a layer."""
        self.nodes[layer] = node
        foreign = self.reads[layer] = frozenset(record.reads - self.scene.index.parameters.of(layer).keys())
        for parameter in foreign:
            self._readers_of(parameter).add(layer)
        if record.faults:
            self.faults[layer] = tuple(record.faults.values())

    def _readers_of(self, parameter: str) -> set[str]:
        if parameter not in self.own:
            self.readers[parameter] = set(self.readers.get(parameter, ()))
            self.own.add(parameter)
        return self.readers[parameter]

    def affected(self, sampler: Sampler) -> set[str] | None:
        """The layers whose nodes may be others in the state that a sampler is at; None where that cannot be told."""
        new = difference(self.scene, sampler.scene)
        if new is None or sampler.upstream.ways is not self.ways or _surroundings(sampler.scene) != self.surroundings:
            return None
        with self.ways.lock:
            stale = self.ways.downstream(new.tops)
        index = sampler.index
        found = {name for name in new.nodes if name in index.layers}
        for parameter in stale:
            node = index.target(parameter)
            found.update(self.readers.get(parameter, ()))
            if node is not None and node.top in index.layers:
                found.add(node.top)
        for top in new.tops:
            # What rests has been made of nothing, and still is read.
            for parameter in index.parameters.of(top):
                found.update(self.readers.get(parameter, ()))
        return _with_all_around(index, found)

    @cached_property
    def places(self) -> dict[str, int]:
        """Where the node of each layer that stands in no other one is among `top`."""
        return {node.id: place for place, node in enumerate(self.top)}

    def followed(self, sampler: Sampler, affected: set[str]) -> "Kept":
        """What is still so in a later state, without the layers that may be others."""
        made = Kept(
            *(sampler.scene, self.ways, self.surroundings, self.top, self.numbers),
            *(dict(self.nodes), dict(self.faults), dict(self.reads), dict(self.readers), self.size),
        )
        for layer in affected:
            made.nodes.pop(layer, None)
            made.faults.pop(layer, None)
            for parameter in made.reads.pop(layer, ()):
                made._readers_of(parameter).discard(layer)
        return made

    def finish(self, top: Sequence[DisplayNode], numbers: NDArray[np.int64]) -> None:
        """The list is whole."""
        self.top, self.numbers = tuple(top), numbers
        if not self.size:
            channels = (one for node in self.top for each in node.walk() for one in each.channels.values())
            self.size = 1000 + sum(one.rows.nbytes + 200 for one in channels)


class Reused:
    """Makes nodes anew where they may be others, and takes those that are kept; `into` remembers those that are
    made."""

    def __init__(self, sampler: Sampler, kept: Kept, affected: set[str] | None, into: Kept | None) -> None:
        self.sampler, self.kept, self.affected, self.into = sampler, kept, affected, into

    def top(self) -> list[str] | None:
        """The layers that stand in no other one and whose nodes are made anew, where all others are as they were and in
        their places; None where all are to be gone through."""
        if self.affected is None:
            return None
        index = self.sampler.index
        top = [name for name in self.affected if index.parents[name] is None]
        return None if _shows_others(self.kept.scene.index, index, top) else top

    def taken(self, layer: str) -> DisplayNode | None:
        """The node of a layer, if it is as it was; what it was made from is noted."""
        if self.affected is None or layer in self.affected:
            return None
        node = self.kept.nodes.get(layer)
        if node is not None:
            self.sampler.heed(self.kept.reads[layer], self.kept.faults.get(layer, ()))
        return node

    def made(self, layer: str, node: DisplayNode, record: Record) -> DisplayNode:
        """A node that was made anew."""
        if self.into is not None:
            self.into.put(layer, node, record)
        return node


def begun(sampler: Sampler, samples: SampleTimes) -> tuple[Reused, tuple[object, ...]]:
    """What of the lists of earlier states may be taken, and what to remember those of this one under."""
    # One list stands for all states that a scene is brought to.
    key = ("kept nodes", sampler.index.lineage.setdefault("token", object()), samples.key)
    entry = sampler.cache.get(key)
    if entry is not None:
        kept: Kept = entry.value
        affected = kept.affected(sampler)
        if affected is not None and len(affected) <= max(_MOST, len(sampler.index.layers) // 4):
            moves_on = len(affected) > _FEW or _shows_others(kept.scene.index, sampler.index, affected)
            return Reused(sampler, kept, affected, kept.followed(sampler, affected) if moves_on else None), key
    fresh = Kept.of(sampler)
    return Reused(sampler, fresh, None, fresh), key


def _shows_others(before: SceneIndex, now: SceneIndex, layers: Iterable[str]) -> bool:
    """Whether some of the layers are seen that were not, or the other way round."""
    return any(before.layers[name].shown != now.layers[name].shown for name in layers)


def numbers_of(nodes: Sequence[DisplayNode]) -> NDArray[np.int64]:
    """The numbers of nodes, side by side."""
    return np.fromiter((node.number for node in nodes), dtype=np.int64, count=len(nodes))


def finished(
    sampler: Sampler,
    reused: Reused,
    top: Sequence[DisplayNode],
    numbers: NDArray[np.int64],
    key: tuple[object, ...],
) -> None:
    """Remembers a list that later ones are to be compared with."""
    if reused.into is not None:
        reused.into.finish(top, numbers)
        sampler.cache.put(key, reused.into, (), reused.into.size)


def _surroundings(scene: Scene) -> tuple[object, ...]:
    """What of a scene decides about its layers without being a parameter of any."""
    camera, light = camera_of(scene), light_of(scene)
    solid = bool(scene.index.of_kind(Solid))
    told = (scene.width, scene.height, scene.fps, scene.length, scene.motion_blur)
    return (in_depth(scene), camera and camera.id, light and light.id, solid, *told)


def _with_all_around(index: SceneIndex, layers: Iterable[str]) -> set[str]:
    found = set(layers)
    for layer in tuple(found):
        here = index.parents[layer]
        while here is not None and here not in found:
            found.add(here)
            here = index.parents[here]
    return found
