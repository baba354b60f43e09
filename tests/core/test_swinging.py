"""Swinging out of step: whole numbers of rounds from copy to copy, together at both ends of the scene."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.edits.swinging import meetings, rounds_of, together
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene


def swinging(kind: str = "wave", count: int = 29, **fields: Any) -> Project:
    """A row of copies whose rotation (for a figure, the position) goes round by one modifier."""
    made = apply(project(scene({}, length=300)), "repeat layers", layers=["layer0"], id="a", count=count)
    parameter = "a.copy_position" if kind == "figure" else "a.copy_rotation"
    return apply(made, "add modifier", parameter=parameter, modifier=kind, id="w", **fields)


def at(of: Scene, frames: list[float], parameter: str = "a.copy_rotation") -> Any:
    """A value of all copies at frames, (copies, frames, components)."""
    sampler = Sampler(of)
    return sampler.evaluate(parameter, inside(sampler, parameter, SampleTimes(np.array(frames) / of.fps)))


class Swinging(unittest.TestCase):
    def test_each_goes_round_a_whole_number_of_times_and_all_are_together_at_the_end(self) -> None:
        made = apply(swinging(), "swing out of step", modifier="w", least=12, most=40)
        now = made.scenes[0]
        self.assertEqual(rounds_of(now, "w"), list(range(12, 41)))
        # By the law of a wave: its amplitude times the sine of so many rounds.
        amplitude = now.index.modifiers["w"].modifier.amplitude.rest  # type: ignore[attr-defined]
        for frame in (0, 37.0, 150, 300):
            meant = amplitude * np.sin(2 * np.pi * np.arange(12, 41) * frame / 300)
            np.testing.assert_allclose(at(now, [frame])[:, 0, 0], meant, atol=1e-6)
        self.assertEqual(together(rounds_of(now, "w"), 300), [300])
        self.assertEqual(project_file.read(project_file.write(made).encode()), made)

    def test_figures_and_turning_rates_too(self) -> None:
        figure = apply(swinging("figure", 5), "swing out of step", modifier="w", least=2, most=10)
        self.assertEqual(rounds_of(figure.scenes[0], "w"), [2, 4, 6, 8, 10])
        self.assertEqual(together([2, 4, 6, 8, 10], 300), [150, 300])
        places = at(figure.scenes[0], [0, 150, 300], "a.copy_position")
        np.testing.assert_allclose(places, places[:1, :1] + np.zeros((5, 3, 1)), atol=1e-6)
        rate = apply(swinging("rate", 5), "swing out of step", modifier="w", least=1, most=5)
        np.testing.assert_allclose(at(rate.scenes[0], [300])[:, 0, 0], 360 * np.arange(1, 6), atol=1e-6)

    def test_by_a_step_from_copy_to_copy(self) -> None:
        made = apply(swinging(count=4), "swing out of step", modifier="w", least=6, step=3)
        self.assertEqual(rounds_of(made.scenes[0], "w"), [6, 9, 12, 15])
        more = apply(made, "set value", parameter="a.arrangement.count", value=6).scenes[0]
        self.assertEqual(rounds_of(more, "w"), [6, 9, 12, 15, 18, 21])
        self.assertEqual(meetings(more, more.index.parameters["a.copy_rotation"]), [100, 200, 300])
        with self.assertRaisesRegex(Refused, "Give the most rounds"):
            apply(swinging(), "swing out of step", modifier="w", least=6)

    def test_what_steered_its_pace_gives_way_and_one_more_time_changes_only_the_numbers(self) -> None:
        made = apply(swinging(), "add modifier", parameter="w.frequency", modifier="wiggle", id="shaky")
        made = apply(made, "swing out of step", modifier="w", least=3, most=9, id="apart")
        again = apply(made, "swing out of step", modifier="w", least=3, most=31, id="apart")
        self.assertEqual(rounds_of(again.scenes[0], "w"), list(range(3, 32)))
        self.assertEqual(
            [one.id for one in again.scenes[0].index.parameters["w.frequency"].parameter.chain], ["apart", "apart-w"]
        )

    def test_where_they_meet_is_known_as_long_as_it_is_so(self) -> None:
        made = apply(swinging(count=5), "swing out of step", modifier="w", least=2, most=10)

        def meets(of: Project) -> list[float]:
            return meetings(of.scenes[0], of.scenes[0].index.parameters["a.copy_rotation"])

        self.assertEqual(meets(made), [150, 300])
        self.assertEqual(meets(apply(made, "set value", parameter="a.arrangement.count", value=3)), [75, 150, 225, 300])
        self.assertEqual(meets(apply(made, "bypass", modifier="w", bypassed=True)), [])
        # In a scene of another length they are together at other frames, and not as it ends.
        self.assertEqual(meets(apply(made, "change scene", length=310)), [])
        self.assertEqual(meets(swinging()), [])
        # Nor where they begin apart, as they lie along a wave.
        self.assertEqual(meets(apply(made, "set value", parameter="w.along", value=1)), [])
        # Nor where the paces change, or where nothing goes round that goes on from copy to copy.
        changing = apply(made, "add modifier", parameter=f"{self.apart(made)}.target", modifier="wave", id="slow")
        self.assertEqual(meets(changing), [])
        moved = apply(swinging(count=5), "add modifier", parameter="a.copy_position", modifier="rate", id="drift")
        moved = apply(moved, "link to", parameter="drift.rate", driver="element.rank", id="faster").scenes[0]
        self.assertEqual(meetings(moved, moved.index.parameters["a.copy_position"]), [])

    def apart(self, of: Project) -> str:
        """The id of what leads the pace."""
        return of.scenes[0].index.parameters["w.frequency"].parameter.chain[0].id

    def test_refusals(self) -> None:
        made = swinging()
        alone = apply(project(scene({})), "add modifier", parameter="layer0.rotation", modifier="wave", id="x")
        for of, modifier, least, most, words in (
            (made, "w", 9, 9, "nothing to go apart"),
            (made, "w", 9, 3, "nothing to go apart"),
            (alone, "x", 1, 3, "stands in no array"),
            (swinging("wiggle"), "w", 1, 3, "does not go round"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Refused, words):
                apply(of, "swing out of step", modifier=modifier, least=least, most=most)
        for least, most in ((-1, 4), (1, 10_001)):
            with self.subTest(least=least), self.assertRaises(ValueError):
                apply(made, "swing out of step", modifier="w", least=least, most=most)

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.integers(0, 400), min_size=1, max_size=12))
    def test_they_meet_where_all_have_gone_round_whole_numbers_apart(self, rounds: list[int]) -> None:
        found = together(rounds, 1200)
        for frame in found:
            apart = np.array(rounds) * frame / 1200
            np.testing.assert_allclose((apart - apart[0]) - np.round(apart - apart[0]), 0, atol=1e-9)
        if len(set(rounds)) > 1:
            self.assertEqual(found[-1], 1200)
            # Nowhere between the first two of them: there somebody is apart.
            between = np.arange(1, 40) * found[0] / 40
            apart = np.outer(between, np.array(rounds) - rounds[0]) / 1200
            self.assertTrue((np.abs(apart - np.round(apart)).max(axis=1) > 1e-9).all())
