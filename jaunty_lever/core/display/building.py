"""What a kind of node asks of whoever builds the list that it stands in, and what it has to tell itself."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Protocol, TypeVar

from numpy import float64
from numpy.typing import NDArray

from ..document.base_layer import BaseLayer
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .channels import Channel, ChannelSpec
from .node import COMMON, COMPOSITED, DisplayNode
from .space import Space

Result = TypeVar("Result")


class Building(Protocol):
    """The nodes of a scene in the making, at some samples; see `Builder`, which makes them."""

    sampler: Sampler
    samples: SampleTimes
    whole_lives: bool
    """Whether each spark of an emitter has a place of its own, all over the frames, rather than one while it lives."""
    deep: frozenset[str]
    """The layers that lie in depth."""

    @property
    def base(self) -> "Building":
        """The builder of what stands in no group: on the stage, or in the copy of an array."""
        ...

    @property
    def space(self) -> Space:
        """Where what is built stands in space."""
        ...

    def space_of(self, layer: str) -> Space:
        """Where a layer stands in space."""
        ...

    def inside(self, layer: str) -> "Building":
        """The builder of what lies in a group, at the same samples."""
        ...

    def beside(self, samples: SampleTimes, copies: int = 0) -> "Building":
        """A builder of the same scene at samples of an array's copies, of which there are at most so many."""
        ...

    def within(self, samples: SampleTimes, space: Callable[[], Space] | None = None) -> "Building":
        """The same for an array's pattern: the same copies, each at a moment of its own."""
        ...

    def outside(self, depth: int) -> "Building":
        """The builder of what stands in the outermost `depth` arrays only."""
        ...

    def laid(self, values: NDArray[float64], rests: bool = True) -> Channel:
        """A channel of values at the samples; `rests`: what is not there stays where it was."""
        ...

    def copies_placed(self, array: str) -> tuple[Channel, Channel]:
        """The channels of where the copies of an array lie in it: a b c d, and e f."""
        ...

    def remembered(self, what: str, parameters: Sequence[str], work: Callable[[], Result]) -> Result:
        """`work()`, remembered under everything upstream of the parameters it reads."""
        ...

    def channel(self, parameter: str, factor: float = 1.0) -> Channel:
        """The channel of a parameter, times a factor."""
        ...

    def matrix(self, layer: str) -> Channel:
        """The channel of where a layer lies in its parent."""
        ...

    def node(self, layer: BaseLayer) -> DisplayNode:
        """The layer as it is drawn."""
        ...


class NodeKind(Protocol):
    """What the file of a node kind holds: its name, which layers become such nodes, and what its channels mean."""

    KIND: str
    DRAWS: tuple[type[BaseLayer], ...]
    CHANNELS: Mapping[str, ChannelSpec]
    FIXED: Mapping[str, str]

    @staticmethod
    def parts(
        builder: Building, layer: Any
    ) -> tuple[Mapping[str, Channel], Mapping[str, Any], tuple[DisplayNode, ...]]:
        """Its channels besides the common ones, what never varies, and the nodes inside it."""
        ...


def described(kind: NodeKind, channel: str) -> ChannelSpec:
    """What a channel of a node means. Raises KeyError for one that its kind does not tell of."""
    return {**COMMON, **COMPOSITED, **kind.CHANNELS}[channel.partition(".")[0]]
