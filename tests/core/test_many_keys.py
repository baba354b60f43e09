"""Edits of several keys at once, and baking."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import apply, project, scene, wiggling

ROWS = [
    {"frame": 10, "value": 0, "ease": "ease-in"},
    {"frame": 20, "value": 50, "ease": "linear"},
    {"frame": 40, "value": 30, "ease": "ease-out"},
]
FRAMES = np.arange(300) / 30


def keyed(*layers: Any) -> Any:
    return project(scene(*({"rotation": {"keys": keys}} for keys in layers)))


def rows(made: Any, parameter: str = "layer0.rotation") -> list[tuple[float, Any, Any]]:
    return [(key.frame, key.value, key.ease) for key in made.scenes[0].index.parameters[parameter].parameter.keys]


def picked(*frames: float, parameter: str = "layer0.rotation") -> dict[str, Any]:
    return {"parameter": parameter, "frames": frames}


class ManyKeys(unittest.TestCase):
    def test_moving_and_scaling_in_time_and_value(self) -> None:
        made = keyed(ROWS)
        moved = apply(made, "move keys", keys=[picked(10, 20)], by=2.5, rise=5)
        self.assertEqual([r[:2] for r in rows(moved)], [(12.5, 5), (22.5, 55), (40, 30)])
        scaled = apply(made, "move keys", keys=[picked(10, 20, 40)], stretch=2, about=10, scale=-1, level=20)
        self.assertEqual([r[:2] for r in rows(scaled)], [(10, 40), (30, -10), (70, 10)])
        both = keyed(ROWS, ROWS)
        both = apply(both, "move keys", keys=[picked(20), picked(40, parameter="layer1.rotation")], by=3)
        self.assertEqual(
            ([r[0] for r in rows(both)], [r[0] for r in rows(both, "layer1.rotation")]), ([10, 23, 40], [10, 20, 43])
        )

    def test_a_key_that_lands_on_another_replaces_it_and_none_leaves_the_scene(self) -> None:
        made = apply(keyed(ROWS), "move keys", keys=[picked(10)], by=10)
        self.assertEqual([r[:2] for r in rows(made)], [(20, 0), (40, 30)])
        for wrong in ({"by": -11}, {"by": 400}):
            with self.assertRaises(Refused):
                apply(keyed(ROWS), "move keys", keys=[picked(10)], **wrong)
        with self.assertRaisesRegex(Refused, "no longer there"):
            apply(keyed(ROWS), "move keys", keys=[picked(11)], by=1)

    def test_keys_at_fractions_of_frames_survive(self) -> None:
        made = apply(keyed(ROWS), "move keys", keys=[picked(20)], by=0.375)
        made = apply(made, "move keys", keys=[picked(10, 20.375, 40)], by=1)
        self.assertEqual([r[0] for r in rows(made)], [11, 21.375, 41])

    def test_vectors_move_by_component(self) -> None:
        made = project(scene({"position": {"keys": [{"frame": 0, "value": [1, 2]}, {"frame": 9, "value": [3, 4]}]}}))
        made = apply(made, "move keys", keys=[picked(9, parameter="layer0.position")], rise=10, component=1)
        self.assertEqual(rows(made, "layer0.position")[1][1], (3, 14))

    def test_arranging(self) -> None:
        made = keyed(ROWS, ROWS)
        frames = [picked(20, 40), picked(10, 20, parameter="layer1.rotation")]
        lined = apply(made, "arrange keys", keys=frames, how="align in time", frame=100)
        self.assertEqual([r[0] for r in rows(lined)], [10, 100, 120])
        self.assertEqual([r[0] for r in rows(lined, "layer1.rotation")], [40, 100, 110])
        self.assertEqual(
            [r[1] for r in rows(apply(made, "arrange keys", keys=[picked(20, 40)], how="align in value"))], [0, 50, 50]
        )
        self.assertEqual(
            [r[0] for r in rows(apply(made, "arrange keys", keys=[picked(10, 20, 40)], how="distribute"))], [10, 25, 40]
        )

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 200),
                st.floats(-50, 50),
                st.sampled_from(["linear", "ease", "ease-in", (0.1, -0.5, 0.7, 1.4)]),
            ),
            min_size=2,
            max_size=5,
            unique_by=lambda r: r[0],
        )
    )
    def test_reversing_in_time_plays_the_keys_backwards(self, raw: Any) -> None:
        keys = [{"frame": f, "value": v, "ease": e} for f, v, e in raw]
        made = keyed(keys)
        first, last = min(r[0] for r in raw), max(r[0] for r in raw)
        turned = apply(made, "arrange keys", keys=[picked(*(r[0] for r in raw))], how="reverse")
        times = np.linspace(first, last, 50) / 30
        np.testing.assert_allclose(
            Sampler(turned.scenes[0]).sample("layer0.rotation", (first + last) / 30 - times),
            Sampler(made.scenes[0]).sample("layer0.rotation", times),
            atol=1e-6,
        )

    def test_pasting_easing_removing_closing(self) -> None:
        made = apply(keyed(ROWS), "paste keys", keys={"layer0.rotation": ROWS[:2]}, frame=100)
        self.assertEqual([r[:2] for r in rows(made)], [(10, 0), (20, 50), (40, 30), (100, 0), (110, 50)])
        made = apply(made, "ease keys", keys=[picked(10, 40)], ease=[0.3, -0.5, 0.6, 1.5])
        self.assertEqual([r[2] for r in rows(made)][:3], [(0.3, -0.5, 0.6, 1.5), "linear", (0.3, -0.5, 0.6, 1.5)])
        made = apply(made, "remove keys", keys=[picked(10, 20, 100, 110)])
        self.assertEqual([r[:2] for r in rows(made)], [(40, 30)])
        made = apply(made, "remove keys", keys=[picked(40)])
        self.assertEqual(made.scenes[0].index.parameters["layer0.rotation"].parameter.rest, 30)
        self.assertEqual(rows(apply(keyed(ROWS), "close keys", parameter="layer0.rotation"))[-1][1], 0)
        with self.assertRaises(Refused):
            apply(keyed(ROWS), "paste keys", keys={"layer0.rotation": [{"frame": 0, "value": "red"}]}, frame=5)


class Baking(unittest.TestCase):
    def test_one_key_a_frame_gives_the_same_values_and_keeps_the_chain(self) -> None:
        made = project(wiggling(frequency=2, amplitude=30, seed=4))
        before = Sampler(made.scenes[0]).sample("layer0.rotation", FRAMES)
        baked = apply(made, "bake", parameter="layer0.rotation")
        own = baked.scenes[0].index.parameters["layer0.rotation"].parameter
        self.assertEqual((len(own.keys), own.bypassed, len(own.chain)), (300, True, 1))
        np.testing.assert_allclose(Sampler(baked.scenes[0]).sample("layer0.rotation", FRAMES), before, atol=1e-9)

    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.01, 5), st.integers(1, 999), st.sampled_from(["rotation", "position"]))
    def test_few_keys_stay_within_the_tolerance(self, tolerance: float, seed: int, field: str) -> None:
        rest = [0, 0] if field == "position" else 0
        made = project(wiggling(field, rest=rest, frequency=1.5, amplitude=30, seed=seed))
        edit = EDIT.validate_python(
            {"kind": "bake", "scene": "s", "parameter": f"layer0.{field}", "tolerance": tolerance}
        )
        baked = edit.apply(made)
        error = np.abs(
            Sampler(baked.scenes[0]).sample(f"layer0.{field}", FRAMES)
            - Sampler(made.scenes[0]).sample(f"layer0.{field}", FRAMES)
        ).max()
        self.assertLessEqual(error, tolerance * 1.001 + 1e-3)
        count = len(baked.scenes[0].index.parameters[f"layer0.{field}"].parameter.keys)
        self.assertLessEqual(count, 300)
        # Straight lines for two components at once need more keys than cubics for one, and finer ones still more.
        if tolerance >= 0.25:
            self.assertLess(count, 150 if field == "rotation" else 280)
        self.assertRegex(edit.label(made), rf"baked to {count} keys, off by at most ")

    def test_a_range_leaves_other_keys_and_steps_become_held_keys(self) -> None:
        made = project(wiggling(keys=[{"frame": 5, "value": 1}, {"frame": 50, "value": 2}, {"frame": 250, "value": 3}]))
        baked = apply(made, "bake", parameter="layer0.rotation", start=20, end=100)
        frames = [key.frame for key in baked.scenes[0].index.parameters["layer0.rotation"].parameter.keys]
        self.assertEqual((frames[0], frames[1], frames[-2], frames[-1]), (5, 20, 100, 250))
        text = project(scene({"kind": "text", "text": "x"}))
        text = apply(text, "write formula", parameter="layer0.text", text="text(floor(t), 0)")
        baked = apply(text, "bake", parameter="layer0.text")
        self.assertEqual([r[:2] for r in rows(baked, "layer0.text")][:3], [(0, "0"), (30, "1"), (60, "2")])
        with self.assertRaisesRegex(Refused, "no chain"):
            apply(keyed(ROWS), "bake", parameter="layer0.rotation")
        with self.assertRaisesRegex(Refused, "range"):
            apply(made, "bake", parameter="layer0.rotation", start=50, end=20)
