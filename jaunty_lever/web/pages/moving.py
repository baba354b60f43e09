"""What moves in a scene, for whoever has chosen nothing yet: a sentence and a curve each."""

import re
from dataclasses import dataclass

from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.words import sentence

MOST, LOOKED_AT = 12, 240
_RESTS = re.compile(r" rests at [-−\d., ]+[^,]*")


@dataclass(frozen=True)
class Moving:
    """A value that moves, how in words, and how many others do the same."""

    parameter: str
    owner: str
    kind: str
    words: str
    alike: int


def what_moves(scene: Scene) -> tuple[list[Moving], int]:
    """Some values that move, those of the same words together, and how many more there are. Levers come first: they
    steer the rest."""
    found: dict[tuple[str, str], tuple[ParameterNode, str, int]] = {}
    looked, more = 0, 0
    for node in _moving(scene):
        looked += 1
        if looked > LOOKED_AT:
            more += 1
            continue
        words = sentence(scene.index, node)
        # What moves alike is told once, wherever it rests.
        key = node.field, _RESTS.sub("", words)
        first, told, count = found.get(key, (node, words, 0))
        found[key] = first, told, count + 1
    made = [
        Moving(node.id, node.trail[0][1], node.spec.kind, words, count - 1) for node, words, count in found.values()
    ]
    shown = made[:MOST]
    return shown, more + sum(one.alike + 1 for one in made[MOST:])


def _moving(scene: Scene) -> list[ParameterNode]:
    index: SceneIndex = scene.index
    own = [index.parameters[f"{lever.id}.value"] for lever in scene.levers if lever.value.moves]
    for layer in index.layers.values():
        own += [
            index.parameters[f"{layer.id}.{name}"]
            for name in specs_of(type(layer))
            if name != "text" and getattr(layer, name).moves and f"{layer.id}.{name}" in index.parameters
        ]
    return own
