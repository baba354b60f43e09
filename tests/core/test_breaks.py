"""What a value says of itself: where it jumps or bends, and when it never changes any more."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import rigs_of_all, scene

MOST = 12


def told(chain: list[dict[str, Any]], keys: Any = (), levers: Any = (), high: int = MOST) -> np.ndarray:
    """The breaks that a rotation's chain tells within 0 … high seconds."""
    one = scene({"rotation": {"keys": keys, "chain": chain}}, levers=tuple(levers))
    return Sampler(one).breaks().of("layer0.rotation", 0, high)


class Told(unittest.TestCase):
    def holds(self, found: np.ndarray, expected: Any) -> None:
        expected = np.asarray(expected, dtype=np.float64)
        expected = expected[(expected > 1e-6) & (expected < MOST - 1e-6)]
        far = np.abs(found[:, None] - expected).min(axis=0) if len(expected) else np.zeros(0)
        self.assertLess(far.max(initial=0), 1e-9, (found, expected))

    @settings(max_examples=60)
    @given(st.floats(0.1, 9), st.floats(0, 1), st.floats(5, 95), st.floats(-2, 2))
    def test_edges_of_a_square_wherever_it_is_shifted(
        self, rate: float, phase: float, duty: float, later: float
    ) -> None:
        wave = {"kind": "wave", "id": "w", "shape": "square", "frequency": rate, "phase": phase, "duty": duty}
        turns = np.arange(-40, 160)
        edges = np.concatenate([(turns - phase) / rate, (turns + duty / 100 - phase) / rate]) + later
        found = told([wave, {"kind": "shift", "id": "s", "delay": later}])
        self.holds(found, edges)
        # Each edge once: a break that is none costs, but harms nothing.
        self.assertLessEqual(len(found), 2 * (MOST * rate + 3) + 4)

    @settings(max_examples=40)
    @given(st.floats(-40, 40), st.floats(0.2, 3))
    def test_jumps_and_corners_of_a_limit(self, end: float, rate: float) -> None:
        wave = {"kind": "wave", "id": "w", "shape": "saw", "amplitude": 50, "frequency": rate}
        jumps = (np.arange(40) + 0.5) / rate
        whole = Sampler(scene({"rotation": {"chain": [wave]}}))
        # A saw crosses a height once a turn, between its jumps.
        start = whole.sample("layer0.rotation", jumps[:1] + 1e-7)[0, 0]
        slope = whole.sample("layer0.rotation", jumps[:1] + 0.5 / rate)[0, 0] - start
        corners = jumps + (end - start) / (2 * slope) / rate
        limit = {"kind": "limit", "id": "l", "low": end, "high": 99}
        found = told([wave, limit])
        self.holds(found, jumps)
        if abs(end) < 39:
            self.assertLess(np.abs(found[:, None] - corners[corners < MOST]).min(axis=0).max(), 1e-5)

    @settings(max_examples=40)
    @given(st.lists(st.floats(0.1, 11.9), min_size=1, max_size=4, unique=True))
    def test_decisions_of_a_formula(self, samples: list[float]) -> None:
        text = " + ".join(f"(if t > {moment!r} then {k + 1} else 0)" for k, moment in enumerate(samples))
        self.holds(told([{"kind": "formula", "id": "f", "text": text}]), samples)
        self.holds(
            told([{"kind": "formula", "id": "f", "text": "floor(2 * t) + abs(t - 3.3)"}]),
            [*np.arange(0, MOST, 0.5), 3.3],
        )

    @settings(max_examples=40)
    @given(st.lists(st.integers(1, 350), min_size=1, max_size=5, unique=True), st.floats(0.05, 1))
    def test_keys_of_what_is_followed_late(self, frames: list[int], late: float) -> None:
        value = {"keys": [{"frame": frame, "value": frame % 7, "ease": "linear"} for frame in sorted(frames)]}
        lever = {"id": "v", "name": "V", "kind": "angle", "value": value}
        found = told([{"kind": "follow", "id": "f", "driver": "v.value", "delay": late}], levers=[lever])
        self.holds(found, np.array(frames) / 30 + late)

    def test_a_shape_that_begins_later_has_its_breaks_from_then_on(self) -> None:
        keys = [{"frame": 0, "value": "sine"}, {"frame": 60, "value": "square"}, {"frame": 150, "value": "sine"}]
        found = told([{"kind": "wave", "id": "w", "frequency": 1, "shape": {"rest": "sine", "keys": keys}}])
        self.holds(found, np.arange(2, 5.1, 0.5))

    def test_active_windows_begin_and_end_with_a_break(self) -> None:
        window = {"start": 30, "end": 90, "fade_in": 6, "fade_out": 12}
        found = told([{"kind": "wiggle", "id": "w", "windows": [window]}])
        self.holds(found, np.array([30, 36, 78, 90]) / 30)

    def test_what_runs_smoothly_tells_nothing(self) -> None:
        self.assertEqual(len(told([{"kind": "wave", "id": "w", "shape": "sine"}])), 0)
        self.assertEqual(len(told([{"kind": "formula", "id": "f", "text": "20 * sin(90 * t) + t ^ 2"}])), 0)


