"""Mistakes in a scene's formulas, as the artist sees them."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..document.index import SceneIndex
from ..document.scene import Scene
from ..edits.base import barred_to, called
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


def mistakes(scene: Scene) -> Sequence[Wrong]:
    """Every mistaken formula of a scene, with the characters as they are shown."""
    return scene.index.carried("mistakes", lambda: tuple(_mistakes(scene)), _said)


def _said(index: SceneIndex, top: str) -> tuple[object, ...]:
    """What of a layer or lever decides whether formulas make sense."""
    own = index.modifiers.of(top).values()
    texts = tuple(entry.modifier.text for entry in own if isinstance(entry.modifier, Formula))
    return called(index, top), texts


def _mistakes(scene: Scene) -> Iterator[Wrong]:
    index = scene.index
    for entry in index.steps_of(Formula):
        formula, target = entry.modifier, index.parameters[entry.parameter]
        assert isinstance(formula, Formula)
        if formula.whole(target.spec, index):
            continue
        text = shown(formula.text, index)
        wrong = mistake_in(text, target.spec, index, barred_to(scene, target.id), formula.text)
        if wrong is not None:
            yield Wrong(target.id, formula.id, target.label, wrong)
