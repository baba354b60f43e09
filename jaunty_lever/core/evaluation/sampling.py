"""What whoever works out the values of a scene can be asked: all that the parts of the evaluation know of it, and of
one another."""

from collections.abc import Callable, Hashable, Iterable, Sequence
from typing import Any, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from ..document.index import SceneIndex
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.protocols import Values
from ..document.references import Taken
from ..document.scene import Scene
from ..motion.easing import KeyTable
from .axes import AxesOfScene
from .cache import Fault
from .plan import Plan
from .sample_times import SampleTimes
from .steps import Line, Step
from .turning import Turning

Result = TypeVar("Result")


class Sampling(Protocol):
    """One scene at work: its values, and what is known of them. See `Sampler`, which is one."""

    scene: Scene
    index: SceneIndex
    plan: Plan
    axes: AxesOfScene
    turning: Turning
    reach: float
    faults: dict[tuple[str, str], Fault]
    memory: dict[Hashable, Any]
    """What its parts keep for as long as it works: each under a name of its own."""

    def evaluate(self, parameter: str, samples: SampleTimes) -> Values:
        """The parameter at some samples: (elements or 1, times or 1, components). Raises KeyError for an unknown id."""
        ...

    def line(self, parameter: str) -> Line:
        """The steps that lead to a parameter, or to something that copies know. Raises KeyError for an unknown id."""
        ...

    def output(self, line: Line, count: int, samples: SampleTimes, remember: bool = True) -> Values:
        """What the first `count` modifiers of a chain give."""
        ...

    def track(self, parameter: str, samples: SampleTimes) -> Values:
        """The parameter as (times or 1, components); of copies, the first."""
        ...

    def of_first(self, parameter: str, samples: SampleTimes) -> SampleTimes:
        """Samples of the scene as those of a parameter's first copy, where it stands in an array."""
        ...

    def texts(self, parameter: str, samples: SampleTimes) -> tuple[tuple[str, ...], NDArray[np.int64]]:
        """A text parameter's distinct texts, and which of them stands in each row of the samples (rows,) or (1,)."""
        ...

    def taken(self, parameter: str, way: Taken, samples: SampleTimes, shared: int) -> Values:
        """A value of many copies as one number for each element of the outermost `shared` arrays."""
        ...

    def brought(self, array: str, samples: SampleTimes, before: str | None = None) -> Values:
        """How much nearer copies are brought by the pushes of their position, or by those that stand before one of
        them, px."""
        ...

    def pieces(self, line: Line, position: int, samples: SampleTimes) -> NDArray[np.int64] | None:
        """On which piece of what the modifier at `position` gives each sample lies, (n, any number); None: all one."""
        ...

    def table(self, node: ParameterNode) -> KeyTable | None:
        """The keys of a parameter that has two or more."""
        ...

    def node(self, parameter: str) -> ParameterNode | None:
        """A parameter of the scene, or something that copies know, by id."""
        ...

    def key(self, parameter: str) -> bytes:
        """The hash of everything that decides a parameter's values."""
        ...

    def joined(self, parameters: Sequence[str], what: str = "") -> bytes:
        """The hash of everything that decides several parameters, and of what is made of them."""
        ...

    def remembered(self, key: Hashable, work: Callable[[], Result], size: Callable[[Result], int]) -> Result:
        """`work()`, or what is remembered of it; the faults found on the way are remembered with it."""
        ...

    def note(self, fault: Fault) -> None:
        """Something that makes no sense, besides what modifiers tell."""
        ...

    def note_all(self, faults: Iterable[Fault]) -> None:
        """Faults that were found on the way; the earliest of each kind is kept."""
        ...


class AtWork(Protocol):
    """A modifier at work; see `ModifierContext`, which is one."""

    sampler: Sampling
    line: Line
    step: Step
    node: ParameterNode
    modifier: Modifier
    samples: SampleTimes

    def number(self, name: str) -> Values:
        """A setting, in rows."""
        ...

    def whole(self, name: str) -> int:
        """A setting that is a whole number, as it is at first."""
        ...

    def switch(self, name: str) -> bool:
        """A setting that is on or off, as it is at first."""
        ...
