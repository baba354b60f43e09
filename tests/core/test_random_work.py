"""Random work: whatever edits an artist makes in whatever order, the project stays sound."""

import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.checks.run import run
from jaunty_lever.core.checks.seam import perfect
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.notes import notes
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.core.soundness import problems
from jaunty_lever.core.ties import ties
from jaunty_lever.formats.project_file import read, write
from jaunty_lever.recipes import ready
from tests.core.scenes import project, scene

FORMULAS = [
    "base",
    "base * 2 +",
    "$lever",
    "layer_0.rotation @ (t - 1)",
    "(1, t)",
    "#ff0000",
    '"a" + text(t)',
    "1 / (f - 12)",
]
LAYERS = ["gear", "ellipse", "rectangle", "polygon", "star", "line", "path", "text", "group"]


def pick(draw: st.DrawFn, things: Any) -> Any:
    """One of the things there are, or something that is not there."""
    return draw(st.sampled_from([*things, "nothing"]))


def some_edit(draw: st.DrawFn, now: Project, step: int) -> dict[str, Any]:
    """An edit of any kind, aimed at what the project holds."""
    one = now.scenes[0]
    index = one.index
    parameters, layers, modifiers, levers = (
        sorted(index.parameters),
        sorted(index.layers),
        sorted(index.modifiers),
        sorted(index.levers),
    )
    parameter = pick(draw, parameters)
    value: Any = draw(
        st.floats(-200, 200)
        | st.booleans()
        | st.sampled_from(["#123456", "smooth", "Hello", [1, 2], [0.1, 0.2, 0.3, 1]])
    )
    frame = draw(st.integers(-5, 310))
    keyed = [p for p in parameters if index.parameters[p].parameter.keys]
    mine = draw(st.sampled_from(keyed or ["nothing"]))
    frames = [key.frame for key in index.parameters[mine].parameter.keys][:2] if keyed else [1]
    snapshots = sorted(shot.id for shot in one.snapshots)
    recipe = draw(st.sampled_from(list(ready().values())))
    picked = [{"parameter": mine, "frames": frames}]
    return draw(
        st.sampled_from(
            [
                {
                    "kind": "add layer",
                    "layer": draw(st.sampled_from(LAYERS)),
                    "id": f"new{step}",
                    "parent": draw(st.sampled_from([None, *layers])),
                },
                {
                    "kind": "set value",
                    "parameter": parameter,
                    "value": value,
                    "frame": frame,
                    "key": draw(st.booleans()),
                },
                {
                    "kind": "set value",
                    "parameter": parameter,
                    "text": draw(st.sampled_from(["12", "360/31", "x", "#abc", "50%"])),
                    "component": draw(st.sampled_from([None, 0, 1])),
                },
                {"kind": "set key", "parameter": parameter, "frame": frame},
                {"kind": "clear keys", "parameter": parameter, "frame": frame},
                {"kind": "reset value", "parameter": parameter},
                {
                    "kind": "add modifier",
                    "parameter": parameter,
                    "modifier": draw(st.sampled_from(sorted(MODIFIERS))),
                    "id": f"w{step}",
                },
                {
                    "kind": "add modifier",
                    "parameter": parameter,
                    "modifier": draw(st.sampled_from(sorted(MODIFIERS))),
                    "id": f"v{step}",
                },
                {
                    "kind": "write formula",
                    "parameter": parameter,
                    "text": draw(st.sampled_from(FORMULAS)),
                    "id": f"x{step}",
                },
                {"kind": "write formula", "modifier": pick(draw, modifiers), "text": draw(st.sampled_from(FORMULAS))},
                {
                    "kind": "bake",
                    "parameter": parameter,
                    "end": draw(st.integers(1, 40)),
                    "tolerance": draw(st.sampled_from([None, 0, 1])),
                },
                {
                    "kind": "paste keys",
                    "keys": {parameter: [{"frame": 3, "value": value}, {"frame": 9.5, "value": value}]},
                    "frame": frame,
                },
                {
                    "kind": "arrange keys",
                    "keys": picked,
                    "how": draw(st.sampled_from(["align in time", "align in value", "distribute", "reverse"])),
                    "frame": frame,
                },
                {
                    "kind": "move keys",
                    "keys": picked,
                    "by": draw(st.integers(-20, 20)),
                    "stretch": draw(st.sampled_from([0.3, 1, 2])),
                    "rise": draw(st.sampled_from([0, 5])),
                },
                {
                    "kind": "ease keys",
                    "keys": picked,
                    "ease": draw(st.sampled_from(["hold", "linear", [0.2, -1, 0.9, 3]])),
                },
                {"kind": "remove keys", "keys": picked},
                {"kind": "close keys", "parameter": parameter},
                {
                    "kind": "link to",
                    "parameter": parameter,
                    "driver": pick(draw, parameters),
                    "id": f"f{step}",
                    "component": draw(st.sampled_from([None, 0, 1])),
                },
                {
                    "kind": "link to",
                    "parameter": parameter,
                    "driver": pick(draw, parameters),
                    "id": f"k{step}",
                    "component": draw(st.sampled_from([None, 0, 1])),
                    "way": draw(st.sampled_from(["ratio", "remap", "gears", "between", "stops"])),
                    "ratio": draw(st.sampled_from(["2 : 1", "-14/35", "1/0", "x"])),
                    "source": draw(st.sampled_from([("0", "10"), ("3", "3"), ("a", "1")])),
                    "target": draw(st.sampled_from([("0", "80"), ("#000000", "#ffffff")])),
                    "mesh": draw(st.sampled_from(["external", "rack", "screw", "glue"])),
                    "driver_teeth": draw(st.sampled_from([None, 14, 0, 7.5])),
                    "values": draw(st.sampled_from([(), ("0", "1"), ("on", "off")])),
                    "reverse": draw(st.booleans()),
                    "also": draw(st.sampled_from([[], [pick(draw, parameters)]])),
                    "plus_each": 5,
                    "axis": draw(st.sampled_from([None, 1])),
                    "position": 0,
                },
                {
                    "kind": "move layers",
                    "layers": [pick(draw, layers)],
                    "by": [draw(st.floats(-90, 90)), 4],
                    "reach": 60,
                    "frame": 2,
                },
                {"kind": "store snapshot", "id": f"shot{step}", "name": "Shot", "frame": draw(st.integers(0, 20))},
                {"kind": "recall snapshot", "snapshot": pick(draw, snapshots), "frame": frame},
                {"kind": "store snapshot", "instead": pick(draw, snapshots)},
                {
                    "kind": "blend snapshots",
                    "snapshots": [pick(draw, snapshots), pick(draw, snapshots)],
                    "amount": draw(st.floats(-10, 120)),
                },
                {
                    "kind": "make blend",
                    "snapshots": [pick(draw, snapshots), pick(draw, snapshots)],
                    "id": f"blend{step}",
                    "name": "Blend",
                },
                {
                    "kind": "apply recipe",
                    "recipe": plain(recipe),
                    "parts": {part.id: [pick(draw, layers)] for part in recipe.parts},
                    "salt": f"r{step}",
                },
                {"kind": "make lever", "parameter": parameter, "id": f"lever{step}", "link": f"l{step}"},
                {"kind": "paste chain", "source": parameter, "targets": [pick(draw, parameters)], "seed": step},
                {"kind": "clear chain", "parameter": parameter},
                {"kind": "remove modifier", "modifier": pick(draw, modifiers)},
                {"kind": "move modifier", "modifier": pick(draw, modifiers), "position": draw(st.integers(-1, 3))},
                {"kind": "bypass", "modifier": pick(draw, modifiers), "bypassed": draw(st.booleans())},
                {"kind": "copy modifier", "modifier": pick(draw, modifiers), "id": f"c{step}"},
                {"kind": "unlink", "modifier": pick(draw, modifiers), "frame": 3},
                {
                    "kind": "set windows",
                    "modifier": pick(draw, modifiers),
                    "windows": [{"start": 5, "end": 20, "fade_in": 3}],
                },
                {"kind": "remove lever", "lever": pick(draw, levers), "frame": 9},
                {
                    "kind": "add lever",
                    "id": f"added{step}",
                    "name": "Lever",
                    "lever": draw(st.sampled_from(["number", "switch", "choice", "colour", "angle"])),
                },
                {"kind": "remove layers", "layers": [pick(draw, layers)]},
                {"kind": "duplicate layers", "layers": [pick(draw, layers)], "salt": f"salt{step}"},
                {"kind": "group layers", "layers": [pick(draw, layers)], "id": f"group{step}"},
                {
                    "kind": "arrange layer",
                    "layer": pick(draw, layers),
                    "parent": draw(st.sampled_from([None, *layers])),
                    "position": 0,
                },
                {
                    "kind": "set fill",
                    "layer": pick(draw, layers),
                    "fill": draw(st.sampled_from(["none", "solid", "linear", "radial"])),
                    "stops": [f"a{step}", f"b{step}"],
                },
                {"kind": "move pivot", "layer": pick(draw, layers), "to": [4, 5], "frame": 7},
                {"kind": "change scene", "fps": draw(st.sampled_from([24.0, 30.0, 60.0]))},
            ]
        )
    )


