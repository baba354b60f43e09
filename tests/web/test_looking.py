"""What is noticed is looked for beside the server: the same as in it, never waited for, stopped by what is newer, and
told."""

import time
from typing import Any
from unittest.mock import patch

from jaunty_lever.core.checks.run import run
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.light import light
from jaunty_lever.web import looking
from tests.web.test_server import QUAY, WebTest


class Looking(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.looking = self.client.app.state.site.looking  # type: ignore[attr-defined]

    def whole(self, scene: str) -> list[dict[str, Any]]:
        answer = self.client.get(f"{QUAY}/scenes/{scene}/checks?wait=true")
        self.assertEqual(answer.status_code, 200)
        return list(answer.json())

    def begun(self, scene: str) -> None:
        """A scene that is being looked through."""
        self.client.get(f"{QUAY}/scenes/{scene}/checks")
        self.until(lambda: self.looking._begun)

    def until(self, true: Any) -> None:
        deadline = time.monotonic() + 60
        while not true():
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.005)

    def lever(self, number: int, scene: str = "winch-house") -> None:
        step = {"kind": "add lever", "scene": scene, "id": f"lever-{number}", "name": f"Idle {number}"}
        self.assertEqual(self.client.post(f"{QUAY}/edits", json={"edits": [step]}).status_code, 200)

    def test_it_finds_what_is_found_here(self) -> None:
        project = demo_project()
        for name in ("winch-house", "name-plate"):
            scene = project.scene(name)
            assert scene is not None
            here = run(Sampler(scene), lambda sampler: light(sampler, project.footage))
            self.assertEqual([one["text"] for one in self.whole(name)], [one.text for one in here])

    def test_nobody_waits_and_it_is_told_as_news(self) -> None:
        told: list[dict[str, Any]] = []
        self.lever(1)
        with patch.object(self.looking, "_tell", lambda project, news: told.append(news)):
            answer = self.client.get(f"{QUAY}/scenes/winch-house/checks")
            done, total = answer.headers["x-looked-at"].split("/")
            self.assertEqual((answer.json(), int(done) < int(total)), ([], True))
            found = self.whole("winch-house")
        self.assertEqual([one["at"] for one in found], ["lever-1.value"])
        self.assertEqual(told[-1], {"looked": True, "scene": "winch-house", "revision": 2})

    def test_a_hundred_edits_leave_one_look(self) -> None:
        for number in range(100):
            self.lever(number)
            self.client.get(f"{QUAY}/scenes/winch-house/checks")
        self.assertEqual(len(self.whole("winch-house")), 100)
        self.assertEqual(self.looking.looks, 1)

    def test_what_is_newer_leaves_what_is_looked_through_wherever_that_is(self) -> None:
        # The gulls take many seconds.
        self.begun("gull-flock")
        process = self.looking.beside.process
        self.lever(1, "gull-flock")
        self.until(lambda: self.looking._now is None)
        self.lever(2)
        found = self.whole("winch-house")
        self.assertEqual([one["at"] for one in found], ["lever-2.value"])
        # It is the same process, which has heard of both.
        self.assertIs(self.looking.beside.process, process)
        self.assertIsNone(process.poll())

    def test_a_process_that_goes_is_begun_once_more_and_then_not(self) -> None:
        self.begun("gull-flock")
        self.looking.beside.process.kill()
        self.until(lambda: self.looking.looks == 2 and self.looking._begun)
        with self.assertLogs("jaunty_lever", "ERROR") as logged:
            self.looking.beside.process.kill()
            self.whole("gull-flock")
        self.assertIn("ended from outside", logged.output[0])
        self.assertEqual(self.whole("winch-house"), [])

    def test_undone_it_is_known_still(self) -> None:
        self.assertEqual(self.whole("winch-house"), [])
        self.lever(1)
        self.assertEqual(len(self.whole("winch-house")), 1)
        looks = self.looking.looks
        self.client.post(f"{QUAY}/undo", json={})
        self.assertEqual(self.whole("winch-house"), [])
        self.assertEqual(self.looking.looks, looks)

    def test_what_is_deleted_meanwhile_stops_nothing(self) -> None:
        with patch.object(looking, "QUIET", 0.0):
            self.begun("gull-flock")
            self.client.post("/api/projects/lantern-quay/delete")
            self.store.create(demo_project().changed(id="other"))
            answer = self.client.get("/api/projects/other/scenes/winch-house/checks?wait=true")
        self.assertEqual((answer.status_code, answer.json()), (200, []))
