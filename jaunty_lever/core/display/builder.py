"""Building nodes out of layers; what has not changed is found whole."""

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.base_layer import BaseLayer
from ..document.layers import Group, ShapeLayer, TraceLayer
from ..document.node_tables import parameters_of
from ..document.space import Solid
from ..document.specs import specs_of
from ..evaluation.depth import in_depth, is_viewed
from ..evaluation.placing import copy_parts, placing
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Record, Result, Sampler
from ..evaluation.structure import placing_parameters, way_parameters
from ..geometry.matrices import copies_laid, shape_of
from . import depth
from .channels import Channel, channel, resting, side_by_side
from .compositing import composited, is_composited
from .kept import Reused
from .kinds import kind_of
from .laying import Lay, lay_of
from .node import DisplayNode
from .outlines import Variants
from .projecting import projected
from .space import Space

_NONE = np.zeros(0, dtype=np.int64)
_DEEP = (".depth", ".tilt")
"""The ends of parameters that decide nothing where no layer lies in depth."""


class Builder:
    """Makes the nodes of one scene at some samples."""

    def __init__(
        self,
        sampler: Sampler,
        samples: SampleTimes,
        lay: Lay | None = None,
        whole_lives: bool = False,
        parent: "Builder | None" = None,
        still: NDArray[np.float64] | None = None,
        space: Callable[[], Space] | None = None,
        base: "Builder | None" = None,
        reused: Reused | None = None,
    ) -> None:
        self._base, self._reused = base, reused
        self.sampler, self.samples, self._lay, self._parent = sampler, samples, lay, parent
        #: The second at which layers stand that do not blur, among moments of an exposure.
        self._still = still
        #: Whether each spark of an emitter has a place of its own, all over the frames, rather than one while it lives.
        self.whole_lives = whole_lives
        #: The layers that lie in depth.
        self.deep = in_depth(sampler.scene)
        self._space = space
        self._spaces: dict[str, tuple[Space, Record]] = {}

    @property
    def base(self) -> "Builder":
        """The builder of what stands in no group: on the stage, or in the copy of an array."""
        return self._base or self

    @property
    def space(self) -> Space:
        """Where what is built stands in space."""
        return self._stands("", lambda: depth.stage(self) if self._space is None else self._space())

    def space_of(self, layer: str) -> Space:
        """Where a layer stands in space."""

        def found() -> Space:
            one = self.sampler.index.layers[layer]
            away = self._space is None and not is_viewed(one)
            return depth.of_layer(self, one, depth.stage(self, viewed=False) if away else self.space)

        return self._stands(layer, found)

    def _stands(self, name: str, find: Callable[[], Space]) -> Space:
        known = self._spaces.get(name)
        if known is not None:
            self.sampler.heed(known[1].reads, ())
            return known[0]
        with self.sampler.recorded() as record:
            space = find()
        self._spaces[name] = space, record
        return space

    def inside(self, layer: str) -> "Builder":
        """The builder of what lies in a group, at the same samples."""
        if not self.deep:
            return self
        way = (self.whole_lives, self._parent, self._still)
        return Builder(
            self.sampler, self.samples, self._lay, *way, lambda: self.space_of(layer), self.base, self._reused
        )

    def _at_once(self, seconds: NDArray[np.float64]) -> "Builder":
        """The same, but with everything as it stands at other moments, one for each sample, in what stands where it
        does."""
        samples = SampleTimes(seconds)
        base = None if self.base is self else self.base._at_once(seconds)
        way = (self.whole_lives, self._parent, None)
        return Builder(self.sampler, samples, self._lay, *way, lambda: self.space, base)

    def beside(self, samples: SampleTimes, copies: int = 0) -> "Builder":
        """A builder of the same scene at samples of an array's copies, of which there are at most so many in each copy
        of the array around it."""
        lay = lay_of(self.samples, self._lay, samples, copies, self.whole_lives)
        return Builder(self.sampler, samples, lay, self.whole_lives, self)

    def within(self, samples: SampleTimes, space: Callable[[], Space] | None = None) -> "Builder":
        """The same for an array's pattern: the same copies, each at a moment of its own."""
        return Builder(self.sampler, samples, self._lay, self.whole_lives, self._parent, None, space)

    def outside(self, depth: int) -> "Builder":
        """The builder of what stands in the outermost `depth` arrays only."""
        here, deep = self, 0 if self.samples.elements is None else self.samples.elements.depth
        while deep > depth and here._parent is not None:
            here, deep = here._parent, deep - 1
        return here

    def laid(self, values: NDArray[np.float64], rests: bool = True) -> Channel:
        """A channel of values at the samples; `rests`: what is not there stays where it was."""
        return channel(values) if self._lay is None else self._lay.channel(values, rests)

    def copies_placed(self, array: str) -> tuple[Channel, Channel]:
        """The channels of where the copies of an array lie in it: a b c d, and e f."""
        parts = copy_parts(self.sampler, array, self.samples)
        many, each = shape_of(*parts)
        lay = self._lay if many > 1 else None
        if lay is not None:
            turned, moved = lay.empty(4), lay.empty(2)
            copies_laid(parts, lay.row, lay.place, turned, moved)
            return lay.filled(turned), lay.filled(moved)
        turned, moved = (np.empty((each, many, width), dtype=np.float32) for width in (4, 2))
        copies_laid(parts, _NONE, _NONE, turned, moved)
        return side_by_side(turned), side_by_side(moved)

    def remembered(self, what: str, parameters: Sequence[str], work: Callable[[], Result]) -> Result:
        """`work()`, remembered under everything upstream of the parameters it reads."""
        elements = self.samples.elements
        if self.samples.grid is None and elements is None:
            return work()
        key = ("display", self.sampler.joined(parameters, what), self.samples.key, self._lay and self._lay.key)
        made: Result = self.sampler.remembered(key, work, _size)
        return made

    def channel(self, parameter: str, factor: float = 1.0) -> Channel:
        """The channel of a parameter, times a factor."""
        line = self.sampler.line(parameter)
        if line.rests is not None and self._lay is None:
            return resting(line.node, self.sampler.evaluate(parameter, self.samples), factor)
        made: Channel = self.remembered(
            f"{factor}", [parameter], lambda: self.laid(self.sampler.evaluate(parameter, self.samples) * factor)
        )
        return made

    def node(self, layer: BaseLayer) -> DisplayNode:
        """The layer as it is drawn. What has not changed in a large scene is found at once, whole."""
        if self._still is not None and not layer.blurs and self.samples.elements is None:
            return self._at_once(self._still).node(layer)
        if self._reused is None:
            return self._node(layer)
        taken = self._reused.taken(layer.id)
        if taken is not None:
            return taken
        with self.sampler.recorded() as record:
            node = self._node(layer)
        return self._reused.made(layer.id, node, record)

    def _node(self, layer: BaseLayer) -> DisplayNode:
        if layer.id in self.deep:
            return self._made(layer)
        if isinstance(layer, Group) or layer.matte is not None:
            return self._made(layer)
        if isinstance(layer, TraceLayer):
            # Its lines are worked out once; the rest is little.
            return self._made(layer)
        decides = [one for one in parameters_of(layer) if not one.endswith(_DEEP)]
        decides += way_parameters(self.sampler.index, layer)
        return self.remembered(_written(layer), decides, lambda: self._made(layer))

    def _made(self, layer: BaseLayer) -> DisplayNode:
        opacity, kind = self.channel(f"{layer.id}.opacity", 0.01), kind_of(layer)
        channels, fixed, nodes = kind.parts(self, layer)
        if layer.id in self.deep:
            channels, fixed = self._bent(layer, kind.KIND, dict(channels), dict(fixed))
        own = {"matrix": self.matrix(layer.id), "opacity": opacity, **channels}
        if not is_composited(layer):
            return DisplayNode(kind.KIND, layer.id, own, fixed, nodes)
        more, told, matte = composited(self, layer)
        return DisplayNode(kind.KIND, layer.id, own | more, {**fixed, **told}, nodes, matte)

    def _bent(
        self, layer: BaseLayer, kind: str, channels: dict[str, Channel], fixed: dict[str, Any]
    ) -> tuple[dict[str, Channel], dict[str, Any]]:
        """What of a layer its matrix does not tell, where parts of it are nearer than others."""
        space = self.space_of(layer.id)
        if kind in ("group", "array", "trace") or isinstance(layer, Solid) or not depth.is_bent(space):
            return channels, fixed
        bend = self.laid(depth.plane(space))
        if kind != "shape":
            return {**channels, "plane": bend}, fixed
        names = {"points": "verbs", "line": "line_verbs"}
        verbs = {name: fixed[told] for name, told in names.items() if told in fixed}
        # What is a share of the outline is none of what is seen of it.
        channels.pop("part", None)
        channels, cut = projected(channels, verbs, bend, depth.size_of(space))
        return channels, {**fixed, **{names[name]: some for name, some in cut.items()}}

    def matrix(self, layer: str) -> Channel:
        """The channel of where a layer lies in its parent."""
        if layer in self.deep:
            return self.laid(depth.matrix(self.space_of(layer), self.space))
        made: Channel = self.remembered(
            "matrix", placing_parameters(layer), lambda: self.laid(placing(self.sampler, layer, self.samples))
        )
        return made


def _size(made: Any) -> int:
    return sum(one.rows.nbytes + 200 for one in _held(made))


def _held(made: Any) -> Iterator[Channel]:
    if isinstance(made, DisplayNode):
        for node in made.walk():
            yield from node.channels.values()
    elif isinstance(made, Variants):
        yield from (*made.points, made.which)
    elif made is None:
        return
    elif isinstance(made, tuple):
        for part in made:
            yield from _held(part)
    else:
        yield made


def _written(layer: BaseLayer) -> str:
    """What decides how a layer is drawn besides its parameters; remembered on the layer, which never changes."""
    known: str | None = layer.__dict__.get("_written")
    if known is None:
        apart = {*specs_of(type(layer)), "name", "hidden", "fill", "edge", "line", "layers", "filters", "matte"}
        fields = [getattr(layer, name) for name in type(layer).model_fields if name not in apart]
        fill = getattr(layer, "fill", None)
        edge = getattr(layer, "edge", None)
        parted = isinstance(layer, ShapeLayer) and layer.line is not None
        filters = [(one.kind, one.bypassed) for one in layer.filters]
        known = f"layer {fields} {fill and fill.kind} {edge and len(edge.stops)} {parted} {filters}"
        layer.__dict__["_written"] = known
    return known
