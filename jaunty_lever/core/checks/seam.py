"""The seam: what does not come back at a scene's end, when all comes together, and how to make it fit."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.layers import ArrayLayer
from ..document.nodes import ParameterNode
from ..document.notes import Mend
from ..document.periodicity import Periodicity, as_fraction, common
from ..document.quantity import first_of, plain_number, with_unit
from ..document.scene import MOST_FRAMES, Scene
from ..document.specs import specs_of
from ..evaluation.graph import upstream
from ..evaluation.periods import Periods, moving
from ..evaluation.placing import outwards
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.symmetry import smallest_turn, turn_of_train
from ..evaluation.taking import inside
from .check import Check

MOST_TOLD = 30
"""Jumps that are told one by one."""

MOST_ALIKE = 1_000
"""Kinds of copies that repeat each in a way of their own, of one value, that are looked at."""

Floats = NDArray[np.float64]

STEP = 1e-3
"""Frames over which a slope is taken."""


@dataclass(frozen=True)
class Jump:
    """A parameter that does not come back: how far its value jumps, and by how much a second its speed does."""

    node: ParameterNode
    value: float
    slope: float


def jumps(sampler: Sampler) -> Iterator[Jump]:
    """Every drawn parameter whose value or slope at the scene's end is not that of its start."""
    for node in moving(sampler.index):
        jump = jump_of(sampler, node)
        if jump is not None:
            yield jump


def jump_of(sampler: Sampler, node: ParameterNode) -> Jump | None:
    """How a parameter jumps from the scene's end to its start, if it does.

    The end is the moment after the last frame; or, for keys that stop on the last frame, the place that
    one more step of the same size would lead to.
    """
    if node.spec.kind == "choice":
        return None
    scene = sampler.scene
    frame, h = 1 / scene.fps, STEP / scene.fps
    end = scene.length * frame
    last = end - frame
    some = np.linspace(0, last, 121)
    times = np.concatenate([[-h, 0.0, h, end - h, end, end + h, last - h, last], some])
    values = _of_all(sampler, node, times)
    reach = float(np.ptp(values[8:], axis=0).max())
    if reach == 0:
        return None
    seen = _seen(sampler, node, times[[4, 1]], values.shape[1])
    if not seen.any():
        return None
    turn = float(smallest_turn(sampler.index, node))
    pace = float(np.abs(np.diff(values[8:], axis=0)).max()) / max(float(some[1] - some[0]), 1e-9)
    before, after, leaving, beyond, stopping = (
        (values[j] - values[i]) / h for i, j in ((0, 1), (1, 2), (3, 4), (4, 5), (6, 7))
    )
    # Either the end runs on into the start, or what lies around the end is what lies around the start.
    around = np.maximum(np.abs(leaving - before), np.abs(beyond - after))
    ends = (
        (values[4], np.minimum(np.abs(leaving - after), around)),
        (values[7] + stopping * frame, np.abs(stopping - after)),
    )
    found = []
    for value, turns in ends:
        gap = value - values[1]
        if node.spec.kind == "angle":
            gap = (gap + turn / 2) % turn - turn / 2
        found.append(Jump(node, float(np.abs(gap[seen]).max()), float(turns[seen].max())))
    least = 1e-3 * (min(reach, turn) if node.spec.kind == "angle" else reach) + 1e-9
    if all(jump.value > least or jump.slope > 0.05 * pace + 1e-6 for jump in found):
        return min(found, key=lambda jump: jump.value)
    return None


