"""Where things stand in a scene: its parameters, and the modifiers in their chains."""

from dataclasses import dataclass

from .gauge import Gauge
from .keys import Value
from .model import Route
from .modifier import Modifier
from .parameter import Parameter
from .specs import ParameterSpec


@dataclass(frozen=True)
class Reading:
    """What a value begins with that is read off each copy of an array: a gauge, or what the copy knows (its name). The
    points of an edge are the copies of its layer. `part`: which of a gauge's numbers."""

    array: str
    what: Gauge | str
    part: int = 0


@dataclass(frozen=True)
class ParameterNode:
    """Where a parameter stands.

    `trail` leads from its layer or lever to it, as (id, label) pairs; `within` is the parameter
    whose modifier it is a setting of, `modifier` that modifier's id, `unset` what it rests at when nobody has set it.
    `each`: whether it has a value for each copy of the array that it belongs to; `reads`: what its chain begins with
    instead of a resting value; `brought`: what acts on it behind its chain.
    """

    id: str
    parameter: Parameter
    spec: ParameterSpec
    route: Route
    trail: tuple[tuple[str, str], ...]
    top: str
    field: str
    within: str | None = None
    modifier: str | None = None
    unset: Value | None = None
    each: bool = False
    reads: Reading | None = None
    brought: tuple[Modifier, ...] = ()

    @property
    def made(self) -> Value:
        """What it rests at when nobody has set it."""
        return self.spec.default if self.unset is None else self.unset

    @property
    def stations(self) -> tuple[Modifier, ...]:
        """All that acts on it one after the other: its chain, and what is brought to it."""
        return self.parameter.chain + self.brought if self.brought else self.parameter.chain

    def acts(self, position: int) -> bool:
        """Whether what stands at a position is not bypassed."""
        chain = self.parameter.chain
        return position >= len(chain) or not (self.parameter.bypassed or chain[position].bypassed)

    @property
    def label(self) -> str:
        """Such as `Lantern 3 / opacity / Wiggle / amplitude`."""
        return " / ".join(label for _, label in self.trail)

    @property
    def title(self) -> str:
        """Where it stands as labels of edits say it, such as `Lantern 3: opacity`."""
        first, *rest = (label for _, label in self.trail)
        return f"{first}: {' '.join(rest)}" if rest else first


@dataclass(frozen=True)
class ModifierNode:
    """Where a modifier stands: in which parameter's chain, and at which position."""

    modifier: Modifier
    parameter: str
    position: int
