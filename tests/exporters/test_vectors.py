"""Vectors that move by keys: matrices taken apart, keys within their tolerance, Lottie drawn by another renderer."""

import io
import json
import unittest
from typing import Any
from xml.etree import ElementTree

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from rlottie_python import LottieAnimation

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.geometry.matrices import layer_matrix
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.exporters import EXPORTERS, Drawn, Source, read_options
from jaunty_lever.exporters.vectors.parts import left_out_of
from jaunty_lever.exporters.vectors.tracks import fitted_parts, matrices_of, taken_apart, track
from jaunty_lever.importers import importer_for
from tests.core.scenes import project, scene
from tests.drawing.composited import composited
from tests.exporters.taken_out import drawn, psnr, quay, taken_out

sizes = st.floats(-300, 300)
curves = st.lists(st.floats(-500, 500), min_size=2, max_size=60)


class Tracks(unittest.TestCase):
    @settings(max_examples=80)
    @given(st.lists(st.tuples(sizes, sizes, st.floats(-900, 900), sizes, sizes), min_size=1, max_size=40))
    def test_a_matrix_taken_apart_is_the_same_matrix(self, places: list[tuple[float, ...]]) -> None:
        rows = np.array(places)
        made = layer_matrix(rows[:, :2], rows[:, 2:3], rows[:, 3:], np.array([[7.0, -3.0]]))
        np.testing.assert_allclose(taken_apart(made).matrices(), made, atol=1e-6)

    def test_nothing_jumps_that_need_not(self) -> None:
        # Through three turns, and through a scale of 0 to the other side.
        turn = np.linspace(0, 1080, 90)[:, None]
        size = np.stack([np.linspace(100, -100, 90), np.full(90, 100.0)], axis=1)
        for rows in (
            layer_matrix(np.zeros((1, 2)), turn, np.full((90, 2), 100.0), np.zeros((1, 2))),
            layer_matrix(np.zeros((1, 2)), np.full((90, 1), 30.0), size, np.zeros((1, 2))),
        ):
            parts = taken_apart(rows)
            for name in ("angle", "wide", "high"):
                self.assertLess(np.abs(np.diff(getattr(parts, name))).max(), 13)

    @settings(max_examples=80)
    @given(curves, st.sampled_from([0.01, 0.5, 20]))
    def test_keys_stray_no_further_than_they_may(self, values: list[float], tolerance: float) -> None:
        for rows in (np.array(values)[:, None], np.array(values)[:, None] * (1, -0.5)):
            made = track(rows, tolerance)
            self.assertLessEqual(np.abs(made.at_frames(len(rows)) - rows).max(), tolerance * (1 + 1e-6))
            for ease in made.eases:
                self.assertTrue(ease == "linear" or (0 <= ease[1] <= 1 and 0 <= ease[3] <= 1))

    def test_a_swing_takes_few_keys(self) -> None:
        t = np.arange(300) / 30
        rows = layer_matrix(
            np.stack([100 * np.sin(t), 0 * t], axis=1),
            40 * np.cos(t)[:, None],
            np.full((300, 2), 100.0),
            np.zeros((1, 2)),
        )
        parts = fitted_parts(rows, 0.2)
        self.assertLess(len(parts["x"].frames), 20)
        self.assertTrue(parts["wide"].still and parts["skew"].still)
        self.assertLess(np.abs(matrices_of(parts, 300) - rows).max(), 0.25)


def written(name: str, source: Source, **options: Any) -> tuple[bytes, dict[str, Any]]:
    """A file, and what is told of it."""
    exporter = EXPORTERS[name]
    assert isinstance(exporter, Drawn)
    given, target = read_options(exporter, options), io.BytesIO()
    (piece,) = exporter.pieces_of(source, given)
    told = exporter.join(source, given, (data for _, data in exporter.items(source, given, *piece)), target)
    return target.getvalue(), told or {}


