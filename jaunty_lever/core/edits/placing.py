"""Edits by hand on the stage: layers moved (gears into mesh), turned, and their pivots set."""

from math import hypot
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.ids import Id, new_id
from ..document.keys import Finite, Frame, Value
from ..document.layers import GearLayer
from ..document.parameter import Parameter, mapped
from ..document.protocols import Values
from ..document.scene import Scene
from ..document.specs import components
from ..evaluation.depth import hand_matrix, in_depth
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.matrices import layer_matrix
from ..motion.adjust import Adjust
from .base import SceneEdit, fresh_id, layer_of, place_of, with_parameter
from .meshing import snap, turn_into_mesh
from .values import SetValue

_STILL = 1e-6
"""Within which a value stands where it is wanted."""
_TRIES = 8


def moved_on_stage(scene: Scene, layer: str, by: tuple[float, float], frame: float, digits: int = 3) -> Scene:
    """The scene with a layer moved over the stage at a frame, px; a Limit on its position stops it at its ends."""
    layer_of(scene, layer)
    parent = scene.index.parents[layer]
    deep = layer in in_depth(scene)
    dx, dy = by
    if parent is not None or deep:
        sampler, now = Sampler(scene), SampleTimes(np.array([frame / scene.fps]))
        around = hand_matrix(sampler, layer, now) if deep else world_matrix(sampler, str(parent), now)
        a, b, c, d, _, _ = (float(v) for v in around[0, 0])
        size = a * d - b * c
        if size == 0:
            return scene
        dx, dy = (d * dx - c * dy) / size, (a * dy - b * dx) / size
    step = (round(dx, digits), round(dy, digits))
    if step == (0.0, 0.0):
        return scene
    edit = SetValue(scene=scene.id, parameter=f"{layer}.position", by=step, frame=frame, by_hand=True)
    return edit.apply_to(scene)


class MoveLayers(SceneEdit):
    """Move layers by hand, over the stage; a gear that is moved alone snaps into mesh within `reach` pixels.

    A Limit on a position stops the hand at its ends.
    """

    kind: Literal["move layers"] = "move layers"
    layers: tuple[str, ...] = Field(min_length=1, max_length=2000)
    by: tuple[Finite, Finite]
    frame: Frame = 0.0
    reach: Finite = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        for layer in self.layers:
            scene = moved_on_stage(scene, layer, self.by, self.frame)
        if len(self.layers) == 1 and self.reach > 0:
            scene = self._brought_together(scene, self.layers[0])
        return scene

    def _brought_together(self, scene: Scene, layer: str) -> Scene:
        found = snap(scene, layer, self.reach)
        if found is None:
            return scene
        step, other = found
        if hypot(*step) > 1e-9:
            scene = moved_on_stage(scene, layer, step, self.frame, 9)
        moved = scene.index.layers[layer]
        assert isinstance(moved, GearLayer)
        turn = turn_into_mesh(scene, moved, other, self.frame)
        return scene if turn is None else with_parameter(scene, f"{layer}.rotation", rest=round(turn, 6), typed=())

    def label_in(self, scene: Scene) -> str:
        many = len(self.layers)
        return f"{many} layers moved" if many > 1 else f"{layer_of(scene, self.layers[0]).name} moved"


class MovePivot(SceneEdit):
    """Move a layer's pivot without moving the layer as it is seen at `frame`.

    The position (with all its keys) takes up what the pivot's move would have shifted, through whatever stands in its
    chain; where that lets nothing through, an Adjust at its end does.
    """

    kind: Literal["move pivot"] = "move pivot"
    layer: str
    to: tuple[Finite, Finite]
    frame: Frame = 0.0
    id: Id = Field(default_factory=lambda: new_id("m"), max_length=60)

    def apply_to(self, scene: Scene) -> Scene:
        layer_of(scene, self.layer)
        pivot, rotation, scale, position = (
            _now(scene, f"{self.layer}.{n}", self.frame) for n in ("pivot", "rotation", "scale", "position")
        )
        scene = _led(scene, f"{self.layer}.pivot", np.array(self.to), self.frame, f"{self.id}-p")
        moved = _now(scene, f"{self.layer}.pivot", self.frame) - pivot
        a, b, c, d, _, _ = layer_matrix(np.zeros((1, 2)), rotation[None], scale[None], np.zeros((1, 2)))[0]
        seen = position + [a * moved[0] + c * moved[1], b * moved[0] + d * moved[1]]
        return _led(scene, f"{self.layer}.position", seen, self.frame, self.id)

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: pivot moved"


def _now(scene: Scene, parameter: str, frame: float) -> Values:
    """A parameter at a frame, (components,)."""
    values: Values = Sampler(scene).track(parameter, SampleTimes.frames(scene.fps, frame, frame + 1))[0]
    return values


def _led(scene: Scene, parameter: str, wanted: Values, frame: float, adjust: str) -> Scene:
    """The scene with a parameter's resting value and keys shifted until its result at a frame is what is wanted;
    `adjust`: the id of an Adjust that does it where nothing else can."""
    before = _now(scene, parameter, frame)
    if np.abs(wanted - before).max() < _STILL:
        return scene
    made, by, gain, now = scene, np.zeros(len(before)), np.ones(len(before)), before
    for _ in range(_TRIES):
        # What a step of the resting value makes of the result says how large the next one has to be.
        by = by + (wanted - now) / gain
        if not np.isfinite(by).all() or np.abs(by).max() > 1e7:
            break
        made = _shifted(scene, parameter, tuple(float(part) for part in by))
        then = _now(made, parameter, frame)
        if np.abs(wanted - then).max() < _STILL:
            return made
        gain = np.where(np.abs(by) > _STILL, (then - before) / np.where(np.abs(by) > _STILL, by, 1.0), gain)
        if (np.abs(gain) < 1e-6).any():
            break
        now = then
    return _adjusted(scene, parameter, wanted - before, adjust)


def _adjusted(scene: Scene, parameter: str, by: Values, new: str) -> Scene:
    """The scene with something added to a parameter's result, by the Adjust at the end of its chain or a new one."""
    chain = place_of(scene, parameter).parameter.chain
    last = chain[-1] if chain else None
    plus = tuple(round(float(v), 9) for v in by)
    plain = isinstance(last, Adjust) and not (last.plus.moves or last.plus.keys or last.bypassed or last.turns_signs)
    if isinstance(last, Adjust) and plain and last.full_strength:
        old = components(last.plus.rest, scene.index.parameters[f"{last.id}.plus"].spec)
        more = tuple(round(a + b, 9) for a, b in zip(old, plus, strict=True))
        return with_parameter(scene, f"{last.id}.plus", rest=more, typed=())
    fresh_id(scene, new)
    return with_parameter(scene, parameter, chain=(*chain, Adjust(id=new, plus=Parameter(rest=plus))))


def _shifted(scene: Scene, parameter: str, by: tuple[float, ...]) -> Scene:
    place = place_of(scene, parameter)

    def moved(value: Value) -> Value:
        return tuple(round(v + d, 9) for v, d in zip(components(value, place.spec), by, strict=True))

    made = mapped(place.parameter, moved)
    return with_parameter(scene, parameter, rest=made.rest, keys=made.keys, typed=made.typed)
