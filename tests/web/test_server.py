"""The server: who may ask, what is refused, crashes, parallel questions, and exports."""

import json
import shutil
import signal
import tempfile
import threading
import unittest
import urllib.error
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import msgpack
from starlette.testclient import TestClient

from jaunty_lever.demo import demo_project
from jaunty_lever.formats.project_file import write
from jaunty_lever.storage.store import Store
from jaunty_lever.web.app import create_app
from jaunty_lever.web.guard import beyond, own_hosts
from tests.browser.harness import Server

QUAY = "/api/projects/lantern-quay"
SCENE = f"{QUAY}/scenes/evening-quay"


class WebTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        self.store = Store(folder / "test.db")
        self.addCleanup(self.store.close)
        self.store.create(demo_project())
        self.client = TestClient(
            create_app(self.store, folder / "exports", frozenset({"testserver"})), raise_server_exceptions=False
        )
        self.site = self.client.app.state.site  # type: ignore[attr-defined]
        self.addCleanup(self.site.looking.close)
        self.addCleanup(self.site.drawn.close)

    def edit(self, **edit: Any) -> Any:
        return self.client.post(f"{QUAY}/edits", json={"edits": [{"scene": "evening-quay", **edit}]})

    def ask(self, **question: Any) -> Any:
        answer = self.client.post(f"{SCENE}/evaluate", json=question)
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        return msgpack.unpackb(answer.content)


