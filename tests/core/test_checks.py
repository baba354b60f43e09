"""What the program notices: seams and perfect loops, lockstep, links, ranges, picture edges, flashing."""

import unittest
from fractions import Fraction
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.checks import edges, flashing, links, seam
from jaunty_lever.core.checks.check import Check
from jaunty_lever.core.checks.run import run
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.sampler import Sampler

from .scenes import apply, driven, project, rigs_of_all, scene


def wave(id: str, frequency: Any, **settings: Any) -> dict[str, Any]:
    return {"kind": "wave", "id": id, "frequency": frequency, "amplitude": 20, **settings}


def chained(*chain: dict[str, Any], rest: Any = 0, keys: Any = ()) -> dict[str, Any]:
    return {"rest": rest, "keys": keys, "chain": list(chain)}


def mended(one: Scene, check: Check, which: int = 0) -> Scene:
    """The scene after one of a check's mends has been pressed."""
    state = project(one)
    for edit in check.mends[which].edits:
        state = apply(state, **edit)
    return state.scenes[0]


class Seams(unittest.TestCase):
    def test_the_shortest_loop_is_the_least_common_multiple_of_exact_periods(self) -> None:
        one = scene(
            {"rotation": chained(wave("a", 0.5)), "opacity": chained(wave("b", {"rest": 1 / 3, "typed": ["1/3"]}))},
            {"position": chained({"kind": "figure", "id": "c", "p": 3, "q": 2, "speed": 0.25})},
            {"rotation": chained({"kind": "rate", "id": "d", "rate": 72})},
            {"rotation": chained({"kind": "wiggle", "id": "e", "repeat": 2.5})},
        )
        periods = Sampler(one).periods
        told = {p: periods.seen(p) for p in ("layer0.rotation", "layer0.opacity", "layer1.position", "layer2.rotation")}
        self.assertEqual([cycle.period for cycle in told.values() if cycle], [2, 3, 4, 5])
        self.assertEqual(seam.perfect(one).frames, 60 * 30)
        longer = one.changed(length=1800)
        self.assertEqual(list(seam.jumps(Sampler(longer))), [])
        self.assertEqual(
            len(list(seam.jumps(Sampler(one)))), 2, "300 frames fit all but the third of a hertz and the figure"
        )

    @settings(max_examples=30, deadline=None)
    @given(
        st.integers(1, 40), st.integers(1, 12), st.sampled_from([24, 25, 30, 60]), st.sampled_from(["external", "belt"])
    )
    def test_at_the_length_it_names_everything_is_back(self, twelfths: int, teeth: int, fps: int, mesh: str) -> None:
        gear = {
            "kind": "gear",
            "id": "g",
            "driver": "layer0.rotation",
            "mesh": mesh,
            "driver_teeth": teeth,
            "driven_teeth": 7,
        }
        typed = f"{twelfths}/12"
        one = scene(
            {
                "rotation": chained(
                    {"kind": "rate", "id": "r", "rate": {"rest": 360 * twelfths / 12, "typed": [f"{30 * twelfths}/1"]}}
                )
            },
            {"rotation": chained(gear), "opacity": chained(wave("w", {"rest": twelfths / 12, "typed": [typed]}))},
            fps=fps,
        )
        frames = seam.perfect(one).frames
        assert frames is not None
        self.assertEqual(Fraction(frames, fps) * Fraction(twelfths, 12) % 1, 0)
        self.assertEqual(list(seam.jumps(Sampler(one.changed(length=frames)))), [])

    @settings(max_examples=120, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rigs_of_all())
    def test_whatever_is_said_to_repeat_does(self, rig: dict[str, Any]) -> None:
        one = driven(rig)
        sampler = Sampler(one)
        periods = sampler.periods
        times = np.linspace(0.0, 3.0, 17)
        for parameter in ("layer0.rotation", "layer0.position", "lever.value"):
            cycle = periods.of(parameter)
            if cycle is None or cycle.period > 10_000:
                continue
            later = float(cycle.period or 7)
            values, again = sampler.sample(parameter, times), sampler.sample(parameter, times + later)
            # Where a value jumps, rounding may put a moment on either side.
            size = max(1.0, float(np.abs(values).max()), abs(float(cycle.drift)) * later)
            off = np.abs(again - values - float(cycle.drift) * later) > 1e-5 * size
            self.assertLessEqual(off.mean(), 0.15, (parameter, cycle))

    def test_one_press_rounds_what_does_not_fit(self) -> None:
        one = scene(
            {"rotation": chained(wave("a", 0.52)), "position": chained({"kind": "wiggle", "id": "b"})},
            {"rotation": chained({"kind": "rate", "id": "c", "rate": 100})},
        )
        found = list(seam.checks(Sampler(one)))
        self.assertEqual({check.at for check in found}, {"layer0.rotation", "layer0.position", "layer1.rotation"})
        for check in found:
            one = mended(one, check)
        self.assertEqual(list(seam.checks(Sampler(one))), [])
        self.assertEqual(Sampler(one).sample("a.frequency", 0)[0], 0.5)
        self.assertEqual(Sampler(one).sample("c.rate", 0)[0], 108)

    def test_keys_that_run_on_into_the_start_are_no_jump(self) -> None:
        keys = [{"frame": 0, "value": -20, "ease": "linear"}, {"frame": 299, "value": 338.8}]
        self.assertEqual(list(seam.jumps(Sampler(scene({"rotation": {"rest": 0, "keys": keys}})))), [])
        keys[1]["value"] = 300
        (jump,) = seam.jumps(Sampler(scene({"rotation": {"rest": 0, "keys": keys}})))
        self.assertAlmostEqual(jump.value, 40 - 320 / 299, places=6)

    def test_what_one_press_makes_fit_is_one_thing_to_look_at(self) -> None:
        shake = [
            {"rotation": {"rest": 0, "chain": [{"kind": "wiggle", "id": f"w{k}", "repeat": 3.3}]}} for k in range(11)
        ]
        keyed = {"opacity": {"rest": 0, "keys": [{"frame": 0, "value": 10}, {"frame": 200, "value": 90}]}}
        one = scene(*shake, keyed)
        many, alone = seam.checks(Sampler(one))
        self.assertIn(
            "11 values jump, Layer 0 / rotation, Layer 1 / rotation, Layer 2 / rotation and 8 more,", many.text
        )
        self.assertEqual((alone.at, alone.mends), ("layer11.opacity", ()))
        mend = next(mend for mend in many.mends if "Round 11" in mend.label)
        now = project(one)
        for edit in mend.edits:
            now = EDIT.validate_python({"scene": "s", **edit}).apply(now)
        self.assertEqual([check.at for check in seam.checks(Sampler(now.scenes[0]))], ["layer11.opacity"])

    def test_a_scene_that_plays_once_has_no_seam(self) -> None:
        one = scene({"rotation": chained(wave("a", 0.52))})
        self.assertTrue(list(seam.checks(Sampler(one))))
        self.assertFalse(list(seam.checks(Sampler(one.changed(loops=False)))))


