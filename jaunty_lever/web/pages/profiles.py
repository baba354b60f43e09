"""Little curves over a passage of 0 to 100 %: what panels draw of them."""

from collections.abc import Sequence

from jaunty_lever.core.document.keys import EASES
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.specs import ParameterSpec, components

Point = tuple[float, float, str | list[float]]
"""Where, how much, and how it goes on from there: `hold`, or the control points of an ease."""

_HIGH = 25.0
"""How high the picture of a curve is, with a unit of room at its top."""


def points_of(profile: Parameter, spec: ParameterSpec) -> list[Point]:
    """The keys of a profile."""
    return [
        (
            key.frame,
            components(key.value, spec)[0],
            "hold" if key.ease == "hold" else list(EASES[key.ease] if isinstance(key.ease, str) else key.ease),
        )
        for key in profile.keys
    ]


def path_of(points: Sequence[Point]) -> str:
    """Such a curve as SVG path data, 100 wide; straight from 0 to 1 where there are no keys."""
    if not points:
        return f"M0 {_HIGH:g}L100 1"
    values = [value for _, value, _ in points]
    low, most = min(0.0, *values), max(0.0, *values)
    if most - low <= 1.5:
        # Shares of a whole: as high as the whole is.
        most = max(most, 1.0)

    def high(value: float) -> float:
        return _HIGH - (_HIGH - 1) * (value - low) / (most - low)

    told = [f"M0 {high(points[0][1]):.2f}H{points[0][0]:g}"]
    for (at, value, ease), (after, to, _) in zip(points, points[1:], strict=False):
        if isinstance(ease, str):
            told.append(f"H{after:g}V{high(to):.2f}")
            continue
        ways = [(at + (after - at) * ease[k], high(value + (to - value) * ease[k + 1])) for k in (0, 2)]
        told.append("C" + " ".join(f"{x:.2f} {y:.2f}" for x, y in (*ways, (after, high(to)))))
    return "".join([*told, "H100"])
