"""The kernels behind sparks and copies: where what is thrown flies, what is random about it, and how matrices are laid
out."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.spark_source import AT_BIRTH
from jaunty_lever.core.geometry.matrices import copies_laid, copy_matrix
from jaunty_lever.core.kernels.flight import fly, headed, throw
from jaunty_lever.core.kernels.noise import even_at

_NONE = np.zeros(0, dtype=np.int64)


def _one(value: float) -> np.ndarray:
    return np.full(1, float(value))


def flown(born: np.ndarray, which: np.ndarray, times: np.ndarray, again: float = 0.0) -> np.ndarray:
    """What `fly` tells of sparks, (rows, n)."""
    out = np.empty((len(born) - 3 if len(born) == 11 else 9, len(which)))
    fly(0, len(which), which, times, born, again, out)
    return out


class Flying(unittest.TestCase):
    def table(self, seed: int, many: int, drag: float) -> np.ndarray:
        rng = np.random.default_rng(seed)
        born = rng.uniform(-300, 300, (11, many))
        born[0], born[1] = rng.uniform(0, 4, many), rng.uniform(0.5, 3, many)
        born[6] = drag
        return born

    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 2**32), st.sampled_from([0.0, 1e-13, 1e-5, 0.02, 0.9, 40.0, 1e3]) | st.floats(0, 1e3))
    def test_where_a_spark_is_follows_from_its_drag_in_closed_form(self, seed: int, drag: float) -> None:
        born = self.table(seed, 700, drag)
        rng = np.random.default_rng(seed + 1)
        which, times = rng.integers(0, 700, 900), rng.uniform(-1, 8, 900)
        told = flown(born, which, times)
        b = born[:, which]
        age = np.clip(times - b[0], 0, b[1])
        # Quotients lose their figures where hardly anything drags; there the first terms of the series are enough.
        x = drag * age
        with np.errstate(all="ignore"):
            r = np.where(x < 1e-3, age * (1 - x / 2 + x**2 / 6 - x**3 / 24), -np.expm1(-x) / drag)
            g = np.where(x < 1e-3, age**2 * (0.5 - x / 6 + x**2 / 24 - x**3 / 120), (age + np.expm1(-x) / drag) / drag)
        np.testing.assert_allclose(told[0], age, atol=1e-12)
        np.testing.assert_allclose(told[1], age / b[1], atol=1e-12)
        np.testing.assert_allclose(told[2], b[2] + b[4] * r + b[7] * g, atol=1e-7)
        np.testing.assert_allclose(told[3], b[3] + b[5] * r + b[8] * g, atol=1e-7)
        np.testing.assert_allclose(told[4], b[4] * np.exp(-x) + b[7] * r, atol=1e-7)
        np.testing.assert_array_equal(told[7], (times >= b[0]) & (times - b[0] < b[1]))

    @settings(max_examples=30, deadline=None)
    @given(st.integers(0, 2**32), st.sampled_from([0.0, 2.5]))
    def test_a_spark_alone_is_what_it_is_among_all(self, seed: int, again: float) -> None:
        born = self.table(seed, 600, 0.7)
        which, times = np.arange(600), np.random.default_rng(seed).uniform(0, 9, 600)
        whole = flown(born, which, times, again)
        for k in (0, 1, 255, 256, 257, 511, 512, 599):
            np.testing.assert_array_equal(flown(born, which[k : k + 1], times[k : k + 1], again)[:, 0], whole[:, k])

    def test_headings_are_those_of_the_velocity(self) -> None:
        rng = np.random.default_rng(3)
        vx, vy = rng.normal(size=(2, 5_000)) * 10.0 ** rng.uniform(-9, 9, (2, 5_000))
        steps = np.array([0, 1, -1, 0, 0, 1, -1, 1, -1], dtype=float), np.array([0, 0, 0, 1, -1, 1, 1, -1, -1.0])
        vx, vy = np.concatenate([vx, steps[0]]), np.concatenate([vy, steps[1]])
        out = np.empty(len(vx))
        headed(0, len(vx), np.full(len(vx), 30.0), vx, vy, out)
        np.testing.assert_allclose(out, 30 + np.rad2deg(np.arctan2(vy, vx)), atol=1e-12)
        # What stands still heads nowhere else, whichever zero it is.
        headed(0, 1, np.zeros(1), np.array([-0.0]), np.zeros(1), out)
        self.assertEqual(out[0], 0)


class Throwing(unittest.TestCase):
    def thrown(self, numbers: np.ndarray, parts: dict[str, np.ndarray], again: float = 0.0) -> np.ndarray:
        made = np.zeros((11, len(numbers)))
        settings = [parts[name] for name in AT_BIRTH]
        birth = parts.get("birth", numbers / 50)
        throw(0, len(numbers), numbers, np.array([8, 9, 10, 11]), birth, *settings, parts["x"], parts["y"], again, made)
        return made

    def parts(self, seed: int) -> dict[str, np.ndarray]:
        rng = np.random.default_rng(seed)
        low = {"lifetime": (0.5, 3), "direction": (-400, 400), "speed": (0, 900), "drag": (-1, 5), "spin": (-90, 90)}
        return {name: _one(rng.uniform(*low.get(name, (-20, 150)))) for name in (*AT_BIRTH, "x", "y")}

    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 2**32), st.sampled_from([0.0, 1.2]))
    def test_each_is_decided_by_its_own_chances(self, seed: int, again: float) -> None:
        parts, numbers = self.parts(seed), np.arange(40, 340)
        made = self.thrown(numbers, parts, again)
        chances = np.empty((4, len(numbers)))
        for k in range(4):
            even_at(numbers.astype(float), np.zeros(1), _one(8 + k), chances[k])
        life, way, fast, spin = 2 * chances - 1

        def strayed(name: str, chance: np.ndarray, most: float = 1.0) -> np.ndarray:
            return parts[name] * (1 + np.clip(parts[f"{name}_random"] / 100, 0, most) * chance)

        turn = np.deg2rad(parts["direction"] + parts["spread"] * way)
        lives = np.maximum(strayed("lifetime", life), 0)
        np.testing.assert_allclose(made[1], np.minimum(lives, again) if again else lives, atol=1e-12)
        np.testing.assert_allclose(made[4], strayed("speed", fast) * np.sin(turn), atol=1e-9)
        np.testing.assert_allclose(made[5], -strayed("speed", fast) * np.cos(turn), atol=1e-9)
        np.testing.assert_allclose(made[10], strayed("spin", spin, 10), atol=1e-9)
        np.testing.assert_array_equal(made[6], np.clip(parts["drag"], 0, 1e3).repeat(len(numbers)))
        # Settings that are the same at every birth are those that rest; and a spark alone is what it is among all.
        laid = {name: np.repeat(values, len(numbers)) for name, values in parts.items()}
        np.testing.assert_array_equal(self.thrown(numbers, laid, again), made)
        for k in (0, 7, 299):
            np.testing.assert_array_equal(self.thrown(numbers[k : k + 1], parts, again)[:, 0], made[:, k])

    def test_what_is_never_born_has_no_life_and_no_lifetime_is_negative(self) -> None:
        parts = self.parts(5) | {"lifetime": np.array([2.0, -3.0, np.inf, 2.0]), "lifetime_random": _one(0)}
        parts["birth"] = np.array([0.0, 1.0, 2.0, np.inf])
        made = self.thrown(np.arange(4), parts)
        self.assertEqual(made[1].tolist()[:2] + made[1].tolist()[3:], [2.0, 0.0, 0.0])
        self.assertTrue(np.isfinite(made[1]).all())
        self.assertEqual(made[0, 3], np.inf)
        told = flown(made, np.arange(4), np.full(4, 2.5))
        self.assertEqual(told[7].tolist(), [0, 0, 1, 0])


class LaidOut(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(1, 21), st.integers(1, 150), st.lists(st.booleans(), min_size=5, max_size=5), st.integers(0, 99))
    def test_copies_over_moments_stand_where_their_matrices_say(
        self, copies: int, moments: int, moving: list[bool], seed: int
    ) -> None:
        rng = np.random.default_rng(seed)
        parts = [
            rng.uniform(-200, 200, (copies if move else 1, moments if move else 1, width))
            for move, width in zip(moving, (2, 2, 1, 1, 2), strict=True)
        ]
        place, moved, facing, rotation, scale = parts
        many, each = (copies, moments) if any(moving) else (1, 1)
        turned, shifted = (np.empty((each, many, width), dtype=np.float32) for width in (4, 2))
        copies_laid((place, moved, facing, rotation, scale), _NONE, _NONE, turned, shifted)
        whole = copy_matrix(place, moved, facing, rotation, scale).astype(np.float32).transpose(1, 0, 2)
        np.testing.assert_array_equal(np.concatenate([turned, shifted], axis=2), whole)
        # The same by rows and places, in whatever order these are.
        order = rng.permutation(many * each)
        row, spot = order // many, order % many
        again = np.zeros((each, many, 4), dtype=np.float32), np.zeros((each, many, 2), dtype=np.float32)
        copies_laid((place, moved, facing, rotation, scale), row, spot, *again)
        flat = whole.transpose(1, 0, 2).reshape(-1, 6)
        np.testing.assert_array_equal(again[0][row, spot], flat[:, :4])
        np.testing.assert_array_equal(again[1][row, spot], flat[:, 4:])
