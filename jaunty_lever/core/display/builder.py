"""Building nodes out of layers; what has not changed is found whole."""

from collections.abc import Callable, Iterator, Sequence
from hashlib import blake2b
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.index import parameters_of
from ..document.layers import BaseLayer, Group
from ..document.specs import specs_of
from ..evaluation.lettering import way_parameters
from ..evaluation.placing import placing, placing_parameters
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Result, Sampler
from .channels import Channel, channel
from .kinds import kind_of
from .laying import Lay, lay_of
from .node import DisplayNode
from .outlines import Variants


class Builder:
    """Makes the nodes of one scene at some samples."""

    def __init__(
        self, sampler: Sampler, samples: SampleTimes, lay: Lay | None = None, whole_lives: bool = False
    ) -> None:
        self.sampler, self.samples, self._lay = sampler, samples, lay
        #: Whether each spark of an emitter has a place of its own, all over the frames, rather than one while it lives.
        self.whole_lives = whole_lives

    def beside(self, samples: SampleTimes, copies: int = 0) -> "Builder":
        """A builder of the same scene at samples of an array's copies, of which there are at most so many in each copy of
        the array around it."""
        lay = lay_of(self.samples, self._lay, samples, copies, self.whole_lives)
        return Builder(self.sampler, samples, lay, self.whole_lives)

    def within(self, samples: SampleTimes) -> "Builder":
        """The same for an array's pattern: the same copies, each at a moment of its own."""
        return Builder(self.sampler, samples, self._lay, self.whole_lives)

    def laid(self, values: NDArray[np.float64], rests: bool = True) -> Channel:
        """A channel of values at the samples; `rests`: what is not there stays where it was."""
        return channel(values) if self._lay is None else self._lay.channel(values, rests)

    def remembered(self, what: str, parameters: Sequence[str], work: Callable[[], Result]) -> Result:
        """`work()`, remembered under everything upstream of the parameters it reads."""
        elements = self.samples.elements
        if self.samples.grid is None and elements is None:
            return work()
        whole = blake2b(what.encode(), digest_size=16)
        for parameter in parameters:
            whole.update(self.sampler.upstream.key(parameter))
        key = ("display", whole.digest(), self.samples.key, self._lay and self._lay.key)
        made: Result = self.sampler.remembered(key, work, _size)
        return made

    def channel(self, parameter: str, factor: float = 1.0) -> Channel:
        """The channel of a parameter, times a factor."""
        made: Channel = self.remembered(
            f"{factor}", [parameter], lambda: self.laid(self.sampler.evaluate(parameter, self.samples) * factor)
        )
        return made

    def node(self, layer: BaseLayer) -> DisplayNode:
        """The layer as it is drawn. What has not changed in a large scene is found at once, whole."""
        if isinstance(layer, Group):
            return self._made(layer)
        decides = [*parameters_of(layer), *way_parameters(self.sampler.index, layer)]
        return self.remembered(_written(layer), decides, lambda: self._made(layer))

    def _made(self, layer: BaseLayer) -> DisplayNode:
        own, place = placing_parameters(layer.id), lambda: self.laid(placing(self.sampler, layer.id, self.samples))
        matrix: Channel = self.remembered("matrix", own, place)
        opacity = self.channel(f"{layer.id}.opacity", 0.01)
        kind = kind_of(layer)
        channels, fixed, nodes = kind.parts(self, layer)
        return DisplayNode(kind.KIND, layer.id, {"matrix": matrix, "opacity": opacity, **channels}, fixed, nodes)


def _size(made: Any) -> int:
    return sum(one.rows.nbytes + 200 for one in _held(made))


def _held(made: Any) -> Iterator[Channel]:
    if isinstance(made, DisplayNode):
        for node in made.walk():
            yield from node.channels.values()
    elif isinstance(made, Variants):
        yield from (*made.points, made.which)
    elif isinstance(made, tuple):
        yield from made
    else:
        yield made


def _written(layer: BaseLayer) -> str:
    """What decides how a layer is drawn besides its parameters; remembered on the layer, which never changes."""
    known: str | None = layer.__dict__.get("_written")
    if known is None:
        apart = {*specs_of(type(layer)), "name", "hidden", "fill", "layers"}
        fields = [getattr(layer, name) for name in type(layer).model_fields if name not in apart]
        fill = getattr(layer, "fill", None)
        known = layer.__dict__["_written"] = f"layer {fields} {fill and fill.kind}"
    return known
