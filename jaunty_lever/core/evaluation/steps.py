"""The steps that lead to a value: what is known of each modifier of a chain before any moment is asked for."""

from collections.abc import Iterator
from typing import Any, NamedTuple

from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.protocols import Values
from ..document.references import Taken
from ..document.specs import ParameterSpec, specs_of
from .resting import resting


class Ear(NamedTuple):
    """What a reference leads to: the id of a value (None: of nothing that is there), by which way many are taken as
    one, and its spec. `rests`: what is heard where no array could tell it; `alone`: one value is to be taken as one of
    many."""

    id: str | None
    way: Taken | None = None
    spec: ParameterSpec | None = None
    rests: Values | None = None
    alone: bool = False


class Step:
    """One modifier of a value: what it listens to, which of its settings move, and what has been worked out of those
    that rest.

    It belongs to a place in a scene's structure, not to one state of the scene: who is heard is told by id.
    """

    __slots__ = (
        "acts",
        "discrete",
        "ears",
        "full",
        "hears",
        "made",
        "modifier",
        "moving",
        "position",
        "specs",
        "still",
    )

    def __init__(self, modifier: Modifier, position: int, acts: bool, spec: ParameterSpec) -> None:
        self.modifier, self.position, self.acts = modifier, position, acts
        self.specs = specs_of(type(modifier))
        self.full: bool = modifier.full_strength
        #: Names of the settings that may change, and of those among them that go by whole states.
        self.moving: tuple[str, ...] = modifier.moving
        self.discrete: tuple[str, ...] = modifier.animated_discrete
        self.still = _resting_numbers(modifier, spec)
        self.ears: dict[str, Ear] = {}
        #: Ids of all that it listens to, and of what decides which copies it hears; None until that has been asked.
        self.hears: tuple[str, ...] | None = None
        #: What the modifier keeps of where it stands, such as its formula compiled.
        self.made: Any = None


class Line:
    """A value: what it begins with, and the steps that lead from there to what it gives, in the order in which they
    act."""

    __slots__ = ("begins", "count", "node", "rests", "steps")

    def __init__(self, node: ParameterNode, steps: tuple[Step, ...]) -> None:
        self.node, self.steps, self.count = node, steps, len(steps)
        own = node.parameter
        #: What its first step takes in at all times, (1, 1, components), where nothing moves that.
        self.begins: Values | None = resting(own, node.spec) if not own.keys and node.reads is None else None
        #: The same as what it gives, where it has no steps.
        self.rests: Values | None = None if steps else self.begins

    def acting(self, count: int | None = None) -> Iterator[Step]:
        """Those of the first `count` steps, or of all, that are not bypassed."""
        return (step for step in self.steps[:count] if step.acts)


def _resting_numbers(modifier: Modifier, spec: ParameterSpec) -> dict[Any, Any]:
    """The settings of a modifier that rest, on a parameter with a spec; remembered on the modifier, which never
    changes."""
    known: tuple[ParameterSpec, dict[Any, Any]] | None = modifier.__dict__.get("_still")
    if known is None or (known[0] is not spec and known[0] != spec):
        known = modifier.__dict__["_still"] = spec, {}
    return known[1]
