"""Arrays that are made, changed and taken apart by edits, and what is refused of them."""

import base64
import unittest

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.elements import Elements
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.soundness import problems
from jaunty_lever.drawing.frames import pixels
from jaunty_lever.formats import project_file

from .scenes import apply, project, scene
from .test_arrays import FRAMES, array, follow, formula, row, values, wave


class Made(unittest.TestCase):
    def test_repeating_layers_leaves_the_first_picture_where_it_is(self) -> None:
        one = project(
            scene(
                {"position": [300, 200], "rotation": {"chain": [wave()]}},
                {"rotation": {"chain": [follow("layer0.rotation")]}},
            )
        )
        made = apply(one, "repeat layers", layers=["layer0"], id="a", count=1)
        a, b = (pixels(display_list(Sampler(p.scenes[0]), FRAMES), 20) for p in (one, made))
        np.testing.assert_array_equal(a, b)
        # Who listened from outside hears the first copy from now on.
        self.assertEqual(made.scenes[0].index.modifiers["f"].modifier.references(), ("layer0.rotation@0",))

    def test_sixty_four_copies_taken_apart_draw_the_same(self) -> None:
        grid = {"kind": "grid", "columns": 8, "rows": 8, "gap": [60, 40]}
        dot = {"size": [30, 18], "rotation": {"chain": [wave()]}, "fill": {"kind": "solid", "colour": "#a93c28"}}
        one = scene(
            array(
                dot,
                {"position": [8, 0], "size": [6, 6], "opacity": formula("40 + 60 * u", "o")},
                arrangement=grid,
                later=0.05,
                position=[300, 250],
                rotation=10,
                copy_scale={"rest": [100, 100], **formula("(100, 100) * (0.6 + 0.6 * u)", "s")},
                copy_opacity=formula("100 - 50 * u", "p"),
            )
        )
        for way, frames in (("still", (25,)), ("baked", (0, 25, 59))):
            apart = apply(project(one), "take apart", array="a", way=way, frame=25).scenes[0]
            self.assertEqual(len(apart.index.layers), 1 + 64 * 3)
            for frame in frames:
                at = SampleTimes.frames(30, frame, frame + 1)
                a, b = (pixels(display_list(Sampler(s), at), 0).astype(int) for s in (one, apart))
                # Keys may stray by a quarter of a pixel or degree; what stands still is the same to rounding.
                near = (np.abs(a - b).max(axis=2) <= (2 if way == "still" else 40)).mean()
                self.assertGreater(near, 0.9995, (way, frame))

    def test_only_what_all_copies_share_can_be_baked(self) -> None:
        waving = array({"rotation": {"chain": [wave()]}}, arrangement=row(5), copy_rotation=formula("9 * i * t", "r"))
        one = project(scene(waving))
        made = apply(one, "bake", parameter="e0.rotation").scenes[0]
        np.testing.assert_allclose(values(made, "e0.rotation"), values(one.scenes[0], "e0.rotation"), atol=1e-9)
        with self.assertRaises(Refused) as caught:
            apply(one, "bake", parameter="a.copy_rotation")
        self.assertIn("Take the array apart", caught.exception.message)

    def test_arrangements_keep_what_they_have_in_common(self) -> None:
        made = apply(project(scene({})), "repeat layers", layers=["layer0"], id="a", count=12)
        for kind, count in (("grid", 12), ("ring", 12), ("path", 12), ("scatter", 12), ("row", 12)):
            made = apply(made, "set arrangement", array="a", arrangement=kind)
            self.assertEqual(len(values(made.scenes[0], "a.place")), count, kind)
            self.assertEqual(project_file.read(project_file.write(made).encode()), made)

    def test_another_arrangement_is_as_wide_and_as_high(self) -> None:
        made = apply(project(scene({})), "repeat layers", layers=["layer0"], id="a", count=12)
        made = apply(made, "set value", parameter="a.arrangement.gap", value=[40, 0])

        def spread(of: Project) -> list[float]:
            places = values(of.scenes[0], "a.place")[:, 0]
            return [round(float(v), 6) for v in np.ptp(places, axis=0)[:2]]

        self.assertEqual(spread(made), [440, 0])
        high = made.scenes[0].height * 0.8
        grid = apply(made, "set arrangement", array="a", arrangement="grid")
        self.assertEqual(spread(grid), [440, min(440, high)])
        ring = apply(grid, "set arrangement", array="a", arrangement="ring")
        np.testing.assert_allclose(spread(ring), [min(440, high)] * 2, rtol=1e-6)
        ground = apply(grid, "set arrangement", array="a", arrangement="ground")
        self.assertEqual(ground.scenes[0].index.parameters["a.arrangement.span"].parameter.rest, (440, min(440, high)))
        again = apply(grid, "set arrangement", array="a", arrangement="row")
        self.assertEqual(spread(again), [440, 0])
        loose = apply(grid, "set arrangement", array="a", arrangement="scatter")
        self.assertTrue(all(0.4 * 440 < side <= 440 for side in spread(loose)))
        # By span, and where the gap is on its way, what is there is kept.
        spanned = apply(made, "set value", parameter="a.arrangement.fit", value="span")
        spanned = apply(spanned, "set value", parameter="a.arrangement.span", value=[300, 0])
        self.assertEqual(spread(apply(spanned, "set arrangement", array="a", arrangement="grid"))[0], 300)
        moved = apply(made, "add modifier", parameter="a.arrangement.gap", modifier="wave", id="w")
        kept = apply(moved, "set arrangement", array="a", arrangement="grid").scenes[0]
        self.assertEqual([one.id for one in kept.index.parameters["a.arrangement.gap"].parameter.chain], ["w"])

    def test_values_follow_a_sweep_in_one_step(self) -> None:
        made = apply(project(scene({"opacity": 80})), "repeat layers", layers=["layer0"], id="a", count=5)
        made = apply(made, "add gauge", array="a", gauge="sweep", id="g", name="Gust")
        made = apply(
            made,
            "tie to gauge",
            gauge="g",
            values={"a.copy_opacity": "20", "a.copy_scale": "150", "layer0.fill.colour": "#000000"},
        )
        one = made.scenes[0]
        a, opacity, scale = (values(one, p)[:, :, 0] for p in ("g.value", "a.copy_opacity", "a.copy_scale"))
        np.testing.assert_allclose(opacity, 100 - 80 * a, atol=1e-9)
        np.testing.assert_allclose(scale, 100 + 50 * a, atol=1e-9)
        # Gone, its followers rest, and nothing else is lost.
        gone = apply(made, "remove gauge", gauge="g").scenes[0]
        self.assertEqual(list(problems(project(gone))), [])
        np.testing.assert_array_equal(
            values(gone, "a.copy_opacity"), 80 * np.ones((1, 1, 1)) + np.zeros((5, 60, 1)) + 20
        )

    def test_each_copy_later_with_one_field(self) -> None:
        made = apply(project(scene({})), "repeat layers", layers=["layer0"], id="a", count=5)
        made = apply(made, "add modifier", parameter="a.copy_rotation", modifier="wave", id="w")
        late = apply(made, "later each", parameter="a.copy_rotation", seconds=0.1, id="late").scenes[0]
        straight, shifted = (
            values(s, "a.copy_rotation", SampleTimes(np.array([1.0, 0.8])))[:, :, 0] for s in (made.scenes[0], late)
        )
        np.testing.assert_allclose(shifted[2, 0], straight[0, 1], atol=1e-9)
        again = apply(project(late), "later each", parameter="a.copy_rotation", seconds=0).scenes[0]
        self.assertEqual(
            again.index.parameters["a.copy_rotation"].parameter,
            made.scenes[0].index.parameters["a.copy_rotation"].parameter,
        )