class Links(unittest.TestCase):
    def kinds(self, one: Scene) -> list[str]:
        return [check.kind for check in links.checks(Sampler(one))]

    def test_lockstep_is_told_and_mended_by_seeds(self) -> None:
        wiggles = [
            {"rotation": chained({"kind": "wiggle", "id": f"w{k}", "seed": 4, "amplitude": 5 + k})} for k in range(3)
        ]
        one = scene(*wiggles)
        (check,) = links.lockstep(Sampler(one))
        self.assertIn("Layer 0 / rotation, Layer 1 / rotation, Layer 2 / rotation", check.text)
        self.assertEqual(list(links.lockstep(Sampler(mended(one, check)))), [])
        apart = scene(*wiggles[:1], {"rotation": chained({"kind": "wiggle", "id": "w9", "seed": 4, "frequency": 5})})
        self.assertEqual(list(links.lockstep(Sampler(apart))), [])

    def test_still_drivers_and_idle_levers(self) -> None:
        follow = {"kind": "follow", "id": "f", "driver": "layer0.rotation"}
        one = scene({}, {"rotation": chained(follow)}, levers=({"id": "wind", "name": "Wind"},))
        self.assertEqual(self.kinds(one), ["still driver", "idle lever"])
        (idle,) = links.idle_levers(Sampler(one))
        self.assertEqual(mended(one, idle).levers, ())
        moving = scene({"rotation": chained(wave("w", 1))}, {"rotation": chained(follow)})
        self.assertEqual(self.kinds(moving), [])

    def test_a_follower_out_of_range_can_be_limited(self) -> None:
        follow = {"kind": "follow", "id": "f", "driver": "layer0.rotation", "times": 10}
        one = scene({"rotation": chained(wave("w", 0.5))}, {"opacity": chained(follow)})
        (check,) = links.out_of_range(Sampler(one))
        self.assertIn("goes from −200 % to 200 %; useful is 0 % to 100 %", check.text)
        self.assertEqual(list(links.out_of_range(Sampler(mended(one, check)))), [])


