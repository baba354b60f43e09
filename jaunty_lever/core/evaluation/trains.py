"""Trains of wheels: what goes from the first driver to the last wheel, as exact fractions."""

from dataclasses import dataclass
from fractions import Fraction
from math import lcm

import numpy as np
from numpy.typing import NDArray

from ..document.index import SceneIndex
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.periodicity import as_fraction
from ..document.quantity import plain_number
from ..motion import Follow, Gear
from .sample_times import SampleTimes
from .sampler import Sampler

MOST_WHEELS = 500


@dataclass(frozen=True)
class Train:
    """Wheels by parameter, each with its turns for one turn of the first driver (which is among them, with 1)."""

    first: str
    wheels: dict[str, Fraction]

    @property
    def closes(self) -> int:
        """Turns of the first driver after which all wheels stand as at the start."""
        return lcm(*(turns.denominator for turns in self.wheels.values()))


def transmitted(modifier: Modifier) -> Fraction | None:
    """How many turns a link makes of one turn of its driver, when that is the same at all times."""
    if modifier.bypassed or not modifier.full_strength:
        return None
    if isinstance(modifier, Gear):
        return modifier.ratio
    if isinstance(modifier, Follow):
        times = modifier.times
        still = not (times.moves or modifier.delay.moves or modifier.speed.moves)
        if (
            still
            and modifier.speed.constant_value == 1
            and modifier.delay.constant_value == 0
            and modifier.blend.constant_value == "replace"
        ):
            return as_fraction(times.constant_value, () if times.keys else times.typed)
    return None


def _turned_by(node: ParameterNode) -> tuple[str, Fraction] | None:
    """The driver that turns a wheel, and the fraction; None for what is no wheel or turns by itself."""
    if node.spec.components != 1 or node.spec.stepped or node.parameter.bypassed:
        return None
    for modifier in node.parameter.chain:
        fraction = transmitted(modifier)
        if fraction is not None and getattr(modifier, "component", None) is None:
            return modifier.references()[0], fraction
    return None


def train_of(index: SceneIndex, parameter: str) -> Train | None:
    """The train that a wheel belongs to, with everything its first driver turns; None when no gear is in it."""
    first, seen = parameter, {parameter}
    while (above := _turned_by(index.parameters[first])) is not None and above[0] in index.parameters:
        if above[0] in seen:
            return None
        first = above[0]
        seen.add(first)
    wheels, waiting, geared = {first: Fraction(1)}, [first], False
    while waiting and len(wheels) < MOST_WHEELS:
        here = waiting.pop(0)
        for entry in index.followers.get(here, []):
            below = _turned_by(index.parameters[entry.parameter])
            if below is not None and below[0] == here and entry.parameter not in wheels:
                wheels[entry.parameter] = wheels[here] * below[1]
                waiting.append(entry.parameter)
                geared = geared or isinstance(entry.modifier, Gear)
    return Train(first, wheels) if geared and parameter in wheels else None


def steady_rate(sampler: Sampler, parameter: str) -> float | None:
    """How much a parameter gains each second, when it gains that at all times of the scene; else None."""
    scene = sampler.scene
    values = sampler.track(parameter, SampleTimes.frames(scene.fps, 0, scene.length))[:, 0]
    steps = np.diff(values)
    if len(steps) == 0 or not np.allclose(steps, steps[0], rtol=1e-6, atol=1e-9):
        return None
    return float((values[-1] - values[0]) / (len(values) - 1) * scene.fps)


def turns_a_minute(sampler: Sampler, parameter: str, samples: SampleTimes) -> NDArray[np.float64]:
    """How fast an angle turns, in turns a minute: (n or 1, 1), by a step of a thousandth of a second around each
    moment."""
    step = 5e-4
    before, after = (sampler.track(parameter, SampleTimes(samples.times + d)) for d in (-step, step))
    made: NDArray[np.float64] = (after - before)[:, :1] / (2 * step) / 6
    return made


def fraction_words(fraction: Fraction) -> str:
    """Such as `−2/5` or `3`."""
    sign = "−" if fraction < 0 else ""
    number = abs(fraction)
    return f"{sign}{number.numerator}/{number.denominator}" if number.denominator != 1 else f"{sign}{number.numerator}"


def told(sampler: Sampler, parameter: str) -> tuple[str, ...]:
    """What a train says at one of its wheels: its fraction, direction, and when it stands as at the start."""
    train = train_of(sampler.index, parameter)
    if train is None or train.first == parameter:
        return ()
    first = sampler.index.parameters[train.first].label.replace(" / ", " ")
    fraction = train.wheels[parameter]
    way = "the other way round" if fraction < 0 else "the same way round"
    turns = abs(fraction)
    made = [
        f"{fraction_words(fraction)} of {first}, {way}: "
        f"{turns.numerator} {_turns(turns.numerator)} for {turns.denominator} of the first."
    ]
    closes = train.closes
    when = f"All {len(train.wheels)} wheels stand as at the start after {closes:,} {_turns(closes)} of {first}"
    rate = steady_rate(sampler, train.first)
    if rate:
        when += f", {plain_number(closes * 360 / abs(rate), 2)} s"
    return (*made, f"{when}.")


def _turns(count: int) -> str:
    return "turn" if count == 1 else "turns"