class Files(unittest.TestCase):
    def test_lottie_looks_the_same_in_another_renderer(self) -> None:
        whole = quay()
        for transparent in (False, True):
            made = LottieAnimation.from_data(taken_out(whole, "lottie", transparent=transparent).decode())
            self.assertEqual(made.lottie_animation_get_size(), (320, 180))
            for frame in np.linspace(0, 63, 10).astype(int).tolist():
                got = np.asarray(made.render_pillow_frame(frame))
                wanted = drawn(whole, frame, transparent)
                if transparent:
                    self.assertLess(np.abs(got[..., 3].astype(int) - wanted[..., 3]).mean(), 1)
                else:
                    self.assertGreater(psnr(got[..., :3], wanted[..., :3]), 36, frame)

    def test_the_sample_scenes_as_lottie(self) -> None:
        whole = demo_project()
        for one in whole.scenes:
            if one.id in ("gull-flock", "mooring-posts"):
                # Many alike; their kind is in the others, and in one of its own.
                continue
            content, told = written("lottie", Source(whole, one))
            self.assertLess(told["stray"], 0.5)
            made = LottieAnimation.from_data(content.decode())
            for frame in np.linspace(0, one.length - 1, 4).astype(int).tolist():
                with self.subTest(one.name, frame=frame):
                    got = np.asarray(made.render_pillow_frame(frame).convert("RGB")).astype(int)
                    listed = display_list(Sampler(one), SampleTimes.frames(one.fps, frame, frame + 1))
                    wanted = pixels(listed, 0, Look(pictures=whole.picture_table))[..., :3].astype(int)
                    # That renderer loses a little light with each veil that lies over another.
                    self.assertGreater((np.abs(got - wanted).max(axis=2) <= 24).mean(), 0.995)

    def test_blocks_and_balls_that_a_camera_goes_round(self) -> None:
        turned = {"rest": [0, 25], "chain": [{"kind": "formula", "id": "f", "text": "(40 * t - 30, 25)"}]}
        block = {
            "kind": "block",
            "id": "b",
            "name": "B",
            "stands": "on its base",
            "width": 30,
            "thickness": 30,
            "height": {"rest": 0, "chain": [{"kind": "formula", "id": "h", "text": "30 + 12 * i"}]},
        }
        row = {
            "kind": "array",
            "position": [160, 110],
            "by_depth": True,
            "arrangement": {"kind": "ground", "columns": 3, "rows": 2, "gap": [60, 60]},
            "layers": [block],
        }
        eye = {
            "kind": "camera",
            "position": [160, 90],
            "depth": 400,
            "aim": [160, 90],
            "perspective": 400,
            "around": turned,
        }
        ball = {"kind": "ball", "position": [60, 70], "radius": 24}
        whole = project(scene(row, ball, eye).changed(width=320, height=180, length=30))
        content, told = written("lottie", Source(whole, whole.scenes[0]))
        self.assertLess(told["stray"], 0.5)
        self.assertTrue(any("keep one order" in line for line in left_out_of(whole.scenes[0])))
        made = LottieAnimation.from_data(content.decode())
        for frame in (0, 14, 29):
            got = np.asarray(made.render_pillow_frame(frame).convert("RGB")).astype(int)
            off = np.abs(got - drawn(whole, frame)[..., :3].astype(int)).max(axis=2)
            self.assertGreater((off <= 24).mean(), 0.985, frame)

    def test_gradients_begin_and_corners_end_where_they_do(self) -> None:
        glides = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "(40 * t, 20 - 60 * t)"}]}
        stops = [{"id": "a", "offset": 0, "colour": "#f0e0c0"}, {"id": "b", "offset": 100, "colour": "#205060"}]
        ball = {
            "kind": "ellipse",
            "size": [120, 120],
            "position": [90, 90],
            "fill": {"kind": "radial", "radius": 60, "focus": glides, "stops": stops},
        }
        spikes = {
            "kind": "star",
            "position": [230, 90],
            "outer": 60,
            "inner": 22,
            "stroke_width": 12,
            "line": {"join": "miter", "miter": 2},
            "fill": {"kind": "none"},
        }
        whole = project(scene(ball, spikes).changed(width=320, height=180, length=30))
        made = LottieAnimation.from_data(taken_out(whole, "lottie").decode())
        for frame in (0, 10, 22):
            wanted = drawn(whole, frame)[..., :3].astype(int)
            again = importer_for(svg := taken_out(whole, "svg-frame", frame=frame)).read(svg, "again.svg").thing
            for got in (np.asarray(made.render_pillow_frame(frame).convert("RGB")), drawn(again, 0)[..., :3]):
                off = np.abs(got.astype(int) - wanted).max(axis=2)
                self.assertGreater((off <= 24).mean(), 0.99, frame)

    def test_they_are_small_and_true(self) -> None:
        whole = demo_project()
        one = whole.scenes[0]
        frames = taken_out(whole.changed(scenes=(one,)), "png-frames", stop=9)
        for name in ("svg", "lottie"):
            content, told = written(name, Source(whole, one))
            self.assertLess(len(content), len(frames) / 10 * one.length / 10)
            self.assertLess(told["stray"], 0.5)
            self.assertGreater(told["keys"], 100)

    def test_an_svg_holds_nothing_that_runs_or_is_fetched(self) -> None:
        whole = quay(name='A "quay" & <more>')
        root = ElementTree.fromstring(taken_out(whole, "svg"))
        tags = {element.tag.split("}")[1] for element in root.iter()}
        self.assertLessEqual(tags, {"svg", "title", "rect", "g", "path", "animate", "animateTransform"})
        self.assertEqual(root.findtext("{http://www.w3.org/2000/svg}title"), 'A "quay" & <more>')
        for element in root.iter():
            for name, value in element.attrib.items():
                self.assertFalse(name.startswith("on") or "://" in value, (name, value))

    def test_copies_that_are_alike_are_written_once(self) -> None:
        dot = {"kind": "ellipse", "id": "dot", "name": "Dot", "rotation": {"chain": [{"kind": "wave", "id": "w"}]}}
        array = {
            "kind": "array",
            "id": "a",
            "name": "Dots",
            "arrangement": {"kind": "row", "count": 200},
            "layers": [dot],
        }
        whole = project(scene(array).changed(length=30))
        root = ElementTree.fromstring(taken_out(whole, "svg"))
        self.assertEqual(len(list(root.iter("{http://www.w3.org/2000/svg}use"))), 200)
        self.assertEqual(len(list(root.iter("{http://www.w3.org/2000/svg}path"))), 1)
        lottie = json.loads(taken_out(whole, "lottie"))
        self.assertEqual(len(lottie["layers"][0]["shapes"]), 200)

    def test_too_many_copies_are_refused_before_anything_is_written(self) -> None:
        dot = {"kind": "ellipse", "id": "dot", "name": "Dot"}
        array = {
            "kind": "array",
            "id": "a",
            "name": "Dots",
            "arrangement": {"kind": "row", "count": 5000},
            "layers": [dot],
        }
        for name in ("svg", "lottie"):
            with self.assertRaises(Refused) as caught:
                taken_out(project(scene(array)), name)
            self.assertIn("5,000 copies", caught.exception.message)


