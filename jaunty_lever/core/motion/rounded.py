"""Round: to the nearest multiple of a step, or down, or up."""

from typing import Any, ClassVar, Literal

from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Signal, Values, Words
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.cyclic import whole_steps
from ..kernels.parallel import by_component, rows

_WAYS = ("nearest", "down", "up")


class Round(Modifier):
    """Take the value to a multiple of a step: whole seconds, quarter turns, a grid of pixels."""

    title: ClassVar[str] = "Round"
    called: ClassVar[str] = "snap grid step quantise whole round integer"
    purpose: ClassVar[str] = "shape it"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Jumps to whole steps: whole seconds, quarter turns, a grid."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = ("out = step × round(in / step), or with floor or ceil",)
    faults: ClassVar[tuple[str, ...]] = ("The step is not above 0.",)
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wave", "amplitude": 40, "frequency": 0.6}],
        "settings": {"step": 10},
    }

    compared: ClassVar[str] = "way"

    kind: Literal["round"] = "round"
    step: Parameter = spec(1.0, label="Step", help="The size of the steps.", owner="step", low=0, step=1, main=True)
    way: Parameter = spec(
        "nearest",
        "choice",
        label="Way",
        help="To the nearest step, always down, or always up.",
        options=_WAYS,
        main=True,
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        values, step = incoming.values, context.number("step")
        context.fault((step <= 0).any(axis=1), "The step is not above 0")
        count = rows(values, step)
        return by_component(_rounded, count, context.components, (values, step), _WAYS.index(context.choice("way")))

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        values, step = incoming.values, context.number("step")
        count = rows(values, step)
        way = _WAYS.index(context.choice("way"))
        # In steps of 1, the very number of the step.
        return (by_component(_numbered, count, context.components, (values, step), way),)

    def clause(self, words: Words) -> str:
        way = {"down": " down", "up": " up"}.get(str(words.resting("way")), "")
        return f"rounded{way} to steps of {words.of('step')}"


@kernel
def _rounded(first: int, last: int, values: Floats, step: Floats, way: int, out: Filled) -> None:
    sv, ss = values.size > 1, step.size > 1
    for i in range(first, last):
        size = step[i * ss]
        out[i] = whole_steps(values[i * sv] / size, way) * size if size > 0.0 else values[i * sv]


@kernel
def _numbered(first: int, last: int, values: Floats, step: Floats, way: int, out: Filled) -> None:
    sv, ss = values.size > 1, step.size > 1
    for i in range(first, last):
        size = step[i * ss]
        out[i] = whole_steps(values[i * sv] / size, way) if size > 0.0 else 0.0
