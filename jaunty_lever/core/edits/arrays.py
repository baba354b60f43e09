"""Edits of arrays: made of layers, taken apart again, their arrangement, their gauges, what follows a sweep."""

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.arrangement import ARRANGEMENTS, AlongPath, Emitter, Grid, Ground, Letters, Rails, Ring, Row, Scatter
from ..document.base_layer import BaseLayer
from ..document.ids import Id, Seed, new_id, new_seed
from ..document.index import walk
from ..document.keys import Frame
from ..document.layers import ArrayLayer, Text
from ..document.model import with_route
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.specs import components, specs_of
from ..evaluation.extent import extent_of
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..motion import Formula
from .base import Refused, SceneEdit, free_name, fresh_id, layer_of, with_node
from .deleting import without_links_to
from .fresh import upright
from .layers import lying_elsewhere, names_of, outermost, put, taken_names, taken_out
from .linking import is_tie
from .new_gauge import array_of


class RepeatLayers(SceneEdit):
    """Make an array of layers, which become its pattern; it stands where they stood, a row of copies to begin with."""

    kind: Literal["repeat layers"] = "repeat layers"
    layers: tuple[str, ...] = Field(min_length=1, max_length=2000)
    id: Id = Field(default_factory=lambda: new_id("array"))
    count: int = Field(default=9, ge=1, le=20_000)
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        outer = outermost(scene, self.layers)
        if len({scene.index.parents[layer] for layer in outer}) > 1:
            raise Refused("Only layers that lie in the same group can be repeated together.", self.layers[0])
        fresh_id(scene, self.id)
        parent, chosen = scene.index.parents[outer[0]], [layer_of(scene, layer) for layer in outer]
        top = scene.index.layer_routes[outer[-1]][-1]
        assert isinstance(top, int)
        middle = _middle(scene, chosen)
        wide = extent_of(Sampler(scene), outer, SampleTimes(np.array([self.frame / scene.fps])))
        # A row is as wide as the stage, but for a margin.
        across = wide[2] - wide[0] if wide else 72.0
        gap = max(10.0, round((0.92 * scene.width - across) / max(self.count - 1, 1)))
        high = max(10.0, round(1.25 * (wide[3] - wide[1]), -1)) if wide else 90.0
        name = chosen[0].name if len(chosen) == 1 else "Array"
        array = ArrayLayer(
            id=self.id,
            name=free_name(f"{name} array"[:120] if len(chosen) == 1 else name, taken_names(scene)),
            position=Parameter(rest=middle),
            arrangement=Row(
                count=Parameter(rest=float(self.count)),
                gap=Parameter(rest=(gap, 0.0)),
                span=Parameter(rest=(gap * (self.count - 1), high)),
            ),
            layers=tuple(_moved(layer, middle) for layer in chosen),
        )
        inside = {layer.id for layer, _, _ in walk(array.layers)}
        scene = _heard_as_first(scene, inside)
        array = array.changed(layers=tuple(_moved(layer_of(scene, layer), middle) for layer in outer))
        for layer in outer:
            scene = taken_out(scene, layer)
        return put(scene, array, parent, top - len(outer) + 1)

    def label_in(self, scene: Scene) -> str:
        return f"{names_of(scene, self.layers)} repeated"


class IntoLetters(SceneEdit):
    """Take a text apart: its letters, words or lines become the copies of an array, which takes over where the text
    lies, how it is turned, scaled and faded, with all that moves them."""

    kind: Literal["into letters"] = "into letters"
    layer: str
    by: Literal["letter", "word", "line"] = "letter"
    id: Id = Field(default_factory=lambda: new_id("array"))
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        text = layer_of(scene, self.layer)
        if not isinstance(text, Text):
            raise Refused(f"{text.name} is not a text.", self.layer)
        fresh_id(scene, self.id)
        parent, place = scene.index.parents[text.id], scene.index.layer_routes[text.id][-1]
        assert isinstance(place, int)
        moved = ("position", "rotation", "scale", "pivot", "opacity")
        # What followed where the text lies follows the array, which lies there now.
        table = {f"{text.id}.{name}": f"{self.id}.{name}" for name in moved}
        scene = _relinked(scene, lambda reference, _: table.get(reference))
        text = layer_of(scene, self.layer)
        assert isinstance(text, Text)
        own: dict[str, Any] = {name: getattr(text, name) for name in moved}
        bare = text.changed(**{name: Parameter(rest=specs_of(Text)[name].default) for name in moved})
        array = ArrayLayer(
            id=self.id,
            name=free_name(f"{text.name} {self.by}s"[:120], taken_names(scene)),
            arrangement=Letters(by=Parameter(rest=self.by)),
            layers=(bare,),
            **own,
        )
        scene = _heard_as_first(scene, {text.id})
        array = array.changed(layers=(layer_of(scene, text.id).changed(**{n: getattr(bare, n) for n in moved}),))
        return put(taken_out(scene, text.id), array, parent, place)

    def label_in(self, scene: Scene) -> str:
        return f"{layer_of(scene, self.layer).name} taken apart by {self.by}s"


