"""Cam: a little motion that is drawn, played as a lever or a gauge goes from one value to another."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.keys import Key
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, together
from ..document.protocols import Context, Signal, Values, Words
from ..document.quantity import plain_number
from ..document.specs import ParameterSpec, specs_of
from ..kernels.parallel import rows
from .easing import profile_of
from .linked import Linked
from .scale import tenth_of


class Cam(Linked):
    """A little motion that is drawn in the value's own unit, and played as a lever or gauge goes on. Several add up."""

    title: ClassVar[str] = "Cam"
    called: ClassVar[str] = "profile gesture curve drawn play passage envelope little motion hop kick gust add up"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("profile", "weights")
    does: ClassVar[str] = "Plays a little motion, drawn in px or degrees, as a lever or a gauge goes on."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector")
    takes_any: ClassVar[bool] = True
    formula: ClassVar[tuple[str, ...]] = (
        "g = (driver − from)/(to − from), within 0..1",
        "out = in + profile(g), in the value's own unit, to each component by its share",
    )
    faults: ClassVar[tuple[str, ...]] = ("From and to are the same.", "What it follows has been deleted.")
    example: ClassVar[dict[str, Any]] = {
        "driver": "ramp",
        "settings": {
            "profile": {
                "rest": 0,
                "keys": [
                    {"frame": 0, "value": 0, "ease": "ease-in-out"},
                    {"frame": 35, "value": 46, "ease": "ease-in-out"},
                    {"frame": 65, "value": -18, "ease": "ease-in-out"},
                    {"frame": 100, "value": 0},
                ],
            },
            "low": -40,
            "high": 40,
        },
    }

    kind: Literal["cam"] = "cam"
    profile: Parameter = spec(
        0.0,
        label="Profile",
        help="What is added while the driver goes from From to To: points over 0 to 100 % of that.",
        owner="span",
        step=1,
        passage=True,
    )
    low: Parameter = spec(0.0, label="From", help="Where the driver begins to play it.", step=0.05)
    high: Parameter = spec(1.0, label="To", help="Where the driver has played all of it.", step=0.05)

    def apply(self, incoming: Signal, context: Context) -> Values:
        context.fault((context.number("low") == context.number("high"))[:, 0], "From and to are the same")
        values = incoming.values
        if not self.profile.keys:
            return values
        played = self.played(np.clip(self.along(context), 0.0, 1.0), context.spec)
        return values + np.broadcast_to(played, (rows(played), context.components))

    def played(self, shares: Values, spec: ParameterSpec) -> Values:
        """What is added at shares 0..1 of the way, of their shape."""
        return profile_of(self.profile, specs_of(Cam)["profile"].fitted(spec))(shares)

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        led = np.clip(self.along(context), 0.0, 1.0) * 100
        return (np.searchsorted(np.array([key.frame for key in self.profile.keys]), led, side="right"),)

    def swings(self, incoming: float, at: Pace) -> float:
        return max(incoming, at.swings_of_driver(self.driver) * max(len(self.profile.keys), 1))

    def periodicity(self, incoming: Periodicity | None, at: PeriodContext) -> Periodicity | None:
        # Its keys stand along the way, not in time.
        return together(incoming, at.setting("low"), at.setting("high"), at.driver(self.driver))

    def clause(self, words: Words) -> str:
        name = words.named(self.driver, self.component)
        heights = [float(key.value) for key in self.profile.keys if isinstance(key.value, int | float)]
        if not heights:
            return f"plays nothing yet as {name} goes"
        low, high = min(heights), max(heights)
        return f"plays a cam of {plain_number(low)} to {plain_number(high)} as {name} goes"

    def tie(self, words: Words) -> str:
        return f"{words.named(self.driver, self.component)}: cam"

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        # It is shown as a curve.
        return super().hidden_settings(spec) | {"profile"}

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Cam":
        return self.changed(profile=hump(4 * tenth_of(spec)))


def hump(height: float) -> Parameter:
    """Up to a height and back, for what is new."""
    points = ((0, 0.0, "ease-in-out"), (40, height, "ease-in-out"), (100, 0.0, "ease-in-out"))
    keys = tuple(Key.model_validate({"frame": at, "value": value, "ease": ease}) for at, value, ease in points)
    return Parameter(rest=0.0, keys=keys)
