"""Blends, filters and mattes: colours against the definitions of CSS, what may be a matte of what, and their edits."""

import unittest
from math import erf
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.compositing import BLENDS, FILTERS
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Gone, Refused
from jaunty_lever.core.edits.recipes import recipe_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

COLOUR = np.array([200, 90, 40]) / 255
GREY = np.array([0.2126, 0.7152, 0.0722])


def square(id: str = "a", colour: str = "#c85a28", **fields: Any) -> dict[str, Any]:
    return {
        "kind": "rectangle",
        "id": id,
        "name": id.upper(),
        "size": [80, 80],
        "position": [640, 360],
        "fill": {"kind": "solid", "colour": colour},
        **fields,
    }


def picture(one: Scene, transparent: bool = False, frame: int = 0) -> np.ndarray:
    drawn = display_list(Sampler(one), SampleTimes.frames(one.fps, frame, frame + 1))
    return np.asarray(pixels(drawn, 0, Look(transparent=transparent))).astype(float) / 255


def middle(*layers: dict[str, Any]) -> np.ndarray:
    """The colour in the middle."""
    made: np.ndarray = picture(scene(*layers))[360, 640, :3]
    return made


def through(**settings: Any) -> np.ndarray:
    """The colour after one filter."""
    return middle(square(filters=[{"id": "f", **settings}]))


class Filters(unittest.TestCase):
    def assert_near(self, got: np.ndarray, wanted: Any) -> None:
        np.testing.assert_allclose(got, np.clip(wanted, 0, 1), atol=1.6 / 255)

    @settings(max_examples=10, deadline=None)
    @given(st.floats(0, 3), st.floats(0, 1))
    def test_colours_are_changed_as_css_says(self, open_ended: float, share: float) -> None:
        a = open_ended
        self.assert_near(through(kind="brightness", amount=100 * a), COLOUR * a)
        self.assert_near(through(kind="contrast", amount=100 * a), (COLOUR - 0.5) * a + 0.5)
        luma = np.array([0.213, 0.715, 0.072]) @ COLOUR
        self.assert_near(through(kind="saturate", amount=100 * a), luma + (COLOUR - luma) * a)
        a = share
        self.assert_near(through(kind="invert", amount=100 * a), COLOUR * (1 - a) + (1 - COLOUR) * a)
        self.assert_near(through(kind="grayscale", amount=100 * a), COLOUR * (1 - a) + GREY @ COLOUR * a)
        sepia = np.array([[0.393, 0.769, 0.189], [0.349, 0.686, 0.168], [0.272, 0.534, 0.131]]) @ COLOUR
        self.assert_near(through(kind="sepia", amount=100 * a), COLOUR * (1 - a) + sepia * a)

    def test_hues_come_round_and_keep_their_lightness(self) -> None:
        self.assert_near(through(kind="hue-rotate", angle=360), COLOUR)
        luma = np.array([0.213, 0.715, 0.072])
        self.assertAlmostEqual(
            luma @ middle(square(colour="#806a50", filters=[{"id": "f", "kind": "hue-rotate", "angle": 140}])),
            luma @ (np.array([128, 106, 80]) / 255),
            delta=0.01,
        )

    def test_darks_and_lights_are_led_to_two_colours(self) -> None:
        both = {"kind": "two-colours", "dark": "#102040", "light": "#ffe0a0"}
        dark, light = np.array([16, 32, 64]) / 255, np.array([255, 224, 160]) / 255
        self.assert_near(through(**both), dark + (light - dark) * (GREY @ COLOUR))
        self.assert_near(through(**both, amount=0), COLOUR)
        self.assert_near(middle(square(colour="#000000", filters=[{"id": "f", **both}])), dark)
        self.assert_near(middle(square(colour="#ffffff", filters=[{"id": "f", **both}])), light)

    def test_a_blur_is_a_gaussian_in_the_layers_own_pixels(self) -> None:
        for scale, deep in ((100, 8), (200, 16)):
            one = scene(
                square(
                    size=[600, 600],
                    scale=[scale, scale],
                    position=[640 + 300 * scale / 100, 360],
                    filters=[{"id": "f", "kind": "blur", "radius": 8}],
                )
            )
            edge = picture(one, transparent=True)[360, 600:680, 3]
            wanted = [0.5 + 0.5 * erf((x + 0.5 - 40) / deep / np.sqrt(2)) for x in range(80)]
            np.testing.assert_allclose(edge, wanted, atol=0.03)

    def test_they_act_one_after_the_other_and_not_when_switched_off(self) -> None:
        first, then = {"id": "f", "kind": "brightness", "amount": 50}, {"id": "g", "kind": "invert"}
        self.assert_near(middle(square(filters=[first, then])), 1 - COLOUR / 2)
        self.assert_near(middle(square(filters=[then, first])), (1 - COLOUR) / 2)
        self.assert_near(middle(square(filters=[{**first, "bypassed": True}, then])), 1 - COLOUR)

    def test_a_shadow_lies_behind_in_its_own_shape(self) -> None:
        shade = {"id": "f", "kind": "drop-shadow", "offset": [100, 0], "colour": "#000000"}
        made = picture(scene(square(filters=[shade])), transparent=True)
        np.testing.assert_allclose(made[360, 740], [0, 0, 0, 1], atol=0.01)
        np.testing.assert_allclose(made[360, 640, :3], COLOUR, atol=0.01)
        self.assertEqual(made[360, 840, 3], 0)

    def test_every_setting_may_move_and_differ_from_copy_to_copy(self) -> None:
        by = {"rest": 100, "chain": [{"kind": "formula", "id": "m", "text": "100% * (1 - u) * (1 - f / 10)"}]}
        inner = square(position=[0, 0], filters=[{"id": "f", "kind": "brightness", "amount": by}])
        array = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "position": [640, 360],
            "layers": [inner],
            "arrangement": {"kind": "row", "count": 2, "gap": [200, 0]},
        }
        now, later = picture(scene(array)), picture(scene(array), frame=5)
        self.assert_near(now[360, 540, :3], COLOUR)
        self.assert_near(now[360, 740, :3], 0)
        self.assert_near(later[360, 540, :3], COLOUR / 2)

    def test_too_large_a_blur_is_bounded_and_told(self) -> None:
        sampler = Sampler(scene(square(filters=[{"id": "f", "kind": "blur", "radius": 10_000}])))
        node = display_list(sampler, SampleTimes.frames(30, 0, 1)).nodes[0]
        self.assertEqual(node.channels["filter.0"].rows[0, 0], 500)
        [fault] = sampler.faults.values()
        self.assertEqual(
            (fault.parameter, fault.message), ("f.radius", "A blur is at most 500 px; here it would be 10,000")
        )


