"""Where elements of an SVG are drawn, and shapes that become one layer because a drawing has too many."""

from dataclasses import dataclass, field

import skia

from .affine import Affine
from .shapes import MOST_LETTERS, Shape, started
from .styles import Style

MOST_JOINED = 500
_APART = 2.0
"""Pixels around a shape in which no other may lie that becomes one layer with it."""


@dataclass
class Place:
    """Where an element is drawn."""

    style: Style
    matrix: Affine
    """What could not become a layer's place, and is yet to be applied."""
    wide: float
    high: float
    """The size that shares are taken of."""
    em: float = 16.0
    depth: int = 0
    used: frozenset[str] = frozenset()
    cuts: bool = False
    """Whether what is drawn is what something else is cut by: all of it white, with no lines."""


@dataclass
class Joined:
    """Shapes that follow one another in the same dress, and lie apart: drawn as one they look the same."""

    shape: Shape
    place: Place
    name: str
    boxes: list[skia.Rect] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._add(self.shape.path)

    @property
    def told(self) -> str:
        return self.name if len(self.boxes) == 1 else f"{len(self.boxes)} shapes"

    def _add(self, path: skia.Path) -> None:
        around = path.getBounds()
        around.outset(_APART, _APART)
        self.boxes.append(around)

    def takes(self, shape: Shape, place: Place) -> bool:
        """Whether one more has joined."""
        style, around = place.style, shape.path.getBounds()
        fits = (
            style == self.place.style
            and place.matrix == self.place.matrix
            and len(self.boxes) < MOST_JOINED
            and not style.get("fill", "").startswith("url")
            and len(self.shape.data) + len(shape.data) < MOST_LETTERS
            and not any(skia.Rect.Intersects(around, other) for other in self.boxes)
        )
        if fits:
            path, one = self.shape.path, shape.path
            if style.get("fill-rule", "nonzero").strip() == "nonzero" and self.shape.data and shape.data:
                data = f"{self.shape.data} {started(shape.data)}"
            else:
                data = ""
            path.addPath(one)
            self.shape = Shape(path, data=data)
            self._add(one)
        return fits
