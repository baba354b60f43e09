"""What pushes of a position bring to the depth of the same copies."""

from typing import Any, ClassVar

from .axes import OVER_ELEMENTS, Axes
from .modifier import Modifier
from .periodicity import PeriodContext, Periodicity
from .protocols import Context, Signal, Values, Words


class Brought(Modifier):
    """How much nearer copies are brought by the pushes of their position whose zones have an end in depth.

    No part of a document: it stands behind the chain of the copy depth of an array, as long as such pushes are there.
    """

    title: ClassVar[str] = "Pushed"
    does: ClassVar[str] = "Zones that push the copy position bring copies nearer or further away, too."
    mixes_elements: ClassVar[bool] = True

    kind: str = "brought"
    array: str

    @classmethod
    def of(cls, array: str) -> "Brought":
        """That of an array."""
        return cls.model_construct(id=f"{array}-brought", array=array)

    def references(self) -> tuple[str, ...]:
        return (f"{self.array}.copy_position",)

    def axes(self, incoming: Axes, taken: Axes) -> Axes:
        return super().axes(incoming, taken) | OVER_ELEMENTS

    def apply(self, incoming: Signal, context: Context) -> Values:
        return incoming.values + context.brought()

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        made: Any = super().periodicity(incoming, context)
        return made if made is None or not made.drift else None

    def clause(self, words: Words) -> str:
        return "is brought nearer or further away by what pushes the copy position"
