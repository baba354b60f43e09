"""Copies of layers and scenes with ids (and seeds) of their own, links inside the copy kept inside it."""

from hashlib import blake2b
from typing import Any, TypeVar

import numpy as np

from ..document.layers import BaseLayer, Stop
from ..document.lever import Lever
from ..document.model import Model
from ..document.parameter import Modifier
from ..document.scene import Scene

Node = TypeVar("Node", bound=Model)


def owners(node: Any) -> list[Any]:
    """Everything with an id of its own inside a document node, the node itself included."""
    found = [node] if isinstance(node, BaseLayer | Stop | Lever | Modifier | Scene) else []
    if isinstance(node, Model):
        for name in type(node).model_fields:
            found += owners(getattr(node, name))
    elif isinstance(node, tuple):
        for part in node:
            found += owners(part)
    return found


def renumbered(node: Node, salt: str, new_seeds: bool = True) -> Node:
    """A copy in which every layer, stop, lever and modifier has a new id, drawn from `salt`."""
    table = {}
    for owner in owners(node):
        prefix = "m" if isinstance(owner, Modifier) else owner.id.partition("-")[0]
        table[owner.id] = f"{prefix[:20]}-{blake2b(f'{salt} {owner.id}'.encode(), digest_size=5).hexdigest()}"
    random = np.random.default_rng(int.from_bytes(blake2b(salt.encode(), digest_size=8).digest(), "big"))
    made: Node = _copied(node, table, random if new_seeds else None)
    return made


def _copied(node: Any, table: dict[str, str], random: np.random.Generator | None) -> Any:
    if isinstance(node, tuple):
        return tuple(_copied(part, table, random) for part in node)
    if not isinstance(node, Model):
        return node
    if isinstance(node, Modifier):
        own = table[node.id]
        node = node.fresh(own, int(random.integers(1, 100_000))) if random else node.changed(id=own)
        node = node.retargeted(table)
    updates = {}
    for name in type(node).model_fields:
        value = getattr(node, name)
        if name == "id" and value in table:
            updates[name] = table[value]
        elif isinstance(value, Model | tuple):
            updates[name] = _copied(value, table, random)
    return node.changed(**updates)