class Blends(unittest.TestCase):
    def test_a_group_is_laid_down_as_one(self) -> None:
        under, over = np.array([0.5, 0.4, 0.9]), np.array([200, 90, 40]) / 255
        back = square("b", "#8066e6", size=[400, 400])
        inner = [square("c", "#203040", position=[0, 0]), square("d", position=[0, 0])]
        group = {"kind": "group", "id": "g", "name": "G", "position": [640, 360], "layers": inner, "blend": "multiply"}
        np.testing.assert_allclose(middle(back, group), under * over, atol=0.01)
        # Each blend gives another colour.
        made = {tuple(middle(back, {**group, "blend": blend}).round(2)) for blend in BLENDS}
        self.assertEqual(len(made), len(BLENDS))

    def test_what_is_not_composited_says_nothing_of_it(self) -> None:
        node = display_list(Sampler(scene(square())), SampleTimes.frames(30, 0, 1)).nodes[0]
        self.assertEqual({"blend", "filter.0", "matte_by"} & set(node.channels), set())


class Mattes(unittest.TestCase):
    DOT = {
        "kind": "ellipse",
        "id": "m",
        "name": "Dot",
        "position": [620, 360],
        "size": [30, 30],
        "hidden": True,
        "fill": {"kind": "solid", "colour": "#808080"},
    }

    def seen(self, **matte: Any) -> tuple[float, float]:
        """How much is there where the matte is, and where it is not."""
        made = picture(scene(self.DOT, square(matte={"layer": "m", **matte})), transparent=True)
        return made[360, 620, 3], made[360, 660, 3]

    def test_a_layer_shows_where_another_is(self) -> None:
        self.assertEqual(self.seen(), (1, 0))
        self.assertEqual(self.seen(backwards=True), (0, 1))
        self.assertAlmostEqual(self.seen(by="luminance")[0], 128 / 255, delta=0.01)
        self.assertAlmostEqual(self.seen(by="luminance", backwards=True)[0], 127 / 255, delta=0.01)

    def test_what_would_go_round_or_stand_elsewhere_is_refused(self) -> None:
        array = {"kind": "array", "id": "r", "name": "Row", "layers": [{"kind": "star", "id": "st", "name": "Star"}]}
        group = {"kind": "group", "id": "g", "name": "Group", "layers": [square("c")]}
        now = project(scene(square("a"), square("b"), group, array))
        with self.assertRaisesRegex(Refused, "where it is itself"):
            apply(now, "set matte", layer="a", matte="a")
        with self.assertRaisesRegex(Refused, "in which it stands"):
            apply(now, "set matte", layer="c", matte="g")
        with self.assertRaisesRegex(Refused, "in an array of its own"):
            apply(now, "set matte", layer="a", matte="st")
        with self.assertRaises(Gone):
            apply(now, "set matte", layer="a", matte="nobody")
        now = apply(now, "set matte", layer="b", matte="a")
        with self.assertRaisesRegex(Refused, "would show where it shows itself: A → B → A"):
            apply(now, "set matte", layer="a", matte="b")
        now = apply(now, "set matte", layer="c", matte="b")
        with self.assertRaisesRegex(Refused, "would show where it shows itself"):
            apply(now, "set matte", layer="a", matte="g")

    def test_the_other_layer_is_hidden_unless_it_is_to_be_seen(self) -> None:
        now = project(scene(square("a"), square("b")))
        for hide in (True, False):
            made = apply(now, "set matte", layer="a", matte="b", hide=hide)
            self.assertEqual(made.scenes[0].index.layers["b"].hidden, hide)

    def test_it_shows_everywhere_once_the_other_is_gone(self) -> None:
        now = apply(project(scene(square("a"), square("b"))), "set matte", layer="a", matte="b")
        now = apply(now, "remove layers", layers=("b",))
        self.assertIsNone(now.scenes[0].index.layers["a"].matte)

    def test_doubles_show_where_their_own_double_is(self) -> None:
        group = {"kind": "group", "id": "g", "name": "G", "layers": [square("a", matte={"layer": "b"}), square("b")]}
        now = apply(project(scene(group)), "duplicate layers", layers=("g",))
        copy = next(one for one in now.scenes[0].layers if one.id != "g")
        first, second = copy.layers  # type: ignore[attr-defined]
        self.assertEqual(first.matte.layer, second.id)
        self.assertEqual(project_file.read(project_file.write(now)), now)

    def test_a_recipe_takes_the_matte_along_or_says_so(self) -> None:
        one = scene(square("a", matte={"layer": "b"}), square("b"))
        with self.assertRaisesRegex(Refused, "A shows where B is: choose both"):
            recipe_of(one, "Cut", "", layers=("a",))
        self.assertEqual(len(recipe_of(one, "Cut", "", layers=("a", "b")).layers), 2)