class Refusals(unittest.TestCase):
    def test_bad_numbers_are_refused_where_they_are_typed(self) -> None:
        made = apply(project(scene({})), "repeat layers", layers=["layer0"], id="a")
        for value in (-1, 1.5, 1_000_000):
            with self.subTest(value), self.assertRaises(Refused):
                apply(made, "set value", parameter="a.arrangement.count", value=value)
        none = apply(made, "set value", parameter="a.arrangement.count", value=0).scenes[0]
        self.assertEqual(display_list(Sampler(none), FRAMES).nodes[0].nodes, ())

    def test_a_count_that_grows_beyond_the_limit_is_clamped_and_told(self) -> None:
        count = {"chain": [{"kind": "adjust", "id": "j", "times": 1, "plus": 30_000}]}
        one = scene(array(arrangement={**row(1), "count": {"rest": 1, **count}}))
        sampler = Sampler(one)
        self.assertEqual(sampler.layouts.copies("a", SampleTimes(np.zeros(1))), 20_000)
        self.assertIn("20,000", next(iter(sampler.faults.values())).message)

    def test_what_has_no_extent_still_stands_somewhere(self) -> None:
        for arrangement in (
            {"kind": "path", "count": 3, "data": "M 5 7"},
            {"kind": "path", "count": 1},
            {"kind": "ring", "count": 1, "arc": 90},
            {"kind": "grid", "columns": 0, "rows": 4},
            {"kind": "scatter", "count": 4, "area": [0, 0], "apart": 50},
            {"kind": "row", "count": 3, "fit": "span", "span": [0, 0]},
        ):
            one = scene(array(arrangement=arrangement, later=0.1, order={"measure": "round", "origin": [900, -900]}))
            made = Sampler(one)
            drawn = display_list(made, FRAMES)
            for node in drawn.walk():
                for name, channel in node.channels.items():
                    self.assertTrue(np.isfinite(channel.rows).all(), (arrangement, name))

    def test_four_arrays_deep_are_too_many(self) -> None:
        made = project(scene({}))
        inner = "layer0"
        for k in range(3):
            made, inner = apply(made, "repeat layers", layers=[inner], id=f"a{k}", count=2), f"a{k}"
        with self.assertRaises(Refused) as caught:
            apply(made, "repeat layers", layers=[inner], id="a3", count=2)
        self.assertIn("3 deep", caught.exception.message)

    def test_copies_inside_copies_are_counted_together(self) -> None:
        made = apply(project(scene({})), "repeat layers", layers=["layer0"], id="a", count=200)
        with self.assertRaises(Refused) as caught:
            apply(made, "repeat layers", layers=["a"], id="b", count=101)
        self.assertIn("20,301", caught.exception.message)


