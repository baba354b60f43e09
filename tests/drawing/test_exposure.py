"""Motion blur: the average of what is seen while the shutter is open, in linear light; alike on the stage and in what
is taken out."""

import base64
import io
import unittest
from typing import Any

import numpy as np
from PIL import Image

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.display.shutter import exposed, roughly
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, array, draw, images
from jaunty_lever.formats import project_file
from tests.browser.harness import BrowserTest
from tests.core.scenes import apply, project, scene

MOVES = {
    "rest": [0, 0],
    "keys": [
        {"frame": 0, "value": [100, 360], "ease": "linear"},
        {"frame": 10, "value": [1100, 360], "ease": "linear"},
    ],
}


def bar(**fields: Any) -> dict[str, Any]:
    return {
        "kind": "rectangle",
        "id": "a",
        "name": "Bar",
        "size": [40, 200],
        "position": MOVES,
        "fill": {"kind": "solid", "colour": "#000000"},
        **fields,
    }


def blurred(*layers: dict[str, Any], **fields: Any) -> Scene:
    made: Scene = scene(*layers, length=30).changed(motion_blur=True)
    for name, value in fields.items():
        now = (
            apply(project(made), "set value", parameter=f"s.{name}", value=value, frame=0)
            if "shutter" in name
            else None
        )
        made = now.scenes[0] if now else made.changed(**{name: value})
    return made


def picture(one: Scene, frame: int = 5, **look: Any) -> np.ndarray:
    return array(next(images(one, frame, frame + 1, Look(**look)))).astype(float) / 255


def linear(v: np.ndarray) -> np.ndarray:
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


