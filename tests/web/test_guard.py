"""Who is let in from other machines, and how much anybody may bring: tokens, odd cookies, addresses, and bodies without
end."""

import asyncio
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from unittest.mock import patch

import uvicorn
from starlette.testclient import TestClient

from jaunty_lever.web.app import create_app
from jaunty_lever.web.bounds import MOST_PLAIN, Bounded, Patient
from jaunty_lever.web.guard import COOKIE, NoToken, own_hosts, token_in
from tests.browser.harness import free_port
from tests.loops import awaited
from tests.web.test_server import QUAY, WebTest

TOKEN = "a-token-of-some-length"


class Tokens(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, True)
        self.path = self.folder / "token"

    def test_it_is_made_once_and_for_its_owner_alone(self) -> None:
        made = token_in(self.folder)
        self.assertEqual(token_in(self.folder), made)
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)
        self.assertNotEqual(token_in(self.folder, new=True), made)
        self.assertEqual([one.name for one in self.folder.iterdir()], ["token"])

    def test_what_would_let_everybody_in_is_refused_and_stays_as_it_is(self) -> None:
        for content, said in (
            (b"", "empty"),
            (b" \n\t ", "empty"),
            (b"short", "too short"),
            ("schlüssel-zum-hafen".encode(), "plain text"),
            (b"\0" * 30, "too short"),
        ):
            self.path.write_bytes(content)
            with self.assertRaises(NoToken) as refused:
                token_in(self.folder)
            self.assertIn(said, str(refused.exception))
            self.assertIn("--new-token", str(refused.exception))
            self.assertEqual(self.path.read_bytes(), content)
            self.assertGreater(len(token_in(self.folder, new=True)), 20)
        self.path.unlink()
        self.path.mkdir()
        for new in (False, True):
            with self.assertRaises(NoToken) as refused:
                token_in(self.folder, new)
            self.assertIn("is a folder", str(refused.exception))

    def test_one_that_is_not_written_to_its_end_was_never_there(self) -> None:
        with (
            patch("jaunty_lever.web.guard.os.fsync", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            token_in(self.folder)
        self.assertFalse(self.path.exists())
        self.assertEqual(token_in(self.folder), token_in(self.folder))

    def test_a_server_does_not_start_with_an_empty_one(self) -> None:
        self.path.write_bytes(b"")
        command = [
            sys.executable,
            "-m",
            "jaunty_lever",
            "serve",
            "--host",
            "0.0.0.0",
            "--port",
            str(free_port()),
            "--data",
            str(self.folder),
        ]
        done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
        self.assertEqual((done.returncode, len(done.stderr.strip().splitlines())), (1, 1), done.stderr)
        self.assertIn("let everybody in", done.stderr)


class Admitted(WebTest):
    def setUp(self) -> None:
        super().setUp()
        hosts = own_hosts("0.0.0.0", 8765, ("testserver",)) | {"testserver"}
        app = create_app(self.store, Path(tempfile.mkdtemp()), hosts, token=TOKEN)
        self.person = TestClient(app, follow_redirects=False, headers={"accept": "text/html"})
        self.program = TestClient(app, follow_redirects=False)

    def test_odd_cookies_of_other_programs_stand_in_nobody_s_way(self) -> None:
        for odd in ('a={"b": "c, d"}; ', "=; ;;", 'x="un; ', "ä=ö; ", "a b c; [1]=2; "):
            sent = {"cookie": f"{odd}{COOKIE}={TOKEN}; z=1".encode("latin-1")}
            self.assertEqual(self.program.get("/", headers=sent).status_code, 200, odd)  # type: ignore[arg-type]
            wrong = {"cookie": f"{odd}{COOKIE}=nothing".encode("latin-1")}
            self.assertEqual(self.program.get("/", headers=wrong).status_code, 401, odd)  # type: ignore[arg-type]

    def test_the_token_never_stays_in_the_address(self) -> None:
        for _ in range(2):
            # The second time the browser has it already.
            answer = self.person.get(f"/a page?one=1&token={TOKEN}&one=2&empty=")
            self.assertEqual((answer.status_code, answer.headers["location"]), (303, "/a%20page?one=1&one=2&empty="))

    def test_it_leads_to_no_other_server(self) -> None:
        for path in ("//evil.example/x", "/\\\\evil.example/x", "///evil.example"):
            answer = self.person.get(f"http://testserver{path}?token={TOKEN}")
            self.assertEqual(answer.status_code, 303)
            self.assertRegex(answer.headers["location"], r"^/[^/\\]")

    def test_a_person_is_asked_by_a_page_and_a_program_in_json(self) -> None:
        page = self.person.get("/projects/lantern-quay/scenes/evening-quay/bench?layer=sky")
        self.assertEqual(page.status_code, 401)
        self.assertIn('name="token"', page.text)
        self.assertIn('name="layer" value="sky"', page.text)
        self.assertIn("That is not its token", self.person.get("/?token=wrong").text)
        style = page.text.split('rel="stylesheet" href="')[1].split('"')[0]
        self.assertEqual(self.person.get(style).status_code, 200)
        self.assertIn("asks for its token", self.program.get("/").json()["message"])
        self.assertIn("asks for its token", self.person.post(f"{QUAY}/undo", json={}).json()["message"])


class Bodies(WebTest):
    def test_what_is_too_large_is_refused_by_what_it_says_and_by_what_it_brings(self) -> None:
        large = b'{"edits": [{"kind": "' + b"x" * MOST_PLAIN + b'"}]}'

        def parts() -> Iterator[bytes]:
            for at in range(0, len(large), 1 << 16):
                yield large[at : at + (1 << 16)]

        headers = {"content-type": "application/json"}
        for content in (large, parts()):
            answer = self.client.post(f"{QUAY}/edits", content=content, headers=headers)
            self.assertEqual(answer.status_code, 413)
            self.assertIn("more than 4 MB", answer.json()["message"])
        self.assertEqual(self.store.state("lantern-quay").revision, 1)

    def test_what_does_not_go_on_is_let_go(self) -> None:
        sent: list[Any] = []

        async def app(scope: Any, receive: Any, send: Any) -> None:
            while (await receive())["type"] != "http.disconnect":
                pass
            await send({"type": "http.response.start", "status": 200, "headers": []})
            await send({"type": "http.response.body", "body": b""})

        async def ask() -> None:
            async def receive() -> Any:
                if not sent:
                    sent.append("begun")
                    return {"type": "http.request", "body": b"{", "more_body": True}
                await asyncio.sleep(3600)

            async def send(message: Any) -> None:
                sent.append(message)

            scope = {"type": "http", "method": "POST", "path": "/x", "headers": []}
            await Bounded(app, patience=0.05)(scope, receive, send)  # type: ignore[arg-type]

        awaited(ask())
        self.assertEqual([one.get("status") for one in sent[1:]], [408, None])

    def test_a_connection_that_never_finishes_to_ask_is_closed(self) -> None:
        class Hasty(Patient):
            patience = 0.3

        port = free_port()
        server = uvicorn.Server(
            uvicorn.Config(self.client.app, port=port, log_level="error", http=Hasty, lifespan="off")
        )
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        self.addCleanup(thread.join, 10)
        self.addCleanup(setattr, server, "should_exit", True)
        while not server.started:
            time.sleep(0.01)
        for half in (b"", b"GET / HT", b"GET / HTTP/1.1\r\nHost: testserver\r\n"):
            with socket.create_connection(("127.0.0.1", port)) as line:
                line.settimeout(10)
                line.sendall(half)
                # Closed, not waited for.
                self.assertEqual(line.recv(100), b"", half)
        with socket.create_connection(("127.0.0.1", port)) as line:
            line.settimeout(10)
            line.sendall(b"GET /health HTTP/1.1\r\nHost: testserver\r\n\r\n")
            self.assertIn(b"200 OK", line.recv(1000))
