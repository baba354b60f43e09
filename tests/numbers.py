"""The numbers of many rigs, kept as a file and compared to the last bit: `python -m tests.numbers keep FILE`, then
`compare FILE`.

For changes that must not change a value: all demo scenes whole, and random rigs with arrays, sparks, letters, edges,
clips, depth, links at other times and faults. Numbers of one machine only: another one's vector instructions may round
otherwise.
"""

import json
import random
import sys
import time
from hashlib import blake2b
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import ValidationError

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.core.soundness import problems
from jaunty_lever.demo import demo_project

RIGS = 500

LAYERS: list[dict[str, Any]] = [
    {"kind": "ellipse"},
    {"kind": "star", "rotation": {"keys": [{"frame": 0, "value": 0}, {"frame": 40, "value": 90}]}},
    {"kind": "gear"},
    {"kind": "polygon", "depth": 120, "tilt": [20, 30]},
    {"kind": "text", "text": "Lantern Quay", "font_size": 40},
    {
        "kind": "ellipse",
        "edge": {"out": {"chain": [{"kind": "formula", "id": "out", "text": "12 * noise(x / 30, y / 40 - t, 3)"}]}},
    },
    {"kind": "rectangle", "edge": {"out": 8, "inwards": 4}},
    {"kind": "texture"},
    {"kind": "camera", "position": [500, 300], "depth": 500, "aim": [500, 300]},
    {
        "kind": "clip",
        "clip": "none",
        "width": 160,
        "height": 90,
        "timing": {"tick": 1 / 24, "runs": [[48, 1]]},
        "ends": "again",
    },
]
ARRANGEMENTS: list[dict[str, Any]] = [
    {"kind": "row", "count": 5},
    {"kind": "row", "count": {"keys": [{"frame": 0, "value": 2}, {"frame": 40, "value": 6}]}},
    {"kind": "grid", "columns": 3, "rows": 2, "brick": 30},
    {"kind": "ground", "columns": 3, "rows": 2},
    {"kind": "ring", "count": 6},
    {"kind": "ring", "count": 5, "arc": 120, "radius": {"chain": [{"kind": "wave", "id": "grows", "amplitude": 40}]}},
    {"kind": "path", "count": 5},
    {"kind": "scatter", "count": 7, "apart": 30},
    {"kind": "rails", "count": 4},
    {"kind": "emitter", "rate": 12, "lifetime": 1},
    {"kind": "emitter", "rate": {"keys": [{"frame": 0, "value": 2}, {"frame": 40, "value": 20}]}, "gravity": [0, 90]},
    {"kind": "letters", "by": "letter"},
]
GAUGES: list[dict[str, Any]] = [
    {"kind": "sweep", "travel": {"keys": [{"frame": 0, "value": 0}, {"frame": 50, "value": 100}]}},
    {"kind": "random"},
    {"kind": "noise"},
    {"kind": "order"},
    {"kind": "zone", "centre": [640, 360], "size": [200, 120]},
    {"kind": "zone", "centre": [600, 300], "size": [200, 120], "size_depth": 80, "centre_depth": 20},
    {"kind": "zone", "shape": "line", "data": "M100 100C300 700 700 0 1100 500", "size": [150, 1], "hollow": 20},
    {"kind": "life"},
    {"kind": "column", "cells": [1, 4, 2, 8]},
]
ORDERS: list[dict[str, Any]] = [
    {},
    {},
    {"measure": "round"},
    {"measure": "points", "points": [[90, 10], [50, 120]]},
    {"measure": "line", "data": "M-200 40L200 -80"},
]
FORMULAS = [
    "base + 20 * u",
    "base * sin(90 * t) + i",
    "{driver} @ (t - 0.3) + base",
    "0.5 * {driver} + ({driver} @ (t - rank / 10))",
    "if t > 1 then base else {driver} / (f - 12)",
    "mix(base, {driver}, 0.3)",
    "noise(i, t) * 30 + base",
    "base / (f - 40)",
]


