"""As few keys as follow a curve within a tolerance: what they give stays within it, and fewer would not."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.fit import fitted
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import apply, project, scene
from tests.core.test_arrays import array, row, values, wave


def followed(rows: np.ndarray, spots: list[tuple[int, Any]]) -> np.ndarray:
    """What keys give, by the cubics of CSS worked out here: x of (1/3, 2/3) is the share of the time itself."""
    made = np.empty_like(rows)
    for (a, ease), (b, _) in zip(spots, spots[1:], strict=False):
        s = np.linspace(0, 1, b - a + 1)[:, None]
        share = s
        if ease != "linear":
            x1, y1, x2, y2 = ease
            assert (x1, x2) == (1 / 3, 2 / 3)
            share = 3 * y1 * s * (1 - s) ** 2 + 3 * y2 * s**2 * (1 - s) + s**3
        made[a : b + 1] = rows[a] + (rows[b] - rows[a]) * share
    return made


class Fitted(unittest.TestCase):
    @settings(max_examples=60)
    @given(
        st.integers(2, 200),
        st.sampled_from([1, 2, 3]),
        st.floats(0.001, 20),
        st.integers(0, 2**32),
        st.sampled_from([None, (-4.0, 5.0)]),
    )
    def test_keys_stay_within_the_tolerance(
        self, count: int, wide: int, tolerance: float, seed: int, steep: Any
    ) -> None:
        random = np.random.default_rng(seed)
        rows = np.cumsum(random.normal(size=(count, wide)), axis=0) * random.choice([0.0, 1.0, 40.0], size=wide)
        spots = fitted(rows, tolerance, steep)
        self.assertEqual((spots[0][0], spots[-1][0]), (0, count - 1))
        self.assertEqual(sorted({place for place, _ in spots}), [place for place, _ in spots])
        self.assertLessEqual(np.abs(followed(rows, spots) - rows).max(), tolerance + 1e-9)
        if steep:
            eases = [ease for _, ease in spots if ease != "linear"]
            self.assertTrue(all(steep[0] <= y <= steep[1] for _, y1, _, y2 in eases for y in (y1, y2)))

    def test_a_line_and_a_cubic_take_two_keys(self) -> None:
        t = np.linspace(0, 1, 101)
        self.assertEqual(len(fitted(np.stack([3 * t, -40 * t], axis=1), 1e-9)), 2)
        self.assertEqual(len(fitted((2 * t**3 - 3 * t**2 + 5 * t)[:, None] * 100, 1e-3)), 2)
        # Two numbers share an ease, and are followed by lines: a bend costs keys.
        self.assertGreater(len(fitted(np.stack([t, t**2], axis=1) * 100, 0.5)), 2)
        # A still one stays so.
        self.assertEqual(fitted(np.full((50, 1), 7.0), 0.0), [(0, "linear"), (49, "linear")])

    def test_copies_that_are_taken_apart_stay_as_near_as_told(self) -> None:
        one = scene(
            array(
                {},
                arrangement=row(6),
                copy_position={"rest": [0, 0], "chain": [wave(amplitude=[60, 30], along=1)]},
                copy_rotation={"rest": 0, "chain": [wave(amplitude=40, along=2, id="turn")]},
            )
        )
        frames = SampleTimes.frames(30, 0, 300)
        counts = []
        for tolerance in (0.05, 1, 8):
            made = apply(project(one), "take apart", array="a", way="baked", tolerance=tolerance).scenes[0]
            whole = made.layers[0]
            counts.append(sum(len(n.parameter.keys) for n in made.index.parameters.values()))
            for k, copy in enumerate(whole.layers):  # type: ignore[union-attr]
                told = Sampler(made).track(f"{copy.id}.rotation", frames)[:, 0]
                self.assertLessEqual(
                    np.abs(told - values(one, "a.copy_rotation", frames)[k][:, 0]).max(), tolerance + 1e-6
                )
        self.assertTrue(counts[0] > counts[1] > counts[2], counts)