def _seen(sampler: Sampler, node: ParameterNode, ends: Floats, columns: int) -> NDArray[np.bool_]:
    """Which of a value's columns, those of each copy side by side, are drawn with anything to see at the scene's end or
    at its start: what is clear or has no size at both may jump from one to the other."""
    layer, samples = sampler.index.layers.get(node.top), SampleTimes(ends)
    if layer is None or not layer.drawn:
        return np.ones(columns, dtype=bool)
    if sampler.index.arrays_of(node):
        samples = inside(sampler, node.id, samples)
    shown: NDArray[np.bool_] = np.ones((1, 1), dtype=bool)
    # What each has of its own may be a point of an edge, too: that has no opacity beside its layer's.
    own = [(layer.id, True, samples)] if node.each and isinstance(layer, ArrayLayer) else []
    for one, copies, then in (*own, (layer.id, False, samples), *outwards(sampler, layer.id, samples)):
        for name in ("opacity", "scale"):
            value = sampler.evaluate(f"{one}.copy_{name}" if copies else f"{one}.{name}", then)
            large: NDArray[np.bool_] = np.all(np.abs(value) > 1e-6, axis=-1)
            shown = shown & large
    seen: NDArray[np.bool_] = np.any(shown, axis=1)
    each = columns // max(len(seen), 1)
    return np.repeat(seen, each) if len(seen) * each == columns else np.ones(columns, dtype=bool)


def _of_all(sampler: Sampler, node: ParameterNode, times: Floats) -> Floats:
    """A value of all copies at moments of the scene, those of each side by side: (times, copies · components)."""
    samples = SampleTimes(times)
    if sampler.index.arrays_of(node):
        samples = inside(sampler, node.id, samples)
    values = sampler.evaluate(node.id, samples)
    whole = np.broadcast_to(values, (values.shape[0], len(times), values.shape[2]))
    return np.moveaxis(whole, 1, 0).reshape(len(times), -1)


def cycles(sampler: Sampler, node: ParameterNode) -> list[Periodicity | None]:
    """How a value repeats as it is seen: once for all copies that are alike in what decides that; None for what never
    does."""
    index = sampler.index
    if not sampler.axes.of(node.id).elements:
        return [sampler.periods.seen(node.id)]
    samples = inside(sampler, node.id, SampleTimes(np.zeros(1)))
    many = samples.shape[0]

    def of_copies(parameter: str) -> Floats:
        values = sampler.evaluate(parameter, samples)
        return np.broadcast_to(values[:, 0], (many, values.shape[2]))

    asked: dict[str, Floats] = {}

    def constant(parameter: str, copy: int = 0) -> Floats:
        if parameter not in asked:
            asked[parameter] = of_copies(parameter)
        found: Floats = asked[parameter][copy]
        return found

    first = Periods(index, constant).seen(node.id)
    if not asked or not many:
        return [first]
    table = np.concatenate([np.round(values, 12) for values in asked.values()], axis=1)
    alike = np.unique(table, axis=0, return_index=True)[1]
    if len(alike) > MOST_ALIKE:
        return [None]
    return [Periods(index, partial(constant, copy=int(copy))).seen(node.id) for copy in alike]


@dataclass(frozen=True)
class Loop:
    """When everything that repeats comes back together: in frames (None: not within what a scene can last)."""

    frames: int | None
    never: tuple[ParameterNode, ...]
    count: int


def perfect(scene: Scene) -> Loop:
    """The shortest length at which all that repeats is back, and what never repeats."""
    sampler = Sampler(scene)
    fps = as_fraction(scene.fps) or Fraction(30)
    whole, never, count = Fraction(0), [], 0
    for node in moving(scene.index):
        found = cycles(sampler, node)
        if any(cycle is None for cycle in found):
            never.append(node)
            continue
        apart = [cycle.period for cycle in found if cycle is not None and cycle.period]
        count += bool(apart)
        for period in apart:
            whole = common(whole, period)
    frames = common(whole, 1 / fps) * fps if whole else Fraction(0)
    fits = 0 < frames <= MOST_FRAMES
    return Loop(int(frames) if fits else None, tuple(never), count)


def length_edit(frames: int) -> dict[str, Any]:
    """The edit that gives the scene a length."""
    return {"kind": "change scene", "length": frames}