REFERENCES = ["element.u", "element.rank", "element.x", "outer.u", "element.nothing"]
COPY_FORMULAS = ["u * 40", "i / (n - 1)", "mean(Dots.copy_position.x)", "copy(2, Dots.place.x)", "outer.i + rank", "x"]


def array_edit(draw: st.DrawFn, now: Project, step: int) -> dict[str, Any]:
    """An edit of arrays, their gauges, and of what follows them."""
    index = now.scenes[0].index
    layers, parameters = sorted(index.layers), sorted(index.parameters)
    arrays = sorted(layer for layer in layers if isinstance(index.layers[layer], ArrayLayer))
    gauges = sorted(p.removesuffix(".value") for p, node in index.parameters.items() if node.reads is not None)
    array, gauge, parameter = pick(draw, arrays), pick(draw, gauges), pick(draw, parameters)
    way = draw(st.sampled_from(["@mean", "@least", "@3", "@0", "", "@nobody"]))
    driver = draw(st.sampled_from([*REFERENCES, f"{pick(draw, parameters)}{way}"]))
    order = draw(st.sampled_from(["number", "columns", "round", "shuffled"]))
    return draw(
        st.sampled_from(
            [
                {
                    "kind": "repeat layers",
                    "layers": [pick(draw, layers)],
                    "id": f"array{step}",
                    "count": draw(st.integers(1, 5)),
                },
                {
                    "kind": "set arrangement",
                    "array": array,
                    "arrangement": draw(st.sampled_from(["row", "grid", "ring", "path", "scatter", "heap"])),
                },
                {
                    "kind": "set arrangement",
                    "array": array,
                    "outline": draw(st.sampled_from([*layers, ""])),
                    "data": draw(st.sampled_from([None, "M 0 0 L 90 40", "M 5 5", "nonsense"])),
                },
                {
                    "kind": "add gauge",
                    "array": array,
                    "gauge": draw(st.sampled_from(["sweep", "zone", "noise", "random", "order", "mood"])),
                    "id": f"gauge{step}",
                },
                {"kind": "change gauge", "gauge": gauge, "own_order": draw(st.booleans())},
                {"kind": "set value", "parameter": f"{gauge}.size_depth", "value": draw(st.sampled_from([0, 90]))},
                {"kind": "remove gauge", "gauge": gauge, "frame": 3},
                {
                    "kind": "tie to gauge",
                    "gauge": gauge,
                    "values": {parameter: draw(st.sampled_from(["40", "1, 2", "#123456", "x"]))},
                    "id": f"tie{step}",
                },
                {
                    "kind": "later each",
                    "parameter": parameter,
                    "seconds": draw(st.sampled_from([0, 0.1])),
                    "id": f"late{step}",
                },
                {"kind": "take apart", "array": array, "way": draw(st.sampled_from(["still", "baked"]))},
                {
                    "kind": "link to",
                    "parameter": parameter,
                    "driver": driver,
                    "component": draw(st.sampled_from([None, 0])),
                    "id": f"n{step}",
                },
                {
                    "kind": "write formula",
                    "parameter": parameter,
                    "text": draw(st.sampled_from(COPY_FORMULAS)),
                    "id": f"q{step}",
                },
                {
                    "kind": "add modifier",
                    "parameter": f"{array}.{draw(st.sampled_from(['copy_position', 'copy_depth']))}",
                    "modifier": "push",
                    "id": f"push{step}",
                },
                {"kind": "set value", "parameter": f"{array}.order.measure", "text": order},
                {"kind": "set value", "parameter": f"{array}.later", "value": draw(st.sampled_from([0.1, -0.2, 0]))},
                {"kind": "paste chain", "source": f"{array}.copy_rotation", "targets": [parameter], "seed": step},
                {"kind": "arrange layer", "layer": pick(draw, layers), "parent": array, "position": 0},
            ]
        )
    )


