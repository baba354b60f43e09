"""What must hold of cameras and lights."""

from collections.abc import Iterator

from ..document.index import SceneIndex
from .problem import Problem


def space_problems(index: SceneIndex) -> Iterator[Problem]:
    """What is wrong with where a scene's cameras and lights stand, and what is asked of them."""
    for layer in index.layers.values():
        if not layer.drawn and index.arrays.get(layer.id):
            yield Problem(
                f"{layer.name}: a {layer.title.lower()} stands in no array, since there is one for all.", layer.id
            )
        if layer.matte is not None:
            other = index.layers.get(layer.matte.layer)
            if other is not None and not other.drawn:
                yield Problem(f"{layer.name} cannot show where {other.name} is, which is not drawn.", layer.id)
