"""Edits that last are worked out beside the server: the same as in it, stopped, lost, and overtaken by other edits."""

import time
from contextlib import ExitStack
from threading import BoundedSemaphore
from typing import Any
from unittest.mock import patch

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT
from jaunty_lever.demo import demo_project
from jaunty_lever.storage.bodies import pack
from jaunty_lever.storage.parcels import Opened, parcels
from jaunty_lever.web import aside
from tests.core.scenes import project, scene
from tests.web.test_server import QUAY, WebTest

APART: dict[str, Any] = {
    "kind": "take apart",
    "scene": "gull-flock",
    "array": "gulls",
    "way": "baked",
    "tolerance": 20,
}


class Beside(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.client.app.state.site  # type: ignore[attr-defined]
        self.addCleanup(self.site.aside.close)

    def kept(self) -> Project:
        return self.store.state("lantern-quay").project

    def begun(self, **more: Any) -> str:
        answer = self.client.post(f"{QUAY}/edits", json={"edits": [{**APART, **more}], "aside": True})
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertEqual(answer.json()["label"], "Taking Gulls apart")
        return str(answer.json()["working"])

    def came(self, working: str, until: str = "came") -> Any:
        deadline = time.monotonic() + 90
        while time.monotonic() < deadline:
            told = self.client.get(f"/api/bringing/{working}").json()
            if told[until]:
                return told[until]
            time.sleep(0.02)
        raise AssertionError(f"nothing came of it: {told}")

    def test_it_comes_to_the_same_as_in_the_server_and_is_undone_in_one_step(self) -> None:
        before = self.kept()
        want = EDIT.validate_python(APART).apply(before)
        told = self.came(self.begun())
        self.assertEqual((told["revision"], told["label"]), (2, "Gulls taken apart"))
        self.assertEqual(pack(self.kept()), pack(want))
        # What has stayed is the very same: nothing that was known of it is forgotten.
        for now, old in zip(self.kept().scenes, before.scenes, strict=True):
            self.assertEqual(now is old, now.id != "gull-flock")
        self.assertEqual(self.client.post(f"{QUAY}/undo", json={}).json()["label"], "Gulls taken apart")
        self.assertEqual(pack(self.kept()), pack(before))

    def test_a_program_that_does_not_say_so_waits_for_it(self) -> None:
        answer = self.client.post(f"{QUAY}/edits", json={"edits": [APART]})
        self.assertEqual((answer.status_code, answer.json()["revision"]), (200, 2))
        self.assertEqual(len(self.kept().scene("gull-flock").index.layers["gulls"].layers), 200)  # type: ignore[union-attr]

    def test_a_bake_of_twenty_thousand_frames_holds_up_nobody(self) -> None:
        wiggle = {"chain": [{"kind": "wiggle", "id": "shakes", "amplitude": 30, "frequency": 2}]}
        long = scene({"rotation": wiggle, "id": "mast"}).changed(length=20_000)
        self.store.create(project(long).changed(id="long"))
        url = "/api/projects/long/edits"
        bake = {"kind": "bake", "scene": "s", "parameter": "mast.rotation"}
        working = self.client.post(url, json={"edits": [bake], "aside": True}).json()["working"]
        for value in (1, 2, 3):
            step = {"kind": "set value", "scene": "s", "parameter": "mast.opacity", "value": value}
            kept = self.client.post(url, json={"edits": [step]})
            self.assertEqual((kept.status_code, kept.json()["revision"]), (200, value + 1))
            if value == 1:
                self.assertIsNone(self.client.get(f"/api/bringing/{working}").json()["came"])
        told = self.came(working)
        self.assertIn("baked to", told["label"])
        mast = self.store.state("long").project.scenes[0].index.layers["mast"]
        self.assertEqual((mast.opacity.rest, mast.rotation.bypassed), (3, True))
        self.assertEqual(len(mast.rotation.keys), 20_000)

    def test_what_is_refused_is_told_there(self) -> None:
        with patch("jaunty_lever.core.edits.apart.TakeApart.lasts", return_value=True):
            answer = self.client.post(
                f"{QUAY}/edits",
                json={"edits": [{**APART, "scene": "forge-sparks", "array": "forge-throw"}], "aside": True},
            )
            came = self.came(answer.json()["working"])
            self.assertIn("come and go", came["message"])
            waited = self.client.post(
                f"{QUAY}/edits", json={"edits": [{**APART, "scene": "forge-sparks", "array": "forge-throw"}]}
            )
            self.assertEqual((waited.status_code, waited.json()["message"]), (422, came["message"]))

    def test_stopped_it_changes_nothing_and_the_next_is_done(self) -> None:
        working = self.begun()
        self.came(working, "share")
        process = self.site.aside.beside.process
        self.assertEqual(self.client.delete(f"/api/bringing/{working}").json(), {"stopped": True})
        self.assertEqual(self.came(working), {"stopped": True})
        self.assertIsNotNone(process.poll())
        self.assertEqual(self.store.state("lantern-quay").revision, 1)
        self.assertEqual(self.came(self.begun())["revision"], 2)

    def test_a_process_that_is_killed_is_told_and_changes_nothing(self) -> None:
        working = self.begun()
        self.came(working, "share")
        self.site.aside.beside.process.kill()
        self.assertIn("ended before it was done", self.came(working)["message"])
        self.assertEqual(self.store.state("lantern-quay").revision, 1)

    def test_what_was_left_half_said_is_no_answer_to_the_next(self) -> None:
        with patch.object(aside.Opened, "take", side_effect=ValueError):
            answer = self.client.post(f"{QUAY}/edits", json={"edits": [APART]})
        self.assertEqual((answer.status_code, self.store.state("lantern-quay").revision), (500, 1))
        self.assertEqual(self.came(self.begun())["revision"], 2)

    def test_what_is_changed_meanwhile_stays(self) -> None:
        working = self.begun()
        self.came(working, "share")
        meanwhile = self.client.post(
            f"{QUAY}/edits",
            json={"edits": [{"kind": "change layer", "scene": "gull-flock", "layer": "gulls", "name": "Flock"}]},
        )
        self.assertEqual(meanwhile.json()["revision"], 2)
        self.assertEqual(self.came(working)["label"], "Flock taken apart")
        self.assertEqual(self.kept().scene("gull-flock").index.layers["gulls"].name, "Flock")  # type: ignore[union-attr]

    def test_who_is_overtaken_again_and_again_holds_nobody_up(self) -> None:
        turns = []
        whole = aside.Aside.work_out

        def overtaken(*given: Any) -> Any:
            made = whole(*given)
            turns.append(self.edit(kind="set value", parameter="dusk.value", value=len(turns) + 1).json()["revision"])
            return made

        with patch.object(aside.Aside, "work_out", overtaken):
            came = self.came(self.begun(tolerance=1e5))
        self.assertIn("again and again", came["message"])
        self.assertEqual((turns, self.store.state("lantern-quay").revision), ([2, 3, 4], 4))

    def test_too_many_of_them_do_not_wait_for_one_another(self) -> None:
        with ExitStack() as held:
            self.site.aside._room = BoundedSemaphore(1)
            held.enter_context(self.site.aside._room)
            answer = self.client.post(f"{QUAY}/edits", json={"edits": [APART]})
            self.assertEqual(answer.status_code, 422)
            self.assertIn("waiting already", answer.json()["message"])


class Parcels(WebTest):
    def test_any_edit_of_the_sample_comes_through_in_pieces(self) -> None:
        before = demo_project()
        for edit in (
            APART,
            {"kind": "bake", "scene": "evening-quay", "parameter": "star1.opacity", "tolerance": 0.5},
            {"kind": "duplicate layers", "scene": "gull-flock", "layers": ["gulls"]},
            {"kind": "remove layers", "scene": "gull-flock", "layers": ["gulls"]},
        ):
            after = EDIT.validate_python(edit).apply(before)
            opened = Opened(before)
            sent = list(parcels(before, after))
            for parcel in sent:
                opened.take(parcel)
            self.assertEqual(opened.last, after)
            self.assertEqual(pack(opened.last), pack(after))
            # One piece is never much.
            self.assertLess(max(map(len, sent)), 200_000)
