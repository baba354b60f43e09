"""What an answer sends: each channel once, and only those, and those nodes, that the asker has not got."""

from dataclasses import dataclass
from functools import cached_property
from itertools import count
from secrets import token_hex
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..display.channels import Channel
from ..display.display_list import DisplayList
from ..display.node import DisplayNode

_OF_THIS_PROCESS, _answers = token_hex(6), count()


@dataclass(frozen=True)
class Told:
    """What an answer held: its nodes by their numbers, the hashes of the channels of each, and those of all else."""

    token: str
    numbers: NDArray[np.int64]
    channels: tuple[frozenset[str], ...]
    others: frozenset[str]

    @cached_property
    def all(self) -> frozenset[str]:
        """The hashes of all channels."""
        return self.others.union(*self.channels)


class Sending:
    """Collects what an answer holds; leaves out what the asker has from an earlier one."""

    def __init__(self, before: Told | None = None) -> None:
        self._before = before
        self._known = before.others if before is not None else frozenset()
        self._others: set[str] = set()
        self._into = self._others
        self._nodes: tuple[NDArray[np.int64], tuple[frozenset[str], ...]] = np.zeros(0, dtype=np.int64), ()
        self.channels: dict[str, list[Any]] = {}
        """By hash: rows, elements side by side in a row, and little-endian float32 row after row."""

    def put(self, one: Channel) -> str:
        """The channel's hash; its rows are sent unless known."""
        self._into.add(one.key)
        if one.key not in self._known and one.key not in self.channels:
            self.channels[one.key] = [one.rows.shape[0], one.each, one.rows.tobytes()]
        return one.key

    def node(self, node: DisplayNode) -> dict[str, Any]:
        """A node as plain data, its channels by their hashes."""
        return {
            "kind": node.kind,
            "id": node.id,
            **node.fixed,
            "channels": {name: self.put(channel) for name, channel in node.channels.items()},
            "nodes": [self.node(inner) for inner in node.nodes],
            **({"matte": self.node(node.matte)} if node.matte is not None else {}),
        }

    def all_nodes(self, drawn: DisplayList) -> list[dict[str, Any]]:
        """The nodes of a scene as plain data."""
        if self._before is not None:
            self._known = self._before.all
        made = [self._alone(node) for node in drawn.nodes]
        self._nodes = drawn.numbers, tuple(keys for _, keys in made)
        return [node for node, _ in made]

    def new_nodes(self, drawn: DisplayList) -> list[tuple[int, dict[str, Any]]] | None:
        """Those that are others than in the earlier answer, with their places; None where that did not hold as many."""
        before = self._before
        if before is None or len(before.numbers) != len(drawn.numbers):
            return None
        places = np.flatnonzero(before.numbers != drawn.numbers).tolist()
        # Of what stays nothing is sent: what stood where something new stands now is known as well.
        self._known = before.others.union(*(before.channels[place] for place in places))
        channels, made = list(before.channels), []
        for place in places:
            node, channels[place] = self._alone(drawn.nodes[place])
            made.append((place, node))
        self._nodes = drawn.numbers, tuple(channels)
        return made

    def _alone(self, node: DisplayNode) -> tuple[dict[str, Any], frozenset[str]]:
        self._into = set()
        made = self.node(node)
        keys, self._into = frozenset(self._into), self._others
        return made, keys

    def told(self) -> Told:
        """What the asker has from then on."""
        return Told(f"{_OF_THIS_PROCESS}-{next(_answers):x}", *self._nodes, frozenset(self._others))