class RandomWork(unittest.TestCase):
    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_any_edits_of_arrays_leave_a_sound_project(self, data: st.DataObject) -> None:
        chain = [{"kind": "wave", "id": "w", "along": 1}]
        dots = {"kind": "array", "id": "dots", "name": "Dots", "copy_rotation": {"rest": 3, "chain": chain}}
        inner = {"kind": "ellipse", "id": "dot", "name": "Dot"}
        now = project(scene({"rotation": {"chain": [{"kind": "rate", "id": "r"}]}}, {**dots, "layers": [inner]}))
        self.work(
            data,
            now,
            lambda draw, now, step: (
                array_edit(draw, now, step) if draw(st.integers(0, 3)) else some_edit(draw, now, step)
            ),
        )

    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_any_edits_in_any_order_leave_a_sound_project(self, data: st.DataObject) -> None:
        self.work(data, project(scene({}, {"kind": "star"})), some_edit)

    def work(
        self, data: st.DataObject, now: Project, some: Callable[[st.DrawFn, Project, int], dict[str, Any]]
    ) -> None:
        """Makes edits that are drawn, and holds what comes of them to what must hold of every project."""
        for step in range(data.draw(st.integers(1, 14))):
            fields = some(data.draw, now, step)
            edit = EDIT.validate_python({"scene": "s", **fields})
            before = plain(now)
            try:
                after = edit.apply(now)
                label = edit.label(now)
            except Refused as refused:
                self.assertTrue(refused.message.endswith("."), refused.message)
                self.assertEqual(plain(now), before)
                continue
            self.assertTrue(label)
            self.assertEqual(plain(now), before)
            self.assertEqual(list(problems(after)), [], fields)
            now = after
        self.assertEqual(plain(read(write(now).encode())), plain(now))
        one = now.scenes[0]
        sampler = Sampler(one)
        self.assertTrue(all(check.text.endswith((".", "?")) for check in run(sampler)))
        self.assertTrue(all(tie.words and tie.driver in one.index.parameters for tie in ties(one.index)))
        perfect(one)
        for channel in display_list(sampler, SampleTimes.frames(one.fps, 0, 12)).channels().values():
            self.assertTrue(np.isfinite(channel.rows).all())
        for node in one.index.parameters:
            for told in notes(sampler, node):
                self.assertTrue(all(note.text for note in told))
            self.assertTrue(np.isfinite(sampler.sample(node, [0.0, 0.5, 4.0])).all())