def rounding(scene: Scene) -> tuple[dict[str, Any], ...]:
    """Edits that round frequencies, rates and repeats to the nearest with which whole rounds fill the scene."""
    seconds = Fraction(scene.length) / (as_fraction(scene.fps) or Fraction(30))
    edits: list[dict[str, Any]] = []
    for entry in scene.index.modifiers.values():
        node = scene.index.parameters[entry.parameter]
        if entry.modifier.bypassed or node.parameter.bypassed:
            continue
        turn = turn_of_train(scene.index, node)
        for name, wanted in entry.modifier.loop_fit(node.spec, seconds, turn).items():
            own = getattr(entry.modifier, name)
            spec = specs_of(type(entry.modifier))[name].fitted(node.spec)
            if spec.components != 1 or as_fraction(own.rest, own.typed) == wanted:
                continue
            written = str(wanted.numerator) if wanted.denominator == 1 else f"{wanted.numerator}/{wanted.denominator}"
            edits.append({"kind": "set value", "parameter": f"{entry.modifier.id}.{name}", "text": written, "frame": 0})
    return tuple(edits)


def checks(sampler: Sampler) -> Iterator[Check]:
    """A check for every parameter that jumps at the seam, in a scene that plays round and round."""
    scene = sampler.scene
    if not scene.loops:
        return
    found = list(jumps(sampler))
    if not found:
        return
    loop = perfect(scene)
    mends: list[Mend] = []
    if loop.frames and loop.frames != scene.length and not loop.never:
        mends.append(Mend(f"Make the scene {loop.frames:,} frames long", (length_edit(loop.frames),)))
    fitting = rounding(scene)
    holders = [(sampler.index.modifiers[edit["parameter"].split(".")[0]].parameter, edit) for edit in fitting]
    # What is rounded in the same way, as the repeats of many Wiggles are, is one thing to look at, with one press for
    # all.
    alike: dict[frozenset[tuple[str, str]], list[Jump]] = {}
    others: list[Jump] = []
    edits: dict[frozenset[tuple[str, str]], list[dict[str, Any]]] = {}
    for jump in found:
        above = upstream(sampler.index, jump.node.id)
        own = [edit for holder, edit in holders if holder in above]
        kinds = frozenset(_setting(sampler.scene, edit) for edit in own)
        if not own:
            others.append(jump)
            continue
        alike.setdefault(kinds, []).append(jump)
        known = edits.setdefault(kinds, [])
        known += [edit for edit in own if edit not in known]
    for kinds, some in alike.items():
        text, names = f"{some[0].node.label} {told(some[0])}", [jump.node.label for jump in some]
        if len(some) > 1:
            text = f"{len(names)} values jump, {first_of(names, 3)},"
        mended = (*mends, *_rounded(tuple(edits[kinds])))
        yield Check("seam", f"{text} from the last frame to the first.", some[0].node.id, scene.length - 1, mended)
    for jump in others[:MOST_TOLD]:
        text = f"{jump.node.label} {told(jump)} from the last frame to the first."
        yield Check("seam", text, jump.node.id, scene.length - 1, tuple(mends))
    rest = others[MOST_TOLD:]
    if rest:
        text = f"{len(rest)} more values jump from the last frame to the first, {rest[0].node.label} among them."
        yield Check("seam", text, rest[0].node.id, scene.length - 1, tuple(mends))


def _setting(scene: Scene, edit: dict[str, Any]) -> tuple[str, str]:
    """The kind of modifier and the setting that an edit sets."""
    modifier, _, name = edit["parameter"].partition(".")
    return scene.index.modifiers[modifier].modifier.kind, name


def _rounded(edits: tuple[dict[str, Any], ...]) -> tuple[Mend, ...]:
    fits = "fits" if len(edits) == 1 else "fit"
    return (Mend(f"Round {len(edits)} to the nearest that {fits}", edits),) if edits else ()


def told(jump: Jump) -> str:
    """A jump in words; where the value jumps, its speed hardly matters."""
    unit = jump.node.spec.unit
    if jump.value > 1e-4 or jump.slope <= 1e-6:
        return f"jumps by {with_unit(jump.value, unit)}"
    return f"comes back, but its speed jumps by {plain_number(jump.slope, 2)}{unit} a second,"
