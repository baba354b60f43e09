"""Channels of an answer: each once, and only those that the asker has not got."""

from typing import Any

from ..display.channels import Channel
from ..display.node import DisplayNode


class ChannelsSent:
    """Collects channels; leaves out what the asker knows by its hash."""

    def __init__(self, known: frozenset[str]) -> None:
        self._known = known
        self.held: set[str] = set()
        self.sent: dict[str, list[Any]] = {}
        """By hash: rows, elements side by side in a row, and little-endian float32 row after row."""

    def put(self, one: Channel) -> str:
        """The channel's hash; its rows are sent unless known."""
        if one.key not in self.held:
            self.held.add(one.key)
            if one.key not in self._known:
                self.sent[one.key] = [one.rows.shape[0], one.each, one.rows.tobytes()]
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
