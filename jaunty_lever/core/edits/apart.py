"""Taking an array apart: its copies become ordinary layers, as they stand or with their motion as keys."""

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.arrangement import Emitter
from ..document.base_layer import BaseLayer
from ..document.counts import resting_count
from ..document.index import walk
from ..document.keys import Ease, Finite, Frame, Key, Value
from ..document.layers import ArrayLayer, Group
from ..document.limits import MOST_LAYERS_IN_SCENE
from ..document.model import with_route
from ..document.node_tables import parameters_of
from ..document.parameter import Parameter
from ..document.progress import reached
from ..document.protocols import Values
from ..document.scene import Project, Scene
from ..document.specs import ParameterSpec, specs_of, value_of
from ..evaluation.fit import fitted
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.taking import copies_at, shown_at
from .base import Refused, SceneEdit, free_name, layer_of, with_node
from .deleting import without_links_to
from .layers import taken_names
from .new_gauge import array_of
from .renumber import renumbered

CLOSE = 0.25
"""How far keys may stray from the motion that they stand for, in the value's own unit, if nothing else is told."""
_A_LAYER = 50
"""Frames whose keys take as long as a layer itself."""
_MANY = 12_000
"""Keys, at one for each frame, from which on it lasts longer than a person should wait."""
_COLOUR = 0.016
"""How far colours may stray, for one unit of it."""


class TakeApart(SceneEdit):
    """Make ordinary layers of an array's copies, in a group where the array was: as they stand at `frame`, or with
    their motion baked to keys. Gauges and the pattern's chains are gone then; what followed them rests."""

    kind: Literal["take apart"] = "take apart"
    array: str
    way: Literal["still", "baked"] = "still"
    frame: Frame = 0.0
    tolerance: Finite = Field(
        default=CLOSE,
        ge=0,
        le=1e6,
        description="How far baked keys may stray from the motion, in the value's own unit.",
    )

    def apply_to(self, scene: Scene) -> Scene:
        array = array_of(scene, self.array)
        if scene.index.arrays.get(self.array):
            raise Refused(f"{array.name} stands in another array: take that apart first.", self.array)
        if isinstance(array.arrangement, Emitter):
            raise Refused(f"The sparks of {array.name} come and go: there are no copies to keep as layers.", self.array)
        inner = [layer for layer, _, _ in walk(array.layers)]
        if any(isinstance(layer, ArrayLayer) for layer in inner):
            raise Refused(
                f"{array.name} holds another array: its copies differ inside. Take copies of it apart by hand.",
                self.array,
            )
        frames = self._frames(scene)
        sampler = Sampler(scene)
        copies = copies_at(sampler, self.array, frames)
        assert copies.elements is not None
        many = len(copies.elements)
        if len(scene.index.layers) + many * (len(inner) + 1) > MOST_LAYERS_IN_SCENE:
            raise Refused(
                f"{array.name} would become {many * (len(inner) + 1):,} layers; a scene has at most "
                f"{MOST_LAYERS_IN_SCENE:,}.",
                self.array,
            )
        made = _Copies(scene, sampler, array, copies, frames, self.tolerance)
        groups = []
        for k in range(many):
            reached(k / many)
            groups.append(made.copy(k))
        gone = {
            p.id for p in scene.index.parameters.values() if p.top == self.array or p.top in {la.id for la in inner}
        }
        kept = scene.index.with_settings(f"{self.array}.{name}" for name in specs_of(Group))
        scene = without_links_to(scene, (gone | set(scene.index.known)) - kept, self.frame)
        old = array_of(scene, self.array)
        fields: dict[str, Any] = {name: getattr(old, name) for name in BaseLayer.model_fields if name != "kind"}
        taken = taken_names(scene)
        named = []
        for group in groups:
            name = free_name(group.name, taken)
            taken.append(name)
            named.append(group.changed(name=name))
        whole: Any = tuple(named)
        return with_node(scene, self.array, Group(**fields, by_depth=old.by_depth, layers=whole))

    def lasts(self, project: Project) -> bool:
        scene = project.scene(self.scene)
        layer = scene.index.layers.get(self.array) if scene else None
        if scene is None or not isinstance(layer, ArrayLayer):
            return False
        frames = 1 if self.way == "still" else scene.length
        return resting_count(layer) * (1 + sum(1 for _ in walk(layer.layers))) * (_A_LAYER + frames) > _MANY

    def doing(self, project: Project) -> str:
        return f"Taking {layer_of(self.found(project), self.array).name} apart"

    def _frames(self, scene: Scene) -> SampleTimes:
        if self.way == "still":
            return SampleTimes.frames(scene.fps, self.frame, self.frame + 1)
        return SampleTimes.frames(scene.fps, 0, scene.length)

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.array).name} taken apart"


