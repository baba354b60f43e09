"""Push: move copies away from a zone, towards it, or around it."""

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..document.axes import OVER_ELEMENTS, Axes
from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.specs import ParameterSpec

PUSHES = ("away", "towards", "around")


class Push(Modifier):
    """Move copies away from a zone, towards it or around it, as far as they are near."""

    title: ClassVar[str] = "Push"
    called: ClassVar[str] = "repel attract magnet collide avoid field swirl wind"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    stands: ClassVar[bool] = True
    does: ClassVar[str] = "A zone pushes copies away, draws them in, or leads them round."
    kinds: ClassVar[tuple[str, ...]] = ("vector", "number")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + force · a(in) · dir, a the zone's nearness where the value leads to",
        "dir: away from the zone's centre, towards it, or around it; each axis times 1 − random · R(i, axis)",
        "of a hollow zone: away from its ring, and of what is drawn: from the nearest point of its line",
        "walls: with a > 0, the result lies no further in than the zone's inner share",
        "of a zone with an end in depth dir has three parts: a position passes the third on to the copy depth",
        "on a depth: the third part alone; of a zone that goes on for ever in depth, nearer (away) or further "
        "away (towards)",
    )
    faults: ClassVar[tuple[str, ...]] = ("The zone has been deleted.",)

    kind: Literal["push"] = "push"
    zone: str = Field(default="", description="The id of a zone, a gauge of the array.")
    force: Parameter = spec(60.0, "length", label="Force", help="How far, where the zone is 1.", step=1, main=True)
    way: Parameter = spec("away", "choice", label="Way", help="Which way they go.", options=PUSHES, main=True)
    random: Parameter = spec(
        0.0,
        "percentage",
        label="Random",
        help="Up to how much less far each copy goes, along each axis.",
        low=0,
        high=100,
        step=5,
        owner="weights",
    )
    random_depth: Parameter = spec(
        0.0,
        "percentage",
        label="Random in depth",
        help="The same for how much nearer or further away it goes.",
        low=0,
        high=100,
        step=5,
        deep=True,
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
            "turn",
            "shape",
            "inner",
            "hollow",
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
        hidden = super().hidden_settings(spec) | (frozenset({"random_depth"}) if spec.components == 1 else frozenset())
        chances = (self.random, self.random_depth)
        if any(own.moves or np.any(np.asarray(own.constant_value, dtype=np.float64)) for own in chances):
            return hidden
        return hidden | {"seed"}

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        made: Any = super().periodicity(incoming, context)
        return made if incoming is None or not incoming.drift else None

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        ends = seen.ends_in_depth(self.zone)
        if seen.spec.components > 1:
            return (Note("The zone ends in depth: the copy depth is pushed too."),) if ends else ()
        told = []
        if not seen.stands_moved():
            told.append(Note("Goes by the places of copies: their position goes by this depth."))
        if seen.choice("way") == "around" and not self.way.moves:
            told.append(Note("Around a zone nothing comes nearer: it moves nothing here.", warn=True))
        if not ends and seen.number("walls").any():
            told.append(Note("The zone goes on for ever in depth: give it a depth size for its walls.", warn=True))
        return tuple(told)

    def tie(self, words: Words) -> str:
        return f"{words.resting('way')} by {words.of('force')}"

    def clause(self, words: Words) -> str:
        way = {"away": "pushed away from", "towards": "drawn towards", "around": "led round"}[str(words.resting("way"))]
        walls = ", which it never enters" if words.resting("walls") else ""
        return f"is {way} {words.named(f'{self.zone}.centre').removesuffix(' centre')} by {words.of('force')}{walls}"
