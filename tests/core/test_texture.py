"""Textures: coherent, the same alone as among all, round when they are to come round, and bounded."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.drawing.nodes.texture import colours
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

STOPS = [{"id": "p", "offset": 0, "colour": "#000000"}, {"id": "q", "offset": 100, "colour": "#ffffff"}]


def texture(**fields: Any) -> dict[str, Any]:
    return {"kind": "texture", "id": "a", "name": "Fog", "size": [320, 240], "zoom": 80, "stops": STOPS, **fields}


def node(one: Scene, first: int = 0, last: int = 1) -> DisplayNode:
    return display_list(Sampler(one), SampleTimes.frames(30, first, last)).nodes[0]


def light(*, first: int = 0, last: int = 1, **fields: Any) -> np.ndarray:
    """How light it is: (frames, rows, columns)."""
    made = node(scene(texture(**fields)), first, last)
    columns, rows = made.fixed["grid"]
    return made.channels["light"].rows.reshape(-1, rows, columns).astype(float)


def keyed(*values: float, over: int = 30) -> dict[str, Any]:
    return {"rest": 0, "keys": [{"frame": k * over, "value": v, "ease": "linear"} for k, v in enumerate(values)]}


class Looks(unittest.TestCase):
    def test_it_is_coherent_and_covers_its_range(self) -> None:
        made = light(octaves=1, contrast=100)[0]
        self.assertLess(np.abs(np.diff(made, axis=1)).max(), 0.35)
        self.assertGreater(np.ptp(made), 0.5)
        self.assertAlmostEqual(float(light(size=[3000, 2000], octaves=1, contrast=100)[0].mean()), 0.5, delta=0.03)

    def test_a_finer_detail_asks_for_a_finer_grid(self) -> None:
        one, three = (node(scene(texture(octaves=n))).fixed["grid"] for n in (1, 3))
        self.assertEqual((one, three), ([16, 12], [64, 48]))

    @settings(max_examples=10, deadline=None)
    @given(st.integers(0, 29), st.sampled_from(["smooth", "billow", "ridged"]), st.integers(1, 5))
    def test_a_frame_alone_is_what_it_is_among_all(self, frame: int, character: str, octaves: int) -> None:
        moving: dict[str, Any] = {
            "evolution": keyed(0, 3),
            "scroll": {"rest": [0, 0], "chain": [{"kind": "wiggle", "id": "w"}]},
        }
        moving |= {"character": character, "octaves": octaves}
        among, alone = light(first=0, last=30, **moving), light(first=frame, last=frame + 1, **moving)
        np.testing.assert_array_equal(among[frame], alone[0])

    def test_it_comes_round_when_its_evolution_repeats(self) -> None:
        evolves = {"evolution": keyed(0, 2, 4), "octaves": 4}
        made = light(first=0, last=61, repeat=2, **evolves)
        np.testing.assert_array_equal(made[0], made[30])
        np.testing.assert_array_equal(made[7], made[37])
        self.assertGreater(np.abs(made[0] - made[15]).max(), 0.1)
        never = light(first=0, last=61, **evolves)
        self.assertGreater(np.abs(never[0] - never[30]).max(), 0.1)

    def test_it_scrolls_by_pixels_and_zooms_about_its_middle(self) -> None:
        still = light(octaves=1)[0]
        step = 320 / still.shape[1]
        np.testing.assert_allclose(light(octaves=1, scroll=[3 * step, 0])[0][:, 3:], still[:, :-3], atol=1.1 / 255)

    def test_contrast_and_brightness_lead_it_to_the_ends_of_the_ramp(self) -> None:
        self.assertEqual(set(light(contrast=0).ravel()), {np.float32(128 / 255)})
        self.assertEqual(light(brightness=300).min(), 1)
        self.assertEqual(light(brightness=-300).max(), 0)

    def test_seeds_and_characters_give_others(self) -> None:
        some = [light(seed=seed, character=c)[0] for seed in (1, 2) for c in ("smooth", "billow", "ridged")]
        self.assertEqual(len({one.tobytes() for one in some}), 6)

    def test_its_ramp_may_move_and_is_clear_where_it_says(self) -> None:
        fades = {
            "rest": "#ffffff",
            "keys": [
                {"frame": 0, "value": "#ff0000", "ease": "linear"},
                {"frame": 10, "value": "#ff000000", "ease": "linear"},
            ],
        }
        made = node(scene(texture(brightness=300, stops=[STOPS[0], {**STOPS[1], "colour": fades}])), 0, 11)
        np.testing.assert_array_equal(colours(made, 0)[0, 0], [255, 0, 0, 255])
        self.assertEqual(colours(made, 10)[0, 0, 3], 0)


class Bounds(unittest.TestCase):
    def test_too_much_detail_is_drawn_as_finely_as_may_be_and_told(self) -> None:
        sampler = Sampler(scene(texture(size=[8192, 8192], octaves=8, zoom=0)))
        made = display_list(sampler, SampleTimes.frames(30, 0, 1)).nodes[0]
        columns, rows = made.fixed["grid"]
        self.assertLessEqual(columns * rows, 36_864)
        self.assertGreater(columns * rows, 30_000)
        [fault] = sampler.faults.values()
        self.assertRegex(fault.message, r"Its detail asks for [\d,]+ points, and it is drawn with 36,864")

    def test_textures_without_size_draw_nothing(self) -> None:
        drawn = display_list(Sampler(scene(texture(size=[0, -3]))), SampleTimes.frames(30, 0, 1))
        self.assertEqual(np.ptp(np.asarray(pixels(drawn, 0, Look(scale=0.2))).reshape(-1, 4), axis=0).max(), 0)

    def test_each_copy_has_its_own(self) -> None:
        inner = texture(size=[60, 60], seed={"rest": 1, "chain": [{"kind": "formula", "id": "f", "text": "i + 1"}]})
        array = {"kind": "array", "id": "r", "name": "R", "layers": [inner], "arrangement": {"kind": "row", "count": 3}}
        made = node(scene(array)).nodes[0].channels["light"]
        self.assertEqual(made.each, 3)
        self.assertEqual(len({one.tobytes() for one in made.rows.reshape(3, -1)}), 3)


class Edits(unittest.TestCase):
    def test_one_is_added_with_colours_of_its_own_and_kept(self) -> None:
        now = project(scene({"kind": "star", "id": "b", "name": "B"}))
        now = apply(now, "add layer", layer="texture", id="t")
        now = apply(now, "change stops", layer="t", id="m")
        stops = now.scenes[0].index.layers["t"].stops  # type: ignore[attr-defined]
        self.assertEqual([one.id for one in stops], ["t-dark", "m", "t-light"])
        now = apply(now, "duplicate layers", layers=("t",))
        self.assertEqual(project_file.read(project_file.write(now)), now)
        now = apply(now, "change stops", layer="t", remove="m")
        self.assertEqual(len(now.scenes[0].index.layers["t"].stops), 2)  # type: ignore[attr-defined]
