"""What is odd about links, levers and random motions: lockstep, still drivers, idle levers, values out of range."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from ..document.ids import new_id, new_seed
from ..document.modifier import Modifier
from ..document.notes import Mend
from ..document.quantity import first_of, with_unit
from ..document.specs import specs_of
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..motion import Wiggle
from ..ties import ties
from .check import Check


def checks(sampler: Sampler) -> Iterator[Check]:
    """All of them."""
    yield from lockstep(sampler)
    yield from still_drivers(sampler)
    yield from idle_levers(sampler)
    yield from out_of_range(sampler)


def _alike(modifier: Modifier) -> Any:
    """What makes two random motions look alike: their seed and everything that decides how they move."""
    return tuple(
        getattr(modifier, name).digest
        for name in specs_of(type(modifier))
        if name not in ("low", "high", "amplitude", "strength", "weights")
    )


def lockstep(sampler: Sampler) -> Iterator[Check]:
    """Random motions with one seed and one way of moving, on different parameters of the same kind."""
    index = sampler.index
    groups: dict[Any, list[tuple[str, Modifier]]] = {}
    for entry in index.modifiers.values():
        node = index.parameters[entry.parameter]
        if (
            isinstance(entry.modifier, Wiggle)
            and not entry.modifier.bypassed
            and not node.parameter.bypassed
            and node.within is None
        ):
            key = (node.field, node.spec.components, _alike(entry.modifier))
            groups.setdefault(key, []).append((entry.parameter, entry.modifier))
    for group in groups.values():
        if len(group) < 2:
            continue
        names = [index.parameters[parameter].label for parameter, _ in group]
        edits = tuple(
            {"kind": "set value", "parameter": f"{modifier.id}.seed", "value": new_seed(), "frame": 0}
            for _, modifier in group[1:]
        )
        yield Check(
            "lockstep",
            f"{first_of(names, 4)} wiggle in lockstep: they have the same seed.",
            group[1][0],
            0,
            (Mend("Give each a seed of its own", edits),),
        )


def still_drivers(sampler: Sampler) -> Iterator[Check]:
    """Links whose driver stands still over the whole scene. A lever may: it waits for a hand."""
    index, scene = sampler.index, sampler.scene
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    told: set[str] = set()
    for tie in ties(index):
        driver = index.parameters[tie.driver]
        if driver.top in index.levers or driver.id in told or tie.written or driver.spec.kind == "text":
            continue
        if sampler.axes.of(driver.id).elements:
            # It may stand still and yet have something else to say to each copy.
            continue
        if (
            sampler.track(driver.id, everywhere).shape[0] == 1
            or not np.ptp(sampler.track(driver.id, everywhere), axis=0).any()
        ):
            told.add(driver.id)
            followers = len(index.followers.get(driver.id, []))
            what = index.parameters[tie.follower].label if followers == 1 else f"{followers} values"
            yield Check(
                "still driver", f"{driver.label} drives {what}, but stands still over the whole scene.", driver.id
            )


def idle_levers(sampler: Sampler) -> Iterator[Check]:
    """Levers that drive nothing."""
    for lever in sampler.index.levers.values():
        if not sampler.index.followers.get(f"{lever.id}.value"):
            edit = {"kind": "remove lever", "lever": lever.id}
            yield Check(
                "idle lever",
                f"The lever {lever.name} drives nothing.",
                f"{lever.id}.value",
                0,
                (Mend(f"Delete {lever.name}", (edit,)),),
            )


def _limit(node_id: str, low: float, high: float) -> Mend:
    name = new_id("m")
    edits: tuple[dict[str, Any], ...] = (
        {"kind": "add modifier", "parameter": node_id, "modifier": "limit", "id": name},
        {"kind": "set value", "parameter": f"{name}.low", "value": low, "frame": 0},
        {"kind": "set value", "parameter": f"{name}.high", "value": high, "frame": 0},
    )
    return Mend(f"Limit it to {low:g} … {high:g}", edits)


def out_of_range(sampler: Sampler) -> Iterator[Check]:
    """Followers that leave their useful range."""
    index, scene = sampler.index, sampler.scene
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    done: set[str] = set()
    for tie in ties(index):
        node = index.parameters[tie.follower]
        low, high = node.spec.low, node.spec.high
        if node.id in done or node.spec.stepped or node.spec.kind == "colour" or (low is None and high is None):
            continue
        done.add(node.id)
        values = sampler.track(node.id, everywhere)
        least, most = float(values.min()), float(values.max())
        under, over = low is not None and least < low - 1e-6, high is not None and most > high + 1e-6
        # Only what makes no sense beyond its ends: an amplitude may well be larger than its slider.
        if not (under or (over and node.spec.kind == "percentage")):
            continue
        wrong = (
            (values < low - 1e-6).any(axis=1)
            if under and low is not None
            else (values > (high or 0) + 1e-6).any(axis=1)
        )
        frame = int(np.argmax(wrong))
        unit = node.spec.unit
        limits = (
            f"{with_unit(low, unit) if low is not None else '…'} to "
            f"{with_unit(high, unit) if high is not None else '…'}"
        )
        mends = (_limit(node.id, low, high),) if low is not None and high is not None else ()
        yield Check(
            "out of range",
            f"{node.label} goes from {with_unit(least, unit)} to {with_unit(most, unit)}; useful is {limits}.",
            node.id,
            frame,
            mends,
        )
