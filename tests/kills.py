"""Kill the program again and again, in the middle of edits, clips that come in, frames that are asked for and exports;
and look whether anything is lost. `python -m tests.kills 300` takes about half an hour, and ends with what it found.

No test by itself: `tests.web.test_server.Crash` and `tests.browser.test_taken_out.Killed` do the same once in each run.
"""

import base64
import contextlib
import json
import os
import random
import signal
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections import Counter
from http.client import HTTPException
from pathlib import Path
from typing import Any

from jaunty_lever.demo import demo_project
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from tests.browser.harness import Server
from tests.formats.made_clips import film

QUAY = "/api/projects/lantern-quay"
PARAMETER = "sun.rotation"
MOST_CLIPS = 60
FORMATS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("mp4", {"size": 0.1, "stop": 80}),
    ("gif", {"size": 0.1, "stop": 6}),
    ("webm", {"size": 0.1, "stop": 3}),
)


class Killing:
    """A data folder whose server is killed, and what must be in it."""

    def __init__(self, folder: Path, seed: int) -> None:
        self.server, self.chance = Server(folder), random.Random(seed)
        self.folder, self.found = folder, Counter[str]()
        self.value = self.acknowledged = 0
        self.clips: set[str] = set()
        self.exports: dict[str, str] = {}
        self.stopped: set[str] = set()
        self.refused: list[str] = []
        project = demo_project()
        self.whole = {}
        for name, given in FORMATS:
            path = folder / f"reference.{name}"
            with path.open("wb") as target:
                source = Source(project, project.scenes[0])
                EXPORTERS[name].write(source, read_options(EXPORTERS[name], given), target, lambda count: None)
            self.whole[name] = path.read_bytes()
            path.unlink()
        self.films = [film(frames=8 + k, sound=0.2) for k in range(6)]

    def ask(self, path: str, body: Any = None, kind: str = "application/json") -> bytes:
        data = body if body is None or isinstance(body, bytes) else json.dumps(body).encode()
        request = urllib.request.Request(self.server.address + path, data, {"content-type": kind} if data else {})
        with urllib.request.urlopen(request, timeout=60) as answer:
            return bytes(answer.read())

    def edits(self) -> None:
        while True:
            self.value += 1
            edit = {"kind": "set value", "scene": "regatta-start", "parameter": PARAMETER, "value": self.value}
            self.ask(f"{QUAY}/edits", {"edits": [edit]})
            self.acknowledged = self.value
            self.found["edits"] += 1

    def bring(self) -> None:
        for content in self.chance.sample(self.films, len(self.films)):
            if self.found["clips"] >= MOST_CLIPS:
                return
            edge = "edge"
            head = f'--{edge}\r\ncontent-disposition: form-data; name="files"; filename="Ferry.mp4"\r\n\r\n'.encode()
            body = head + content + f"\r\n--{edge}--\r\n".encode()
            self.ask(f"{QUAY}/scenes/harbour-screens/pictures", body, f"multipart/form-data; boundary={edge}")
            self.clips.add(base64.b64encode(content).decode())
            self.found["clips"] += 1

    def look(self) -> None:
        while True:
            for clip in [one["id"] for one in json.loads(self.ask(f"{QUAY}/file")).get("clips", [])]:
                self.ask(f"{QUAY}/clips/{clip}/frames/{self.chance.randrange(8)}?level={self.chance.randrange(3)}")
                self.found["frames"] += 1

    def take_out(self) -> None:
        while True:
            name, given = self.chance.choice(FORMATS)
            told = json.loads(self.ask(f"{QUAY}/scenes/evening-quay/export/{name}", {"options": given}))
            self.exports[told["id"]] = name
            self.found["exports"] += 1
            if self.chance.random() < 0.2:
                self.stopped.add(told["id"])
                self.ask(f"/api/exports/{told['id']}/stop", {})
            time.sleep(self.chance.random())

    def once(self) -> None:
        """Work for a while, be killed, start again, and look."""

        def until_killed(work: Any) -> None:
            try:
                work()
            except urllib.error.HTTPError as error:
                self.refused.append(f"{work.__name__}: {error.code} {error.read()[:300]!r}")
            except (OSError, HTTPException, ValueError):
                # It is gone in the middle of it.
                pass

        before = children(self.server.process.pid)
        threads = [
            threading.Thread(target=until_killed, args=(work,), daemon=True)
            for work in (self.edits, self.bring, self.look, self.take_out)
        ]
        for one in threads:
            one.start()
        time.sleep(self.chance.uniform(0.05, 6.0))
        before |= children(self.server.process.pid)
        self.server.stop(signal.SIGKILL)
        for one in threads:
            one.join(60)
        self.server.start()
        self.looked(before)

    def looked(self, before: set[int]) -> None:
        """What must be so after each start. Raises AssertionError."""
        assert not self.refused, self.refused
        project = json.loads(self.ask(f"{QUAY}/file"))
        kept = value_of(project, PARAMETER)
        assert kept in (self.acknowledged, self.acknowledged + 1) or not self.acknowledged, (kept, self.acknowledged)
        self.value = max(self.value, int(kept))
        self.acknowledged = max(self.acknowledged, int(kept))
        held = {one["data"] for one in project.get("clips", [])}
        assert self.clips <= held, "a clip is lost"
        until = time.monotonic() + 10
        while (left := [one for one in before if alive(one)]) and time.monotonic() < until:
            time.sleep(0.05)
        assert not left, f"processes have stayed: {left}"
        for left_over in (self.folder / "working").glob("clip-*"):
            raise AssertionError(f"left over: {left_over}")

    def ended(self) -> None:
        """At last every export is whole, or was stopped."""
        until = time.monotonic() + 900
        while True:
            jobs = json.loads(self.ask(f"{QUAY}/exports"))
            if all(job["finished"] for job in jobs):
                break
            assert time.monotonic() < until, "exports never end"
            time.sleep(0.5)
        for job in jobs:
            if job["id"] in self.exports and not job["problem"]:
                content = self.ask(job["file"])
                assert content == self.whole[self.exports[job["id"]]], f"{job['id']} is another file"
                self.found["whole files"] += 1
            else:
                assert job["id"] in self.stopped or job["problem"] == "Stopped.", job
                self.found["stopped"] += 1


def value_of(project: Any, parameter: str) -> float:
    """The resting value of a layer's parameter in a project as it is written."""
    layer, _, name = parameter.partition(".")
    waiting = [one for scene in project["scenes"] for one in scene["layers"]]
    while waiting:
        one = waiting.pop()
        if one["id"] == layer:
            return float(one.get(name, 0))
        waiting += one.get("layers", [])
    raise AssertionError(f"{parameter} is gone")


def children(process: int) -> set[int]:
    """The processes that a process has begun, and those that they have."""
    found: set[int] = set()
    with contextlib.suppress(OSError):
        for thread in Path(f"/proc/{process}/task").iterdir():
            for one in (thread / "children").read_text().split():
                found |= {int(one)} | children(int(one))
    return found


def alive(process: int) -> bool:
    """Whether a process is there, and no mere entry of one that nobody has asked about."""
    with contextlib.suppress(OSError):
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    return False


def main(many: int) -> None:
    """Kill so many times, and tell."""
    with tempfile.TemporaryDirectory() as name:
        killing = Killing(Path(name), int(os.environ.get("SEED", "1")))
        for k in range(many):
            killing.once()
            if k % 10 == 9:
                print(k + 1, dict(killing.found), flush=True)
        killing.ended()
        killing.server.stop()
        print(f"{many} kills, nothing lost: {dict(killing.found)}", flush=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 20)
