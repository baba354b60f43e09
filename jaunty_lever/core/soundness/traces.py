"""What must hold of traces."""

from collections.abc import Iterator

from ..document.index import SceneIndex
from ..document.layers import TraceLayer
from .problem import Problem


def trace_problems(index: SceneIndex) -> Iterator[Problem]:
    """What is wrong with what a scene's traces follow, and where they stand."""
    for layer in index.of_kind(TraceLayer):
        if index.arrays.get(layer.id):
            yield Problem(
                f"{layer.name}: a trace stands in no array. Outside, it draws the line of each copy that it follows.",
                layer.id,
            )
        node = index.parameters.get(layer.follows)
        if node is not None:
            if node.spec.kind != "vector" or node.spec.components != 2:
                yield Problem(f"{layer.name} cannot follow {node.label}, which is no place.", layer.id)
            elif index.arrays_of(node):
                yield Problem(
                    f"{layer.name} cannot follow {node.label}, of which each copy has its own: follow the layer.",
                    layer.id,
                )
        elif layer.follows and layer.follows not in index.layers:
            yield Problem(f"{layer.name}: what it follows, “{layer.follows[:60]}”, is not there.", layer.id)
        elif layer.follows == layer.id:
            yield Problem(f"{layer.name} cannot follow itself.", layer.id)
