"""A node of the display list, and what every kind of node has to tell."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from itertools import count
from typing import Any

from .channels import Channel, ChannelSpec

COMMON = {
    "matrix": ChannelSpec(6, "a b c d e f, from the node's own coordinates to those of its parent"),
    "opacity": ChannelSpec(1, "0..1, of the whole node"),
}
"""Channels that every node has."""

COMPOSITED = {
    "blend": ChannelSpec(1, "how it is laid over what is below, by its number among CSS's blends as they are offered"),
    "filter": ChannelSpec(
        None,
        "filter.k: of filter k: a blur's standard deviation; 20 numbers of a colour matrix; a shadow's x y, "
        "standard deviation, r g b a",
    ),
    "matte_by": ChannelSpec(1, "what of the matte tells: 0 its alpha, 1 its luminance on black"),
    "matte_backwards": ChannelSpec(1, "1 where it shows where the matte is not"),
}
"""Channels that a node has which is more than laid down as it is."""

COMPOSITED_FIXED = {
    "filters": "what each of its filters does: blur, matrix (of colours, not premultiplied, 4 rows of 5) or shadow",
    "matte_depth": "how many arrays its matte stands in: it lies in the copy of so many, else on the stage",
}


_numbers = count()


@dataclass(frozen=True)
class DisplayNode:
    """One thing that is drawn.

    `channels` vary over the frames; those that there may be several of are numbered from 0: `points.0`. `fixed` never
    varies and is plain data; `nodes` are drawn inside it, the first one lowest. With a `matte` it shows only where that
    is.
    """

    kind: str
    id: str
    channels: Mapping[str, Channel]
    fixed: Mapping[str, Any] = field(default_factory=dict)
    nodes: tuple["DisplayNode", ...] = ()
    matte: "DisplayNode | None" = None
    number: int = field(default_factory=_numbers.__next__, compare=False, repr=False)
    """One that no other node of this process has: whoever has a node of it has the very same."""

    @property
    def still(self) -> bool:
        """Whether it is the same at all moments, with everything inside it."""
        return all(one.rows.shape[0] == 1 for node in self.walk() for one in node.channels.values())

    @property
    def content(self) -> tuple[Any, ...]:
        """All by which it is drawn, its id aside."""
        channels = tuple((name, one.key) for name, one in sorted(self.channels.items()))
        matte = self.matte.content if self.matte is not None else None
        return self.kind, channels, repr(sorted(self.fixed.items())), matte, tuple(node.content for node in self.nodes)

    def walk(self) -> Iterator["DisplayNode"]:
        """This node, its matte and all inside it."""
        yield self
        if self.matte is not None:
            yield from self.matte.walk()
        for node in self.nodes:
            yield from node.walk()