class OneFrame(unittest.TestCase):
    def test_a_page_for_a_print(self) -> None:
        content = taken_out(quay(), "pdf-frame", frame=3)
        self.assertTrue(content.startswith(b"%PDF-") and b"/MediaBox [0 0 320 180]" in content)
        with self.assertRaises(Refused) as caught:
            taken_out(quay(), "pdf-frame", frame=64)
        self.assertEqual(caught.exception.at, "frame")

    def test_values_as_json(self) -> None:
        told = json.loads(taken_out(quay(), "json", parameter=["layer1.opacity", "layer0.position"], stop=5, step=2))
        self.assertEqual((told["fps"], told["frame"]), (30, [0, 2, 4]))
        self.assertEqual(told["values"]["Layer 0/position.x"], [160, 160, 160])
        wave = [55 + 40 * np.sin(2 * np.pi * 0.9 * frame / 30) for frame in (0, 2, 4)]
        np.testing.assert_allclose(told["values"]["Layer 1/opacity"], wave)

    def test_what_vectors_do_not_have_is_told(self) -> None:
        whole = composited()
        for name, said in (
            ("svg", ["own shows everywhere", "stage shows everywhere"]),
            ("lottie", ["goes without its filters", "blends whole layers only"]),
        ):
            exporter = EXPORTERS[name]
            told = " ".join(exporter.plan(Source(whole, whole.scenes[0]), read_options(exporter, {})).left_out)
            for words in said:
                self.assertIn(words, told)

    def test_mattes_of_lottie_are_where_they_are(self) -> None:
        whole = composited()
        kept = ("back", *(f"words{k}" for k in range(40)), *(f"pair{k}" for k in range(24, 28)))
        scene = whole.scenes[0].changed(layers=tuple(one for one in whole.scenes[0].layers if one.id in kept))
        alone = whole.changed(scenes=(scene,))
        made = LottieAnimation.from_data(taken_out(alone, "lottie").decode())
        got = np.asarray(made.render_pillow_frame(0).convert("RGB")).astype(int)
        wanted = pixels(display_list(Sampler(scene), SampleTimes.frames(30, 0, 1)), 0, Look())[..., :3].astype(int)
        self.assertGreater((np.abs(got - wanted)[240:330].max(axis=2) <= 40).mean(), 0.97)
