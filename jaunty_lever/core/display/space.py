"""Where something stands that lies in depth."""

from dataclasses import dataclass

from ..evaluation.depth import spread
from ..evaluation.elements import Elements
from ..geometry.outline import Floats


@dataclass(frozen=True)
class Space:
    """Where something stands: its way to the stage, the scene's lens, the flat matrix that comes nearest to both, and
    the light.

    (elements or 1, times or 1, …) at the samples of what stands in it.
    """

    solid: Floats
    lens: Floats
    flat: Floats
    light: Floats

    def within(self, elements: Elements) -> "Space":
        """The same, as the copies of an array inside it have it."""
        return Space(*(spread(one, elements) for one in (self.solid, self.lens, self.flat, self.light)))