class _Copies:
    """The copies of an array as groups of ordinary layers."""

    def __init__(
        self, scene: Scene, sampler: Sampler, array: ArrayLayer, copies: SampleTimes, frames: SampleTimes, close: float
    ) -> None:
        self._scene, self._sampler, self._array, self._close = scene, sampler, array, close
        self._count = frames.shape[1]
        self._inside = shown_at(sampler, array.id, copies)
        at = array.id
        place, facing = (sampler.evaluate(f"{at}.{name}", copies) for name in ("place", "facing"))
        moved, turned, scale, opacity, depth, tilt = (
            sampler.evaluate(f"{at}.copy_{name}", copies)
            for name in ("position", "rotation", "scale", "opacity", "depth", "tilt")
        )
        number = np.arange(len(copies.elements or ()))[:, None]
        there = number < sampler.evaluate(f"{at}.n", copies)[..., 0]
        self._own = {
            "position": place + moved,
            "rotation": facing + turned,
            "scale": scale,
            "depth": depth + sampler.evaluate(f"{at}.z", copies),
            "tilt": tilt,
            "opacity": np.where(there[..., None], opacity, 0.0),
        }
        self._specs = specs_of(BaseLayer)
        index = scene.index
        self._moving = {
            parameter: sampler.evaluate(parameter, self._inside)
            for layer, _, _ in walk(array.layers)
            for parameter in parameters_of(layer)
            if index.parameters[parameter].parameter.moves and index.parameters[parameter].spec.kind != "text"
        }

    def copy(self, number: int) -> Group:
        """One copy as a group, which lies where the copy does."""
        fields = {name: self._parameter(values, number, self._specs[name]) for name, values in self._own.items()}
        layers: Any = tuple(self._still(layer, number) for layer in self._array.layers)
        group = Group(
            id="copy",
            name=f"{self._array.layers[0].name} {number}" if layers else f"Copy {number}",
            layers=layers,
            **fields,
        )
        made: Group = renumbered(group, f"{self._array.id} {number}", new_seeds=False)
        return made

    def _still(self, layer: BaseLayer, number: int) -> BaseLayer:
        """A layer of the pattern with what it is in one copy, without chains."""
        for inner, route, _ in walk((layer,)):
            for parameter in parameters_of(inner):
                node = self._scene.index.parameters[parameter]
                if not node.parameter.moves:
                    continue
                if node.spec.kind == "text":
                    own = self._text(parameter, number)
                else:
                    own = self._parameter(self._moving[parameter], number, node.spec)
                layer = with_route((layer,), (*route, *node.route), own)[0]
        return layer

    def _parameter(self, values: Values, number: int, spec: ParameterSpec) -> Parameter:
        rows: NDArray[np.float64] = values[number if values.shape[0] > 1 else 0]
        if spec.stepped:
            rows = np.rint(rows)
        first = _value(rows[0], spec)
        if rows.shape[0] == 1 or bool((rows == rows[0]).all()):
            return Parameter(rest=first)
        spots: list[tuple[int, Ease]]
        if spec.stepped:
            changes = [0, *(int(k) + 1 for k in np.flatnonzero((rows[1:] != rows[:-1]).any(axis=1)))]
            spots = [(k, "hold") for k in changes]
        else:
            spots = fitted(rows, self._close * (_COLOUR if spec.kind == "colour" else 1.0))
        return Parameter(
            rest=first,
            keys=tuple(Key.of_fields(frame=float(k), value=_value(rows[k], spec), ease=ease) for k, ease in spots),
        )

    def _text(self, parameter: str, number: int) -> Parameter:
        words, which = self._sampler.texts(parameter, self._inside.one(number))
        rows = np.broadcast_to(which, (self._count,))
        changes = [0, *(int(k) + 1 for k in np.flatnonzero(rows[1:] != rows[:-1]))]
        if len(changes) == 1:
            return Parameter(rest=words[rows[0]])
        return Parameter(
            rest=words[rows[0]], keys=tuple(Key(frame=k, value=words[rows[k]], ease="hold") for k in changes)
        )


def _value(row: NDArray[np.float64], spec: ParameterSpec) -> Value:
    return value_of(tuple(float(v) for v in row), spec)
