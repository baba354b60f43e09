"""Edits by hand on the stage: layers moved (gears into mesh), turned, and their pivots set."""

from math import hypot
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.keys import Finite, Frame, Key, Value
from ..document.layers import GearLayer
from ..document.scene import Scene
from ..document.specs import components
from ..evaluation.depth import hand_matrix, in_depth
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.matrices import layer_matrix
from .base import SceneEdit, layer_of, place_of, with_parameter
from .meshing import snap, turn_into_mesh
from .values import SetValue


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
            scene = self._moved(scene, layer, self.by)
        if len(self.layers) == 1 and self.reach > 0:
            scene = self._brought_together(scene, self.layers[0])
        return scene

    def _brought_together(self, scene: Scene, layer: str) -> Scene:
        found = snap(scene, layer, self.reach)
        if found is None:
            return scene
        step, other = found
        if hypot(*step) > 1e-9:
            scene = self._moved(scene, layer, step, 9)
        moved = scene.index.layers[layer]
        assert isinstance(moved, GearLayer)
        turn = turn_into_mesh(scene, moved, other, self.frame)
        return scene if turn is None else with_parameter(scene, f"{layer}.rotation", rest=round(turn, 6), typed=())

    def _moved(self, scene: Scene, layer: str, by: tuple[float, float], digits: int = 3) -> Scene:
        layer_of(scene, layer)
        parent = scene.index.parents[layer]
        dx, dy = by
        deep = layer in in_depth(scene)
        if parent is not None or deep:
            sampler, now = Sampler(scene), SampleTimes(np.array([self.frame / scene.fps]))
            around = hand_matrix(sampler, layer, now) if deep else world_matrix(sampler, str(parent), now)
            a, b, c, d, _, _ = (float(v) for v in around[0, 0])
            size = a * d - b * c
            if size == 0:
                return scene
            dx, dy = (d * dx - c * dy) / size, (a * dy - b * dx) / size
        step = (round(dx, digits), round(dy, digits))
        edit = SetValue(scene=scene.id, parameter=f"{layer}.position", by=step, frame=self.frame, by_hand=True)
        return edit.apply_to(scene)

    def label_in(self, scene: Scene) -> str:
        many = len(self.layers)
        return f"{many} layers moved" if many > 1 else f"{layer_of(scene, self.layers[0]).name} moved"


class MovePivot(SceneEdit):
    """Move a layer's pivot without moving the layer as it stands at `frame`.

    The position (with all its keys) takes up what the pivot's move would have shifted.
    """

    kind: Literal["move pivot"] = "move pivot"
    layer: str
    to: tuple[Finite, Finite]
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        layer_of(scene, self.layer)
        sampler = Sampler(scene)
        at = SampleTimes.frames(scene.fps, self.frame, self.frame + 1)
        pivot, rotation, scale = (sampler.track(f"{self.layer}.{n}", at) for n in ("pivot", "rotation", "scale"))
        a, b, c, d, _, _ = layer_matrix(np.zeros((1, 2)), rotation, scale, np.zeros((1, 2)))[0]
        dx, dy = self.to[0] - float(pivot[0, 0]), self.to[1] - float(pivot[0, 1])
        scene = _shifted(scene, f"{self.layer}.pivot", (dx, dy))
        return _shifted(scene, f"{self.layer}.position", (float(a * dx + c * dy), float(b * dx + d * dy)))

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name}: pivot moved"


def _shifted(scene: Scene, parameter: str, by: tuple[float, ...]) -> Scene:
    place = place_of(scene, parameter)

    def moved(value: Value) -> Value:
        return tuple(round(v + d, 9) for v, d in zip(components(value, place.spec), by, strict=True))

    own = place.parameter
    keys: tuple[Key, ...] = tuple(key.changed(value=moved(key.value)) for key in own.keys)
    return with_parameter(scene, parameter, rest=moved(own.rest), keys=keys, typed=())
