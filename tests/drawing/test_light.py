"""Frames drawn small for what is noticed of them: as they are, once for what looks the same, by stretches that end
soon."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.checks.arrays import stretches
from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.drawing.light import WIDTH, Light
from tests.core.scenes import apply, project, scene

BLINKS = {"rest": 0, "chain": [{"kind": "wave", "id": "b", "shape": "square", "frequency": 1, "amplitude": 100}]}


def light_of(light: Light, one: Scene) -> Any:
    return np.concatenate(list(light.in_parts(Sampler(one))))


class Remembered(unittest.TestCase):
    def setUp(self) -> None:
        whole = {"kind": "rectangle", "id": "a", "name": "A", "size": [1280, 720], "position": [640, 360]}
        self.state = project(
            scene({**whole, "opacity": BLINKS}, {"kind": "ellipse", "id": "b", "name": "B"}, length=300)
        )

    def seen(self, light: Light, state: Any) -> tuple[int, Any]:
        before = light.drawn
        made = light_of(light, state.scenes[0])
        return light.drawn - before, made

    def test_only_frames_that_differ_from_the_one_before_are_drawn(self) -> None:
        drawn, made = self.seen(Light(), self.state)
        # Ten seconds of one change each half second, the first frame of each part, and the last change before the end.
        self.assertLessEqual(drawn, 24)
        table = display_list(Sampler(self.state.scenes[0]), SampleTimes.frames(30, 0, 300))
        look = Look(scale=WIDTH / 1280)
        for frame in (0, 7, 22, 119, 299):
            np.testing.assert_array_equal(made[frame], luminance(pixels(table, frame, look)[..., :3] / 255), str(frame))

    def test_what_looks_the_same_is_not_drawn_again(self) -> None:
        light = Light()
        _, first = self.seen(light, self.state)
        named = apply(self.state, "change layer", layer="b", name="Another")
        levered = apply(named, "add lever", lever="number", id="c", name="Lever")
        for state in (named, levered, self.state):
            drawn, made = self.seen(light, state)
            self.assertEqual(drawn, 0)
            np.testing.assert_array_equal(made, first)
        moved = apply(self.state, "set value", parameter="b.position", value=[300, 200], frame=0)
        drawn, made = self.seen(light, moved)
        self.assertGreater(drawn, 0)
        self.assertFalse(np.array_equal(made, first))

    def test_what_rests_may_move_where_nothing_else_does(self) -> None:
        blinking = {
            "kind": "rectangle",
            "id": "a",
            "name": "A",
            "size": [300, 300],
            "position": [300, 300],
            "opacity": BLINKS,
        }
        state = project(
            scene(blinking, {"kind": "ellipse", "id": "b", "name": "B", "position": [1000, 300]}, length=300)
        )
        light = Light()
        _, first = self.seen(light, state)
        aside = apply(state, "set value", parameter="b.position", value=[1000, 500], frame=0)
        drawn, made = self.seen(light, aside)
        self.assertEqual(drawn, 0)
        # What changes from frame to frame does so as it would if all were drawn.
        _, anew = self.seen(Light(), aside)
        np.testing.assert_array_equal(np.diff(made, axis=0), np.diff(anew, axis=0))
        for value in ([480, 300], [300, 300]):
            before = apply(aside, "set value", parameter="b.position", value=value, frame=0)
            drawn, made = self.seen(light, before)
            self.assertGreater(drawn, 0, value)
            np.testing.assert_array_equal(made, self.seen(Light(), before)[1])
        # Something that comes and goes does not rest, however seldom.
        keyed = {"keys": [{"frame": 0, "value": 100, "ease": "hold"}, {"frame": 240, "value": 0, "ease": "hold"}]}
        seldom = project(
            scene(
                blinking,
                {"kind": "ellipse", "id": "b", "name": "B", "position": [1000, 300], "opacity": keyed},
                length=300,
            )
        )
        self.seen(light, seldom)
        moved = apply(seldom, "set value", parameter="b.position", value=[1000, 500], frame=0)
        self.assertGreater(self.seen(light, moved)[0], 0)

    def test_stretches_cover_all_frames_and_are_short_where_there_is_much(self) -> None:
        for name in ("mooring-posts", "name-plate", "forge-sparks"):
            one = demo_project().scene(name)
            assert one is not None
            times = np.concatenate([some.times for some in stretches(Sampler(one))])
            np.testing.assert_array_equal(times, SampleTimes.frames(one.fps, 0, one.length).times)
        posts = demo_project().scene("mooring-posts")
        assert posts is not None
        self.assertLessEqual(max(some.shape[1] for some in stretches(Sampler(posts))), 16)


if __name__ == "__main__":
    unittest.main()
