"""Edits that take modifiers out of chains."""

from collections.abc import Set
from typing import Literal

from ..document.keys import Frame
from ..document.scene import Scene
from ..ties import remap_behind
from .base import SceneEdit, modifier_of, place_of, with_parameter
from .deleting import without_links_to


def without_modifiers(scene: Scene, parameter: str, modifiers: Set[str], frame: float) -> Scene:
    """The scene with some modifiers, by id, out of a parameter's chain; what followed their settings rests where it
    stood."""
    index = scene.index
    settings = index.with_settings(node.id for node in index.parameters.values() if node.modifier in modifiers)
    scene = without_links_to(scene, settings, frame)
    chain = place_of(scene, parameter).parameter.chain
    return with_parameter(scene, parameter, chain=tuple(one for one in chain if one.id not in modifiers))


def _with_it(scene: Scene, modifier: str) -> set[str]:
    """What goes when a modifier is taken out: itself and, behind a Follow that decides the value, the Remap that takes
    the driver's range to the follower's; alone that one speaks of a range that nothing goes through any more."""
    found = modifier_of(scene, modifier)
    behind = remap_behind(place_of(scene, found.parameter).parameter.chain, found.position)
    return {modifier} | ({behind.id} if behind is not None else set())


class RemoveModifier(SceneEdit):
    """Take a modifier out of its chain, a Follow with the Remap that goes with it; what followed its settings rests
    where it stood at `frame`."""

    kind: Literal["remove modifier"] = "remove modifier"
    modifier: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        return without_modifiers(scene, found.parameter, _with_it(scene, found.modifier.id), self.frame)

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        more = " and its Remap" if len(_with_it(scene, found.modifier.id)) > 1 else ""
        return f"{place_of(scene, found.parameter).title}: {found.modifier.title}{more} removed"


class ClearChain(SceneEdit):
    """Take all modifiers off a parameter; what followed their settings rests where it stood at `frame`."""

    kind: Literal["clear chain"] = "clear chain"
    parameter: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        chain = place_of(scene, self.parameter).parameter.chain
        scene = without_modifiers(scene, self.parameter, {one.id for one in chain}, self.frame)
        return with_parameter(scene, self.parameter, bypassed=False)

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title}: chain removed"
