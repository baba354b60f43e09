"""The display list of a scene at some frames."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .builder import Builder
from .channels import Channel
from .kept import Reused, begun, finished
from .node import DisplayNode


@dataclass(frozen=True)
class DisplayList:
    """The nodes of one scene at some frames, from the lowest to the topmost, on its background."""

    width: int
    height: int
    frames: int
    background: Channel
    nodes: tuple[DisplayNode, ...]

    def walk(self) -> Iterator[DisplayNode]:
        """All nodes, each before those inside it."""
        for node in self.nodes:
            yield from node.walk()

    @property
    def content(self) -> tuple[Any, ...]:
        """All by which it is drawn: lists of the same content look alike."""
        nodes = tuple(node.content for node in self.nodes)
        return self.width, self.height, self.frames, self.background.key, nodes

    def moves(self) -> NDArray[np.bool_]:
        """Which frames differ in anything from the one before, (frames); the first one does."""
        moves = np.zeros(self.frames, dtype=bool)
        moves[:1] = True
        for channel in self.channels().values():
            if len(channel.rows) > 1 and not moves.all():
                moves[1:] |= (channel.rows[1:] != channel.rows[:-1]).any(axis=1)
        return moves

    def channels(self) -> dict[str, Channel]:
        """Every channel by its hash."""
        found = {self.background.key: self.background}
        for node in self.walk():
            found.update((channel.key, channel) for channel in node.channels.values())
        return found


def display_list(
    sampler: Sampler, samples: SampleTimes, whole_lives: bool = False, still: NDArray[np.float64] | None = None
) -> DisplayList:
    """The display list of the sampler's scene at the given moments. `whole_lives`: each spark of an emitter has a place of
    its own at all of them, and is faded out where it is not there, as what is written down by keys needs it. `still`: the seconds, one for each
    sample, at which layers stand that do not blur."""
    scene = sampler.scene
    if whole_lives or still is not None or samples.grid is None:
        builder = Builder(sampler, samples, whole_lives=whole_lives, still=still)
        nodes = tuple(builder.node(layer) for layer in scene.layers if layer.shown)
        return _listed(builder, nodes)
    reused, key = begun(sampler, samples)
    builder = Builder(sampler, samples, reused=reused)
    nodes = _with_new(builder, reused) or tuple(builder.node(layer) for layer in scene.layers if layer.shown)
    finished(sampler, reused, nodes, key)
    return _listed(builder, nodes)


def _listed(builder: Builder, nodes: tuple[DisplayNode, ...]) -> DisplayList:
    scene = builder.sampler.scene
    background = builder.channel(f"{scene.id}.background")
    return DisplayList(scene.width, scene.height, builder.samples.shape[1], background, nodes)


def _with_new(builder: Builder, reused: Reused) -> tuple[DisplayNode, ...]:
    """The nodes of a scene, of which most are as they were; none where not the same layers are seen."""
    before, kept = reused.kept.scene.index, reused.kept
    if reused.affected is None:
        return ()
    index = builder.sampler.index
    top = [name for name in reused.affected if index.parents[name] is None]
    if any(index.layers[name].shown != before.layers[name].shown for name in top):
        return ()
    nodes, faulty = list(kept.top), [name for name in kept.faults if name not in reused.affected]
    for name in top:
        layer = index.layers[name]
        if layer.shown:
            nodes[kept.places[name]] = builder.node(layer)
    for name in faulty:
        reused.taken(name)
    return tuple(nodes)
