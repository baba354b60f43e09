"""The gate of soundness: whatever edits a program sends, what is accepted comes in again from its own export."""

import io
import math
import random
import typing
import unittest
from typing import Any

import numpy as np
from PIL import Image
from pydantic import ValidationError
from pydantic.fields import FieldInfo

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.layers import LAYER_KINDS
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.document.tables import Column, Follower, Table
from jaunty_lever.core.edits import EDIT, AnyEdit, Edit, Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.core.soundness import added_problems, problems
from jaunty_lever.formats.pictures import take_in
from jaunty_lever.formats.project_file import read, write
from jaunty_lever.recipes import ready
from tests.core.scenes import project, scene

KINDS: dict[str, type[Edit]] = {
    cls.model_fields["kind"].default: cls for cls in typing.get_args(typing.get_args(AnyEdit)[0])
}
NUMBERS = [0, 1, -1, 0.5, 2, 3, 7.25, 30, 100, 299, 300, 1e5, 1e9, 1.1e9, -1e12, 1e300, 5e-324, 1e-7, math.pi, True]
TEXTS = [
    "Wind",
    "Layer 0",
    "layer0",
    "",
    " ",
    "x" * 130,
    "é\u202e",
    "\ud800",
    "a\r\nb",
    "nul\x00",
    "../../up",
    "=1+1",
    "calm",
    "wild",
    "#123456",
    "12°",
    "50%",
    "1/0",
    "base * 2",
    "$<wind.value> * 2",
    "$<layer0.rotation>",
    "$nobody + 1",
    "text(t)",
    "(1, 2)",
    "M 0 0 L 9 9",
    "no path",
    "smooth",
    "1e3000000",
]


def _picture() -> dict[str, Any]:
    content = io.BytesIO()
    Image.new("RGB", (4, 3), "#e0b050").save(content, "PNG")
    return plain(take_in(content.getvalue(), "Brass.png"))


PICTURE = _picture()


def start() -> Project:
    """A project with something of everything in it."""
    wind = {"id": "wind", "name": "Wind", "value": 3}
    mode = {"id": "mode", "name": "Mode", "kind": "choice", "options": ["calm", "wild"], "value": "wild"}
    sky = {"id": "sky", "name": "Sky", "kind": "colour", "value": "#204060"}
    wiggle = {
        "kind": "wiggle",
        "id": "w",
        "amplitude": {"rest": 4, "chain": [{"kind": "follow", "id": "f", "driver": "wind.value"}]},
    }
    both = {"kind": "follow", "id": "p", "driver": "layer1.position"}
    one = scene(
        {"rotation": {"chain": [wiggle]}, "stroke_width": {"chain": [{"kind": "wiggle", "id": "sw"}]}},
        {"kind": "star", "position": [40, 50]},
        {"kind": "text", "text": "Quay"},
        {"kind": "path"},
        {"kind": "gear"},
        {"kind": "group", "layers": [{"kind": "gear", "id": "inner", "name": "Inner", "position": {"chain": [both]}}]},
        {"fill": {"kind": "linear", "stops": [{"id": "a", "colour": "#000000"}, {"id": "b", "offset": 100}]}},
        {
            "rotation": {
                "keys": [{"frame": 0, "value": 0}, {"frame": 20.5, "value": 90}],
                "chain": [{"kind": "loop", "id": "l"}],
            }
        },
        levers=(wind, mode, sky),
    )
    shot = {"id": "shot", "name": "Shot", "values": {"wind": 2.0, "mode": "calm"}}
    other = Scene(id="s2", name="Second")
    crew = Table(
        id="crew",
        name="Crew",
        data="Mira,3,#204060\nTove,oops,red\n,,\n",
        columns=(
            Column(id="who", name="Who"),
            Column(id="many", name="Many", kind="number"),
            Column(id="hue", name="Hue", kind="colour"),
        ),
        followers=(
            Follower(column="many", scene="s", parameter="wind.value"),
            Follower(column="hue", scene="s", parameter="sky.value"),
            Follower(column="who", scene="s", parameter="layer2.text"),
        ),
    )
    whole = project(Scene.model_validate(plain(one) | {"snapshots": [shot]}))
    return whole.changed(scenes=(one, other), tables=(crew,))