class Guarded(WebTest):
    def test_only_its_own_addresses_and_pages(self) -> None:
        self.assertEqual(self.client.get("/health").json()["status"], "ok")
        self.assertEqual(self.client.get("/", headers={"host": "evil.example"}).status_code, 403)
        for headers in ({"origin": "http://evil.example"}, {"sec-fetch-site": "cross-site"}, {"origin": "null"}):
            answer = self.client.post(f"{QUAY}/undo", json={}, headers=headers)
            self.assertEqual(answer.status_code, 403, headers)
        self.assertEqual(
            self.client.post(f"{QUAY}/undo", json={}, headers={"origin": "http://testserver"}).status_code, 200
        )
        policy = self.client.get("/").headers["content-security-policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)

    def test_beyond_this_machine_everybody_is_asked_for_the_token(self) -> None:
        hosts = own_hosts("0.0.0.0", 8765, ("Studio.example", "testserver"))
        self.assertIn("studio.example:8765", hosts)
        app = create_app(self.store, Path(tempfile.mkdtemp()), hosts | {"testserver"}, token="shh")
        stranger, friend = TestClient(app), TestClient(app)
        for answer in (stranger.get("/"), stranger.get("/?token=sh"), stranger.post(f"{QUAY}/undo?token=shh", json={})):
            self.assertEqual(answer.status_code, 401)
            self.assertIn("asks for its token", answer.json()["message"])
        self.assertEqual(stranger.get("/health").status_code, 200)
        # A browser that came with it keeps it, and it is gone from the address.
        first = friend.get("/?token=shh&new-scene=x", follow_redirects=False)
        self.assertEqual((first.status_code, first.headers["location"]), (303, "/?new-scene=x"))
        self.assertIn("httponly", first.headers["set-cookie"].lower())
        self.assertEqual(friend.get("/").status_code, 200)
        program = {"authorization": "Bearer shh"}
        self.assertEqual(stranger.post(f"{QUAY}/undo", json={}, headers=program).status_code, 200)
        self.assertEqual(
            [beyond(host) for host in ("127.0.0.1", "localhost", "::1", "0.0.0.0", "10.0.0.5")],
            [False] * 3 + [True] * 2,
        )

    def test_no_page_asks_for_anything_from_elsewhere(self) -> None:
        for path in ("/", "/projects/lantern-quay/scenes/evening-quay/bench"):
            text = self.client.get(path).text
            self.assertNotIn("https://", text)
            self.assertNotIn(' style="', text)
            self.assertNotIn("<script>", text)


class Refusals(WebTest):
    def test_wrong_edits_get_a_sentence_and_change_nothing(self) -> None:
        before = self.store.state("lantern-quay")
        for edit, status, part in (
            ({"kind": "set value", "parameter": "sky.rotation", "text": "abc"}, 422, "not a number"),
            ({"kind": "set value", "parameter": "sky.rotation", "text": "1e999"}, 422, "too large"),
            ({"kind": "set value", "parameter": "nobody.rotation", "value": 1}, 409, "deleted"),
            ({"kind": "set key", "parameter": "sky.rotation", "frame": 900}, 422, "0 to 299"),
            ({"kind": "remove modifier", "modifier": "gone"}, 409, "deleted"),
            ({"kind": "change scene", "width": 100_000}, 422, "8,192"),
            ({"kind": "change scene", "length": 1_000_000}, 422, "36,000"),
            ({"kind": "link to", "parameter": "wind.value", "driver": "wind.value"}, 422, "circle"),
            ({"kind": "no such edit"}, 422, ""),
        ):
            answer = self.edit(**edit)
            self.assertEqual(answer.status_code, status, edit)
            self.assertIn(part, answer.json()["message"])
        raw = self.client.post(
            f"{QUAY}/edits",
            content='{"edits": [{"kind": "set value", "scene": "evening-quay", "parameter": "sky.rotation", '
            '"value": NaN}]}',
        )
        self.assertEqual(raw.status_code, 422)
        self.assertEqual(self.store.state("lantern-quay"), before)

    def test_a_batch_is_all_or_nothing(self) -> None:
        good = {"kind": "set value", "scene": "evening-quay", "parameter": "sky.rotation", "value": 9}
        answer = self.client.post(f"{QUAY}/edits", json={"edits": [good, {**good, "parameter": "nobody.rotation"}]})
        self.assertEqual(answer.status_code, 409)
        self.assertIsNone(self.store.state("lantern-quay").undo)

    def test_pages_that_are_not_there_say_so(self) -> None:
        for path in ("/nowhere", "/projects/none/scenes/none/bench", "/projects/lantern-quay/scenes/none/bench"):
            answer = self.client.get(path, headers={"accept": "text/html"})
            self.assertEqual(answer.status_code, 404)
            self.assertIn("To the Shelf", answer.text)

    def test_wrong_files_are_explained_and_right_ones_come_in(self) -> None:
        for content, part in (
            (b"no json", "of no kind that is read here"),
            (b"", "The file is empty"),
            (b'{"format":"jaunty-lever project","version":99}', "version 99"),
            (b"[" * 10_000, "levels deep"),
        ):
            answer = self.client.post("/import", files={"file": ("x.json", content)})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(part, answer.text)
        answer = self.client.post("/import", files={"file": ("x.json", write(demo_project()).encode())})
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(len(self.store.entries()), 2)
        # What is here already is a second one, and says so.
        self.assertIn("It was here already: this is a second one", answer.text)


class Answers(WebTest):
    def test_what_the_browser_has_is_not_sent_again(self) -> None:
        first = self.ask(chosen="lantern3.opacity", curves={"result": ["wind.value"], "source": ["wind.value"]})
        self.assertGreater(len(first["channels"]), 100)
        self.assertEqual(self.ask(chosen="lantern3.opacity", token=first["token"])["channels"], {})
        trial = {"kind": "set value", "scene": "evening-quay", "parameter": "dusk.value", "value": 90}
        moved = self.ask(token=first["token"], edits=[trial])
        self.assertEqual(len(moved["channels"]), 1)
        self.assertIsNone(self.store.state("lantern-quay").undo)

    def test_a_fault_is_named_with_its_first_frame(self) -> None:
        self.edit(kind="set value", parameter="flicker3.frequency", value=-4)
        (fault,) = self.ask()["faults"]
        self.assertEqual((fault["label"], fault["frame"]), ("Lantern 3 / opacity", 0))
        self.assertIn("below 0", fault["message"])

    def test_every_sheet_and_panel_answers(self) -> None:
        base = "/projects/lantern-quay/scenes/evening-quay"
        for path in (
            "panels?layer=boat1&parameter=boat1.position",
            "panels?parameter=flicker1.amplitude",
            "sheets/add-modifier?parameter=sky.rotation",
            "sheets/copy-chain?parameter=lantern1.opacity&layer=lantern2",
            "sheets/lever?lever=wind",
            "sheets/scene",
            "export",
            "export/settings?for=gif.0",
            "sheets/find",
            "sheets/link?parameter=sky.rotation",
            "sheets/keys",
            "strip.png",
        ):
            self.assertEqual(self.client.get(f"{base}/{path}").status_code, 200, path)
        self.assertIn("Wind × 7 + 6", self.client.get(f"{base}/panels?parameter=lantern3.opacity").text)

    def test_eight_clients_at_once(self) -> None:
        for k in range(8):
            self.store.create(demo_project().changed(id=f"copy-{k}"))

        def work(k: int) -> tuple[int, int]:
            trial = {
                "kind": "set value",
                "scene": "evening-quay",
                "parameter": "wind.value",
                "value": k + 1,
                "frame": 10 * k,
            }
            answer = self.client.post(f"/api/projects/copy-{k}/scenes/evening-quay/evaluate", json={"edits": [trial]})
            return answer.status_code, len(msgpack.unpackb(answer.content)["nodes"])

        drawn = sum(not layer.hidden for layer in demo_project().scenes[0].layers)
        with ThreadPoolExecutor(8) as pool:
            self.assertEqual(set(pool.map(work, list(range(8)) * 2)), {(200, drawn)})

    def test_csv_and_its_limits(self) -> None:
        lines = self.client.get(
            f"{SCENE}/export/csv?parameter=wind.value&parameter=boat1.position&stop=9"
        ).text.splitlines()
        self.assertEqual((lines[0], len(lines)), ("frame,seconds,Wind,Boat 1/position.x,Boat 1/position.y", 11))
        for query in (
            "",
            "parameter=nobody.x",
            "parameter=wind.value&stop=300",
            "parameter=wind.value&step=0",
            "parameter=wind.value&start=x",
        ):
            self.assertIn(self.client.get(f"{SCENE}/export/csv?{query}").status_code, (422,), query)


class Crash(unittest.TestCase):
    def test_every_acknowledged_edit_survives_being_killed(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        server = Server(folder)
        self.addCleanup(lambda: server.stop())
        acknowledged: list[int] = []
        enough = threading.Event()

        def post(value: int) -> None:
            body = {
                "edits": [{"kind": "set value", "scene": "evening-quay", "parameter": "sky.rotation", "value": value}]
            }
            request = urllib.request.Request(
                f"{server.address}{QUAY}/edits", json.dumps(body).encode(), {"content-type": "application/json"}
            )
            with urllib.request.urlopen(request, timeout=60) as answer:
                acknowledged.append(json.load(answer)["revision"])

        def stream() -> None:
            for value in range(1, 2000):
                try:
                    post(value)
                except (OSError, urllib.error.URLError):
                    return
                if value == 50:
                    enough.set()

        thread = threading.Thread(target=stream)
        thread.start()
        self.assertTrue(enough.wait(60))
        server.stop(signal.SIGKILL)
        thread.join()
        server.start()
        with urllib.request.urlopen(f"{server.address}{QUAY}/file") as answer:
            rotation = next(layer for layer in json.load(answer)["scenes"][0]["layers"] if layer["id"] == "sky")[
                "rotation"
            ]
        self.assertGreaterEqual(len(acknowledged), 50)
        self.assertIn(rotation, (len(acknowledged), len(acknowledged) + 1))


class Stopping(unittest.TestCase):
    def test_it_stops_in_peace_while_browsers_listen(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        server = Server(folder)
        self.addCleanup(lambda: server.stop())
        with urllib.request.urlopen(f"{server.address}{QUAY}/events", timeout=60) as news:
            self.assertEqual(news.readline(), b"event: change\n")
            server.process.send_signal(signal.SIGTERM)
            said = server.process.communicate(timeout=60)[0]
            # The stream ends as streams should, and the log has nothing to complain of.
            self.assertTrue(news.read().startswith(b"data: "))
        self.assertNotIn(b"ERROR", said)
