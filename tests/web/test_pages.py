"""Pages and answers: exports with progress, ghosts and paths, other people's names, and hearing of changes."""

import asyncio
import io
import json
import os
import shutil
import tempfile
import time
import zipfile
from pathlib import Path
from typing import Any
from unittest.mock import patch
from urllib.parse import unquote

from PIL import Image
from sqlalchemy import text

from jaunty_lever.core.edits.scenes import RenameProject
from jaunty_lever.demo import demo_project
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from jaunty_lever.rendering import Apart
from jaunty_lever.storage.export_notes import ExportNotes, now
from jaunty_lever.storage.store import NotThere
from jaunty_lever.web import exporting
from jaunty_lever.web.site import Listeners
from tests.core.scenes import project, scene
from tests.loops import awaited
from tests.web.test_server import QUAY, WebTest

BENCH = "/projects/lantern-quay/scenes/evening-quay"


class Exports(WebTest):
    def start(self, **form: Any) -> str:
        answer = self.client.post(f"{BENCH}/export/png-frames", data={"start": 0, "stop": 2, "size": 0.25, **form})
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.text.split("/exports/")[1].split('"')[0].split("/")[0]

    def wait(self, job: str) -> str:
        deadline = time.monotonic() + 60
        unfinished = ("is-waiting", "is-drawing", "is-joining")
        while any(state in (text := self.client.get(f"/exports/{job}").text) for state in unfinished):
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.02)
        return text

    def test_frames_come_as_a_zip_with_or_without_the_background(self) -> None:
        for transparent in (True, False):
            job = self.start(transparent=str(transparent).lower())
            self.assertIn("3 frames drawn", self.wait(job))
            with zipfile.ZipFile(io.BytesIO(self.client.get(f"/api/exports/{job}/file").content)) as archive:
                picture = Image.open(io.BytesIO(archive.read("frame-00001.png")))
            self.assertEqual(picture.size, (320, 180))
            self.assertEqual(picture.convert("RGBA").getpixel((160, 90))[3], 255)

    def test_a_long_export_can_be_stopped(self) -> None:
        job = self.start(stop=299, size=1)
        self.client.post(f"/exports/{job}/stop")
        self.assertIn("Stopped", self.wait(job))
        self.assertEqual(self.client.get(f"/api/exports/{job}/file").status_code, 404)

    def test_ranges_and_sizes_that_make_no_sense_are_refused(self) -> None:
        for form in ({"start": 5, "stop": 2}, {"stop": 300}, {"size": 90}, {"size": "x"}, {"start": -1}):
            answer = self.client.post(f"{BENCH}/export/png-frames", data={"start": 0, "stop": 2, "size": 1, **form})
            self.assertEqual(answer.status_code, 422, form)
            self.assertTrue(answer.json()["message"])
        self.assertEqual(self.client.get("/exports/none").status_code, 404)


