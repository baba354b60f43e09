"""The kinds of nodes. A new one is added here, and to the interpreters, and nowhere else."""

from . import group, picture, shape
from .node import NodeKind

NODE_KINDS: dict[str, NodeKind] = {kind.KIND: kind for kind in (shape, picture, group)}  # type: ignore[misc]