class Streams(unittest.TestCase):
    def test_copies_inside_copies_share_no_random_stream(self) -> None:
        outer = Elements.of("a", 20)
        streams = Elements.of("b", 30, outer).streams
        self.assertEqual(len(set(streams.tolist())), 600)
        self.assertEqual(streams[0], 0)


class OverAPicture(unittest.TestCase):
    """The gauge Picture: the brightness at each copy's share of the array's extent."""

    def test_corners_middles_and_a_single_copy(self) -> None:
        spots = base64.b64encode(bytes((0, 255, 51, 102))).decode()
        gauge = {"kind": "picture", "id": "seen", "name": "Seen", "wide": 2, "high": 2, "data": spots}
        grid = {"kind": "grid", "columns": 3, "rows": 3}
        one = scene(array(arrangement=grid, gauges=[gauge]))
        told = values(one, "seen.value", SampleTimes(np.zeros(1)))[:, 0, 0].reshape(3, 3)
        corners = np.array([[0, 1], [0.2, 0.4]])
        np.testing.assert_allclose(told[::2, ::2], corners)
        np.testing.assert_allclose(told[1, 1], corners.mean())
        np.testing.assert_allclose(told[0, 1], 0.5)
        turned = scene(array(arrangement=grid, gauges=[{**gauge, "backwards": True}]))
        np.testing.assert_allclose(values(turned, "seen.value", SampleTimes(np.zeros(1)))[:, 0, 0], 1 - told.ravel())
        alone = scene(array(arrangement=row(1), gauges=[gauge]))
        np.testing.assert_allclose(values(alone, "seen.value", SampleTimes(np.zeros(1))), corners.mean())

    def test_spots_that_are_not_all_there_are_refused(self) -> None:
        for more, said in (({"wide": 3}, "as many bytes"), ({"data": "%%"}, "bytes in base64")):
            with self.assertRaisesRegex(ValueError, said):
                scene(
                    array(
                        gauges=[
                            {
                                "kind": "picture",
                                "id": "seen",
                                "name": "Seen",
                                "wide": 1,
                                "high": 1,
                                "data": "AA==",
                                **more,
                            }
                        ]
                    )
                )
