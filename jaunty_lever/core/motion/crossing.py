"""Crossing: where two lines meet."""

from typing import Any, ClassVar, Literal

import numpy as np

from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec

_END: dict[str, Any] = {"owner": "value", "step": 1, "main": True}
_FLAT = 1e-9
"""The sine of the angle below which two lines are parallel."""


class Crossing(Modifier):
    """The point where two lines meet, each through two points that may move by themselves."""

    title: ClassVar[str] = "Crossing"
    called: ClassVar[str] = "intersect meet lines where rods hinge"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "The point where two lines meet, each through two points."
    kinds: ClassVar[tuple[str, ...]] = ("vector",)
    formula: ClassVar[tuple[str, ...]] = (
        "out = a + t · (a′ − a), t = (b − a) × (b′ − b) / ((a′ − a) × (b′ − b)), × the cross product in the plane",
    )
    faults: ClassVar[tuple[str, ...]] = ("The lines are parallel: they meet nowhere.",)
    example: ClassVar[dict[str, Any]] = {
        "parameter": "position",
        "rest": [0, 0],
        "settings": {
            "a": [-90, -60],
            "a2": {"rest": [0, 0], "chain": [{"kind": "figure", "id": "round-a", "size": [50, 50], "speed": 0.5}]},
            "b": [90, -60],
            "b2": {"rest": [0, 20], "chain": [{"kind": "figure", "id": "round-b", "size": [40, 40], "speed": 0.4}]},
        },
    }

    kind: Literal["crossing"] = "crossing"
    a: Parameter = spec((-100.0, -100.0), label="First from", help="A point of the first line.", **_END)
    a2: Parameter = spec((100.0, 100.0), label="First to", help="Another point of it.", **_END)
    b: Parameter = spec((-100.0, 100.0), label="Second from", help="A point of the second line.", **_END)
    b2: Parameter = spec((100.0, -100.0), label="Second to", help="Another point of it.", **_END)

    def apply(self, incoming: Signal, context: Context) -> Values:
        a, a2, b, b2 = (context.number(name) for name in ("a", "a2", "b", "b2"))
        first, second, apart = a2 - a, b2 - b, b - a
        cross = _cross(first, second)
        sizes = np.hypot(first[:, 0], first[:, 1]) * np.hypot(second[:, 0], second[:, 1])
        flat = np.abs(cross) <= _FLAT * np.maximum(sizes, 1e-300)
        context.fault(flat, "The lines are parallel: they meet nowhere")
        share = _cross(apart, second) / np.where(flat, 1.0, cross)
        made: Values = a + share[:, None] * first
        return np.where(np.broadcast_to(flat, len(made))[:, None], 0.0, made)

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Crossing":
        if len(value) != 2:
            return self
        x, y = value
        ends = {"a": (x - 100, y - 100), "a2": (x + 100, y + 100), "b": (x - 100, y + 100), "b2": (x + 100, y - 100)}
        return self.changed(**{name: Parameter(rest=end) for name, end in ends.items()})

    def decides(self) -> bool:
        return True

    def tie(self, words: Words) -> str:
        return "where two lines cross"

    def clause(self, words: Words) -> str:
        first, second = (f"{words.of(name)} and {words.of(name + '2')}" for name in ("a", "b"))
        return f"is where the line through {first} crosses that through {second}"


def _cross(a: Values, b: Values) -> Values:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
