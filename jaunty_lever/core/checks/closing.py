"""Make this loop: what closes a value at the scene's end, tried out before it is offered."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from ..document.ids import new_id
from ..document.keys import Value
from ..document.nodes import ParameterNode
from ..document.quantity import first_of, plain_number
from ..document.scene import Project, Scene
from ..document.specs import components, value_of
from ..edits import EDIT, Batch, Refused
from ..edits.base import place_of
from ..evaluation.graph import upstream
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.symmetry import smallest_turn
from ..words import said
from .seam import Jump, jump_of, perfect, rounding

MOST_SOURCES = 3
"""Keyed values, of those that decide about one, whose keys are tried."""


@dataclass(frozen=True)
class Offer:
    """Edits that close a value: what they do, in words, and what is then played over two rounds, (frames,
    components)."""

    label: str
    does: str
    edits: tuple[dict[str, Any], ...]
    rounds: np.ndarray


def offers(project: Project, scene: str, parameter: str) -> tuple[Jump | None, list[Offer]]:
    """How a value jumps now, if it does, and what would close it: each has been tried, and only what closes is
    offered."""
    here = project.scene(scene)
    assert here is not None
    node = place_of(here, parameter)
    now = jump_of(Sampler(here), node)
    found: list[Offer] = []
    for label, does, edits in _tries(here, node) if now else ():
        rounds = _closed(project, here, parameter, edits)
        if rounds is not None:
            found.append(Offer(label, does, tuple(edits), rounds))
    return now, found


def _closed(project: Project, scene: Scene, parameter: str, edits: list[dict[str, Any]]) -> np.ndarray | None:
    """Two rounds of a value after some edits; None where they do not close it, or leave nothing of its motion."""
    made = _after(project, scene, edits)
    if made is None or jump_of(sampler := Sampler(made), made.index.parameters[parameter]) is not None:
        return None
    rounds = _rounds(sampler, made.index.parameters[parameter])
    return rounds if np.ptp(rounds, axis=0).max() > 0 else None


def _after(project: Project, scene: Scene, edits: list[dict[str, Any]]) -> Scene | None:
    try:
        whole = Batch(edits=tuple(EDIT.validate_python({"scene": scene.id, **edit}) for edit in edits))
        return whole.apply(project).scene(scene.id)
    except Refused:
        return None


def _rounds(sampler: Sampler, node: ParameterNode) -> np.ndarray:
    """What is played over two rounds; an angle goes on in the second from where the first has brought it."""
    scene = sampler.scene
    whole = sampler.track(node.id, SampleTimes.frames(scene.fps, 0, scene.length + 1))
    whole = np.broadcast_to(whole, (scene.length + 1, whole.shape[1]))
    turn = float(smallest_turn(scene.index, node))
    gain = np.round((whole[-1] - whole[0]) / turn) * turn if node.spec.kind == "angle" else 0.0
    return np.concatenate([whole[:-1], whole[:-1] + gain])


Tries = Iterator[tuple[str, str, list[dict[str, Any]]]]


def _tries(scene: Scene, node: ParameterNode) -> Tries:
    """What might close a value, from what changes least on."""
    above = upstream(scene.index, node.id)
    fits = [edit for edit in rounding(scene) if scene.index.modifiers[_owner(edit)].parameter in above]
    rounded = first_of([f"{_said(scene, edit)} {edit['text']}" for edit in fits], 3)
    keyed = [one for one in scene.index.parameters.values() if one.id in above and len(one.parameter.keys) > 1]
    for one in sorted(keyed, key=lambda one: one.id != node.id)[:MOST_SOURCES]:
        for label, does, edits in _of_keys(scene, one):
            # What stands above may be what jumps.
            named = label if one is node else f"{one.label}: {label[0].lower()}{label[1:]}"
            yield named, does, edits
            if fits:
                yield f"{named}, and round the rest", f"{does} {rounded}: whole rounds fill the scene.", [*edits, *fits]
    if fits:
        yield "Round to what fits", f"{rounded}: whole rounds fill the scene.", list(fits)
    whole = perfect(scene).frames
    if whole and whole != scene.length:
        yield (
            f"Make the scene {whole:,} frames long",
            "Then all that repeats is back.",
            [{"kind": "change scene", "length": whole}],
        )


def _owner(edit: dict[str, Any]) -> str:
    return str(edit["parameter"]).partition(".")[0]


def _said(scene: Scene, edit: dict[str, Any]) -> str:
    node = scene.index.parameters[edit["parameter"]]
    return f"{scene.index.modifiers[_owner(edit)].modifier.title} {node.spec.label.lower()}"


def _of_keys(scene: Scene, node: ParameterNode) -> Tries:
    keys, end = node.parameter.keys, scene.length
    first, last = keys[0], keys[-1]
    goal = _as_at_first(scene, node, last.value, first.value)
    told = said(goal, node.spec)
    if last.frame < end:
        if goal == last.value:
            label = "Move the last key to the end"
            does = f"From frame {last.frame:g} to {end}, where the next round begins."
            yield label, does, [{"kind": "move key", "parameter": node.id, "frame": last.frame, "to": end}]
        else:
            label, does = "Key the end like the start", f"A key at frame {end}, where the next round begins: {told}."
            yield label, does, [_key(node, end, goal)]
            label, does = "Lead the last key back", f"It moves from frame {last.frame:g} to {end} and is {told}."
            yield (
                label,
                does,
                [{"kind": "move key", "parameter": node.id, "frame": last.frame, "to": end, "value": goal}],
            )
    elif goal != last.value:
        yield "Make the last key like the first", f"{told} at frame {end}.", [_key(node, end, goal)]
    span = last.frame - first.frame
    times = max(1, round(end / (2 * span)))
    stretch = Fraction(end, 2 * times) / Fraction(str(span))
    new = new_id("m")
    loop = {"kind": "add modifier", "parameter": node.id, "modifier": "loop", "id": new, "position": 0}
    edits: list[dict[str, Any]] = []
    if stretch != 1 or first.frame:
        picked = {"parameter": node.id, "frames": [key.frame for key in keys]}
        edits = [
            {"kind": "move keys", "keys": [picked], "about": first.frame, "stretch": float(stretch), "by": -first.frame}
        ]
    edits += [loop, {"kind": "set value", "parameter": f"{new}.after", "value": "alternate", "frame": 0}]
    often = "once" if times == 1 else f"{times} times"
    does = f"A Loop leads its keys there and back {often}"
    yield "There and back", f"{does}{_longer(stretch)}.", edits


def _longer(stretch: Fraction) -> str:
    return "" if stretch == 1 else f", over {plain_number(float(stretch) * 100, 0)} % of their time"


def _key(node: ParameterNode, frame: int, value: Value) -> dict[str, Any]:
    return {"kind": "set value", "parameter": node.id, "frame": frame, "key": True, "value": value}


def _as_at_first(scene: Scene, node: ParameterNode, last: Value, first: Value) -> Value:
    """What a last key has to be: as the first one, or of an angle a number of turns on, those that it is nearest to."""
    if node.spec.kind != "angle":
        return first
    turn = float(smallest_turn(scene.index, node))
    ends = [components(value, node.spec)[0] for value in (first, last)]
    return value_of((round(ends[0] + round((ends[1] - ends[0]) / turn) * turn, 6),), node.spec)
