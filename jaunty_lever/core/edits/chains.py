"""Edits of chains: modifiers, windows, links, copies of chains."""

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.gauge import Zone
from ..document.ids import Id, Seed, drawn_id, new_id, new_seed
from ..document.keys import Frame, Value
from ..document.modifier import Modifier, Window
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.protocols import Values
from ..document.reach import carried, is_difference, scaled
from ..document.scene import Scene
from ..document.specs import ParameterSpec, components, specs_of, value_of
from ..evaluation.graph import any_misfit, circle, misfit, out_of_reach
from ..motion import MODIFIERS, Follow, Remap
from ..motion.adjust import Adjust
from ..motion.fits import offered
from ..motion.scale import without_alpha
from .base import (
    Refused,
    SceneEdit,
    fresh_id,
    modifier_of,
    place_of,
    with_modifier_fields,
    with_parameter,
)
from .new_gauge import array_of, with_gauge
from .steps import put_elsewhere, put_in
from .values import given_at


def _fits(kind: str, node: ParameterNode) -> None:
    if not offered(MODIFIERS[kind], node.spec):
        raise Refused(
            f"{MODIFIERS[kind].title} does not work on {node.spec.label.lower()}, a {node.spec.kind}.", node.id
        )


def with_modifier(scene: Scene, parameter: str, modifier: Modifier, position: int | None) -> Scene:
    """The scene with a modifier put into a chain, at its end when no position is given."""
    chain = place_of(scene, parameter).parameter.chain
    fresh_id(scene, modifier.id)
    return with_parameter(scene, parameter, chain=put_in(chain, modifier, position))


class AddModifier(SceneEdit):
    """Put a new modifier into a chain, at its end when no position is given."""

    kind: Literal["add modifier"] = "add modifier"
    parameter: str
    modifier: str
    id: Id = Field(default_factory=lambda: new_id("m"))
    seed: Seed = Field(default_factory=new_seed)
    position: int | None = None
    zone: str | None = Field(
        default=None, description="What a Push is pushed by; none: the array's first zone, or a new one."
    )

    def _zone(self, scene: Scene, array: str) -> tuple[Scene, str]:
        layer = array_of(scene, array)
        known = [gauge.id for gauge in layer.gauges if isinstance(gauge, Zone)]
        if self.zone is not None or known:
            return scene, self.zone or known[0]
        made = f"{self.id[:34]}-zone"
        return with_gauge(scene, array, "zone", made, self.seed), made

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        if self.modifier not in MODIFIERS or MODIFIERS[self.modifier].linked:
            raise Refused(f"There is no modifier “{self.modifier}” to add here.", self.parameter)
        _fits(self.modifier, node)
        own = node.parameter
        value = components(own.keys[0].value if own.keys else own.rest, node.spec)
        given: dict[str, Any] = {"id": self.id}
        if MODIFIERS[self.modifier].stands:
            scene, given["zone"] = self._zone(scene, node.top)
        new: Modifier = MODIFIERS[self.modifier].model_validate(given)
        made = new.fitted(node.spec, value, self.seed)
        return with_modifier(scene, self.parameter, made, self.position)

    def label_in(self, scene: Scene) -> str:
        title = MODIFIERS[self.modifier].title if self.modifier in MODIFIERS else self.modifier
        return f"{place_of(scene, self.parameter).title}: {title} added"


class MoveModifier(SceneEdit):
    """Move a modifier to another position in its chain."""

    kind: Literal["move modifier"] = "move modifier"
    modifier: str
    position: int

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        chain = place_of(scene, found.parameter).parameter.chain
        return with_parameter(scene, found.parameter, chain=put_elsewhere(chain, found.position, self.position))

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        return f"{place_of(scene, found.parameter).title}: {found.modifier.title} moved"


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
            what = f"{place_of(scene, found.parameter).title}: {found.modifier.title}"
        else:
            what = f"{place_of(scene, self.parameter or '').title}: chain"
        return f"{what} {'bypassed' if self.bypassed else 'switched on'}"


class SetWindows(SceneEdit):
    """The active windows of a modifier; none means always."""

    kind: Literal["set windows"] = "set windows"
    modifier: str
    windows: tuple[Window, ...]

    def apply_to(self, scene: Scene) -> Scene:
        ordered = tuple(sorted(self.windows, key=lambda window: window.start))
        return with_modifier_fields(scene, self.modifier, windows=ordered)

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        count = len(self.windows)
        what = (
            f"active from frame {self.windows[0].start:g} to {self.windows[0].end:g}"
            if count == 1
            else (f"{count} active windows" if count else "always active")
        )
        return f"{place_of(scene, found.parameter).title}: {found.modifier.title} {what}"