class Rigs:
    """Draws sound scenes."""

    def __init__(self, seed: int) -> None:
        self.dice, self.made = random.Random(seed), 0

    def _id(self, stem: str) -> str:
        self.made += 1
        return f"{stem}{self.made}"

    def _layer(self, depth: int = 0) -> dict[str, Any]:
        dice = self.dice
        chance = dice.random()
        if depth < 2 and chance < 0.45:
            return self._array(depth)
        if depth < 2 and chance < 0.52:
            name = self._id("group")
            return {"kind": "group", "id": name, "name": name, "layers": [self._layer(depth + 1)]}
        name = self._id("layer")
        return self._renamed({**dice.choice(LAYERS), "id": name, "name": name})

    def _array(self, depth: int) -> dict[str, Any]:
        dice, name = self.dice, self._id("array")
        arrangement = dice.choice(ARRANGEMENTS)
        inner = [self._layer(depth + 1) for _ in range(dice.choice([1, 1, 2]))]
        if arrangement["kind"] == "letters":
            words = self._id("words")
            inner = [{"kind": "text", "id": words, "name": words, "text": "By the quay", "font_size": 50}]
        gauges = []
        for kind in dice.sample(GAUGES, dice.randrange(3)):
            gauge = self._id("gauge")
            gauges.append({**kind, "id": gauge, "name": gauge})
        made = {
            "kind": "array",
            "id": name,
            "name": name,
            "arrangement": arrangement,
            "gauges": gauges,
            "order": self._order(gauges),
            "layers": inner,
            "later": dice.choice([0, 0, 0.1, -0.05]),
            "random_later": dice.choice([0, 0, 0.5]),
            "position": [dice.choice([640, 300]), 360],
        }
        return self._renamed(made)

    def _order(self, gauges: list[dict[str, Any]]) -> dict[str, Any]:
        """Any order; now and then one that a gauge sorts."""
        dice = self.dice
        fit = [gauge for gauge in gauges if gauge["kind"] in ("random", "noise", "zone")]
        if fit and dice.random() < 0.3:
            return {"measure": "gauge", "gauge": dice.choice(fit)["id"]}
        return dice.choice(ORDERS)

    def _renamed(self, made: dict[str, Any]) -> dict[str, Any]:
        """With ids of its own for the modifiers it brings along."""
        for old in ("out", "grows"):
            made = json.loads(json.dumps(made).replace(f'"id": "{old}"', f'"id": "{self._id(old)}"'))
        return made

    def scene(self) -> Scene | None:
        """A scene to begin with; None where it would not be sound."""
        dice = self.dice
        levers = [
            {
                "id": "wind",
                "name": "Wind",
                "value": {"rest": 3, "chain": [{"kind": "wiggle", "id": "gusts", "amplitude": 2}]},
            },
            {"id": "dusk", "name": "Dusk", "value": {"keys": [{"frame": 0, "value": 0}, {"frame": 60, "value": 80}]}},
        ]
        layers = [self._layer() for _ in range(dice.randrange(1, 4))]
        if dice.random() < 0.15:
            layers.append({"kind": "trace", "id": "trail", "name": "Trail", "follows": layers[0]["id"]})
        whole = {
            "id": "s",
            "name": "S",
            "fps": dice.choice([30, 24, 25]),
            "length": 90,
            "layers": layers,
            "levers": levers,
        }
        try:
            return Scene.model_validate(whole)
        except ValidationError:
            return None

    def project(self) -> Project:
        """A sound project, after some edits of any kind."""
        while True:
            one = self.scene()
            now = None if one is None else Project(id="p", name="P", scenes=(one,))
            # The film of a clip is not at hand: its timing tells all.
            if now is not None and all("clip" in problem.text for problem in problems(now)):
                break
        for _ in range(self.dice.randrange(4, 14)):
            try:
                now = EDIT.validate_python({"scene": "s", **self.edit(now.scenes[0])}).apply(now)
            except (ValidationError, Refused):
                continue
        return now

    def edit(self, one: Scene) -> dict[str, Any]:
        dice, index = self.dice, one.index
        names = list(index.parameters)
        own = [node.id for node in index.parameters.values() if node.within is None and node.spec.kind != "text"]
        moving = [node.id for node in index.parameters.values() if node.parameter.moves] or own
        driver = dice.choice([*moving, *index.known, "wind.value", "dusk.value"])
        taken = dice.choice(["", "", "@mean", "@least", "@1"])
        chance = dice.random()
        if chance < 0.4:
            # What is drawn most, rather than what is there most.
            likely = [n for n in own if n.rpartition(".")[2] in LIKELY] or own
            kind = dice.choice(sorted(MODIFIERS))
            where = dice.choice(likely if dice.random() < 0.7 else own)
            made = {
                "kind": "add modifier",
                "parameter": where,
                "modifier": kind,
                "id": self._id("m"),
                "seed": self.made,
            }
            return made | ({"driver": driver} if MODIFIERS[kind].linked else {})
        if chance < 0.6:
            text = dice.choice(FORMULAS).replace("{driver}", f"$<{driver}{taken}>")
            where = dice.choice([n for n in own if n.rpartition(".")[2] in LIKELY] or own)
            return {"kind": "write formula", "parameter": where, "text": text, "id": self._id("m")}
        if chance < 0.75:
            settings = [node.id for node in index.parameters.values() if node.within is not None] or own
            return {
                "kind": "link to",
                "parameter": dice.choice(settings + own),
                "driver": driver + taken,
                "id": self._id("m"),
            }
        if chance < 0.8:
            return {"kind": "set key", "parameter": dice.choice(own), "frame": dice.choice([0, 12.5, 30])}
        node = index.parameters[dice.choice(names)]
        low, high = node.spec.low or 0.0, node.spec.high or 100.0
        number = round(dice.uniform(low, min(high, low + 100)), 2)
        value: Any = [number, number / 2][: max(1, node.spec.components)] if node.spec.components == 2 else number
        if node.spec.kind in ("choice", "switch"):
            value = dice.choice(list(node.spec.options) or [True, False])
        return {
            "kind": "set value",
            "parameter": node.id,
            "value": value,
            "frame": dice.choice([0, 20]),
            "key": dice.random() < 0.3,
        }


