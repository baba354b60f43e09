"""Clips through the server: brought in, replaced, asked for frame by frame, and what is said when it goes wrong."""

import io
from typing import Any
from unittest.mock import patch

import numpy as np
from PIL import Image

from jaunty_lever.formats import clips
from tests.formats.made_clips import film, number_in, numbered
from tests.web.test_server import QUAY, SCENE, WebTest


class Clips(WebTest):
    def bring(self, *files: tuple[str, bytes], **fields: Any) -> Any:
        return self.client.post(f"{SCENE}/pictures", files=[("files", file) for file in files], data=fields)

    def layer(self, answer: Any) -> Any:
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        scene = self.store.state("lantern-quay").project.scenes[0]
        return scene.index.layers[answer.json()["layers"][0]] if answer.json()["layers"] else None

    def frame(self, clip: str, number: int, level: int = 0) -> Any:
        return self.client.get(f"{QUAY}/clips/{clip}/frames/{number}?level={level}")

    def test_a_film_comes_in_and_its_frames_can_be_had(self) -> None:
        layer = self.layer(self.bring(("Ferry.mp4", film(size=(320, 180)))))
        self.assertEqual((layer.kind, layer.name, layer.width, layer.timing.frames), ("clip", "Ferry", 320, 40))
        for number, level, wide in ((0, 0, 320), (17, 0, 320), (39, 1, 160), (5, 2, 80)):
            answer = self.frame(layer.clip, number, level)
            self.assertEqual(answer.headers["content-type"], "image/webp")
            self.assertIn("immutable", answer.headers["cache-control"])
            shown = np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGBA"))
            self.assertEqual((shown.shape[1], number_in(shown)), (wide, number))
        self.assertEqual(self.frame(layer.clip, 40).status_code, 404)
        self.assertEqual(self.frame("clip-other", 0).status_code, 404)
        self.assertEqual(self.client.get(f"{QUAY}/clips/{layer.clip}/frames/0?level=90").status_code, 422)
        told = self.client.get("/api/clip-frames").json()
        self.assertGreater(told["taken"], 500)
        self.assertEqual(self.client.put("/api/clip-frames", json={"megabytes": 64}).json()["most"], 64_000_000)
        self.assertEqual(self.client.put("/api/clip-frames", json={"megabytes": -1}).status_code, 422)
        self.assertEqual(self.client.delete("/api/clip-frames").json()["taken"], 0)
        self.assertEqual(self.frame(layer.clip, 3).status_code, 200)
        # It is one step of undo, and goes with its layer.
        self.assertEqual(self.client.post(f"{QUAY}/undo", json={}).status_code, 200)
        self.assertEqual(len(self.store.state("lantern-quay").project.clips), 1)

    def test_another_clip_keeps_how_the_layer_moves_and_says_that_it_is_shorter(self) -> None:
        layer = self.layer(self.bring(("Ferry.mp4", film())))
        self.edit(kind="set value", parameter=f"{layer.id}.start", value=1.0)
        answer = self.bring(("Tug.mp4", film(frames=12)), layer=layer.id)
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertIn("0.9 s shorter", " ".join(answer.json()["remarks"]))
        now = self.store.state("lantern-quay").project.scenes[0].index.layers[layer.id]
        self.assertEqual((now.timing.frames, now.start.rest, now.name), (12, 1.0, "Ferry"))  # type: ignore[attr-defined]
        self.ask(start=0, stop=30)
        wrong = self.bring(("Letter.mp4", b"Dear harbour master"), layer=layer.id)
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("no video", wrong.json()["message"])
        picture = io.BytesIO()
        Image.new("RGB", (4, 4)).save(picture, "PNG")
        self.assertEqual(self.bring(("Dot.png", picture.getvalue()), layer=layer.id).status_code, 422)

    def test_numbered_pictures_come_in_as_one_and_a_bad_file_stops_no_other(self) -> None:
        files = []
        for k in range(7):
            out = io.BytesIO()
            Image.fromarray(numbered(k)).save(out, "PNG")
            files.append((f"tide-{k:03}.png", out.getvalue()))
        answer = self.bring(*reversed(files))
        layer = self.layer(answer)
        self.assertEqual((layer.name, layer.timing.frames, layer.timing.tick), ("tide", 7, 1 / 30))
        self.assertIn("7 numbered pictures", answer.json()["remarks"][0])
        answer = self.bring(("Letter.webm", b"Dear"), ("Ferry.mp4", film(frames=3)), ("Old.avi", b"RIFF    AVI "))
        self.assertEqual(len(answer.json()["layers"]), 1)
        self.assertEqual([one.partition(":")[0] for one in answer.json()["problems"]], ["Letter.webm", "Old.avi"])

    def test_how_far_it_is_is_told_and_it_can_be_stopped(self) -> None:
        asked: list[float] = []

        def looked(kind: Any, media: Any, files: Any, told: Any, rate: Any, whole: bool = True) -> Any:
            told(0.4)
            asked.append(self.client.get("/api/bringing/mine").json()["share"])
            self.assertTrue(self.client.delete("/api/bringing/mine").json()["stopped"])
            if not told(0.5):
                raise clips.Cancelled
            return None

        with patch.object(clips, "_looked_through", looked):
            answer = self.bring(("Ferry.mp4", film(frames=2)), coming="mine")
        self.assertEqual((answer.status_code, asked), (422, [0.4]))
        self.assertIn("Nothing was brought in", answer.json()["message"])
        self.assertEqual(self.client.get("/api/bringing/mine").json()["share"], 1)
        self.assertEqual(self.store.state("lantern-quay").project.scenes[0].index.layers.keys() & {"clip"}, set())

    def test_edits_of_programs_that_do_not_fit_are_refused(self) -> None:
        layer = self.layer(self.bring(("Ferry.mp4", film(frames=3))))
        boat = next(one for one in self.store.state("lantern-quay").project.scenes[0].layers if one.kind != "clip")
        for edit in (
            {"kind": "change layer", "layer": boat.id, "sounds": True},
            {"kind": "set value", "parameter": f"{layer.id}.ends", "value": "sometimes"},
            {"kind": "add layer", "layer": "clip", "fields": {"clip": "none", "width": 1, "height": 1}},
            {
                "kind": "add layer",
                "layer": "clip",
                "fields": {"clip": layer.clip, "width": 160, "height": 90, "timing": {"tick": 1, "runs": [[1, 1]]}},
            },
        ):
            with self.subTest(edit["kind"]):
                self.assertEqual(self.edit(**edit).status_code, 422)
