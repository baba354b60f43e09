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
"""Layers that have to be made anew, from which on, where they are a quarter of all, a list is what others are compared with."""


@dataclass
class Kept:
    """The nodes of a scene's layers in some state of it, outside arrays, with what each was made from besides what is its own."""

    scene: Scene
    ways: Ways
    surroundings: tuple[object, ...]
    top: tuple[DisplayNode, ...] = ()
    numbers: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    nodes: dict[str, DisplayNode] = field(default_factory=dict)
    faults: dict[str, tuple[Fault, ...]] = field(default_factory=dict)
    reads: dict[str, frozenset[str]] = field(default_factory=dict)
    readers: dict[str, list[str]] = field(default_factory=dict)

    @classmethod
    def of(cls, sampler: Sampler) -> "Kept":
        """One for the state that a sampler is at, that knows nothing yet."""
        return cls(sampler.scene, sampler.upstream.ways, _surroundings(sampler.scene))

    def put(self, layer: str, node: DisplayNode, record: Record) -> None:
        """Remember the node of a layer."""
        self.nodes[layer] = node
        foreign = self.reads[layer] = frozenset(record.reads - self.scene.index.parameters.of(layer).keys())
        for parameter in foreign:
            self.readers.setdefault(parameter, []).append(layer)
        if record.faults:
            self.faults[layer] = tuple(record.faults.values())

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

    @property
    def size(self) -> int:
        """Bytes that it takes, about."""
        return 1000 + sum(
            one.rows.nbytes + 200 for node in self.top for each in node.walk() for one in each.channels.values()
        )


class Reused:
    """Makes nodes anew where they may be others, and takes those that are kept."""

    def __init__(self, sampler: Sampler, kept: Kept, affected: set[str] | None) -> None:
        self.sampler, self.kept, self.affected = sampler, kept, affected

    def taken(self, layer: str) -> DisplayNode | None:
        """The node of a layer, if it is as it was; what it was made from is noted."""
        if self.affected is None or layer in self.affected:
            return None
        node = self.kept.nodes.get(layer)
        if node is not None:
            self.sampler.heed(self.kept.reads[layer], self.kept.faults.get(layer, ()))
        return node

    def made(self, layer: str, node: DisplayNode, record: Record) -> DisplayNode:
        """A node that was made anew; it is kept while the list is the first of its kind."""
        if self.affected is None:
            self.kept.put(layer, node, record)
        return node


def begun(sampler: Sampler, samples: SampleTimes) -> tuple[Reused, tuple[object, ...]]:
    """What of the lists of earlier states may be taken, and what to remember those of this one under."""
    # Content is the same in all states that a scene is brought to: one list stands for them.
    key = ("kept nodes", sampler.index.lineage.setdefault("token", object()), samples.key)
    entry = sampler.cache.get(key)
    if entry is not None:
        kept: Kept = entry.value
        affected = kept.affected(sampler)
        if affected is not None and len(affected) <= max(_MOST, len(sampler.index.layers) // 4):
            return Reused(sampler, kept, affected), key
    return Reused(sampler, Kept.of(sampler), None), key


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
    """Remembers a list of which nothing was taken."""
    if reused.affected is None:
        reused.kept.top, reused.kept.numbers = tuple(top), numbers
        sampler.cache.put(key, reused.kept, (), reused.kept.size)


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