class Edits(unittest.TestCase):
    def filters(self, now: Project) -> list[str]:
        return [one.id for one in now.scenes[0].index.layers["a"].filters]

    def test_filters_are_put_on_moved_switched_off_and_taken_off(self) -> None:
        now = project(scene(square("a"), square("b")))
        for kind in FILTERS:
            now = apply(now, "add filter", layer="a", filter=kind, id=f"f-{kind}")
        self.assertEqual(len(self.filters(now)), len(FILTERS))
        now = apply(now, "move filter", filter="f-sepia", position=0)
        self.assertEqual(self.filters(now)[0], "f-sepia")
        now = apply(now, "bypass filter", filter="f-sepia", bypassed=True)
        self.assertTrue(now.scenes[0].index.layers["a"].filters[0].bypassed)
        now = apply(now, "link to", parameter="b.rotation", driver="f-blur.radius", times=2)
        self.assertEqual(Sampler(now.scenes[0]).sample("b.rotation", 0)[0], 12)
        now = apply(now, "remove filter", filter="f-blur")
        self.assertNotIn("f-blur", self.filters(now))
        self.assertEqual(Sampler(now.scenes[0]).sample("b.rotation", 0)[0], 12)
        self.assertEqual(project_file.read(project_file.write(now)), now)

    def test_a_hundred_filters_are_too_many(self) -> None:
        now = project(scene(square("a")))
        for k in range(16):
            now = apply(now, "add filter", layer="a", filter="invert", id=f"f{k}")
        with self.assertRaisesRegex(Refused, "at most 16 filters"):
            apply(now, "add filter", layer="a", filter="invert")
        with self.assertRaises(Refused):
            EDIT.validate_python(
                {
                    "kind": "add layer",
                    "scene": "s",
                    "layer": "star",
                    "id": "z",
                    "fields": {"filters": [{"id": f"g{k}", "kind": "invert"} for k in range(100)]},
                }
            ).apply(now)
        with self.assertRaisesRegex(Refused, "no filter “glow”"):
            apply(project(scene(square("a"))), "add filter", layer="a", filter="glow")
        with self.assertRaises(Gone):
            apply(now, "move filter", filter="nobody", position=0)
