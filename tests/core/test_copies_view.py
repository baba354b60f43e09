"""What a page sees of an array's copies: the one shown, a fan of others, the map of all, bars, dots, and the frames
drawn."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.view.question import Question
from jaunty_lever.core.view.scene_view import scene_view

from .scenes import project, scene
from .test_arrays import array, formula, row, values, wave

FRAMES = SampleTimes.frames(30, 0, 90)


def asked(one: Scene, **question: Any) -> tuple[dict[str, Any], Any]:
    """An answer, and a way to its channels' numbers: (rows, elements, width)."""
    body, _ = scene_view(project(one), "s", Question.model_validate(question), Cache())

    def numbers(key: str) -> np.ndarray:
        rows, each, data = body["channels"][key]
        return np.frombuffer(data, dtype="<f4").reshape(rows, each, -1)

    return body, numbers


def dots(count: int = 40, **fields: Any) -> Scene:
    chain = [wave(phase=formula("u", "pu"))]
    return scene(array({"rotation": {"rest": 4, "chain": chain}}, arrangement=row(count), **fields), length=90)


class Chosen(unittest.TestCase):
    def test_the_copy_shown_and_a_fan_of_24_others(self) -> None:
        one = dots(later=0.1)
        each = values(one, "e0.rotation", FRAMES)[:, :, 0]
        body, numbers = asked(one, chosen="e0.rotation", copies={"a": 12})
        told = body["chosen"]["copies"]
        self.assertEqual((told["array"], told["count"], told["shown"], told["spread"]), ("a", 40, 12, "fan"))
        self.assertEqual(len(told["numbers"]), 24)
        self.assertNotIn(12, told["numbers"])
        np.testing.assert_allclose(numbers(body["chosen"]["outputs"][-1])[:, 0, 0], each[12], atol=1e-4)
        fan = numbers(told["outputs"][-1])[:, :, 0]
        np.testing.assert_allclose(fan.T, each[told["numbers"]], atol=1e-4)
        # What is the same for all copies is sent once.
        self.assertEqual(numbers(told["outputs"][0]).shape, (1, 1, 1))

    def test_a_copy_that_is_not_there_is_the_last(self) -> None:
        body, _ = asked(dots(5), chosen="e0.rotation", copies={"a": 900})
        self.assertEqual(body["chosen"]["copies"]["shown"], 4)

    def test_the_map_has_all_copies_down_in_their_order(self) -> None:
        one = dots(12, order={"backwards": True})
        each = values(one, "e0.rotation", FRAMES)[:, :, 0]
        body, numbers = asked(one, chosen="e0.rotation", spread="map")
        told = body["chosen"]["copies"]
        self.assertEqual(told["numbers"], list(range(11, -1, -1)))
        np.testing.assert_allclose(numbers(told["outputs"][-1])[:, :, 0].T, each[::-1], atol=1e-4)

    def test_of_very_many_some_and_of_long_scenes_every_other_frame(self) -> None:
        one = dots(3000).changed(length=1200)
        body, numbers = asked(one, chosen="e0.rotation", spread="map", stop=1)
        told = body["chosen"]["copies"]
        self.assertEqual((len(told["numbers"]), told["step"]), (512, 3))
        self.assertEqual(numbers(told["outputs"][-1]).shape, (400, 512, 1))

    def test_outside_arrays_nothing_is_told(self) -> None:
        body, _ = asked(dots(), chosen="a.position")
        self.assertIsNone(body["chosen"]["copies"])


