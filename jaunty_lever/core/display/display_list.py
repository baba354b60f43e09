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
from .kept import Reused, begun, finished, numbers_of
from .node import DisplayNode


@dataclass(frozen=True)
class DisplayList:
    """The nodes of one scene at some frames, from the lowest to the topmost, on its background."""

    width: int
    height: int
    frames: int
    background: Channel
    nodes: tuple[DisplayNode, ...]
    numbers: NDArray[np.int64]
    """Those of its nodes: side by side, since there may be thousands that are looked through at each pull of a
    lever."""

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
    """The display list of the sampler's scene at the given moments. `whole_lives`: each spark of an emitter has a place
    of its own at all of them, and is faded out where it is not there, as what is written down by keys needs it.
    `still`: the seconds, one for each sample, at which layers stand that do not blur."""
    scene = sampler.scene
    if whole_lives or still is not None or samples.grid is None:
        builder = Builder(sampler, samples, whole_lives=whole_lives, still=still)
        nodes = tuple(builder.node(layer) for layer in scene.layers if layer.shown)
        return _listed(builder, nodes, numbers_of(nodes))
    reused, key = begun(sampler, samples)
    builder = Builder(sampler, samples, reused=reused)
    nodes, numbers = _with_new(builder, reused)
    if numbers is None:
        nodes = tuple(builder.node(layer) for layer in scene.layers if layer.shown)
        numbers = numbers_of(nodes)
    finished(sampler, reused, nodes, numbers, key)
    return _listed(builder, nodes, numbers)


def _listed(builder: Builder, nodes: tuple[DisplayNode, ...], numbers: NDArray[np.int64]) -> DisplayList:
    scene = builder.sampler.scene
    background = builder.channel(f"{scene.id}.background")
    return DisplayList(scene.width, scene.height, builder.samples.shape[1], background, nodes, numbers)


def _with_new(builder: Builder, reused: Reused) -> tuple[tuple[DisplayNode, ...], NDArray[np.int64] | None]:
    """The nodes of a scene, of which most are as they were, and their numbers; none where not the same layers are
    seen."""
    top, kept = reused.top(), reused.kept
    if top is None:
        return (), None
    nodes, numbers = list(kept.top), kept.numbers.copy()
    for name in top:
        layer = builder.sampler.index.layers[name]
        if layer.shown:
            place = kept.places[name]
            nodes[place] = builder.node(layer)
            numbers[place] = nodes[place].number
    for name in kept.faults:
        reused.taken(name)
    return tuple(nodes), numbers
