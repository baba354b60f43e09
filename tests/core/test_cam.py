"""Cam: a little motion drawn in the value's own unit, played as what leads it goes on."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.periods import periods_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene
from tests.core.test_steer import row_of, tied, values

HOP = [
    {"frame": 0, "value": 0, "ease": "linear"},
    {"frame": 50, "value": -80, "ease": "linear"},
    {"frame": 100, "value": 10},
]


_NOW = SampleTimes(np.zeros(1))


def played(shares: Any) -> Any:
    """What HOP is at shares of the way."""
    return np.interp(shares, [0, 0.5, 1], [0, -80, 10])


def hopping() -> Project:
    """Copies whose position y plays a hop as a sweep passes, on top of a wiggle."""
    made = apply(row_of(), "add modifier", parameter="a.copy_position", modifier="wiggle", id="w", seed=8)
    made = tied(made, "one", "0, -40", "plays")
    return apply(made, "draw curve", parameter="by-one-0.profile", points=HOP)


class Played(unittest.TestCase):
    def test_it_adds_its_curve_in_px_on_top_of_what_is_there(self) -> None:
        made = hopping()
        bare = values(apply(made, "remove modifier", modifier="by-one-0").scenes[0], "a.copy_position")
        g = values(made.scenes[0], "one.value")[..., 0]
        after = values(made.scenes[0], "a.copy_position")
        np.testing.assert_allclose(after[..., 0], bare[..., 0], atol=1e-9)
        np.testing.assert_allclose(after[..., 1], bare[..., 1] + played(np.clip(g, 0, 1)), atol=1e-9)
        self.assertEqual(project_file.read(project_file.write(made).encode()), made)

    def test_several_add_up_and_two_components_have_one_each(self) -> None:
        made = tied(row_of(), "one", "30, -60", "plays")
        (x, y) = made.scenes[0].index.parameters["a.copy_position"].parameter.chain
        self.assertEqual([x.weights.rest, y.weights.rest], [(1.0, 0.0), (0.0, 1.0)])
        self.assertEqual(
            [max(key.value for key in x.profile.keys), min(key.value for key in y.profile.keys)], [30, -60]
        )
        alone, other = (
            values(tied(row_of(), g, "12", "plays", "a.copy_rotation").scenes[0], "a.copy_rotation")
            for g in ("one", "two")
        )
        both = tied(tied(row_of(), "one", "12", "plays", "a.copy_rotation"), "two", "12", "plays", "a.copy_rotation")
        np.testing.assert_allclose(values(both.scenes[0], "a.copy_rotation"), alone + other, atol=1e-9)

    def test_without_points_or_strength_it_is_nothing_to_the_bit(self) -> None:
        made = hopping()
        bare = values(apply(made, "remove modifier", modifier="by-one-0").scenes[0], "a.copy_position")
        for edit in (
            {"kind": "reset value", "parameter": "by-one-0.profile"},
            {"kind": "set value", "parameter": "by-one-0.strength", "value": 0},
        ):
            kind = edit.pop("kind")
            np.testing.assert_array_equal(values(apply(made, kind, **edit).scenes[0], "a.copy_position"), bare)

    def test_a_lever_plays_it_between_its_ends_and_it_stays_where_the_lever_goes(self) -> None:
        made = apply(project(scene({"rotation": 5})), "add lever", name="Kick", id="kick")
        link = {"parameter": "layer0.rotation", "driver": "kick.value", "way": "steer", "steers": "plays", "id": "c"}
        made = apply(made, "link to", **link, goal="40", source=("20", "60"))
        made = apply(made, "draw curve", parameter="c.profile", points=HOP)
        for at, share in ((0, 0), (20, 0), (40, 0.5), (50, 0.75), (60, 1), (90, 1)):
            now = apply(made, "set value", parameter="kick.value", value=at)
            self.assertAlmostEqual(
                float(Sampler(now.scenes[0]).track("layer0.rotation", _NOW)[0, 0]), 5 + played(share)
            )
        at = apply(made, "set value", parameter="kick.value", value=40)
        left = apply(at, "remove lever", lever="kick")
        self.assertAlmostEqual(float(Sampler(left.scenes[0]).track("layer0.rotation", _NOW)[0, 0]), -75)

    def test_the_loop_knows_that_its_points_are_no_moments(self) -> None:
        wave = {"kind": "wave", "id": "w", "frequency": 0.5, "amplitude": 1}
        cam = {"kind": "cam", "id": "c", "driver": "layer1.rotation", "profile": {"rest": 0, "keys": HOP}}
        made = project(scene({"rotation": {"rest": 0, "chain": [cam]}}, {"rotation": {"rest": 0, "chain": [wave]}}))
        cycle = periods_of(Sampler(made.scenes[0])).of("layer0.rotation")
        self.assertEqual(cycle.period if cycle else None, 2)


class FromKeys(unittest.TestCase):
    def test_the_keys_of_a_value_become_its_curve(self) -> None:
        made = row_of()
        for frame, value in ((10, [5, 7]), (30, [5, 47]), (50, [5, 2])):
            made = apply(made, "set key", parameter="a.copy_position", frame=frame)
            made = apply(made, "set value", parameter="a.copy_position", value=value, frame=frame)
        made = tied(made, "one", "0, 10", "plays")
        after = apply(made, "take keys", modifier="by-one-0")
        node = after.scenes[0].index.parameters["a.copy_position"]
        self.assertEqual((node.parameter.keys, node.parameter.rest), ((), (5.0, 7.0)))
        points = after.scenes[0].index.parameters["by-one-0.profile"].parameter.keys
        self.assertEqual([(key.frame, key.value) for key in points], [(0, 0), (50, 40), (100, -5)])

    def test_what_cannot_be_taken_is_refused(self) -> None:
        made = tied(row_of(), "one", "0, 10", "plays")
        with self.assertRaisesRegex(Refused, "no two keys"):
            apply(made, "take keys", modifier="by-one-0")
        with self.assertRaisesRegex(Refused, "plays no curve"):
            apply(tied(row_of(), "one", "5", "by"), "take keys", modifier="by-one-0")
