"""Edits of chains: modifiers, windows, links, copies of chains."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.ids import Id, new_id, new_seed
from ..document.index import Place
from ..document.parameter import Modifier, Parameter, Window
from ..document.scene import Scene
from ..document.slots import Slot, components, slots_of
from ..evaluation.graph import circle
from ..motion import MODIFIERS, AnyModifier
from .base import (
    Refused,
    SceneEdit,
    modifier_of,
    place_of,
    title_of,
    with_modifier_fields,
    with_parameter,
)  # fmt: skip

MOST_MODIFIERS = 32


def offered(modifier: type[Modifier], slot: Slot) -> bool:
    """Whether a modifier can be put on a parameter of this kind."""
    group = slot.kind if slot.kind in ("colour", "vector", "switch", "choice", "text") else "number"
    return group in modifier.kinds


def _fits(kind: str, place: Place) -> None:
    if not offered(MODIFIERS[kind], place.slot):
        raise Refused(
            f"{MODIFIERS[kind].title} does not work on {place.slot.label.lower()}, a {place.slot.kind}.", place.id
        )


def crowded(chain: tuple[Modifier, ...]) -> str | None:
    """Why a chain holds too many modifiers; None when it does not."""
    if len(chain) > MOST_MODIFIERS:
        return f"A chain has at most {MOST_MODIFIERS} modifiers"
    for modifier in chain:
        if sum(other.kind == modifier.kind for other in chain) > modifier.chain_limit:
            return f"A chain has at most {modifier.chain_limit} of {modifier.title}"
    return None


def _room(chain: tuple[Modifier, ...], parameter: str) -> None:
    wrong = crowded(chain)
    if wrong:
        raise Refused(f"{wrong}.", parameter)


def with_modifier(scene: Scene, parameter: str, modifier: Modifier, position: int | None) -> Scene:
    """The scene with a modifier put into a chain, at its end when no position is given."""
    chain = place_of(scene, parameter).parameter.chain
    _room((*chain, modifier), parameter)
    if modifier.id in scene.index.modifiers:
        raise Refused("There is already a modifier with that id.", modifier.id)
    at = len(chain) if position is None else min(max(position, 0), len(chain))
    return with_parameter(scene, parameter, chain=(*chain[:at], modifier, *chain[at:]))


class AddModifier(SceneEdit):
    """Put a new modifier into a chain, at its end when no position is given."""

    kind: Literal["add modifier"] = "add modifier"
    parameter: str
    modifier: str
    id: Id = Field(default_factory=lambda: new_id("m"))
    seed: int = Field(default_factory=new_seed)
    position: int | None = None

    def apply_to(self, scene: Scene) -> Scene:
        place = place_of(scene, self.parameter)
        if self.modifier not in MODIFIERS or MODIFIERS[self.modifier].linked:
            raise Refused(f"There is no modifier “{self.modifier}” to add here.", self.parameter)
        _fits(self.modifier, place)
        own = place.parameter
        value = components(own.keys[0].value if own.keys else own.rest, place.slot)
        new: Modifier = MODIFIERS[self.modifier].model_validate({"id": self.id})
        made = new.fitted(place.slot, value, self.seed)
        return with_modifier(scene, self.parameter, made, self.position)

    def label_in(self, scene: Scene) -> str:
        title = MODIFIERS[self.modifier].title if self.modifier in MODIFIERS else self.modifier
        return f"{title_of(place_of(scene, self.parameter))}: {title} added"


class RemoveModifier(SceneEdit):
    """Take a modifier out of its chain."""

    kind: Literal["remove modifier"] = "remove modifier"
    modifier: str

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        chain = place_of(scene, found.parameter).parameter.chain
        return with_parameter(scene, found.parameter, chain=chain[: found.position] + chain[found.position + 1 :])

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        return f"{title_of(place_of(scene, found.parameter))}: {found.modifier.title} removed"


class MoveModifier(SceneEdit):
    """Move a modifier to another position in its chain."""

    kind: Literal["move modifier"] = "move modifier"
    modifier: str
    position: int

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        chain = list(place_of(scene, found.parameter).parameter.chain)
        chain.insert(min(max(self.position, 0), len(chain) - 1), chain.pop(found.position))
        return with_parameter(scene, found.parameter, chain=tuple(chain))

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        return f"{title_of(place_of(scene, found.parameter))}: {found.modifier.title} moved"


class Bypass(SceneEdit):
    """Switch a modifier, or a parameter's whole chain, off or on."""

    kind: Literal["bypass"] = "bypass"
    modifier: str | None = None
    parameter: str | None = None
    bypassed: bool

    def apply_to(self, scene: Scene) -> Scene:
        if self.modifier is not None:
            return with_modifier_fields(scene, self.modifier, bypassed=self.bypassed)
        if self.parameter is None:
            raise Refused("Name a modifier or a parameter to bypass.")
        return with_parameter(scene, self.parameter, bypassed=self.bypassed)

    def label_in(self, scene: Scene) -> str:
        if self.modifier is not None:
            found = modifier_of(scene, self.modifier)
            what = f"{title_of(place_of(scene, found.parameter))}: {found.modifier.title}"
        else:
            what = f"{title_of(place_of(scene, self.parameter or ''))}: chain"
        return f"{what} {'bypassed' if self.bypassed else 'switched on'}"


