"""Push: move copies away from a zone, towards it, or around it."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from ..document.axes import OVER_ELEMENTS, Axes
from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec

PUSHES = ("away", "towards", "around")


class Push(Modifier):
    """Move copies away from a zone, towards it or around it, as far as they are near."""

    title: ClassVar[str] = "Push"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    stands: ClassVar[bool] = True
    does: ClassVar[str] = "A zone pushes copies away, draws them in, or leads them round."
    kinds: ClassVar[tuple[str, ...]] = ("vector",)
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + force · a(in) · dir, a the zone's nearness where the value leads to",
        "dir: away from the zone's centre, towards it, or around it; each axis times 1 − random · R(i, axis)",
        "walls: with a > 0, the result lies no further in than the zone's inner share",
    )
    faults: ClassVar[tuple[str, ...]] = ("The zone has been deleted.",)

    kind: Literal["push"] = "push"
    zone: str = Field(default="", description="The id of a zone, a gauge of the array.")
    force: Parameter = spec(60.0, "length", label="Force", help="How far, where the zone is 1.", step=1, main=True)
    way: Parameter = spec("away", "choice", label="Way", help="Which way they go.", options=PUSHES, main=True)
    random: Parameter = spec(
        0.0, "percentage", label="Random", help="Up to how much less far each copy goes.", low=0, high=100, step=5
    )
    seed: Parameter = spec(
        1.0, label="Seed", help="Another seed, other copies go less far.", low=1, high=99_999, step=1, whole=True
    )
    walls: Parameter = spec(False, "switch", label="Walls", help="Keeps copies out of the zone's inner part.")

    def references(self) -> tuple[str, ...]:
        names = (
            "centre",
            "size",
            "centre_depth",
            "size_depth",
            "angle",
            "shape",
            "inner",
            "edge",
            "x1",
            "y1",
            "x2",
            "y2",
            "backwards",
        )
        return tuple(f"{self.zone}.{name}" for name in names)

    def retargeted(self, table: dict[str, str]) -> "Push":
        return self.changed(zone=table.get(self.zone, self.zone))

    def axes(self, incoming: Axes, taken: Axes) -> Axes:
        return super().axes(incoming, taken) | OVER_ELEMENTS

    def apply(self, incoming: Signal, context: Context) -> Values:
        values = incoming.values
        made = context.pushed(values, self.zone, PUSHES.index(context.choice("way")))
        return values if made is None else made

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Push":
        return self.changed(seed=Parameter(rest=float(seed)))

    def fresh(self, new_id: str, seed: int) -> "Push":
        return self.changed(id=new_id, seed=self.seed.changed(rest=float(seed)))

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        return super().hidden_settings(spec) | (frozenset() if self.random.moves or self.random.rest else {"seed"})

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        made: Any = super().periodicity(incoming, context)
        return made if incoming is None or not incoming.drift else None

    def tie(self, words: Words) -> str:
        return f"{words.resting('way')} by {words.of('force')}"

    def clause(self, words: Words) -> str:
        way = {"away": "pushed away from", "towards": "drawn towards", "around": "led round"}[str(words.resting("way"))]
        walls = ", which it never enters" if words.resting("walls") else ""
        return f"is {way} {words.named(f'{self.zone}.centre').removesuffix(' centre')} by {words.of('force')}{walls}"
