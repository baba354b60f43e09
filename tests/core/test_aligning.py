"""Layers set beside one another."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.extent import extent_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

STILL = SampleTimes(np.zeros(1))


def box(scene: Scene, layer: str) -> tuple[float, float, float, float]:
    found = extent_of(Sampler(scene), [layer], STILL)
    assert found is not None
    return found


def rectangle(k: int, x: float, y: float, width: float, high: float, **fields: Any) -> dict[str, Any]:
    size = {"position": [x, y], "size": [width, high]}
    return {"kind": "rectangle", "id": f"r{k}", "name": f"R{k}", **size, **fields}


def project(*layers: dict[str, Any]) -> Project:
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": layers, "width": 800, "height": 600})
    return Project.model_validate({"id": "p", "name": "P"}).changed(scenes=(scene,))


def made(old: Project, kind: str, *layers: str, **fields: Any) -> Scene:
    return EDIT.validate_python({"kind": kind, "scene": "s", "layers": layers, **fields}).apply(old).scenes[0]


def three(turn: float = 30) -> Project:
    group = {"kind": "group", "id": "g", "name": "G", "rotation": turn, "scale": [50, 200], "position": [400, 100]}
    return project(
        rectangle(1, 100, 100, 40, 60),
        rectangle(2, 300, 320, 100, 20, rotation=45),
        {**group, "layers": [rectangle(3, 30, 10, 50, 50)]},
    )


class Aligned(unittest.TestCase):
    def test_edges_and_middles_lie_in_one_line_whatever_they_are_turned_and_in(self) -> None:
        for axis, k in (("x", 0), ("y", 1)):
            for to, share in (("start", 0.0), ("middle", 0.5), ("end", 1.0)):
                for stage in (False, True):
                    with self.subTest(axis=axis, to=to, stage=stage):
                        old = three()
                        now = made(old, "align layers", "r1", "r2", "r3", axis=axis, to=to, stage=stage)
                        boxes = [box(now, f"r{n}") for n in (1, 2, 3)]
                        at = [one[k] + (one[k + 2] - one[k]) * share for one in boxes]
                        before = [box(old.scenes[0], f"r{n}") for n in (1, 2, 3)]
                        low, high = min(one[k] for one in before), max(one[k + 2] for one in before)
                        wanted = (800, 600)[k] * share if stage else low + (high - low) * share
                        np.testing.assert_allclose(at, wanted, atol=0.02)
                        # Along the other axis nobody moves.
                        other = 1 - k
                        np.testing.assert_allclose(
                            [one[other] for one in boxes], [one[other] for one in before], atol=0.02
                        )

    def test_centred_on_the_stage_several_keep_their_places_among_one_another(self) -> None:
        old = three()
        now = made(old, "align layers", "r1", "r2", "g", axis="both", stage=True)
        boxes = np.array([box(now, f"r{n}") for n in (1, 2, 3)])
        moved = boxes - [box(old.scenes[0], f"r{n}") for n in (1, 2, 3)]
        np.testing.assert_allclose(moved, np.broadcast_to(moved[0], moved.shape), atol=0.02)
        middle = (boxes[:, :2].min(axis=0) + boxes[:, 2:].max(axis=0)) / 2
        np.testing.assert_allclose(middle, (400, 300), atol=0.02)

    @given(st.lists(st.tuples(st.integers(0, 700), st.integers(5, 90)), min_size=3, max_size=7), st.sampled_from("xy"))
    def test_spread_evenly_all_gaps_are_the_same_and_the_ends_stay(
        self, some: list[tuple[int, int]], axis: str
    ) -> None:
        k = "xy".index(axis)
        layers = [
            rectangle(n, *((at, 50) if k == 0 else (50, at)), *((size, 9) if k == 0 else (9, size)))
            for n, (at, size) in enumerate(some)
        ]
        old = project(*layers)
        ids = [f"r{n}" for n in range(len(some))]
        now = made(old, "spread layers", *ids, axis=axis)
        order = sorted(ids, key=lambda one: _where(old, one, k))
        ends = box(old.scenes[0], order[0])[k], box(old.scenes[0], order[-1])[k + 2]
        ordered = [box(now, one) for one in order]
        np.testing.assert_allclose((ordered[0][k], ordered[-1][k + 2]), ends, atol=0.02)
        room = ends[1] - ends[0] - sum(size for _, size in some)
        gaps = [b[k] - a[k + 2] for a, b in zip(ordered, ordered[1:], strict=False)]
        np.testing.assert_allclose(gaps, room / (len(some) - 1), atol=0.02)

    def test_too_few_are_refused_with_what_would_do(self) -> None:
        for kind, layers, words in (
            ("align layers", ("r1",), "two layers"),
            ("spread layers", ("r1", "r2"), "three layers"),
            # What lies in a chosen group goes with it.
            ("align layers", ("g", "r3"), "two layers"),
        ):
            with self.subTest(kind), self.assertRaisesRegex(Refused, words):
                made(three(), kind, *layers)

    def test_copies_stand_aside_of_what_they_are_of_with_all_their_keys(self) -> None:
        keyed = {"keys": [{"frame": 0, "value": [1, 2]}, {"frame": 9, "value": [30, 40]}]}
        old = project(rectangle(1, 0, 0, 40, 60) | {"position": keyed}, rectangle(2, 5, 6, 7, 8))
        now = made(old, "duplicate layers", "r1", "r2", aside=(24, -3), salt="s")
        copies = [one for one in now.layers if one.id not in ("r1", "r2")]
        self.assertEqual([key.value for key in copies[0].position.keys], [(25, -1), (54, 37)])
        self.assertEqual(copies[1].position.rest, (29, 3))
        self.assertEqual([one for one in now.layers if one not in copies], list(old.scenes[0].layers))


def _where(old: Project, layer: str, k: int) -> tuple[float, ...]:
    """By which layers are in order along an axis."""
    one = box(old.scenes[0], layer)
    return (one[k] + one[k + 2], one[k], one[k + 2])
