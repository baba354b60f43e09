"""Which frame of a clip shows: against the plain rules, keyed and linked, cut, backwards, in arrays, whatever is asked
first."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.clips import Timing
from jaunty_lever.core.document.layers import ClipLayer
from jaunty_lever.core.evaluation.clips import frames_shown, played
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import scene

FRAMES, RATE = 48, 24


def clip_layer(rate: float = RATE, frames: int = FRAMES, **fields: Any) -> dict[str, Any]:
    """A clip layer of so many frames, at an even rate."""
    timing = {"tick": 1 / rate, "runs": [[frames, 1]]}
    return {"kind": "clip", "id": "c", "clip": "none", "width": 160, "height": 90, "timing": timing, **fields}


def shown(fields: dict[str, Any], times: Any, fps: float = 30, rate: float = RATE) -> list[int]:
    """The frames that a clip layer shows at moments of the scene."""
    one = scene(clip_layer(rate, **fields), fps=fps)
    sampler, layer = Sampler(one), one.index.layers["c"]
    assert isinstance(layer, ClipLayer)
    made = frames_shown(sampler, layer, SampleTimes(np.asarray(times, dtype=np.float64)))
    return np.broadcast_to(made, (1, len(times)))[0].tolist()


class Rules(unittest.TestCase):
    def test_each_frame_stands_until_the_next_begins_at_any_two_rates(self) -> None:
        for fps, rate in ((30, 24), (24, 30), (25, 30000 / 1001), (60, 60)):
            times = np.arange(40) / fps
            meant = np.minimum(np.floor(times * rate + 1e-6), FRAMES - 1).astype(int)
            self.assertEqual(shown({}, times, fps, rate), meant.tolist())

    def test_it_is_cut_and_held_runs_again_is_folded_and_leaves_nothing(self) -> None:
        # One second of the clip, from its frame 12 on, from half a second of the scene on.
        cut = {"begins": 0.5, "start": 0.5, "stop": 1.5}
        times = np.arange(0, 84) / 24
        whole = np.arange(84) - 12
        self.assertEqual(shown(cut, times), (12 + np.clip(whole, 0, 23)).tolist())
        self.assertEqual(shown({**cut, "ends": "again"}, times), (12 + whole % 24).tolist())
        lap = whole % 48
        folded = 12 + np.where(lap < 24, lap, 47 - lap)
        self.assertEqual(shown({**cut, "ends": "there and back"}, times), folded.tolist())
        alone = np.where((whole >= 0) & (whole < 24), 12 + whole, -1)
        self.assertEqual(shown({**cut, "ends": "nothing"}, times), alone.tolist())

    def test_backwards_shows_the_same_frames_the_other_way_round(self) -> None:
        times = np.arange(FRAMES) / 24
        back = shown({"speed": -100, "moment": FRAMES / 24}, times)
        self.assertEqual(back, list(range(FRAMES - 1, -1, -1)))
        again = shown({"speed": -100, "ends": "again"}, times)
        self.assertEqual(again, [(-1 - k) % FRAMES for k in range(FRAMES)])

    def test_half_speed_double_speed_and_a_moment_alone(self) -> None:
        times = np.arange(40) / 24
        self.assertEqual(shown({"speed": 50}, times), (np.arange(40) // 2).tolist())
        self.assertEqual(shown({"speed": 200}, times[:20]), (np.arange(20) * 2).tolist())
        keys = [{"frame": 0, "value": 0.5, "ease": "hold"}, {"frame": 15, "value": 1.25, "ease": "hold"}]
        found = shown({"speed": 0, "moment": {"rest": 0, "keys": keys}}, np.array([0, 0.2, 0.5, 1.0]))
        self.assertEqual(found, [12, 12, 30, 30])

    def test_a_speed_that_changes_is_added_up(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": "ease-in-out"}, {"frame": 45, "value": 200, "ease": "ease-in-out"}]
        wave = [{"kind": "wave", "id": "w", "amplitude": 60, "frequency": 0.7}]
        one = scene(clip_layer(speed={"rest": 100, "keys": keys, "chain": wave}, begins=0.4))
        sampler, layer = Sampler(one), one.index.layers["c"]
        assert isinstance(layer, ClipLayer)
        times = np.array([0.4, 0.7, 1.1, 2.0, 5.0])
        fine = np.linspace(0.4, 5.0, 400_001)
        speed = sampler.sample("c.speed", fine)[:, 0] / 100
        sums = np.concatenate([[0], np.cumsum((speed[1:] + speed[:-1]) / 2 * np.diff(fine))])
        way = played(sampler, layer, SampleTimes(times)).moments[0]
        np.testing.assert_allclose(way, np.interp(times, fine, sums), atol=1e-6)

    def test_odd_settings_show_a_frame_all_the_same(self) -> None:
        odd = (
            {"start": 5.0},
            {"start": 1.5, "stop": 0.2},
            {"stop": 90.0},
            {"moment": 1e30},
            {"moment": -1e30, "ends": "again"},
            {"begins": 1e12},
            {"speed": 1e12, "ends": "there and back"},
            {"start": -3.0},
            {"stop": -1.0},
        )
        for fields in odd:
            with self.subTest(**fields):
                self.assertTrue(all(0 <= k < FRAMES for k in shown(fields, np.arange(20) / 10)))
        single = scene(clip_layer(frames=1, ends="there and back"))
        layer = single.index.layers["c"]
        assert isinstance(layer, ClipLayer)
        self.assertEqual(frames_shown(Sampler(single), layer, SampleTimes(np.arange(9) / 3)).max(), 0)

    @given(st.lists(st.tuples(st.integers(1, 9), st.integers(1, 40)), min_size=1, max_size=20), st.data())
    def test_a_timing_finds_the_frame_that_stands(self, runs: Any, data: Any) -> None:
        timing = Timing(tick=1 / 120, runs=tuple(runs))
        lasts = np.repeat([ticks for _, ticks in runs], [many for many, _ in runs])
        frame = data.draw(st.integers(0, timing.frames - 1))
        share = data.draw(st.floats(0, 0.99))
        moment = (lasts[:frame].sum() + share * lasts[frame]) / 120
        self.assertEqual(int(timing.shown(np.array([moment]))[0]), frame)
        self.assertAlmostEqual(timing.seconds, lasts.sum() / 120)


def wall(**fields: Any) -> Any:
    """A row of twelve copies of a clip."""
    array = {
        "kind": "array",
        "id": "a",
        "name": "Wall",
        "arrangement": {"kind": "row", "count": 12},
        "layers": [{**clip_layer(), "name": "Clip", **fields}],
    }
    return array


class Copies(unittest.TestCase):
    def frames(self, array: dict[str, Any], many: int = 60) -> np.ndarray:
        one = scene(array, fps=24)
        drawn = display_list(Sampler(one), SampleTimes.frames(24, 0, many))
        channel = next(node for node in drawn.walk() if node.kind == "clip").channels["frame"]
        return np.broadcast_to(channel.rows.reshape(len(channel.rows), channel.each), (many, channel.each))

    def test_each_copy_shows_its_own_moment(self) -> None:
        told = self.frames({**wall(ends="again"), "later": 4 / 24})
        meant = (np.arange(60)[:, None] - 4 * np.arange(12)) % FRAMES
        np.testing.assert_array_equal(told, meant)
        # Without a delay they are one.
        self.assertEqual(self.frames(wall()).shape, (60, 1))

    def test_a_speed_of_each_copy_s_own_is_added_up_for_each(self) -> None:
        speed = {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "50 + 10 * i + 0 * t"}]}
        told = self.frames(wall(speed=speed, ends="again"), 30)
        rates = (50 + 10 * np.arange(12)) / 100
        meant = np.floor(np.arange(30)[:, None] * rates + 1e-4) % FRAMES
        np.testing.assert_array_equal(told, meant)

    def test_any_order_and_any_part_gives_the_same_frames(self) -> None:
        keys = [{"frame": 0, "value": 20}, {"frame": 40, "value": 180}]
        array = {**wall(speed={"rest": 100, "keys": keys}, ends="there and back"), "later": 0.11, "random_later": 0.7}
        one = scene(array, fps=24)
        whole = self.frames(array)
        for first, last in ((40, 60), (0, 20), (20, 40)):
            drawn = display_list(Sampler(one), SampleTimes.frames(24, first, last))
            channel = next(node for node in drawn.walk() if node.kind == "clip").channels["frame"]
            np.testing.assert_array_equal(channel.rows.reshape(20, -1), whole[first:last])

    def test_what_an_emitter_throws_begins_with_each_spark(self) -> None:
        array = {**wall(ends="held"), "arrangement": {"kind": "emitter", "rate": 3, "lifetime": 1.5}}
        one = scene(array, fps=24)
        drawn = display_list(Sampler(one), SampleTimes.frames(24, 0, 72))
        channel = next(node for node in drawn.walk() if node.kind == "clip").channels["frame"]
        rows = channel.rows.reshape(72, -1)
        # Each shows the frames in order from its first one on.
        self.assertGreater(channel.each, 2)
        self.assertEqual(rows.max(), 35)
