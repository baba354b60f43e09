"""What all modifiers share that listen to one other parameter."""

from typing import ClassVar, Self

import numpy as np
from pydantic import Field

from ..document.ids import retargeted
from ..document.modifier import Modifier
from ..document.protocols import Context, Values


class Linked(Modifier):
    """A modifier with a driver: another parameter, or a lever."""

    linked: ClassVar[bool] = True

    driver: str = Field(description="The id of the parameter that is listened to.")
    component: int | None = Field(default=None, ge=0, le=3, description="Only this component of the driver.")

    def references(self) -> tuple[str, ...]:
        return (self.driver,)

    def along(self, context: Context) -> Values:
        """Where the driver stands between the settings `low`, 0, and `high`, 1; beyond them too; (n or 1, 1)."""
        low, high = context.number("low"), context.number("high")
        given = context.driver(self.driver, self.component, context.times)[:, :1]
        if low.shape[0] == high.shape[0] == 1 and low[0, 0] == 0 and high[0, 0] == 1:
            return given
        made: Values = (given - low) / np.where(high == low, 1.0, high - low)
        return made

    def retargeted(self, table: dict[str, str]) -> Self:
        return self.changed(driver=retargeted(self.driver, table))
