"""The kinds of nodes. A new one is added here, and to the interpreters, and nowhere else."""

from ..document.base_layer import BaseLayer
from . import array, clip, group, picture, shape, solid, texture, trace
from .building import NodeKind

NODE_KINDS: dict[str, NodeKind] = {kind.KIND: kind for kind in (shape, picture, clip, texture, trace, array, group)}  # type: ignore[misc]


_DRAWN: tuple[NodeKind, ...] = (*NODE_KINDS.values(), solid)  # type: ignore[arg-type]
"""What layers become: solids are seen as shapes."""


def kind_of(layer: BaseLayer) -> NodeKind:
    """Which kind of node a layer becomes."""
    return next(kind for kind in _DRAWN if isinstance(layer, kind.DRAWS))
