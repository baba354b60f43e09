"""Copies of layers and scenes with ids (and seeds) of their own, links inside the copy kept inside it."""

from hashlib import blake2b
from typing import Any, TypeVar

import numpy as np

from ..document.model import Model
from ..document.modifier import Modifier
from ..document.owners import owners
from ..document.parameter import Parameter
from ..document.snapshot import Snapshot

Node = TypeVar("Node", bound=Model | tuple[Model, ...])


def renumbered(node: Node, salt: str, new_seeds: bool = True) -> Node:
    """A copy in which every layer, stop, lever and modifier has a new id, drawn from `salt`."""
    table = {}
    for owner in owners(node):
        prefix = "m" if isinstance(owner, Modifier) else owner.id.partition("-")[0]
        table[owner.id] = f"{prefix[:20]}-{blake2b(f'{salt} {owner.id}'.encode(), digest_size=5).hexdigest()}"
    random = np.random.default_rng(int.from_bytes(blake2b(salt.encode(), digest_size=8).digest(), "big"))
    made: Node = copied(node, table, random if new_seeds else None)
    return made


_NAMED = ("id", "outline", "other_outline", "gauge", "layer", "follows")
"""Fields that name an owner by its id."""


def copied(node: Any, table: dict[str, str], random: np.random.Generator | None) -> Any:
    """A copy with ids (and links) led over by a table, and, when `random` is given, seeds of its own."""
    if isinstance(node, tuple):
        return tuple(copied(part, table, random) for part in node)
    if not isinstance(node, Model) or (isinstance(node, Parameter) and not node.chain):
        # What holds no ids, keys above all, is shared.
        return node
    if isinstance(node, Modifier):
        own = table.get(node.id, node.id)
        node = node.fresh(own, int(random.integers(1, 100_000))) if random else node.changed(id=own)
        node = node.retargeted(table)
    updates: dict[str, Any] = {}
    if isinstance(node, Snapshot):
        updates["values"] = {table.get(lever, lever): value for lever, value in node.values.items()}
    for name in type(node).model_fields:
        value = getattr(node, name)
        if name in _NAMED and isinstance(value, str) and value in table:
            updates[name] = table[value]
        elif random is not None and name == "seed" and not isinstance(node, Modifier) and not value.moves:
            # Copies of a scatter or of an emitter are not its doubles.
            updates[name] = value.changed(rest=float(random.integers(1, 100_000)), typed=())
        elif isinstance(value, dict) and any(isinstance(part, Model) for part in value.values()):
            updates[name] = {key: copied(part, table, random) for key, part in value.items()}
        elif isinstance(value, Model | tuple):
            updates[name] = copied(value, table, random)
    return node.changed(**updates)