def _middle(scene: Scene, layers: list[BaseLayer]) -> tuple[float, float]:
    """Where the array of some layers stands: where they stand together, unless a link decides where one of them
    does."""
    spots = []
    for layer in layers:
        own = layer.position
        if any(is_tie(modifier) and modifier.decides() for modifier in own.chain):
            return 0.0, 0.0
        spots.append(components(own.keys[0].value if own.keys else own.rest, specs_of(BaseLayer)["position"]))
    x, y = (sum(spot[k] for spot in spots) / len(spots) for k in (0, 1))
    return round(x, 3), round(y, 3)


def _moved(layer: BaseLayer, middle: tuple[float, float]) -> BaseLayer:
    """A layer as it lies about another origin."""
    return lying_elsewhere(layer, (-middle[0], -middle[1]))


def _heard_as_first(scene: Scene, inside: set[str]) -> Scene:
    """The scene in which links from outside to what becomes a pattern listen to its first copy."""

    def new(reference: str, follower: ParameterNode) -> str | None:
        target = scene.index.target(reference)
        within = target is not None and target.top in inside
        return f"{reference}@0" if within and follower.top not in inside else None

    return _relinked(scene, new)


def _relinked(scene: Scene, new: Callable[[str, ParameterNode], str | None]) -> Scene:
    """The scene with links to some values leading elsewhere: by what is listened to, and who does; None: as before."""
    for entry in list(scene.index.modifiers.values()):
        modifier, node = entry.modifier, scene.index.parameters[entry.parameter]
        table = {r: to for r in modifier.references() if (to := new(r, node)) is not None}
        if not table:
            continue
        route = (*scene.index.route(node), "chain", entry.position)
        if isinstance(modifier, Formula):
            text = modifier.text
            for reference, to in table.items():
                text = text.replace(f"$<{reference}>", f"$<{to}>")
            scene = with_route(scene, route, modifier.changed(text=text))
        elif getattr(modifier, "driver", None) in table:
            scene = with_route(scene, route, modifier.changed(driver=table[modifier.references()[0]]))
    return scene


class SetArrangement(SceneEdit):
    """Another arrangement for an array; the count and what else both have is kept."""

    kind: Literal["set arrangement"] = "set arrangement"
    array: str
    arrangement: str | None = None
    outline: str | None = Field(
        default=None, description="Along or inside which layer's outline; empty: the path data."
    )
    data: str | None = Field(default=None, max_length=100_000)
    other_outline: str | None = Field(default=None, description="The same for the other rail.")
    other_data: str | None = Field(default=None, max_length=100_000)
    frame: Frame = 0.0
    seed: Seed = Field(default_factory=new_seed)

    def apply_to(self, scene: Scene) -> Scene:
        layer = array_of(scene, self.array)
        if self.arrangement is not None and self.arrangement != layer.arrangement.kind:
            if self.arrangement not in ARRANGEMENTS:
                raise Refused(
                    f"There is no arrangement “{self.arrangement}”. There are: {', '.join(ARRANGEMENTS)}.", self.array
                )
            made = _arranged(layer, self.arrangement, self.seed, (float(scene.width), float(scene.height)))
            kept = {f"{layer.id}.arrangement.{name}" for name in specs_of(ARRANGEMENTS[self.arrangement])}
            gone = {f"{layer.id}.arrangement.{name}" for name in specs_of(type(layer.arrangement))} - kept
            scene = without_links_to(scene, scene.index.with_settings(gone), self.frame)
            layer = array_of(scene, self.array).changed(arrangement=made)
            if isinstance(made, Ground):
                # One stands behind the other: what is nearer hides what is further away.
                layer = layer.changed(by_depth=True, layers=tuple(upright(one) for one in layer.layers))
        kind = layer.arrangement
        updates: dict[str, Any] = {}
        if self.outline is not None:
            updates["outline"] = self.outline or None
        if self.data is not None:
            updates["data"] = self.data
        if self.other_outline is not None or self.other_data is not None:
            if not isinstance(kind, Rails):
                raise Refused(f"{layer.name} has no other rail: its copies do not stand between rails.", self.array)
            if self.other_outline is not None:
                updates["other_outline"] = self.other_outline or None
            if self.other_data is not None:
                updates["other_data"] = self.other_data
        if updates:
            if not isinstance(kind, AlongPath | Scatter | Emitter | Rails):
                raise Refused(f"Copies in a {type(kind).title.lower()} stand along no outline.", self.array)
            if isinstance(kind, Scatter):
                updates["shape"] = Parameter(rest="outline")
            layer = layer.changed(arrangement=kind.changed(**updates))
        return with_node(scene, self.array, layer)

    def label_in(self, scene: Scene) -> str:
        name = layer_of(scene, self.array).name
        if self.arrangement is None:
            return f"{name}: outline changed"
        return f"{name}: {getattr(ARRANGEMENTS.get(self.arrangement), 'title', self.arrangement).lower()}"


