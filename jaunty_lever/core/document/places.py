"""A table by id, joined out of those of a scene's layers and levers: an edit replaces a part of it and shares all
others."""

from collections.abc import Iterator, Mapping
from itertools import chain
from typing import TypeVar

Node = TypeVar("Node")


class Places(Mapping[str, Node]):
    """What stands in the parts of a scene, by id; never changed once made.

    `parts` are by layer or lever, in the order of the document; of what stands in two of them, the last one counts.
    """

    __slots__ = ("_owner", "_parts")

    def __init__(self, parts: dict[str, dict[str, Node]], owner: dict[str, str] | None = None) -> None:
        self._parts = parts
        self._owner = owner if owner is not None else {name: top for top, part in parts.items() for name in part}

    def replaced(self, parts: dict[str, dict[str, Node]]) -> "Places[Node]":
        """The same with some of the parts replaced. Where these hold what they held, nothing else is looked at."""
        whole = self._parts | parts
        if all(part.keys() == self._parts[top].keys() for top, part in parts.items()):
            return Places(whole, self._owner)
        owner = dict(self._owner)
        for top in parts:
            for name in self._parts[top]:
                if owner.get(name) == top:
                    del owner[name]
        for top, part in parts.items():
            for name in part:
                if name in owner:
                    # What stands twice is counted as a whole table counts it.
                    return Places(whole)
                owner[name] = top
        return Places(whole, owner)

    def of(self, top: str) -> Mapping[str, Node]:
        """The part of one layer or lever."""
        return self._parts[top]

    def __getitem__(self, name: str) -> Node:
        return self._parts[self._owner[name]][name]

    def get(self, name: object, default: object = None) -> "Node | None":  # type: ignore[override]
        """What stands under an id, or None."""
        top = self._owner.get(name)  # type: ignore[call-overload]
        return default if top is None else self._parts[top][name]  # type: ignore[return-value, index]

    def __contains__(self, name: object) -> bool:
        return name in self._owner

    def __iter__(self) -> Iterator[str]:
        return chain.from_iterable(self._parts.values())

    def values(self) -> Iterator[Node]:  # type: ignore[override]
        """All of them, in the order of the document."""
        return chain.from_iterable(part.values() for part in self._parts.values())

    def items(self) -> Iterator[tuple[str, Node]]:  # type: ignore[override]
        """All of them with their ids."""
        return chain.from_iterable(part.items() for part in self._parts.values())

    def __len__(self) -> int:
        return len(self._owner)
