"""The mathematics below the modifiers: sines, exponentials and eases that are worked out several samples at a time."""

import gc
import unittest
from typing import Any, cast

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.kernels.compiled import Filled, Floats, kernel
from jaunty_lever.core.kernels.sine import add_sines, fallen
from jaunty_lever.core.motion.easing import BLOCK, bezier, ease_block, guesses, run_end
from jaunty_lever.loading import loading

across = st.floats(0, 1) | st.sampled_from([0.0, 1.0])
along = st.floats(-2, 3)


class Eases(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(across, along, across, along, st.lists(st.floats(0, 1), min_size=1, max_size=60))
    def test_any_ease_lies_on_its_curve(self, x1: float, y1: float, x2: float, y2: float, shares: list[float]) -> None:
        points, near = np.array([x1, y1, x2, y2]), guesses(x1, x2)
        asked, out = np.array([0.0, 1.0, *shares]), np.empty(len(shares) + 2)
        ease_block(asked, points, near, out)
        # At its start it is the key's own value; its end is the next key's.
        self.assertEqual(out[0], 0.0)
        self.assertAlmostEqual(out[1], 1.0, places=12)
        self.assertEqual([bezier(s, points, near) for s in asked], out.tolist())
        # The curve's own parameter by halving, as slow and as sure as can be.
        low, high = np.zeros(len(asked)), np.ones(len(asked))
        for _ in range(60):
            u = (low + high) / 2
            x = 3 * x1 * u * (1 - u) ** 2 + 3 * x2 * u**2 * (1 - u) + u**3
            low, high = np.where(x < asked, u, low), np.where(x < asked, high, u)
        wanted = 3 * y1 * u * (1 - u) ** 2 + 3 * y2 * u**2 * (1 - u) + u**3
        # Where the curve stands upright, the time says less about the height than a billionth of it.
        steep = 3 * x1 * (1 - u) ** 2 + 6 * (x2 - x1) * u * (1 - u) + 3 * (1 - x2) * u**2
        sure = steep > 1e-3
        np.testing.assert_allclose(out[sure], wanted[sure], rtol=0, atol=1e-9)

    def test_a_run_ends_where_the_first_sample_lies_outside(self) -> None:
        times = np.linspace(0, 1, 3 * BLOCK)
        for end in (1, 2, 127, 128, 129, 1000, len(times)):
            high = times[end] if end < len(times) else np.inf
            self.assertEqual(run_end(times, 0.0, high), end)
        self.assertEqual(run_end(times, 5.0, 6.0), 1)


class Functions(unittest.TestCase):
    def test_sines_are_good_to_the_last_bits_at_any_phase(self) -> None:
        turns = np.concatenate([np.linspace(-3, 3, 4001), np.random.default_rng(3).uniform(-500, 500, 4000)])
        row = np.zeros(len(turns))
        add_sines(row, turns, 1.0, 1.0, 0.0)
        np.testing.assert_allclose(row, np.sin(2 * np.pi * (turns - np.rint(turns))), atol=5e-16)
        quarter = np.zeros(4)
        add_sines(quarter, np.arange(4) / 4, 2.0, 1.0, 0.25)
        np.testing.assert_array_equal(quarter, [2, 0, -2, 0])

    @given(st.floats(0, 700))
    def test_exponentials_fall_as_they_should(self, x: float) -> None:
        np.testing.assert_allclose(fallen(x), np.exp(-x), rtol=4e-16 * max(1, x / 100))


@kernel
def raised(first: int, last: int, values: Floats, by: Floats, times: float, out: Filled) -> None:
    """A sample of a kernel."""
    for i in range(first, last):
        out[i] = values[i] + times * by[0]


class Compiled(unittest.TestCase):
    def test_however_numbers_lie_in_memory_a_kernel_is_one(self) -> None:
        plain = np.arange(6.0)
        locked = plain.copy()
        locked.flags.writeable = False
        one = np.ones(1)
        for values in (plain, locked, np.frombuffer(plain.tobytes())):
            for by in (one, locked[1:2]):
                # A whole number counts as a number where one is meant.
                for times in (2.0, 2):
                    out = np.empty(6)
                    raised(0, 6, values, by, times, out)
                    self.assertEqual(out.tolist(), [2, 3, 4, 5, 6, 7])
        self.assertEqual(cast(Any, raised).kinds, 1)
        # What goes on in steps is taken by one more; what it took before it still takes.
        for values in (np.repeat(plain, 2)[::2], plain, locked, np.broadcast_to(one, 6) * 0 + plain):
            for by in (one, np.ones(4)[::2]):
                out = np.empty(6)
                raised(0, 6, values, by, 2.0, out)
                self.assertEqual(out.tolist(), [2, 3, 4, 5, 6, 7])
        self.assertEqual(cast(Any, raised).kinds, 2)
        with self.assertRaises(TypeError):
            raised(0, 6, plain, one, 2.0, locked)


class Loading(unittest.TestCase):
    def test_garbage_is_looked_for_again_afterwards(self) -> None:
        with self.assertRaises(ZeroDivisionError), loading():
            self.assertFalse(gc.isenabled())
            _ = 1 / 0
        self.assertTrue(gc.isenabled())
        gc.unfreeze()