class Resting(unittest.TestCase):
    @settings(max_examples=100)
    @given(rigs_of_all())
    def test_outside_the_stretch_it_tells_a_value_never_changes(self, rig: dict[str, Any]) -> None:
        one = scene(*rig["layers"], levers=rig["levers"])
        sampler = Sampler(one)
        for parameter in ("layer0.rotation", "layer0.position", "lever.value"):
            node = one.index.parameters.get(parameter)
            if node is None:
                continue
            stretch = sampler.breaks().stretch(sampler.line(node.id), len(node.parameter.chain))
            if stretch is None:
                continue
            first, last = (float(np.clip(end, -90, 90)) for end in stretch)
            apart = np.array([1e-3, 0.37, 1.0, 7.7, 40.0])
            for side in (last + apart, first - apart):
                values = sampler.sample(parameter, side)
                np.testing.assert_allclose(
                    values, np.broadcast_to(values[:1], values.shape), rtol=1e-12, atol=1e-9, err_msg=parameter
                )

    def test_what_is_not_at_full_strength_passes_on_some_of_what_came_in(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": "hold"}, {"frame": 60, "value": 1}]
        for share in ({"strength": 0}, {"strength": 50}, {"windows": [{"start": 0, "end": 10}]}):
            chain = [{"kind": "shift", "id": "c", "speed": 2, **share}]
            sampler = Sampler(scene({"rotation": {"keys": keys, "chain": chain}}))
            stretch = sampler.breaks().stretch(sampler.line("layer0.rotation"), 1)
            assert stretch is not None
            self.assertLessEqual(stretch[0], 0)
            self.assertGreaterEqual(stretch[1], 2)

    def test_keys_rest_before_and_after_and_a_wave_never_does(self) -> None:
        keys = [{"frame": 30, "value": 1}, {"frame": 90, "value": 5}]
        one = scene({"rotation": {"keys": keys}, "opacity": {"chain": [{"kind": "wave", "id": "w"}]}})
        sampler = Sampler(one)
        breaks = sampler.breaks()
        self.assertEqual(breaks.stretch(sampler.line("layer0.rotation"), 0), (1, 3))
        self.assertIsNone(breaks.stretch(sampler.line("layer0.opacity"), 1))

    def test_breaks_lie_where_they_lie_at_any_frame_rate(self) -> None:
        # What is followed breaks within a hair of a frame that the finer rate alone has.
        own = [
            (81.0, 1 / 3, "ease-in"),
            (49.5, 6.828102429265562e-219, "linear"),
            (130.75, 3.9594305839134183, "ease-out"),
            (169.5, 1.9039022933942755, "linear"),
        ]
        found = []
        for fps in (30.0, 60.0):
            times = fps / 30
            keys = [{"frame": frame * times, "value": value, "ease": ease} for frame, value, ease in own]
            ends = [{"frame": 15 * times, "value": "carry on"}, {"frame": 70 * times, "value": "wrap"}]
            remap = {
                "kind": "remap",
                "id": "c0",
                "x1": 0.4,
                "x2": 50.0,
                "y1": 40.992078327073386,
                "from_high": 100.0,
                "steps": 1,
            }
            remap |= {"strength": 19.57097086539184, "ends": {"rest": "carry on", "keys": ends}}
            chain = [remap, {"kind": "smooth", "id": "c1", "strength": 56.497032027391946}]
            lever = {"id": "lever", "name": "Wind", "value": {"rest": 3, "keys": keys, "chain": chain}}
            follow = {"kind": "follow", "id": "f", "driver": "lever.value", "times": 0.16, "delay": -0.5820152638261534}
            rig = {"rotation": {"rest": 20, "chain": [follow, {"kind": "smooth", "id": "s"}]}}
            one = scene(rig, levers=(lever,), fps=fps, length=int(300 * times))
            found.append(Sampler(one).breaks().of("layer0.rotation", -8, 16))
        np.testing.assert_array_equal(*found)
