"""Steering: what a new Steer is made of, and what is left of one when what leads it goes."""

from typing import Any, Literal

import numpy as np

from ..document.keys import Value
from ..document.modifier import Modifier
from ..document.nodes import ModifierNode, ParameterNode
from ..document.parameter import Parameter
from ..document.references import bare
from ..document.scene import Scene
from ..document.specs import ParameterSpec, components, specs_of, value_of
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..formula.quantity import Unreadable, read_number
from ..motion import Adjust, Cam, Steer
from ..motion.cam import hump
from ..motion.fits import offered
from ..motion.steer import LED_BY
from .base import Refused

Steering = Literal["towards", "by", "times", "plays"]


def read_value(text: str, spec: ParameterSpec, fps: float, at: ParameterNode) -> Value:
    """A value of a spec as it is typed: one number for all components, or as many as there are, with commas between.
    Raises Refused."""
    try:
        if spec.kind == "colour":
            components(text.strip(), spec)
            return text.strip()
        parts = [part for part in text.replace(";", ",").split(",") if part.strip()]
        numbers = tuple(read_number(part, spec, fps) for part in parts)
    except (Unreadable, ValueError) as error:
        raise Refused(f"{at.label}: {str(error).rstrip('.')}.", at.id) from None
    if len(numbers) == 1:
        numbers *= spec.components
    if len(numbers) != spec.components:
        raise Refused(f"{at.label} has {spec.components} numbers: write them with a comma between.", at.id)
    return value_of(numbers, spec)


def steered(
    node: ParameterNode,
    listen: dict[str, Any],
    steers: Steering,
    goal: str,
    ends: tuple[float, float],
    more: float,
    fps: float,
) -> tuple[Modifier, ...]:
    """A Steer for a value, or the Cams that it plays; `goal` is typed, `more` is added to each of its numbers. Raises
    Refused."""
    if steers == "plays":
        return _cams(node, listen, goal, ends, more, fps)
    name = LED_BY[steers]
    spec = specs_of(Steer)[name].fitted(node.spec)
    value = read_value(goal, spec, fps, node)
    if more and not isinstance(value, str):
        value = value_of(tuple(number + more for number in components(value, spec)), spec)
    low, high = ends
    given = {"way": steers, name: value, "low": low, "high": high}
    return (Steer(**listen, **{field: Parameter(rest=rest) for field, rest in given.items()}),)


def _cams(
    node: ParameterNode, listen: dict[str, Any], goal: str, ends: tuple[float, float], more: float, fps: float
) -> tuple[Modifier, ...]:
    """A Cam for each component that is led, up to what is typed and back."""
    if not offered(Cam, node.spec):
        raise Refused(f"“{node.label}” is no number that a cam could lead.", node.id)
    spec = specs_of(Steer)["amount"].fitted(node.spec)
    heights = tuple(number + more for number in components(read_value(goal, spec, fps, node), spec))
    low, high = (Parameter(rest=end) for end in ends)
    many = len(heights)
    if len(set(heights)) == 1:
        # All of them alike: one is enough.
        led: list[tuple[int, Value]] = [(0, 1.0)]
    else:
        led = [(k, tuple(float(j == k) for j in range(many))) for k, height in enumerate(heights) if height]
    return tuple(
        Cam(
            **listen | {"id": f"{listen['id'][:36]}-c{k}" if n else listen["id"]},
            profile=hump(heights[k]),
            low=low,
            high=high,
            weights=Parameter(rest=share),
        )
        for n, (k, share) in enumerate(led)
    )


def settled(scene: Scene, node: ParameterNode, found: ModifierNode, frame: float) -> tuple[Modifier, ...]:
    """What does from now on what a Steer or a Cam does at a frame, without listening to anybody; nothing where it does
    nothing,
    and for a colour, whose mixture no other modifier makes. Of many copies the first decides."""
    steer = found.modifier
    assert isinstance(steer, Steer | Cam)
    driver = scene.index.target(scene.index.heard(node, steer.driver))
    if driver is None or node.spec.kind == "colour":
        return ()
    sampler, now = Sampler(scene), SampleTimes(np.array([frame / scene.fps]))

    def at(name: str) -> tuple[float, ...]:
        return tuple(float(v) for v in sampler.track(f"{steer.id}.{name}", now)[0])

    heard = sampler.track(bare(driver.id), now)[0]
    (low,), (high,) = at("low"), at("high")
    led = (float(heard[min(steer.component or 0, len(heard) - 1)]) - low) / ((high - low) or 1.0)
    kept = {name: getattr(steer, name) for name in ("strength", "weights", "windows", "bypassed")}
    if isinstance(steer, Cam):
        played = float(steer.played(np.clip(np.array([[led]]), 0.0, 1.0), node.spec)[0, 0]) if steer.profile.keys else 0
        level = Parameter(rest=value_of((float(played),) * node.spec.components, node.spec))
        return (Adjust(id=steer.id, plus=level, **kept),) if played else ()
    if at("stop")[0]:
        led = min(max(led, 0.0), 1.0)
    way = specs_of(Steer)["way"].options[round(at("way")[0])]
    meant = at(LED_BY[way])
    if not led:
        return ()
    if way != "times":
        plus = Parameter(rest=value_of(tuple(led * number for number in meant), node.spec))
        times = Parameter(rest=1.0 - led if way == "towards" else 1.0)
        return (Adjust(id=steer.id, times=times, plus=plus, **kept),)
    factors = [1.0 + led * (number - 1.0) for number in meant]
    if len(set(factors)) == 1:
        return (Adjust(id=steer.id, times=Parameter(rest=factors[0]), **kept),)
    shares = components(steer.weights.rest, specs_of(Steer)["weights"].fitted(node.spec))
    return tuple(
        Adjust(
            id=steer.id if k == 0 else f"{steer.id[:36]}-{k}",
            times=Parameter(rest=factor),
            **kept | {"weights": Parameter(rest=tuple(s if j == k else 0.0 for j, s in enumerate(shares)))},
        )
        for k, factor in enumerate(factors)
    )