class Hostile:
    """Draws edits of every kind, aimed at what a project holds and at what it does not, with values that do not fit."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)

    def edit(self, now: Project) -> dict[str, Any]:
        kind = self.dice.choice(list(KINDS))
        made: dict[str, Any] = {"kind": kind}
        for name, field in KINDS[kind].model_fields.items():
            if name != "kind" and (field.is_required() or self.dice.random() < 0.6):
                made[name] = self.field(name, field, now)
        if kind == "add layer":
            made["layer"] = self.dice.choice(list(LAYER_KINDS))
            made["fields"] = {
                self.dice.choice(["rotation", "data", "text", "fill", "hidden", "layers", "size"]): self.deep(now)
            }
        return made

    def value(self) -> Any:
        return self.dice.choice([*NUMBERS, *TEXTS, [1, 2], [1, 2, 3], [0.1, 0.2, 0.3, 1], [1e12, 0], []])

    def deep(self, now: Project) -> Any:
        """A parameter with keys and a chain, or something that is none."""
        kind = self.dice.choice(list(MODIFIERS))
        chain = [{"kind": kind, "id": self.id(now), **({"driver": self.node(now)} if MODIFIERS[kind].linked else {})}]
        keys = [{"frame": self.dice.choice(NUMBERS), "value": self.value()} for _ in range(self.dice.randrange(3))]
        return self.dice.choice(
            [self.value(), {"rest": self.value(), "chain": chain}, {"rest": 0, "keys": keys}, chain]
        )

    def node(self, now: Project) -> str:
        return self.dice.choice([*now.scenes[0].index.parameters, "nobody.value"])

    def id(self, now: Project) -> str:
        one = now.scenes[0]
        taken = [*one.index.layers, *one.index.modifiers, *one.index.levers, "s", "s2", "shot", "a"]
        return self.dice.choice([self.dice.choice(taken), f"new{self.dice.randrange(10**6)}", "not an id", "x" * 38])

    def field(self, name: str, field: FieldInfo, now: Project) -> Any:
        one, dice = now.scenes[0], self.dice
        pools: dict[str, list[Any]] = {
            "scene": ["s"] * 9 + ["s2", "none"],
            "layer": [*one.index.layers, "none"],
            "parent": [*one.index.layers, None, "none"],
            "lever": [*one.index.levers, "none"],
            "modifier": [*one.index.modifiers, *MODIFIERS, "none"],
            "snapshot": [shot.id for shot in one.snapshots] + ["none"],
            "instead": [shot.id for shot in one.snapshots] + [None],
            "table": [one.id for one in now.tables] + ["none"],
            "column": [column.id for table in now.tables for column in table.columns] + ["none"],
            "data": ["a,b,c\n", "1,2,3\n4,5,6\n", 'a,"b\n', "a\n", "", "\x00,,\n"],
            "cells": [[["x"]], [["1", "2"]], [["1"], ["2"]], [["a", "b", "c", "d"]], [[]], [["#123456"]]],
            "columns": [
                [{"id": "who", "name": "Who"}],
                [{"id": "n1", "name": "Many"}, {"id": "n2", "name": "hue"}],
                [{"id": "n1", "name": "A"}, {"id": "n1", "name": "a"}],
            ],
            "row": [0, 1, 2, 3, 99],
            "rows": [[0], [1, 2], [7], [0, 1, 2]],
            "before": [None, 0, 1, 50],
            "options": [["gentle", "stormy"], ["calm"], ["calm", "wild", "mad"], [], ["calm", "calm"]],
        }
        if name in ("row", "before") and "int" not in str(field.annotation):
            return self.value()
        if name in pools and not (name == "lever" and "number" in str(field.annotation)):
            return dice.choice(pools[name])
        if name in ("parameter", "source", "driver", "at"):
            keyed = [p.id for p in one.index.parameters.values() if p.parameter.keys or p.parameter.chain]
            return dice.choice(keyed) if keyed and dice.random() < 0.4 else self.node(now)
        if name in ("targets", "also"):
            return [self.node(now) for _ in range(dice.randrange(1, 3))]
        if name in ("layers", "snapshots", "stops") and "str" in str(field.annotation):
            return [dice.choice([*one.index.layers, "shot", self.id(now)]) for _ in range(2)]
        if name in ("id", "link", "salt", "seed") and "int" not in str(field.annotation):
            return self.id(now)
        if name == "keys":
            key = {"frame": dice.choice(NUMBERS), "value": self.value()}
            node = self.node(now)
            return (
                {node: [key]}
                if "dict" in str(field.annotation)
                else [{"parameter": dice.choice(["layer7.rotation", node]), "frames": [0, 20.5]}]
            )
        if name == "windows":
            return [{"start": dice.choice(NUMBERS), "end": dice.choice(NUMBERS)} for _ in range(dice.randrange(3))]
        if name == "values":
            return (
                {dice.choice(["wind", "mode", "sky"]): self.value()}
                if "dict" in str(field.annotation)
                else [str(self.value())] * 2
            )
        if name == "recipe":
            return plain(dice.choice(list(ready().values())))
        if name == "parts":
            return {"light": [dice.choice(list(one.index.layers))]}
        if name == "edits":
            return [self.edit(now) for _ in range(2)] if dice.random() < 0.9 else []
        literals = [arg for arg in typing.get_args(field.annotation) if isinstance(arg, str)]
        if literals or name == "ease":
            return dice.choice(literals or ["hold", "linear", "ease-out", [0.2, -1, 0.9, 3], [2, 0, 0, 0], "steep"])
        return self.fitting(name, str(field.annotation)) if dice.random() < 0.75 else self.value()

    def fitting(self, name: str, annotation: str) -> Any:
        """A value of the kind that a field wants, more often than not."""
        dice = self.dice
        wanted = {
            "text": ["12", "360/31", "base * 2", "#abc"],
            "component": [None, 0],
            "axis": [None, 1],
            "amount": [30],
            "position": [0, 1],
        }
        if name in wanted and "tuple" not in annotation:
            return dice.choice(wanted[name])
        if name == "picture":
            return PICTURE
        if "tuple" in annotation:
            return [dice.choice([0, 5, -20.5]), dice.choice([3, 1e4])]
        if "bool" in annotation and "float" not in annotation:
            return dice.random() < 0.5
        if "float" in annotation or "int" in annotation:
            return dice.choice([0, 1, 5, 20])
        return dice.choice(["Calm", "Gale", "x" * 60])


class Fuzz(unittest.TestCase):
    def test_what_is_accepted_comes_in_again_unchanged(self) -> None:
        accepted: dict[str, int] = {}
        for seed in range(30):
            hostile, now = Hostile(seed), start()
            self.assertEqual(list(problems(now)), [])
            for _ in range(150):
                fields = hostile.edit(now)
                try:
                    edit = EDIT.validate_python(fields)
                except (ValidationError, UnicodeEncodeError):
                    continue
                try:
                    after = edit.apply(now)
                    label = edit.label(now)
                except Refused as refused:
                    self.assertTrue(refused.message.strip(), fields)
                    continue
                self.assertTrue(isinstance(label, str), fields)
                self.assertEqual([one.text for one in problems(after)], [], fields)
                if after.scenes and after.scene("s") is not None and after.scenes[0].id == "s":
                    now = after
                accepted[edit.kind] = accepted.get(edit.kind, 0) + 1
            self.assertEqual(plain(read(write(now).encode())), plain(now))
            one = now.scenes[0]
            sampler = Sampler(one)
            for channel in display_list(sampler, SampleTimes.frames(one.fps, 0, 3)).channels().values():
                self.assertTrue(np.isfinite(channel.rows).all())
            for node in one.index.parameters.values():
                self.assertTrue(np.isfinite(sampler.sample(node.id, [0.0, 0.4])).all(), node.id)
        self.assertGreater(sum(accepted.values()), 600, accepted)
        self.assertGreater(len(accepted), 40, sorted(set(KINDS) - set(accepted)))

    def test_what_is_new_is_looked_at_as_the_whole_would_be(self) -> None:
        """Unsound states made round the gate: the quick look and the slow one say the same of them."""
        found = 0
        for seed in range(80):
            hostile, before = Hostile(1000 + seed), start()
            for _ in range(60):
                try:
                    after = EDIT.validate_python(hostile.edit(before)).made_of(before)
                except Exception:  # what cannot be made at all is not the gate's to judge
                    continue
                quick, slow = ({one.text for one in some} for some in (added_problems(before, after), problems(after)))
                self.assertEqual(quick, slow)
                found += bool(slow)
        self.assertGreater(found, 15)
