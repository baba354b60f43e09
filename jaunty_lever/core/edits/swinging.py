"""Swinging out of step: copies that go round at paces of their own, and are together again when the scene ends."""

from collections.abc import Iterable
from math import gcd
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.ids import Id, new_id
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.references import RANK, U
from ..document.scene import Scene
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.taking import inside
from ..motion import Figure, Follow, Rate, Round, Steer, Wave
from .base import Refused, SceneEdit, modifier_of, place_of, with_parameter

MOST_ROUNDS = 10_000
_PACE: dict[type[Modifier], str] = {Wave: "frequency", Figure: "speed", Rate: "rate"}


def _goes_round(modifier: Modifier, node: ParameterNode) -> bool:
    """Whether a modifier goes round: a rate does where what it makes go on is an angle."""
    return type(modifier) in _PACE and (not isinstance(modifier, Rate) or node.spec.kind == "angle")


def paced(scene: Scene, modifier: str) -> tuple[ParameterNode, float]:
    """What sets how fast a modifier goes round, and what of that is one round in the whole scene. Raises Refused where
    it does not go round, or where there are no copies."""
    found = modifier_of(scene, modifier)
    node = place_of(scene, found.parameter)
    if not _goes_round(found.modifier, node):
        raise Refused(f"{found.modifier.title} does not go round here: a Wave, a Figure or the Rate of an angle does.")
    if not scene.index.arrays_of(node):
        raise Refused(f"{node.label} stands in no array: it has no copies that could be out of step.", node.id)
    pace = place_of(scene, f"{modifier}.{_PACE[type(found.modifier)]}")
    return pace, (360.0 if isinstance(found.modifier, Rate) else 1.0) * scene.fps / scene.length


def paces_of(scene: Scene, modifier: str) -> list[float]:
    """How often each copy goes round in the scene at the pace with which it begins. Raises Refused."""
    pace, one = paced(scene, modifier)
    sampler = Sampler(scene)
    where = inside(sampler, pace.id, SampleTimes(np.zeros(1)))
    values = sampler.evaluate(pace.id, where)[:, 0, 0] / one
    # One number where all go at the same pace.
    return [float(value) for value in np.broadcast_to(values, (len(where.elements or values),))]


def rounds_of(scene: Scene, modifier: str) -> list[int]:
    """The same to whole rounds. Raises Refused."""
    return [round(pace) for pace in paces_of(scene, modifier)]


def swings(pace: Parameter) -> bool:
    """Whether a pace is one that goes from copy to copy by whole rounds, as it is made here, and stays so."""
    if pace.keys or any(one.bypassed or one.windows or one.moving for one in pace.chain):
        return False
    heard = [(type(one), one.references()) for one in pace.chain]
    return heard in ([(Steer, (U,)), (Round, ())], [(Follow, (RANK,))])


def begins_together(scene: Scene, node: ParameterNode, modifier: Modifier) -> bool:
    """Whether the copies of a value are in step as the scene begins: not where each lives later, or a wave lies along
    them."""
    layers = [] if node.each else [scene.index.layers[array] for array in scene.index.arrays_of(node)]
    apart = [getattr(layer, name, None) for layer in layers for name in ("later", "random_later")]
    apart.append(getattr(modifier, "along", None))
    return not any(one is not None and (one.moves or one.constant_value) for one in apart)


def meetings(scene: Scene, node: ParameterNode) -> list[float]:
    """The frames at which all copies of a value are together again that swing out of step; none where they do not, or
    where they no longer go round whole numbers of times, as in a scene that has another length now."""
    if not scene.index.arrays_of(node):
        return []
    for step in node.parameter.chain:
        if step.bypassed or not _goes_round(step, node) or not swings(getattr(step, _PACE[type(step)])):
            continue
        paces = paces_of(scene, step.id)
        if begins_together(scene, node, step) and all(abs(pace - round(pace)) < 1e-6 for pace in paces):
            return together(map(round, paces), scene.length)
    return []


def together(rounds: Iterable[int], length: int) -> list[float]:
    """The frames at which all are together again, the scene's end among them; none at all where they never part."""
    found = sorted(set(rounds))
    often = gcd(*(b - a for a, b in zip(found, found[1:], strict=False))) if len(found) > 1 else 0
    return [length * k / often for k in range(1, often + 1)]


class SwingOutOfStep(SceneEdit):
    """Let a Wave, a Figure or a turning Rate go round another number of times in the scene for each copy of its array,
    whole numbers along the order: from `least` to `most`, or from `least` on by `step`. All are together at the
    beginning, and again at the end."""

    kind: Literal["swing out of step"] = "swing out of step"
    modifier: str
    least: int = Field(ge=0, le=MOST_ROUNDS)
    most: int | None = Field(default=None, ge=1, le=MOST_ROUNDS)
    step: int | None = Field(default=None, ge=1, le=MOST_ROUNDS)
    id: Id = Field(default_factory=lambda: new_id("m"))

    def apply_to(self, scene: Scene) -> Scene:
        pace, one = paced(scene, self.modifier)
        if self.step is not None:
            by_rank = Follow(
                id=self.id, driver=RANK, times=Parameter(rest=self.step * one), blend=Parameter(rest="add")
            )
            return self._paced(scene, pace, self.least * one, (by_rank,))
        if self.most is None:
            raise Refused(
                "Give the most rounds that a copy makes, or by how many it makes more than the one before.", pace.id
            )
        if self.least >= self.most:
            told = f"From {self.least} to {self.most} rounds there is nothing to go apart: make the second larger."
            raise Refused(told, pace.id)
        spread = Steer(id=self.id, driver=U, target=Parameter(rest=self.most * one))
        whole = Round(id=f"{self.id[:38]}-w", step=Parameter(rest=one))
        return self._paced(scene, pace, self.least * one, (spread, whole))

    @staticmethod
    def _paced(scene: Scene, pace: ParameterNode, rest: float, chain: tuple[Modifier, ...]) -> Scene:
        return with_parameter(scene, pace.id, rest=rest, keys=(), chain=chain, typed=(), bypassed=False)

    def label_in(self, scene: Scene) -> str:
        found = modifier_of(scene, self.modifier)
        title = place_of(scene, found.parameter).title
        numbers = f"{self.least} to {self.most} rounds" if self.step is None else f"{self.step} rounds more"
        return f"{title}: {numbers} from copy to copy"