class Kept(WebTest):
    def exports(self, folder: Path) -> exporting.Exports:
        made = exporting.Exports(folder, ExportNotes(self.store))
        self.addCleanup(made.shutdown)
        return made

    def test_finished_exports_outlive_the_program_and_what_is_left_over_goes(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        one = demo_project().scenes[0]
        working = self.exports(folder)
        exporter, source = EXPORTERS["png-frames"], Source(scene=one)
        options = read_options(exporter, {"stop": 1, "size": 0.1})
        job = working.start(exporter, source, options, exporter.plan(source, options))
        while not job.finished:
            time.sleep(0.01)
        working.shutdown()
        for left in ("export-half.part", "export-orphan.zip"):
            (folder / left).write_bytes(b"x")
        again = self.exports(folder)
        self.assertEqual((again.job(job.id).name, again.job(job.id).finished), (job.name, True))
        self.assertEqual([path.name for path in folder.iterdir()], [f"{job.id}.zip"])
        with patch.object(exporting, "now", lambda: now() + exporting.KEPT_FOR * 2), self.assertRaises(NotThere):
            again.job(job.id)
        self.assertEqual(list(folder.iterdir()), [])
        self.assertEqual(ExportNotes(self.store).all(), [])

    def begun(self, folder: Path, format: str = "png-frames", **given: Any) -> tuple[exporting.Exports, exporting.Job]:
        """An export that the program has left unfinished, and the exports of one that is started after it."""
        project = demo_project()
        exporter, source = EXPORTERS[format], Source(project, project.scenes[0])
        options = read_options(exporter, given)
        working = self.exports(folder)
        with patch.object(exporting.Exports, "_work"):
            job = working.start(exporter, source, options, exporter.plan(source, options))
        return working, job

    def test_what_is_stopped_while_it_waits_is_not_drawn_after_a_restart(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        working, job = self.begun(folder, stop=1, size=0.1)
        self.assertEqual((working.stop(job.id).state, job.finished), ("stopped", True))
        again = self.exports(folder).job(job.id)
        self.assertEqual((again.state, list(folder.iterdir())), ("stopped", []))

    def test_it_is_kept_for_a_day_after_it_was_last_worked_on_or_fetched(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        working, job = self.begun(folder, stop=1, size=0.1)
        working.shutdown()
        job.pieces.mkdir()
        long_ago = time.time() - 3 * 86_400
        with self.store.writing() as session:
            session.execute(text("UPDATE exports SET made = '2020-01-01 00:00:00.000000'"))
        # Worked on an hour ago: it goes on, and is there for a day when it is done.
        os.utime(job.pieces, (time.time() - 3600,) * 2)
        again = self.exports(folder)
        while not again.job(job.id).finished:
            time.sleep(0.01)
        self.assertEqual(again.job(job.id).state, "done")
        os.utime(job.path, (long_ago,) * 2)
        again.job(job.id).ended = None
        job.path.touch()
        self.assertEqual(again.job(job.id).state, "done")
        os.utime(job.path, (long_ago,) * 2)
        with self.assertRaises(NotThere):
            again.job(job.id)
        # Left for longer than that: it is let go of, and that is told.
        working, job = self.begun(folder, stop=1, size=0.1)
        working.shutdown()
        job.pieces.mkdir()
        os.utime(job.pieces, (long_ago,) * 2)
        with self.store.writing() as session:
            session.execute(text("UPDATE exports SET made = '2020-01-01 00:00:00.000000'"))
        left = self.exports(folder).job(job.id)
        self.assertEqual((left.state, job.pieces.exists()), ("failed", False))
        self.assertIn("more than a day", left.problem)

    def test_what_would_end_the_encoder_s_process_is_not_taken_up_again(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        with patch("jaunty_lever.exporters.mp4.Mp4.least", return_value=("H.265", 2)):
            working, job = self.begun(folder, "mp4", codec="H.265", size=0.05, stop=3)
        working.shutdown()
        left = self.exports(folder).job(job.id)
        self.assertEqual(left.state, "failed")
        self.assertIn("H.265 takes pictures of 64 × 64 pixels or more; these would have 64 × 36", left.problem)

    def test_an_export_that_is_cut_short_goes_on_where_its_last_piece_ended(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        project = demo_project()
        exporter, source = EXPORTERS["png-frames"], Source(project, project.scenes[0])
        options = read_options(exporter, {"stop": 179, "size": 0.05})
        whole = io.BytesIO()
        exporter.write(source, options, whole, lambda count: None)
        working = self.exports(folder)
        job = working.start(exporter, source, options, exporter.plan(source, options))
        while job.done < 60:
            time.sleep(0.005)
        working.shutdown()
        self.assertFalse(job.finished)
        pieces = {path.name for path in job.pieces.iterdir()}
        self.assertIn("000000-000060.piece", pieces)
        self.assertNotIn("000120-000180.piece", pieces)
        again = self.exports(folder)
        taken_up = again.job(job.id)
        while not taken_up.finished:
            time.sleep(0.01)
        self.assertEqual((taken_up.problem, taken_up.report["again"]), ("", len(pieces)))
        self.assertEqual(taken_up.path.read_bytes(), whole.getvalue())
        self.assertEqual([path.name for path in folder.iterdir()], [taken_up.path.name])

    def test_what_is_stopped_or_fails_leaves_no_file_and_says_why(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        project = demo_project()
        exporter, source = EXPORTERS["gif"], Source(project, project.scenes[0])
        options = read_options(exporter, {"stop": 9, "size": 0.05})
        working = self.exports(folder)
        full = OSError(28, "No space left on device")
        with patch.object(Apart, "make", side_effect=full):
            failed = working.start(exporter, source, options, exporter.plan(source, options))
            while not failed.finished:
                time.sleep(0.01)
        stopped = working.start(exporter, source, options, exporter.plan(source, options))
        working.stop(stopped.id)
        while not stopped.finished:
            time.sleep(0.01)
        self.assertEqual((failed.state, stopped.state), ("failed", "stopped"))
        self.assertIn("No space left on device. Make room", failed.problem)
        self.assertEqual(list(folder.iterdir()), [])
        working.shutdown()
        told = {job.id: job.state for job in self.exports(folder).of_project(project.id)}
        self.assertEqual(told, {failed.id: "failed", stopped.id: "stopped"})

    def test_a_file_lies_where_it_is_put_whatever_it_is_called(self) -> None:
        edit = RenameProject(name="../../etc/passwd\r\nx")
        self.store.edit("lantern-quay", edit)
        said = self.client.get(f"{QUAY}/file").headers["content-disposition"]
        self.assertNotIn("/", unquote(said).replace("UTF-8''", ""))
        self.assertNotIn("..", unquote(said).partition("filename*=")[2][:12])


class Looking(WebTest):
    def test_the_ghost_is_the_layer_at_rest_in_its_groups(self) -> None:
        answer = self.ask(ghost="lantern3")
        ghost = answer["ghost"]
        trail = []
        while ghost["id"] != "lantern3":
            trail.append(ghost["id"])
            (ghost,) = ghost["nodes"]
        self.assertEqual(trail, ["string", "hook3"])
        rows, _, _ = answer["channels"][ghost["channels"]["opacity"]]
        self.assertEqual(rows, 1)
        self.assertIsNone(self.ask(ghost="quay")["ghost"])

    def test_the_path_is_where_the_pivot_goes(self) -> None:
        answer = self.ask(path="boat2", curves={"result": ["boat2.position"]})
        self.assertEqual(answer["path"], answer["curves"]["result"]["boat2.position"])

    def test_the_sheet_of_checks_knows_what_moves_by_keys_alone(self) -> None:
        keys = [{"frame": frame, "value": value} for frame, value in ((0, 0), (100, 50), (299, 0))]
        for layer, said in (({}, True), ({"rotation": {"rest": 0, "keys": keys}}, False)):
            whole = project(scene(layer)).changed(id=f"keyed{said}".lower())
            self.store.create(whole)
            sheet = self.client.get(f"/projects/{whole.id}/scenes/s/sheets/checks").text
            self.assertEqual("Nothing moves yet" in sheet, said)

    def test_a_name_cannot_smuggle_anything_into_a_page(self) -> None:
        name = "<script>alert(1)</script>\"'&"
        self.edit(kind="change layer", layer="sky", name=name)
        self.edit(kind="add lever", id="l", name=name)
        self.edit(kind="link to", parameter="sky.opacity", driver="l.value")
        for path in (
            f"{BENCH}/bench?layer=sky&parameter=sky.opacity",
            f"{BENCH}/panels?layer=sky",
            f"{BENCH}/sheets/find",
            f"{BENCH}/sheets/lever?lever=l",
        ):
            text = self.client.get(path).text
            self.assertNotIn("<script>alert", text, path)
            self.assertIn("&lt;script&gt;", text, path)

    def test_undo_from_anywhere_and_history_that_ends(self) -> None:
        self.edit(kind="set value", parameter="sky.rotation", value=3)
        told = self.client.post(f"{QUAY}/undo", json={"by": "a"}).json()
        self.assertEqual((told["label"], told["redo"], told["undo"]), ("Sky: rotation 3°", "Sky: rotation 3°", None))
        self.assertEqual(self.client.post(f"{QUAY}/undo", json={}).json()["label"], "")
        self.assertEqual(self.client.post(f"{QUAY}/redo", json={}).json()["undo"], "Sky: rotation 3°")

    def test_what_a_number_field_shows(self) -> None:
        self.edit(kind="set value", parameter="sky.rotation", text="360/31")
        text = self.client.get(f"{BENCH}/panels?layer=sky&parameter=sky.rotation").text
        self.assertIn('value="360/31"', text)
        text = self.client.get(f"{BENCH}/panels?layer=lantern3&parameter=flicker3.amplitude").text
        for words in ("Lantern 3", "opacity", "Wiggle", "Amplitude follows Wind × 7 + 6 %."):
            self.assertIn(words, text)

    def test_static_files_are_kept_by_their_hash_and_all_are_there(self) -> None:
        text = self.client.get(f"{BENCH}/bench").text
        for part in {piece.split('"')[0].split("#")[0] for piece in text.split('="/static/')[1:]}:
            answer = self.client.get(f"/static/{part}")
            self.assertEqual(answer.status_code, 200, part)
            self.assertIn("immutable", answer.headers["cache-control"])
        icons = self.client.get("/static/icons.svg").text
        for name in {piece.split('"')[0] for piece in text.split("icons.svg#")[1:]}:
            self.assertIn(f'id="{name}"', icons)


class Hearing(WebTest):
    def test_news_reach_those_who_listen_and_only_them(self) -> None:
        async def listen() -> list[dict[str, Any]]:
            listeners = Listeners()
            mine, others = listeners.join(["a"]), listeners.join(["b"])
            await asyncio.to_thread(listeners.tell, "a", {"revision": 2})
            heard = [await asyncio.wait_for(mine.get(), 5)]
            listeners.leave(["a"], mine)
            listeners.tell("a", {"revision": 3})
            await asyncio.sleep(0)
            self.assertTrue(mine.empty() and others.empty())
            return heard

        self.assertEqual(awaited(listen()), [{"revision": 2, "project": "a"}])

    def test_the_file_that_is_taken_out_is_the_project(self) -> None:
        answer = self.client.get(f"{QUAY}/file")
        self.assertIn("Lantern%20Quay.lever.json", answer.headers["content-disposition"])
        self.assertEqual(
            [s["name"] for s in json.loads(answer.text)["scenes"]],
            [
                "Evening quay",
                "Regatta start",
                "Winch house",
                "Pennant line",
                "Buoy row",
                "Gull flock",
                "Name plate",
                "Harbour board",
                "Forge sparks",
                "Kelp",
                "Sand tracer",
                "Harbour screens",
                "Mooring posts",
                "Swing row",
            ],
        )
