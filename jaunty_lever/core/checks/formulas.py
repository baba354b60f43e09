"""Mistakes in a scene's formulas, as the artist sees them."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..document.scene import Scene
from ..edits.base import barred_to
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
            target = index.parameters[entry.parameter]
            if entry.modifier.whole(target.spec, index):
                continue
            text = shown(entry.modifier.text, index)
            wrong = mistake_in(text, target.spec, index, barred_to(scene, target.id), entry.modifier.text)
            if wrong is not None:
                yield Wrong(target.id, entry.modifier.id, target.label, wrong)
