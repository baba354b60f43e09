"""Edits that set layers beside one another: aligned, spread evenly, centred on the stage."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.keys import Frame
from ..document.scene import Scene
from ..evaluation.extent import Box, extent_of
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .base import Refused, SceneEdit
from .layers import names_of, outermost
from .placing import moved_on_stage

Axis = Literal["x", "y"]
To = Literal["start", "middle", "end"]
_AT = {"start": 0.0, "middle": 0.5, "end": 1.0}
_SIDES = {
    ("x", "start"): "left edges",
    ("x", "middle"): "middles across",
    ("x", "end"): "right edges",
    ("y", "start"): "top edges",
    ("y", "middle"): "middles up and down",
    ("y", "end"): "bottom edges",
}


def _boxes(scene: Scene, layers: list[str], frame: float) -> dict[str, Box]:
    """What each layer covers on the stage at a frame; of one that covers nothing, where it stands."""
    sampler, now = Sampler(scene), SampleTimes(np.array([frame / scene.fps]))
    found: dict[str, Box] = {}
    for layer in layers:
        box = extent_of(sampler, [layer], now)
        if box is None:
            x, y = (float(v) for v in world_matrix(sampler, layer, now)[0, 0, 4:6])
            box = (x, y, x, y)
        found[layer] = box
    return found


def _ends(box: Box, axis: Axis) -> tuple[float, float]:
    k = 0 if axis == "x" else 1
    return box[k], box[k + 2]


class AlignLayers(SceneEdit):
    """Move layers so that their edges or middles are in one line, as they are seen at `frame`: that of all of them
    together, or of the stage. Along both axes, in the middle of the stage, they are centred on it; several then keep
    their places among one another."""

    kind: Literal["align layers"] = "align layers"
    layers: tuple[str, ...] = Field(min_length=1, max_length=2000)
    axis: Literal["x", "y", "both"] = "x"
    to: To = "middle"
    stage: bool = False
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        outer = outermost(scene, self.layers)
        if len(outer) < 2 and not self.stage:
            raise Refused("To be aligned with one another, choose two layers or more.", self.layers[0])
        boxes = _boxes(scene, outer, self.frame)
        by = {layer: [0.0, 0.0] for layer in outer}
        axes: tuple[Axis, ...] = ("x", "y") if self.axis == "both" else (self.axis,)
        for k, axis in ((0 if axis == "x" else 1, axis) for axis in axes):
            ends = {layer: _ends(box, axis) for layer, box in boxes.items()}
            whole = min(low for low, _ in ends.values()), max(high for _, high in ends.values())
            line = (0.0, float(scene.width if axis == "x" else scene.height)) if self.stage else whole
            wanted = line[0] + (line[1] - line[0]) * _AT[self.to]
            for layer, (low, high) in ends.items():
                # Centred on the stage, what is chosen goes there as one.
                mine = whole if self.axis == "both" else (low, high)
                by[layer][k] = wanted - (mine[0] + (mine[1] - mine[0]) * _AT[self.to])
        for layer, (x, y) in by.items():
            scene = moved_on_stage(scene, layer, (x, y), self.frame)
        return scene

    def label_in(self, scene: Scene) -> str:
        names = names_of(scene, tuple(outermost(scene, self.layers)))
        if self.axis == "both":
            return f"{names} centred on the stage"
        sides = _SIDES[self.axis, self.to]
        return f"{names}: {sides} {'on the stage' if self.stage else 'in one line'}"


class SpreadLayers(SceneEdit):
    """Move layers so that the gaps between them are the same, as they are seen at `frame`; the outermost two stay."""

    kind: Literal["spread layers"] = "spread layers"
    layers: tuple[str, ...] = Field(min_length=1, max_length=2000)
    axis: Axis = "x"
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        outer = outermost(scene, self.layers)
        if len(outer) < 3:
            raise Refused("To be spread evenly, choose three layers or more.", self.layers[0])
        ends = {layer: _ends(box, self.axis) for layer, box in _boxes(scene, outer, self.frame).items()}
        order = sorted(outer, key=lambda layer: (sum(ends[layer]), ends[layer]))
        first, last = order[0], order[-1]
        sizes = [high - low for low, high in (ends[layer] for layer in order)]
        room = ends[last][1] - ends[first][0]
        gap = (room - sum(sizes)) / (len(order) - 1)
        at = ends[first][0]
        for layer, size in zip(order, sizes, strict=True):
            by = at - ends[layer][0]
            scene = moved_on_stage(scene, layer, (by, 0.0) if self.axis == "x" else (0.0, by), self.frame)
            at += size + gap
        return scene

    def label_in(self, scene: Scene) -> str:
        way = "across" if self.axis == "x" else "up and down"
        return f"{names_of(scene, tuple(outermost(scene, self.layers)))} spread evenly {way}"
