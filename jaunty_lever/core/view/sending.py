"""What an answer sends: each channel once, and only those, and those nodes, that the asker has not got."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import count
from operator import attrgetter, eq
from secrets import token_hex
from typing import Any

from ..display.channels import Channel
from ..display.node import DisplayNode

_OF_THIS_PROCESS, _answers = token_hex(6), count()
_number = attrgetter("number")


@dataclass(frozen=True)
class Told:
    """What an answer held: its nodes by their numbers, the hashes of the channels of each, and those of all else."""

    token: str
    numbers: tuple[int, ...]
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
        self._nodes: tuple[tuple[int, ...], tuple[frozenset[str], ...]] = ((), ())
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

    def all_nodes(self, nodes: Sequence[DisplayNode]) -> list[dict[str, Any]]:
        """The nodes of a scene as plain data."""
        if self._before is not None:
            self._known = self._before.all
        made = [self._alone(node) for node in nodes]
        self._nodes = tuple(map(_number, nodes)), tuple(keys for _, keys in made)
        return [node for node, _ in made]

    def new_nodes(self, nodes: Sequence[DisplayNode]) -> list[tuple[int, dict[str, Any]]] | None:
        """Those that are others than in the earlier answer, with their places; None where that did not hold as many."""
        before, numbers = self._before, tuple(map(_number, nodes))
        if before is None or len(before.numbers) != len(numbers):
            return None
        same, place = list(map(eq, before.numbers, numbers)), -1
        places = []
        for _ in range(len(same) - sum(same)):
            place = same.index(False, place + 1)
            places.append(place)
        # Of what stays nothing is sent: what stood where something new stands now is known as well.
        self._known = before.others.union(*(before.channels[place] for place in places))
        channels, made = list(before.channels), []
        for place in places:
            node, channels[place] = self._alone(nodes[place])
            made.append((place, node))
        self._nodes = numbers, tuple(channels)
        return made

    def _alone(self, node: DisplayNode) -> tuple[dict[str, Any], frozenset[str]]:
        self._into = set()
        made = self.node(node)
        keys, self._into = frozenset(self._into), self._others
        return made, keys

    def told(self) -> Told:
        """What the asker has from then on."""
        return Told(f"{_OF_THIS_PROCESS}-{next(_answers):x}", *self._nodes, frozenset(self._others))