class Exposed(unittest.TestCase):
    def test_it_is_dark_as_long_as_the_thing_is_there(self) -> None:
        # 100 px a frame, exposed for half of one, about the frame: 50 px of way about x = 600.
        made = linear(picture(blurred(bar(), most_samples=64))[360, :, 0])
        paper = linear(np.array([1.0]))[0]
        x = np.arange(1280) + 0.5
        covered = np.clip(np.minimum(x - (600 - 25 - 20), (600 + 25 + 20) - x), 0, 40) / 50
        np.testing.assert_allclose(made, paper * (1 - np.clip(covered, 0, 0.8)), atol=0.04)

    def test_the_shutter_opens_when_it_is_told_to(self) -> None:
        for phase, middle in ((-90, 600), (0, 625), (-180, 575)):
            dark = 1 - linear(picture(blurred(bar(), shutter_phase=phase))[360, :, 0])
            self.assertAlmostEqual(float((dark * (np.arange(1280) + 0.5)).sum() / dark.sum()), middle, delta=1.5)

    def test_a_closed_shutter_shows_the_moment_and_two_turns_two_frames(self) -> None:
        sharp = picture(scene(bar(), length=30))
        np.testing.assert_array_equal(picture(blurred(bar(), shutter_angle=0)), sharp)
        dark = np.flatnonzero(
            picture(blurred(bar(), shutter_angle=720, shutter_phase=0, most_samples=64))[360, :, 0] < 0.995
        )
        self.assertAlmostEqual(int(np.ptp(dark)), 240, delta=8)

    def test_what_rests_is_drawn_once_and_as_without(self) -> None:
        still = bar(position=[640, 360])
        np.testing.assert_array_equal(picture(blurred(still)), picture(scene(still, length=30)))
        self.assertEqual(exposed(Sampler(blurred(still)), 5).samples, 1)

    def test_as_many_moments_as_the_fastest_asks_for_within_the_bounds(self) -> None:
        slow = {
            "rest": [0, 0],
            "keys": [
                {"frame": 0, "value": [100, 360], "ease": "linear"},
                {"frame": 10, "value": [300, 360], "ease": "linear"},
            ],
        }
        self.assertEqual(exposed(Sampler(blurred(bar(position=slow))), 5).samples, 10)
        self.assertEqual(exposed(Sampler(blurred(bar())), 5).samples, 32)
        self.assertEqual(exposed(Sampler(blurred(bar(position=slow), most_samples=6)), 5).samples, 6)
        spins = {
            "kind": "group",
            "id": "g",
            "name": "G",
            "rotation": {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": 90}]},
            "layers": [bar(position=[200, 0])],
        }
        far = np.hypot(220, 100) * np.deg2rad(90) / 30 / 2
        self.assertEqual(exposed(Sampler(blurred(spins)), 5).samples, int(np.ceil(far)))
        row = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "layers": [bar(position=[0, 0])],
            "arrangement": {"kind": "row", "count": 5},
            "copy_position": {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "(i * 180 * t, 0)"}]},
        }
        self.assertEqual(exposed(Sampler(blurred(row)), 5).samples, 12)

    def test_it_is_the_mean_of_256_moments_within_a_level(self) -> None:
        # Turned and moved at once, half clear, before a gradient: each moment is drawn for itself and added up here.
        turns = {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": 400}]}
        fill = {
            "kind": "linear",
            "start": [-20, 0],
            "end": [20, 0],
            "stops": [
                {"id": "k1", "offset": 0, "colour": "#a93c28"},
                {"id": "k2", "offset": 100, "colour": "#1f6f7880"},
            ],
        }
        one = blurred(bar(rotation=turns, fill=fill), most_samples=64, least_samples=16)
        told = exposed(Sampler(one), 5).samples
        self.assertGreaterEqual(told, 16)
        seen = picture(one)[..., :3] * 255
        moments = (5 - 0.25 + 0.5 * (np.arange(256) + 0.5) / 256) / one.fps
        still = one.changed(motion_blur=False)
        drawn = display_list(Sampler(still), SampleTimes(moments))
        light = sum(linear(array(draw(drawn, k)).astype(float)[..., :3] / 255) for k in range(256)) / 256
        mean = 255 * np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
        self.assertLess(np.abs(seen - mean).mean(), 1)
        self.assertLess(np.abs(seen - mean).max(), 12)

    def test_layers_may_stay_sharp(self) -> None:
        both = blurred(bar(), bar(id="b", blurs=False))
        made = picture(both)[360, :, 0]
        self.assertEqual(int((made < 0.01).sum()), 40)
        self.assertGreater(int(((made > 0.01) & (made < 0.98)).sum()), 30)

    def test_without_a_background_what_blurs_is_clear_in_part(self) -> None:
        made = picture(blurred(bar(size=[25, 200])), transparent=True)
        self.assertAlmostEqual(made[360, 600, 3], 0.5, delta=0.05)
        self.assertEqual(made[360, 300, 3], 0)

    def test_a_frame_alone_is_what_it_is_in_a_film(self) -> None:
        one = blurred(bar())
        among = [array(image) for image in images(one, 3, 7)]
        np.testing.assert_array_equal(among[2], array(next(images(one, 5, 6))))

    def test_what_plays_stands_at_a_few_moments_of_each_exposure(self) -> None:
        both = blurred(bar(), bar(id="b", blurs=False), shutter_angle=180, shutter_phase=-90)
        played = roughly(Sampler(both), 3, 7, 4)
        moments = [(frame - 0.25 + 0.5 * (k + 0.5) / 4) / 30 for frame in range(3, 7) for k in range(4)]
        there = {node.id: node.channels["matrix"].values[:, 0, 4] for node in played.nodes}
        np.testing.assert_allclose(there["a"], [100 + 100 * 30 * moment for moment in moments], atol=1e-3)
        np.testing.assert_allclose(there["b"], np.repeat([400.0, 500, 600, 700], 4), atol=1e-3)

    def test_bounds(self) -> None:
        now = project(scene(bar()))
        for fields in ({"least_samples": 0}, {"most_samples": 10_000}):
            with self.subTest(fields), self.assertRaises(Refused):
                apply(now, "change scene", **fields)
        with self.assertRaises(Refused):
            apply(now, "set value", parameter="s.shutter_angle", value=900, frame=0)
        now = apply(now, "change scene", motion_blur=True, least_samples=2, most_samples=16)
        now = apply(now, "change layer", layer="a", blurs=False)
        self.assertEqual(project_file.read(project_file.write(now)), now)


class OnStage(BrowserTest):
    def test_the_frame_that_rests_is_seen_as_it_is_taken_out(self) -> None:
        turn = {"rest": 0, "chain": [{"kind": "wiggle", "id": "w", "amplitude": 60, "frequency": 3}]}
        one = blurred(bar(rotation=turn), {"kind": "star", "id": "b", "name": "Star", "position": [300, 200]})
        one = one.changed(id="blurs", name="Blurs")
        whole = Project(id="blurs", name="Blurs", scenes=(one,))
        self.bring(whole)
        self.open("/projects/blurs/scenes/blurs/bench#frame=4")
        self.until("bench.answers.last.exposure?.samples > 8 && bench.answers.last.exposure.frame === 4")
        data = self.page.evaluate(
            """async () => {
              await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
              const canvas = document.querySelector('#stage canvas');
              return canvas.toDataURL();
            }"""
        )
        stage = np.asarray(Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGBA"), dtype=float)
        box = np.flatnonzero(stage[stage.shape[0] // 2, :, 3])
        rows = np.flatnonzero(stage[:, stage.shape[1] // 2, 3])
        seen = stage[rows[0] : rows[-1] + 1, box[0] : box[-1] + 1, :3]
        wanted = Image.fromarray((picture(one, 4) * 255).astype(np.uint8)).convert("RGB")
        small = np.asarray(wanted.resize((seen.shape[1], seen.shape[0]), Image.Resampling.BOX), dtype=float)
        self.assertGreater(float((np.abs(seen - small).max(axis=2) <= 12).mean()), 0.985)

    def test_what_plays_is_blurred_from_a_few_moments_and_says_so(self) -> None:
        one = blurred(bar()).changed(id="plays", name="Plays")
        self.bring(Project(id="plays", name="Plays", scenes=(one,)))
        page = self.open("/projects/plays/scenes/plays/bench")
        page.locator(".play").click()
        self.until("document.getElementById('pace').textContent.includes('motion blur from')")
        soft = page.evaluate(
            """async () => {
              const base = document.querySelector('script[type=module]').src;
              const { drawExposed } = await import(base.replace('pages/bench.js', 'display/exposing.js'));
              const canvas = Object.assign(document.createElement('canvas'), { width: 1280, height: 720 }),
              context = canvas.getContext('2d');
              const answer = bench.answers.last, [shutter] = answer.shutters;
              drawExposed(context, (where) => where.setTransform(1, 0, 0, 1, 0, 0), answer, shutter, 5);
              const { data } = context.getImageData(0, 360, 1280, 1);
              return [shutter.moments, new Set(Array.from({ length: 1280 }, (_, x) => data[4 * x])).size,
              data[4 * 600], data[4 * 300]];
            }"""
        )
        # Four bars a little apart: paper, and one to four of them over one another.
        self.assertEqual(soft[0], 4)
        self.assertGreaterEqual(soft[1], 4)
        self.assertLess(soft[2], soft[3])
        page.locator(".play").click()
        self.until("!document.getElementById('pace').textContent.includes('motion blur from')")
