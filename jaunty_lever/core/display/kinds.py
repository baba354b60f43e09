"""The kinds of nodes. A new one is added here, and to the interpreters, and nowhere else."""

from ..document.layers import BaseLayer
from . import array, clip, group, picture, shape, texture, trace
from .node import NodeKind

NODE_KINDS: dict[str, NodeKind] = {kind.KIND: kind for kind in (shape, picture, clip, texture, trace, array, group)}  # type: ignore[misc]


def kind_of(layer: BaseLayer) -> NodeKind:
    """Which kind of node a layer becomes."""
    return next(kind for kind in NODE_KINDS.values() if isinstance(layer, kind.DRAWS))
