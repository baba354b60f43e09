"""A node of the display list, and what every kind of node has to tell."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Protocol

from ..document.layers import BaseLayer
from .channels import Channel, ChannelSpec

if TYPE_CHECKING:
    from .builder import Builder

COMMON = {
    "matrix": ChannelSpec(6, "a b c d e f, from the node's own coordinates to those of its parent"),
    "opacity": ChannelSpec(1, "0..1, of the whole node"),
}
"""Channels that every node has."""


@dataclass(frozen=True)
class DisplayNode:
    """One thing that is drawn.

    `channels` vary over the frames; those that there may be several of are numbered from 0: `points.0`. `fixed` never
    varies and is plain data; `nodes` are drawn inside it, the first one lowest.
    """

    kind: str
    id: str
    channels: Mapping[str, Channel]
    fixed: Mapping[str, Any] = field(default_factory=dict)
    nodes: tuple["DisplayNode", ...] = ()

    def walk(self) -> Iterator["DisplayNode"]:
        """This node and all inside it."""
        yield self
        for node in self.nodes:
            yield from node.walk()


class NodeKind(Protocol):
    """What the file of a node kind holds: its name, which layers become such nodes, and what its channels mean."""

    KIND: str
    DRAWS: tuple[type[BaseLayer], ...]
    CHANNELS: Mapping[str, ChannelSpec]
    FIXED: Mapping[str, str]

    @staticmethod
    def parts(
        builder: "Builder", layer: Any
    ) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
        """Its channels besides the common ones, what never varies, and the nodes inside it."""
        ...


def described(kind: NodeKind, channel: str) -> ChannelSpec:
    """What a channel of a node means. Raises KeyError for one that its kind does not tell of."""
    return {**COMMON, **kind.CHANNELS}[channel.partition(".")[0]]
