"""Display lists and geometry: what is drawn, and what is sent again."""

import unittest

import numpy as np
import skia

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.placing import world_matrix
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.geometry.paths import path_outline
from jaunty_lever.core.geometry.text import text_outline
from jaunty_lever.drawing.frames import Look, draw, pixels, png
from tests.core.scenes import apply, project, scene


def table(one, frames: int = 60, cache: Cache | None = None):  # type: ignore[no-untyped-def]
    return display_list(Sampler(one, cache), SampleTimes.frames(30, 0, frames))


class Tables(unittest.TestCase):
    def test_what_does_not_vary_is_one_row_and_keeps_its_key(self) -> None:
        one = scene({"rotation": {"chain": [{"kind": "wiggle", "id": "w"}]}}, {"opacity": 50})
        first = table(one)
        self.assertEqual(first.nodes[0].channels["matrix"].rows.shape, (60, 6))
        self.assertEqual(first.nodes[1].channels["matrix"].rows.shape, (1, 6))
        self.assertEqual(first.nodes[1].channels["opacity"].rows.tolist(), [[0.5]])
        moved = apply(project(one), "set value", parameter="w.amplitude", value=44).scenes[0]
        changed = set(table(moved).channels()) - set(first.channels())
        self.assertEqual(changed, {table(moved).nodes[0].channels["matrix"].key})

    def test_matrices_turn_clockwise_about_the_pivot(self) -> None:
        one = scene({"position": [100, 50], "rotation": 90, "scale": [200, 100], "pivot": [10, 0]})
        a, b, c, d, e, f = table(one).nodes[0].channels["matrix"].rows[0]
        for x, y, to in ((10, 0, (100, 50)), (20, 0, (100, 70)), (10, 5, (95, 50))):
            np.testing.assert_allclose([a * x + c * y + e, b * x + d * y + f], to, atol=1e-4)

    def test_groups_multiply(self) -> None:
        inner = {"kind": "ellipse", "id": "in", "name": "In", "position": [10, 0]}
        one = scene({"kind": "group", "position": [100, 0], "rotation": 90, "layers": [inner]})
        a, b, c, d, e, f = world_matrix(Sampler(one), "in", SampleTimes.frames(30, 0, 1))[0, 0]
        np.testing.assert_allclose([e, f], [100, 10], atol=1e-9)

    def test_sides_and_texts_that_change_give_variants(self) -> None:
        sides = {"keys": [{"frame": 0, "value": 3, "ease": "linear"}, {"frame": 20, "value": 5}]}
        words = {"keys": [{"frame": 0, "value": "One"}, {"frame": 10, "value": "Two"}]}
        one = scene(
            {
                "kind": "polygon",
                "sides": sides,
                "radius": {"keys": [{"frame": 0, "value": 10}, {"frame": 30, "value": 90}]},
            },
            {"kind": "text", "text": words},
        )
        polygon, text = table(one).nodes
        self.assertEqual(polygon.fixed["verbs"], ["MLLZ", "MLLLLZ"])
        self.assertEqual(polygon.channels["which"].rows[[0, 19, 20, 59], 0].tolist(), [0, 0, 1, 1])
        self.assertEqual(len(text.fixed["verbs"]), 2)
        np.testing.assert_allclose(np.hypot(*polygon.channels["points.1"].rows[40, :2]), 90, rtol=1e-4)

    def test_a_hidden_layer_is_left_out_and_a_long_table_comes_in_equal_blocks(self) -> None:
        one = scene({"hidden": True}, {"rotation": {"chain": [{"kind": "wiggle", "id": "w"}]}})
        whole, cache = table(one, 60), Cache()
        self.assertEqual(len(whole.nodes), 1)
        blocks = [
            display_list(Sampler(one, cache), SampleTimes.frames(30, a, a + 20)).nodes[0].channels["matrix"].rows
            for a in (0, 20, 40)
        ]
        np.testing.assert_array_equal(np.concatenate(blocks), whole.nodes[0].channels["matrix"].rows)