class SetWindows(SceneEdit):
    """The active windows of a modifier; none means always."""

    kind: Literal["set windows"] = "set windows"
    modifier: str
    windows: tuple[Window, ...] = Field(max_length=64)

    def apply_to(self, scene: Scene) -> Scene:
        ordered = tuple(sorted(self.windows, key=lambda window: window.start))
        return with_modifier_fields(scene, self.modifier, windows=ordered)

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        count = len(self.windows)
        what = f"active from frame {self.windows[0].start:g} to {self.windows[0].end:g}" if count == 1 else (
            f"{count} active windows" if count else "always active")  # fmt: skip
        return f"{title_of(place_of(scene, found.parameter))}: {found.modifier.title} {what}"


class PasteChain(SceneEdit):
    """Copy the chain of one parameter onto others, after or instead of theirs.

    Each copy gets ids and, unless they are to stay in step, seeds of its own. What the settings
    follow, the copies follow too.
    """

    kind: Literal["paste chain"] = "paste chain"
    source: str
    targets: tuple[str, ...] = Field(min_length=1, max_length=1000)
    in_step: bool = False
    replace: bool = True
    seed: int = Field(default_factory=new_seed)

    def apply_to(self, scene: Scene) -> Scene:
        source = place_of(scene, self.source)
        chain = source.parameter.chain
        if not chain:
            raise Refused(f"{source.label} has no chain to copy.", self.source)
        random = np.random.default_rng(self.seed)
        for target in self.targets:
            if target == self.source:
                continue
            place = place_of(scene, target)
            for modifier in chain:
                _fits(modifier.kind, place)
                for reference in modifier.references():
                    closed = circle(scene.index, target, reference)
                    if closed:
                        raise Refused(f"Pasting here would close a circle: {closed}.", target)
            copies = tuple(self._copy(modifier, random, source, place) for modifier in chain)
            kept = () if self.replace else place.parameter.chain
            _room((*kept, *copies), target)
            scene = with_parameter(scene, target, chain=(*kept, *copies))
        return scene

    def _copy(self, modifier: Modifier, random: np.random.Generator, source: Place, target: Place) -> Modifier:
        suffix = "".join(random.choice(list("abcdefghjkmnpqrstuvwxyz23456789"), 8))
        copy = modifier.fresh(f"m-{suffix}", int(random.integers(1, 100_000)))
        updates: dict[str, Any] = {}
        for name, slot in slots_of(type(copy)).items():
            setting: Parameter = getattr(copy, name)
            if self.in_step and name == "seed":
                setting = getattr(modifier, name)
            if setting.chain:
                own = slot.fitted(target.slot)
                inner = Place("", setting, own, (), (), "", name)
                setting = setting.changed(chain=tuple(self._copy(m, random, inner, inner) for m in setting.chain))
            updates[name] = _refitted(setting, slot.fitted(source.slot), slot.fitted(target.slot))
        return copy.changed(**updates)

    def label_in(self, scene: Scene) -> str:
        source = place_of(scene, self.source)
        others = [t for t in self.targets if t != self.source]
        if len(others) == 1:
            return f"Chain of {title_of(source)} copied to {title_of(place_of(scene, others[0]))}"
        return f"Chain of {title_of(source)} copied to {len(others)} parameters"


def _refitted(setting: Parameter, old: Slot, new: Slot) -> Parameter:
    """A setting for a parameter with another number of components: the first component, for all of them."""
    if old.components == new.components or isinstance(setting.rest, str | bool):
        if old.kind != new.kind and "colour" in (old.kind, new.kind):
            return Parameter(rest=new.default)
        return setting

    def first(value: Any) -> Any:
        return value[0] if isinstance(value, tuple) else value

    keys = tuple(key.changed(value=first(key.value)) for key in setting.keys)
    return setting.changed(rest=first(setting.rest), keys=keys, typed=())


class CopyOfModifier(SceneEdit):
    """Put a copy of a modifier right behind it, with a seed of its own."""

    kind: Literal["copy modifier"] = "copy modifier"
    modifier: str
    id: Id = Field(default_factory=lambda: new_id("m"))
    seed: int = Field(default_factory=new_seed)

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        edit = PasteChain(scene=scene.id, source=found.parameter, targets=(found.parameter,), seed=self.seed)
        place = place_of(scene, found.parameter)
        copy = edit._copy(found.modifier, np.random.default_rng(self.seed), place, place)
        return with_modifier(scene, found.parameter, copy.changed(id=self.id), found.position + 1)

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        return f"{title_of(place_of(scene, found.parameter))}: {found.modifier.title} duplicated"


class ClearChain(SceneEdit):
    """Take all modifiers off a parameter."""

    kind: Literal["clear chain"] = "clear chain"
    parameter: str

    def apply_to(self, scene: Scene) -> Scene:
        return with_parameter(scene, self.parameter, chain=(), bypassed=False)

    def label_in(self, scene: Scene) -> str:
        return f"{title_of(place_of(scene, self.parameter))}: chain removed"


__all__ = ["AnyModifier", "offered"]
