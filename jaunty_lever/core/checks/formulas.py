"""Mistakes in a scene's formulas, as the artist sees them."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..document.scene import Scene
from ..edits.base import circle_to
from ..formula.names import mistake_in, shown
from ..formula.nodes import Mistake
from ..motion.formula import Formula


@dataclass(frozen=True)
class Wrong:
    """A formula with a mistake: whose it is, and what it says."""

    parameter: str
    modifier: str
    label: str
    mistake: Mistake


def mistakes(scene: Scene) -> Iterator[Wrong]:
    """Every mistaken formula of a scene, with the characters as they are shown."""
    index = scene.index
    for entry in index.modifiers.values():
        if isinstance(entry.modifier, Formula):
            place = index.places[entry.parameter]
            if entry.modifier.whole(place.slot, index):
                continue
            text = shown(entry.modifier.text, index)
            wrong = mistake_in(text, place.slot, index, circle_to(scene, place.id), entry.modifier.text)
            if wrong is not None:
                yield Wrong(place.id, entry.modifier.id, place.label, wrong)
