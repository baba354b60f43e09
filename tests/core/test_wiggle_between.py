"""Wiggles that lie between several noises are as strong as each of them, and those round what closes have no seam."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.evaluation.notes import notes
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from tests.core.scenes import scene

Floats = np.ndarray[Any, Any]
LONG = np.arange(0, 9000) / 30
ROW = {"kind": "row", "count": 21, "gap": [20, 0]}
RING = {"kind": "ring", "count": 60, "radius": 100}
PATH = {"kind": "path", "count": 48, "data": "M 0 0 L 100 0 L 100 80 L 0 80 Z"}
BLOB = {"kind": "ellipse", "id": "blob", "name": "Blob", "size": [300, 200]}


def values(arrangement: dict[str, Any], modifier: dict[str, Any], times: Floats = LONG, **fields: Any) -> Floats:
    """What a chain of one modifier gives each copy: (copies, times)."""
    kind = {"id": "w", **modifier}
    array = {
        "kind": "array",
        "id": "a",
        "name": "A",
        "arrangement": arrangement,
        **fields,
        "layers": [{"kind": "ellipse", "id": "dot", "name": "Dot"}],
        "copy_rotation": {"rest": 0, "chain": [kind]},
    }
    sampler = Sampler(scene(array, length=300))
    found = sampler.evaluate("a.copy_rotation", inside(sampler, "a.copy_rotation", SampleTimes(times)))
    return np.asarray(found[..., 0])


def edge(modifier: dict[str, Any], times: Floats, shape: dict[str, Any]) -> tuple[Floats, Floats]:
    """The same for the points of an outline, and u of each."""
    whole = {**shape, "edge": {"out": {"rest": 0, "chain": [{"id": "w", **modifier}]}}}
    sampler = Sampler(scene(whole, length=300))
    where = inside(sampler, "blob.edge.out", SampleTimes(times))
    u = sampler.evaluate("blob.u", where)[..., 0]
    return sampler.evaluate("blob.edge.out", where)[..., 0], u[:, 0]


def wiggle(**fields: Any) -> dict[str, Any]:
    return {"kind": "wiggle", "amplitude": 1, "frequency": 3, "over": "along", "along": 10, **fields}


class Strength(unittest.TestCase):
    def test_half_way_between_two_noises_it_is_as_strong(self) -> None:
        for character in ("smooth", "billow", "ridged", "stepped"):
            for octaves in (1, 3):
                # Copies stand at 0, a half, 1, a half … of the way between noises.
                made = values(ROW, wiggle(character=character, octaves=octaves))
                rms = np.sqrt((made**2).mean(axis=1))
                self.assertLessEqual(np.abs(made).max(), 1.0)
                np.testing.assert_allclose(rms[1::2].mean(), rms[::2].mean(), rtol=0.06, err_msg=character)
                # Over a long time each comes within a tenth of its ends.
                self.assertLess(made.min(axis=1).mean(), -0.9, character)
                self.assertGreater(made.max(axis=1).mean(), 0.9, character)

    def test_components_led_together_are_as_strong_at_any_share(self) -> None:
        strength = []
        for apart in (0, 20, 50, 70, 100):
            chain = [{"kind": "wiggle", "id": "w", "amplitude": [1, 1], "frequency": 3, "apart": apart}]
            made = Sampler(scene({"position": {"rest": [0, 0], "chain": chain}})).sample("layer0.position", LONG)
            strength.append(np.sqrt((made[:, 1] ** 2).mean()))
            self.assertLessEqual(np.abs(made).max(), 1.0)
        np.testing.assert_allclose(strength, np.mean(strength), rtol=0.05)

    def test_on_one_side_it_stays_there(self) -> None:
        above = values(ROW, wiggle(direction="only above"))
        self.assertTrue(above.min() >= 0 and above.max() > 0.95)
        np.testing.assert_allclose(values(ROW, wiggle(direction="only below")), -above, atol=1e-12)


class Closed(unittest.TestCase):
    TIMES = np.arange(0, 90) / 30

    def steps(self, made: Floats) -> Floats:
        """The greatest difference of each from the next, the first coming after the last."""
        return np.abs(np.roll(made, -1, axis=0) - made).max(axis=1)

    def test_what_goes_round_has_no_seam(self) -> None:
        for arrangement in (RING, {**RING, "arc": -360}, PATH):
            for modifier in (wiggle(along=4.3), {"kind": "wave", "amplitude": 1, "along": 2.6}):
                steps = self.steps(values(arrangement, modifier, self.TIMES))
                self.assertLess(steps[-1], 1.5 * np.sort(steps)[-2], modifier)

    def test_the_edge_of_a_closed_outline_has_no_seam(self) -> None:
        for modifier in (wiggle(along=8), {"kind": "wave", "amplitude": 1, "along": 12}):
            made, _ = edge(modifier, self.TIMES, BLOB)
            steps = self.steps(made)
            self.assertLess(steps[-1], 1.5 * np.sort(steps)[-2], modifier)

    def test_its_halves_are_not_alike(self) -> None:
        made = values(RING, wiggle(along=2), LONG)
        self.assertLess(abs(np.corrcoef(made[15], made[45])[0, 1]), 0.9)

    def test_a_wave_goes_round_in_whole_turns(self) -> None:
        i = np.arange(60)
        for along, whole in ((2.6, 3), (0.2, 1), (-1.4, -1), (0, 0)):
            made = values(RING, {"kind": "wave", "amplitude": 1, "along": along}, np.zeros(1))[:, 0]
            np.testing.assert_allclose(
                np.broadcast_to(made, 60), np.sin(2 * np.pi * whole * i / 60), atol=1e-9, err_msg=str(along)
            )

    def test_whole_turns_are_told(self) -> None:
        for arrangement, along, told in ((RING, 2.6, "3 instead of 2.6"), (RING, 2, None), (ROW, 2.6, None)):
            array = {
                "kind": "array",
                "id": "a",
                "name": "A",
                "arrangement": arrangement,
                "layers": [{"kind": "ellipse", "id": "dot", "name": "Dot"}],
                "copy_rotation": {"rest": 0, "chain": [{"kind": "wave", "id": "w", "along": along}]},
            }
            said = " ".join(note.text for note in notes(Sampler(scene(array)), "a.copy_rotation")[0])
            self.assertEqual(said != "", told is not None)
            self.assertIn(told or "", said)

    def test_what_is_open_or_counted_otherwise_is_as_it_was(self) -> None:
        for arrangement, order in (
            ({**RING, "arc": 300}, {}),
            (RING, {"measure": "columns"}),
            (PATH | {"end": 80}, {}),
        ):
            u_turns = values(arrangement, {"kind": "wave", "amplitude": 1, "along": 1.3}, np.zeros(1), order=order)[
                :, 0
            ]
            chain = values(arrangement, {"kind": "formula", "text": "sin(360 * 1.3 * u)"}, np.zeros(1), order=order)
            np.testing.assert_allclose(u_turns, chain[:, 0], atol=1e-9)