class Edges(unittest.TestCase):
    def picture(self, **fields: Any) -> Scene:
        return scene(
            {"kind": "picture", "picture": "p", "width": 1400, "height": 800, "position": [640, 360], **fields}
        )

    def test_the_scale_it_names_hides_the_edge_and_hardly_more(self) -> None:
        shake = chained({"kind": "wiggle", "id": "w", "amplitude": 120, "seed": 3}, rest=[640, 360])
        turn = chained({"kind": "wiggle", "id": "t", "amplitude": 4, "seed": 8})
        one = self.picture(position=shake, rotation=turn)
        (check,) = edges.checks(Sampler(one))
        larger = mended(one, check)
        self.assertEqual(list(edges.checks(Sampler(larger))), [])
        scale = larger.layers[0].scale.rest[0]  # type: ignore[index]
        smaller = one.changed(
            layers=(one.layers[0].changed(scale=one.layers[0].scale.changed(rest=(scale * 0.99,) * 2)),)
        )
        self.assertTrue(list(edges.checks(Sampler(smaller))))
        self.assertEqual(list(edges.checks(Sampler(mended(one, check, 1)))), [], "mirrored, no edge shows")

    def test_pictures_that_cover_or_never_covered_are_left_alone(self) -> None:
        self.assertEqual(list(edges.checks(Sampler(self.picture()))), [])
        small = self.picture(scale=[50, 50], rotation=chained(wave("w", 1)))
        self.assertEqual(list(edges.checks(Sampler(small))), [])


class Flashing(unittest.TestCase):
    def light(self, flashes: int, share: float, low: float = 0.2, high: float = 0.4, fps: int = 30) -> np.ndarray:
        cells = np.full((60, 10, 20), low)
        lit = round(200 * share)
        for k in range(flashes):
            frames = slice(5 + k * fps // (flashes + 1), 5 + k * fps // (flashes + 1) + 2)
            cells.reshape(60, 200)[frames, :lit] = high
        return cells

    def test_thresholds_of_wcag(self) -> None:
        self.assertIsNotNone(flashing.flashing(self.light(4, 0.3), 30))
        self.assertIsNone(flashing.flashing(self.light(3, 0.3), 30), "three flashes a second are allowed")
        self.assertIsNone(flashing.flashing(self.light(4, 0.25), 30), "so is a quarter of the stage")
        self.assertIsNone(flashing.flashing(self.light(4, 0.3, 0.2, 0.29), 30), "and a change of under a tenth")
        self.assertIsNone(flashing.flashing(self.light(4, 0.3, 0.85, 1.0), 30), "and one between two bright states")

    def test_slow_swings_are_not_flashes(self) -> None:
        slow = 0.5 + 0.4 * np.sin(2 * np.pi * np.arange(300) / 30 * 2.9)[:, None, None] * np.ones((1, 9, 16))
        self.assertIsNone(flashing.flashing(slow, 30))
        fast = 0.5 + 0.4 * np.sin(2 * np.pi * np.arange(300) / 30 * 4.2)[:, None, None] * np.ones((1, 9, 16))
        told = flashing.flashing(fast, 30)
        assert told is not None
        self.assertGreaterEqual(told[1], 4)

    def test_a_wiggling_opacity_is_seen_through_the_drawing(self) -> None:
        from jaunty_lever.drawing.light import light

        def lamp(frequency: float) -> Scene:
            opacity = chained(wave("w", frequency, amplitude=50, shape="square"), rest=50)
            return scene(
                {
                    "kind": "rectangle",
                    "size": [1280, 720],
                    "position": [640, 360],
                    "opacity": opacity,
                    "fill": {"kind": "solid", "colour": "#000000"},
                }
            )

        self.assertIn("flashing", [check.kind for check in run(Sampler(lamp(6)), light)])
        self.assertNotIn("flashing", [check.kind for check in run(Sampler(lamp(2)), light)])


if __name__ == "__main__":
    unittest.main()