def taken(scene: Scene, modifier: Modifier, spec: ParameterSpec, parameter: str) -> str | None:
    """Why a modifier cannot stand in the chain of a parameter with this spec; None when it can."""
    if not offered(type(modifier), spec):
        return f"{modifier.title} does not work on a {spec.kind}"
    node = scene.index.parameters.get(parameter)
    for reference in modifier.references():
        far = out_of_reach(scene.index, node, reference) if node is not None else None
        if far and (modifier.linked or modifier.stands):
            return f"{modifier.title} of what stands elsewhere: {far}"
        driver = scene.index.parameters.get(reference)
        part = getattr(modifier, "component", None)
        if driver is not None and modifier.linked:
            wrong = any_misfit(driver.spec, part) if modifier.takes_any else misfit(spec, driver.spec, part)
            if wrong:
                return f"{modifier.title} of “{driver.label}”: {wrong}"
        closed = circle(scene.index, parameter, reference)
        if closed:
            return f"{modifier.title} would close a circle: {closed}"
    return None


class PasteChain(SceneEdit):
    """Copy the chain of one parameter onto others, after or instead of theirs.

    Each copy gets ids and, unless they are to stay in step, seeds of its own. What the settings follow, the copies
    follow too. What follows something as it is goes along around where it stands at `frame`, or (`stand`: same) to the
    same place. Amplitudes and speeds go over by each value's own scale (`document.reach`). A modifier that does not fit
    a target is left out there, which the label says; where none fits, the edit is refused.
    """

    kind: Literal["paste chain"] = "paste chain"
    source: str
    targets: tuple[str, ...] = Field(min_length=1, max_length=1000)
    in_step: bool = False
    replace: bool = True
    stand: Literal["each", "same"] = "each"
    frame: Frame = 0.0
    seed: Seed = Field(default_factory=new_seed)

    def made_in(self, scene: Scene) -> tuple[Scene, dict[str, str]]:
        """The scene after it, and what was left out: reasons by the label of the target."""
        source = place_of(scene, self.source)
        chain = source.parameter.chain
        if not chain:
            raise Refused(f"{source.label} has no chain to copy.", self.source)
        random = np.random.default_rng(self.seed)
        left: dict[str, str] = {}
        for number, target in enumerate(dict.fromkeys(self.targets)):
            if target == self.source:
                continue
            node = place_of(scene, target)
            copying = Copying(scene, target, f"{self.seed} {number}", random, self.in_step)
            copies = tuple(copy for m in chain if (copy := copying.of(m, source.spec, node.spec)) is not None)
            if copying.left and not copies:
                raise Refused(f"The chain does not fit {node.label}: {copying.left[0]}.", target)
            if copying.left:
                left[node.label] = copying.left[0]
            kept = () if self.replace else node.parameter.chain
            stood = (
                where_it_stands(scene, node, self.frame) if self.stand == "each" and any(map(leads, copies)) else None
            )
            scene = with_parameter(scene, target, chain=(*kept, *copies))
            if stood is not None:
                scene = around(scene, target, len(kept), stood, self.frame)
        return scene, left

    def apply_to(self, scene: Scene) -> Scene:
        return self.made_in(scene)[0]

    def label_in(self, scene: Scene) -> str:
        source = place_of(scene, self.source)
        others = [t for t in self.targets if t != self.source]
        to = place_of(scene, others[0]).title if len(others) == 1 else f"{len(others)} parameters"
        said = f"Chain of {source.title} copied to {to}"
        left = list(self.made_in(scene)[1].items())
        if left:
            said += f"; left out on {left[0][0]}: {left[0][1]}" + (
                f" (and on {len(left) - 1} more)" if left[1:] else ""
            )
        return said