class Beside(unittest.TestCase):
    def test_curves_are_those_of_the_copy_shown_and_bars_those_of_all(self) -> None:
        gauge = {"kind": "random", "id": "g", "name": "Own"}
        one = dots(300, gauges=[gauge])
        own = values(one, "g.value", FRAMES)[:, 0, 0]
        body, numbers = asked(
            one, curves={"result": ["g.value", "a.rank"], "each": ["g.value", "a.position"]}, copies={"a": 7}
        )
        np.testing.assert_allclose(numbers(body["curves"]["result"]["g.value"])[0, 0], own[7], atol=1e-6)
        self.assertEqual(numbers(body["curves"]["result"]["a.rank"]).ravel().tolist(), [7])
        bars = numbers(body["curves"]["each"]["g.value"])[0, :, 0]
        self.assertEqual((len(bars), bars[0], bars[-1]), (120, np.float32(own[0]), np.float32(own[-1])))
        self.assertNotIn("a.position", body["curves"]["each"])

    def test_dots_stand_where_copies_are(self) -> None:
        moved = {"rest": [0, 0], "chain": [wave(amplitude=[0, 50])]}
        one = dots(5, position=[100, 60], scale=[200, 200], copy_position=moved)
        body, numbers = asked(one, dots="a.u", start=15, stop=16)
        told = body["dots"]
        places = values(one, "a.place", FRAMES)[:, 15] + values(one, "a.copy_position", FRAMES)[:, 15]
        np.testing.assert_allclose(numbers(told["places"])[0], places * 2 + [100, 60], atol=1e-4)
        np.testing.assert_allclose(numbers(told["values"])[0, :, 0], np.linspace(0, 1, 5), atol=1e-6)
        self.assertIsNone(asked(one, dots="a.position")[0]["dots"])
        self.assertIsNone(asked(one, dots="nothing")[0]["dots"])

    def test_dots_of_copies_that_come_later_are_not_there_before(self) -> None:
        comes = {
            "kind": "row",
            "count": {"keys": [{"frame": 0, "value": 2}, {"frame": 10, "value": 5}]},
            "gap": [10, 0],
        }
        one = scene(array({}, arrangement=comes), length=30)
        body, numbers = asked(one, dots="a.u", start=0, stop=30)
        counts = numbers(body["dots"]["counts"])[:, 0, 0]
        self.assertEqual((body["dots"]["count"], counts[0], counts[20]), (5, 2, 5))

    def test_dots_of_sparks_are_those_alive_and_tell_their_lives(self) -> None:
        throws = {
            "kind": "emitter",
            "rate": 12,
            "lifetime": 1,
            "speed": 100,
            "direction": 90,
            "spread": 0,
            "speed_random": 0,
            "lifetime_random": 0,
            "gravity": [0, 0],
            "drag": 0,
        }
        one = scene(array({}, arrangement=throws, position=[200, 100]), length=90)
        body, numbers = asked(one, dots="a.life", start=0, stop=90)
        told = body["dots"]
        counts = numbers(told["counts"])[:, 0, 0]
        places, lives = numbers(told["places"]), numbers(told["values"])[..., 0]
        self.assertEqual(told["count"], counts.max())
        for frame in (16, 46, 81):
            alive = int(counts[frame])
            born = np.arange(200) / 12
            ages = frame / 30 - born[(born <= frame / 30 + 1e-9) & (frame / 30 - born < 1 - 1e-9)]
            self.assertEqual(alive, len(ages))
            np.testing.assert_allclose(np.sort(lives[frame, :alive]), np.sort(ages), atol=1e-5)
            np.testing.assert_allclose(np.sort(places[frame, :alive, 0]), np.sort(200 + 100 * ages), atol=1e-2)
            np.testing.assert_allclose(places[frame, :alive, 1], 100, atol=1e-3)

    def test_what_is_drawn_of_copies_is_what_is_sampled(self) -> None:
        one = dots(6, later=0.05, copy_opacity=formula("20 * i", "o"))
        body, numbers = asked(one, start=0, stop=30)
        node = body["nodes"][0]
        self.assertEqual((node["kind"], node["copies"], len(node["nodes"])), ("array", 6, 1))
        np.testing.assert_allclose(numbers(node["channels"]["faded"])[0, :, 0], np.arange(6) * 0.2, atol=1e-6)
        np.testing.assert_allclose(numbers(node["channels"]["moved"])[0], values(one, "a.place")[:, 0], atol=1e-4)
        turn = np.deg2rad(values(one, "e0.rotation", SampleTimes.frames(30, 0, 30))[:, :, 0]).T
        np.testing.assert_allclose(numbers(node["nodes"][0]["channels"]["matrix"])[:, :, 0], np.cos(turn), atol=1e-5)

    def test_a_hidden_pattern_and_a_bypassed_chain(self) -> None:
        one = scene(array({"hidden": True}, {"rotation": {"rest": 5, "chain": [wave()], "bypassed": True}}))
        body, numbers = asked(one, stop=2)
        self.assertEqual([node["id"] for node in body["nodes"][0]["nodes"]], ["e1"])
        self.assertEqual(numbers(body["nodes"][0]["nodes"][0]["channels"]["matrix"]).shape, (1, 1, 6))
