"""What all modifiers share that listen to one other parameter."""

from typing import ClassVar, Self

from pydantic import Field

from ..document.ids import retargeted
from ..document.modifier import Modifier


class Linked(Modifier):
    """A modifier with a driver: another parameter, or a lever."""

    linked: ClassVar[bool] = True

    driver: str = Field(description="The id of the parameter that is listened to.")
    component: int | None = Field(default=None, ge=0, le=3, description="Only this component of the driver.")

    def references(self) -> tuple[str, ...]:
        return (self.driver,)

    def retargeted(self, table: dict[str, str]) -> Self:
        return self.changed(driver=retargeted(self.driver, table))