@dataclass
class Copying:
    """Modifiers copied onto one parameter: ids drawn from a salt, seeds of their own, settings that fit it."""

    scene: Scene
    target: str
    salt: str
    random: np.random.Generator
    in_step: bool = False
    left: list[str] = field(default_factory=list)

    def of(self, modifier: Modifier, old: ParameterSpec, new: ParameterSpec) -> Modifier | None:
        """The copy for a parameter with another spec; None, with the reason in `left`, where it does not fit."""
        wrong = taken(self.scene, modifier, new, self.target)
        if wrong:
            self.left.append(wrong)
            return None
        made = drawn_id(f"{self.salt} {self.target} {modifier.id}")
        copy = modifier.fresh(made, int(self.random.integers(1, 100_000)))
        if new.kind == "colour" != old.kind and hasattr(copy, "amplitude"):
            copy = copy.changed(weights=without_alpha())
            modifier = modifier.changed(weights=copy.weights)
        updates: dict[str, Any] = {}
        for name, spec in specs_of(type(copy)).items():
            setting: Parameter = getattr(modifier if self.in_step and name == "seed" else copy, name)
            before, after = spec.fitted(old), spec.fitted(new)
            if setting.chain:
                inner = (self.of(step, before, after) for step in setting.chain)
                setting = setting.changed(chain=tuple(step for step in inner if step is not None))
            refitted = _refitted(setting, before, after)
            ratio = carried(old, new) if is_difference(spec) else 1.0
            if setting.chain and ratio != 1:
                # What drives it goes on doing so, by as much less or more.
                last = Adjust(id=f"{made}-{len(updates)}", times=Parameter(rest=ratio))
                refitted = refitted.changed(chain=(*refitted.chain, last))
            updates[name] = scaled(refitted, after, ratio)
        return copy.changed(**updates)


def leads(modifier: Modifier) -> bool:
    """Whether a modifier puts its value where another one is."""
    return isinstance(modifier, Follow) and modifier.decides() and not modifier.bypassed


def where_it_stands(scene: Scene, node: ParameterNode, frame: float) -> Values:
    """What a value is at a frame, (components,): before what moves it, or with that where something else puts it
    there."""
    own = node.parameter
    led = not own.bypassed and any(map(leads, own.chain))
    return given_at(scene, node.id, len(own.chain) if led else 0, frame)


def around(scene: Scene, parameter: str, first: int, stood: Values, frame: float) -> Scene:
    """The scene with the Follows of a chain, from a position on, led around where the value stood at a frame."""
    chain = place_of(scene, parameter).parameter.chain
    for k in range(first, len(chain)):
        follow = chain[k]
        if not leads(follow) or (k + 1 < len(chain) and isinstance(chain[k + 1], Remap)):
            continue
        plus = scene.index.parameters[f"{follow.id}.plus"]
        if plus.parameter.moves or plus.parameter.keys:
            continue
        off = stood - given_at(scene, parameter, k + 1, frame)
        now = components(plus.parameter.rest, plus.spec)
        reached = [bool(follow.reaches(c)) for c in range(len(now))]
        moved = tuple(round(v + float(d), 6) if r else v for v, d, r in zip(now, off, reached, strict=True))
        if np.isfinite(off).all():
            scene = with_parameter(scene, plus.id, rest=value_of(moved, plus.spec), typed=())
    return scene


def _refitted(setting: Parameter, old: ParameterSpec, new: ParameterSpec) -> Parameter:
    """A setting for a parameter with another spec: its values where they fit, their first components, or the
    default."""
    if (old.kind, old.components, old.options) == (new.kind, new.components, new.options):
        return setting

    def fitted(value: Value) -> Value | None:
        for tried in (value, value[0] if isinstance(value, tuple) else value):
            try:
                components(tried, new)
            except ValueError:
                continue
            return tried
        return None

    keys = [(key, fitted(key.value)) for key in setting.keys]
    rest = fitted(setting.rest)
    if any(value is None for _, value in keys):
        keys = []
    kept = tuple(key.changed(value=value) for key, value in keys)
    return setting.changed(rest=new.default if rest is None else rest, keys=kept, typed=())


class CopyOfModifier(SceneEdit):
    """Put a copy of a modifier right behind it, with a seed of its own."""

    kind: Literal["copy modifier"] = "copy modifier"
    modifier: str
    id: Id = Field(default_factory=lambda: new_id("m"))
    seed: Seed = Field(default_factory=new_seed)

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        node = place_of(scene, found.parameter)
        copying = Copying(scene, found.parameter, f"{self.seed} {self.id}", np.random.default_rng(self.seed))
        copy = copying.of(found.modifier, node.spec, node.spec)
        if copy is None:
            raise Refused(f"{copying.left[0]}.", self.modifier)
        return with_modifier(scene, found.parameter, copy.changed(id=self.id), found.position + 1)

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        return f"{place_of(scene, found.parameter).title}: {found.modifier.title} duplicated"