def _arranged(layer: ArrayLayer, kind: str, seed: int, stage: tuple[float, float]) -> Any:
    """A new arrangement with what the old one has in common with it, as many copies, and as wide and high, on a stage
    of a size."""
    old, cls = layer.arrangement, ARRANGEMENTS[kind]
    names = set(specs_of(cls)) & set(specs_of(type(old)))
    if Emitter in (cls, type(old)):
        # What has the same name is not the same: a size of a start, the start of an arc.
        names &= {"facing"}
    shared: dict[str, Any] = {name: getattr(old, name) for name in names}
    shared |= {
        name: getattr(old, name) for name in ("data", "outline") if hasattr(old, name) and name in cls.model_fields
    }
    if cls is Emitter:
        made: Any = cls(**shared)
        return made.changed(seed=Parameter(rest=float(seed)))
    many: int = 12
    if not isinstance(old, Emitter | Letters):
        many = _whole(old.columns) * _whole(old.rows) if isinstance(old, Grid | Ground) else _whole(old.count)
    if cls in (Grid, Ground) and not isinstance(old, Grid | Ground):
        columns = max(1, int(np.ceil(np.sqrt(many))))
        shared |= {
            "columns": Parameter(rest=float(columns)),
            "rows": Parameter(rest=float(max(1, round(many / columns)))),
        }
    elif isinstance(old, Grid | Ground) and "count" in specs_of(cls):
        shared["count"] = Parameter(rest=float(many))
    return cls(**shared | _as_wide(cls(**shared), old, stage))


_MOST_OF_STAGE = 0.8
"""How much of the stage a direction may take that the old arrangement did not have."""


def _as_wide(made: Any, old: Any, stage: tuple[float, float]) -> dict[str, Parameter]:
    """What makes an arrangement as wide and as high as another one was; nothing where that has no extent of its own.
    What moves stays as it is."""
    extent = _extent_of(old)
    if extent is None:
        return {}
    wide, high = extent
    longer = max(extent)
    # A row has but one direction: the other becomes as long, as far as there is room.
    both = (wide or min(longer, _MOST_OF_STAGE * stage[0]), high or min(longer, _MOST_OF_STAGE * stage[1]))
    wanted: dict[str, Any] = {}
    if isinstance(made, Row):
        span = (wide, 0.0) if wide else (0.0, high)
        steps = max(1, _whole(made.count) - 1)
        wanted = {"span": span, "gap": (span[0] / steps, span[1] / steps)}
    elif isinstance(made, Grid | Ground):
        across, down = max(1, _whole(made.columns) - 1), max(1, _whole(made.rows) - 1)
        wanted = {"span": both, "gap": (both[0] / across, both[1] / down)}
    elif isinstance(made, Ring):
        wanted = {"radius": min(longer, _MOST_OF_STAGE * min(stage)) / 2}
    elif isinstance(made, Scatter):
        wanted = {"area": both}
    return {name: Parameter(rest=value) for name, value in wanted.items() if not getattr(made, name).moves}


def _extent_of(kind: Any) -> tuple[float, float] | None:
    """How wide and how high copies stand, from the middle of the first to that of the last."""

    specs = specs_of(kind.__class__)

    def of(name: str) -> tuple[float, ...]:
        own = getattr(kind, name)
        return components(own.keys[0].value if own.keys else own.rest, specs[name])

    if isinstance(kind, Row | Grid | Ground):
        steps = (
            (_whole(kind.count) - 1,) * 2
            if isinstance(kind, Row)
            else (_whole(kind.columns) - 1, _whole(kind.rows) - 1)
        )
        by_gap = kind.fit.constant_value != "span"
        lengths = [abs(a) * (steps[k] if by_gap else 1) for k, a in enumerate(of("gap" if by_gap else "span"))]
        return (lengths[0], lengths[1]) if max(lengths) > 0 else None
    if isinstance(kind, Ring):
        return (2 * of("radius")[0],) * 2 if of("radius")[0] > 0 else None
    if isinstance(kind, Scatter) and kind.shape.constant_value != "outline":
        area = of("area")
        return (abs(area[0]), abs(area[1])) if max(map(abs, area)) > 0 else None
    return None


def _whole(count: Parameter) -> int:
    value = count.keys[0].value if count.keys else count.rest
    return round(value) if isinstance(value, int | float) else 1
