"""Levers: ranges that suit what they were made from, and options that lead along what uses them."""

import unittest

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.lever import sensible_range
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene, wiggling

WEATHER = ("calm", "breezy", "wild", "storm")


def rig() -> Project:
    """A choice lever with keys, a snapshot and a formula that speaks of its options."""
    value = {"rest": "calm", "keys": [{"frame": 0, "value": "calm"}, {"frame": 60, "value": "wild"}]}
    lever = {"id": "v", "name": "Weather", "kind": "choice", "options": list(WEATHER), "value": value}
    formula = {"kind": "formula", "id": "f", "text": 'if $<v.value> == "wild" then 40 else 2'}
    made = project(scene({"rotation": {"chain": [formula]}}, levers=(lever,)))
    return apply(made, "store snapshot", id="n", name="Evening", frame=70)


def turned(made: Project) -> list[float]:
    """The rotation that listens to the lever, every tenth frame."""
    return list(Sampler(made.scenes[0]).sample("layer0.rotation", [k / 3 for k in range(12)])[:, 0])


class Options(unittest.TestCase):
    @settings(max_examples=60)
    @given(st.lists(st.text("abcdefgh ", min_size=1, max_size=6).map(str.strip), min_size=4, max_size=4, unique=True))
    def test_renamed_ones_are_led_over_everywhere(self, names: list[str]) -> None:
        assume(all(names) and not set(names) & set(WEATHER))
        made = rig()
        after = apply(made, "change lever", lever="v", options=names)
        one = after.scenes[0]
        lever = one.index.levers["v"]
        self.assertEqual([key.value for key in lever.value.keys], [names[0], names[2]])
        self.assertEqual((lever.value.rest, one.snapshots[0].values["v"]), (names[0], names[2]))
        self.assertEqual(turned(after), turned(made))
        self.assertEqual(project_file.read(project_file.write(after).encode()).scenes, after.scenes)

    @settings(max_examples=30)
    @given(st.permutations(WEATHER))
    def test_in_any_order_each_means_what_it_meant(self, order: list[str]) -> None:
        made = rig()
        after = apply(made, "change lever", lever="v", options=order)
        self.assertEqual(after.scenes[0].index.levers["v"].value, made.scenes[0].index.levers["v"].value)
        self.assertEqual(turned(after), turned(made))

    def test_more_of_them_change_nothing_and_unused_ones_may_go(self) -> None:
        made = rig()
        for options in ([*WEATHER, "hail"], ["hail", *WEATHER], ["calm", "wild"], ["wild", "calm", "fog"]):
            self.assertEqual(turned(apply(made, "change lever", lever="v", options=options)), turned(made))

    def test_one_that_is_used_stays_and_its_users_are_named(self) -> None:
        with self.assertRaises(Refused) as refused:
            apply(rig(), "change lever", lever="v", options=["calm", "breezy", "storm"])
        for user in ("“wild” is still used", "frame 60", "snapshot Evening", "Layer 0 / rotation"):
            self.assertIn(user, refused.exception.message)


class Ranges(unittest.TestCase):
    @given(st.floats(1e-4, 1e6), st.sampled_from(["angle", "length", "number", "percentage"]), st.sampled_from([1, -1]))
    def test_a_difference_stands_near_the_middle_of_its_range(self, size: float, kind: str, sign: int) -> None:
        low, high = sensible_range(sign * size, ParameterSpec(kind=kind, default=0, label="x", owner="step"))  # type: ignore[arg-type]
        node = (sign * size - low) / (high - low)
        # Below 0 the range goes both ways, and the number stands half-way to its end.
        self.assertTrue(0.37 <= (node if sign > 0 else 1 - 2 * node) <= 0.63, (size, low, high))

    @given(st.floats(-1e6, 1e6), st.sampled_from(["angle", "length", "number", "percentage"]))
    def test_any_number_lies_within_a_range_of_short_ends(self, value: float, kind: str) -> None:
        low, high = sensible_range(value, ParameterSpec(kind=kind, default=0, label="x"))  # type: ignore[arg-type]
        self.assertLess(low, high)
        self.assertTrue(low <= value <= high)

    def test_a_lever_of_an_amplitude_keeps_its_unit_and_tells_no_turns(self) -> None:
        made = apply(project(wiggling(amplitude=10)), "make lever", parameter="w.amplitude", id="v")
        lever = made.scenes[0].index.levers["v"]
        self.assertEqual((lever.kind, lever.low, lever.high), ("angle", 0, 20))