class Outlines(unittest.TestCase):
    def test_paths_with_arcs_and_relative_moves(self) -> None:
        outline = path_outline("m10 10h20a5 5 0 0 1 0 10z")
        self.assertTrue(outline.verbs.startswith("ML") and outline.verbs.endswith("Z") and "C" in outline.verbs)
        self.assertEqual(outline.points[0, :4].tolist(), [10, 10, 30, 10])

    def test_text_is_set_about_its_middle_in_any_shipped_font(self) -> None:
        full = np.ones(1)
        for family in ("Bricolage Grotesque", "Instrument Sans", "Martian Mono"):
            for align, side in (("start", 1), ("end", -1), ("middle", 0)):
                points = text_outline("Łódź Quay", family, 600, align, full * 50, full * 0, full * 120).points[0]
                middle = (points[::2].min() + points[::2].max()) / 2
                self.assertEqual(np.sign(round(middle / 20)), side, (family, align))
        self.assertEqual(text_outline("", family, 600, "start", full, full, full).verbs, "")


class Pixels(unittest.TestCase):
    def test_a_scene_is_drawn_where_its_layers_lie(self) -> None:
        red = {"kind": "solid", "colour": "#ff0000"}
        one = scene({"kind": "rectangle", "size": [40, 20], "position": [100, 50], "fill": red, "opacity": 50})
        drawn = pixels(table(one.changed(width=200, height=100), 1), 0, Look(transparent=True))
        self.assertEqual(drawn.shape, (100, 200, 4))
        self.assertEqual(drawn[50, 100].tolist()[0], 255)
        self.assertAlmostEqual(int(drawn[50, 100, 3]), 128, delta=1)
        self.assertEqual(drawn[50, 130].tolist(), [0, 0, 0, 0])
        self.assertEqual(int((drawn[..., 3] > 0).sum()), 800)

    def test_a_group_fades_as_one(self) -> None:
        blue = {"kind": "solid", "colour": "#0000ff"}
        pair = [
            {"kind": "rectangle", "id": i, "name": i, "size": [40, 40], "position": [x, 50], "fill": blue}
            for i, x in (("a", 90), ("b", 110))
        ]
        drawn = pixels(
            table(scene({"kind": "group", "opacity": 50, "layers": pair}).changed(width=200, height=100), 1),
            0,
            Look(transparent=True),
        )
        self.assertEqual(len(set(drawn[50, 75:125, 3].tolist())), 1)

    def test_in_sixteen_bits_faint_things_add_up(self) -> None:
        white = {"kind": "solid", "colour": "#ffffff"}
        veil = {"kind": "rectangle", "size": [40, 20], "position": [20, 10], "fill": white, "opacity": 0.3}
        dark = {
            "kind": "rectangle",
            "size": [40, 20],
            "position": [20, 10],
            "fill": {"kind": "solid", "colour": "#000000"},
        }
        one = scene(dark, *[veil] * 100).changed(width=40, height=20)
        wanted = 1 - 0.997**100
        deep = draw(table(one, 1), 0, Look(deep=True)).toarray(colorType=skia.kRGBA_F16_ColorType).astype(float)
        self.assertAlmostEqual(deep[10, 20, 0], wanted, delta=0.004)
        content = png(draw(table(one, 1), 0, Look(deep=True)))
        # IHDR's depth and colour type: 16 bits a channel.
        self.assertEqual(content[24], 16)
        self.assertEqual(png(draw(table(one, 1), 0))[24], 8)
        faded = scene(
            {
                "kind": "group",
                "opacity": 0.3,
                "layers": [
                    {
                        "kind": "rectangle",
                        "id": "in",
                        "name": "In",
                        "size": [40, 20],
                        "position": [20, 10],
                        "fill": white,
                    }
                ],
            }
        )
        alpha = draw(table(faded.changed(width=40, height=20), 1), 0, Look(True, deep=True))
        self.assertAlmostEqual(
            alpha.toarray(colorType=skia.kRGBA_F16_ColorType).astype(float)[10, 20, 3], 0.003, delta=2e-5
        )