LIKELY = {
    "rotation",
    "position",
    "opacity",
    "copy_position",
    "copy_rotation",
    "copy_scale",
    "scale",
    "value",
    "travel",
    "out",
    "size",
}


def digest(*parts: Any) -> str:
    """A short hash of arrays, texts and numbers."""
    whole = blake2b(digest_size=8)
    for part in parts:
        if isinstance(part, np.ndarray):
            whole.update(f"{part.shape}{part.dtype}".encode())
            whole.update(np.ascontiguousarray(part).tobytes())
        else:
            whole.update(repr(part).encode())
    return whole.hexdigest()


def of_nodes(nodes: Any) -> Any:
    """What a display list holds, as plain parts."""
    for node in nodes:
        yield from of_node(node)


def of_node(node: DisplayNode) -> Any:
    yield node.kind
    yield node.id
    for name in sorted(node.channels):
        rows = node.channels[name].rows
        yield name
        yield np.asarray(rows)
    yield repr(sorted(node.fixed.items()))
    yield from of_nodes(node.nodes if node.matte is None else (*node.nodes, node.matte))


def numbers(scene: Scene, frames: SampleTimes) -> dict[str, str]:
    """Digests of what a scene shows, of all values and of its faults, and of its frames the last first."""
    try:
        return told(scene, frames)
    except Exception as error:
        # What breaks down must do so in the same way, and is worth a look.
        return {"error": f"{type(error).__name__}: {error}"}


def told(scene: Scene, frames: SampleTimes) -> dict[str, str]:
    """The same, of a scene that does not break down."""
    sampler = Sampler(scene, Cache())
    drawn = digest(*of_nodes(display_list(sampler, frames).nodes))
    values = {}
    for node in scene.index.parameters.values():
        if node.spec.kind == "text":
            values[node.id] = digest(*sampler.texts(node.id, frames))
        else:
            values[node.id] = digest(sampler.evaluate(node.id, inside(sampler, node.id, frames)))
    faults = sorted((fault.parameter, fault.modifier, fault.message, fault.time) for fault in sampler.faults.values())
    few = SampleTimes(frames.times[::-7].copy())
    alone = digest(*of_nodes(display_list(Sampler(scene, Cache()), few).nodes))
    made = {"drawn": drawn, "values": digest(list(values.values())), "faults": digest(faults), "alone": alone}
    return made | {"many": str(len(faults))}


def everything() -> Any:
    """Each scene by name, with the samples it is asked at."""
    for scene in demo_project().scenes:
        yield f"demo/{scene.id}", scene, SampleTimes.frames(scene.fps, 0, scene.length)
    for seed in range(RIGS):
        scene = Rigs(seed).project().scenes[0]
        yield f"rig/{seed}", scene, SampleTimes.frames(scene.fps, 0, 60, 1.25)


def main(what: str, file: str) -> int:
    """Keeps the numbers, or compares them with those kept."""
    kept: dict[str, dict[str, str]] = json.loads(Path(file).read_text()) if what == "compare" else {}
    wrong, start = 0, time.perf_counter()
    known: dict[str, dict[str, str]] = {}
    for name, scene, frames in everything():
        made = known[name] = numbers(scene, frames)
        if "error" in made:
            print(name, made["error"], flush=True)
        if what == "compare" and made != kept[name]:
            wrong += 1
            print(
                name, "differs:", ", ".join(part for part in made if made.get(part) != kept[name].get(part)), flush=True
            )
    if what == "keep":
        Path(file).write_text(json.dumps(known, indent=0), encoding="utf-8")
    print(f"{len(known)} scenes in {time.perf_counter() - start:.0f} s; {wrong} differ")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
