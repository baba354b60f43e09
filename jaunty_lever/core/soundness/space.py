"""What must hold of cameras and lights."""

from collections.abc import Iterable, Iterator

from ..document.base_layer import BaseLayer
from ..document.index import SceneIndex
from .problem import Problem


def space_problems(index: SceneIndex, layers: Iterable[BaseLayer]) -> Iterator[Problem]:
    """What is wrong with where cameras and lights stand, and what some of a scene's layers ask of them."""
    for layer in layers:
        if not layer.drawn and index.arrays.get(layer.id):
            yield Problem(
                f"{layer.name}: a {layer.title.lower()} stands in no array, since there is one for all.", layer.id
            )
        if layer.matte is not None:
            other = index.layers.get(layer.matte.layer)
            if other is not None and not other.drawn:
                yield Problem(f"{layer.name} cannot show where {other.name} is, which is not drawn.", layer.id)
