"""The server and the browser: from a pointer's move to pixels, starting, and many clients at once."""

import json
import shutil
import tempfile
import time
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from jaunty_lever.formats.project_file import write
from tests.browser.harness import Server

from . import arrays, depth, drawing, linkage, sparks, waiting
from .large import crowd
from .measure import line, middle
from .motion import large_project
from .pages import MEASURE, MOVES, brought_in, opened


def pointer(server: Server) -> None:
    """Median from the pointer event on a lever to the canvas painted with the new values."""
    with opened(server, "/projects/lantern-quay/scenes/evening-quay/bench") as page:
        for lever in ("dusk", "wind"):
            times, empty, _ = page.evaluate(MEASURE, [lever, MOVES])
            took, nothing = middle(times), middle(empty)
            line(
                f"{lever} moved by the pointer → canvas painted, median of {MOVES}",
                f"{took:.1f} ms",
                "under 50 ms",
                took < 50,
            )
            line("  as a multiple of an empty request", f"{took / nothing:.1f} ×")
            page.keyboard.press("Control+z")


def large(server: Server) -> None:
    """200 layers with 3,000 modifiers: a lever that drives 20 of them, from the pointer to the painted canvas."""
    brought_in(server, write(large_project()).encode())
    with opened(server, "/projects/large/scenes/large-scene/bench") as page:
        times, _, shares = page.evaluate(MEASURE, ["lever", 15])
        took, server_time, transfer = middle(times), middle([s for s, _ in shares]), middle([t for _, t in shares])
        line("200 layers: a lever moved → canvas painted, median of 15", f"{took:.0f} ms", "under 150 ms", took < 150)
        parts = (server_time, transfer, took - server_time - transfer)
        line("  evaluation, transfer, painting", " ".join(f"{part / took:.0%}" for part in parts))


def crowded(server: Server) -> None:
    """Two thousand layers: the page that shows them, until they stand on the stage."""
    project = crowd()
    brought_in(server, write(project).encode())
    path = f"/projects/{project.id}/scenes/{project.scenes[0].id}/bench"
    sent = []
    for _ in range(3):
        start = time.perf_counter()
        urllib.request.urlopen(f"{server.address}{path}").read()
        sent.append(time.perf_counter() - start)
    line("2,000 layers: the page sent, first and again", f"{sent[0] * 1000:.0f} ms, {min(sent[1:]) * 1000:.0f} ms")
    start = time.perf_counter()
    with opened(server, path):
        line("  in the browser until all stand on the stage", f"{time.perf_counter() - start:.1f} s")


def parallel(server: Server) -> None:
    """Eight clients evaluating different scenes at once, against one after the other."""
    with urllib.request.urlopen(f"{server.address}/api/projects/lantern-quay/file") as answer:
        content = answer.read()

    def projects(text: str) -> set[str]:
        return {part.split('"')[0] for part in text.split('data-project="')[1:]}

    before = projects(urllib.request.urlopen(f"{server.address}/").read().decode())
    for _ in range(8):
        text = brought_in(server, content)
    ids = sorted(projects(text) - before)

    def ask(project: str, value: float) -> float:
        edit = {"kind": "set value", "scene": "evening-quay", "parameter": "swell.value", "value": value}
        body = json.dumps({"edits": [edit]}).encode()
        url = f"{server.address}/api/projects/{project}/scenes/evening-quay/evaluate"
        start = time.perf_counter()
        urllib.request.urlopen(urllib.request.Request(url, body, {"content-type": "application/json"})).read()
        return time.perf_counter() - start

    for project in ids:
        ask(project, 1)
    start = time.perf_counter()
    for k, project in enumerate(ids):
        ask(project, 2 + k)
    alone = time.perf_counter() - start
    start = time.perf_counter()
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(ask, ids, [12 + k for k in range(8)]))
    together = time.perf_counter() - start
    line(
        "8 clients at once, against the same work one after the other",
        f"{together / alone:.2f} ×",
        "at most 1 ×",
        together <= alone * 1.05,
    )


def everything() -> None:
    """All of the above on one server."""
    folder = Path(tempfile.mkdtemp())
    try:
        server = Server(folder)
        try:
            pointer(server)
            large(server)
            crowded(server)
            linkage.pulled(server)
            linkage.woven(server)
            arrays.hand(server)
            sparks.hand(server)
            drawing.hand(server)
            depth.on_a_page(server)
            parallel(server)
            waiting.edits_meanwhile(server)
            waiting.plays(server)
        finally:
            server.stop()
        waiting.starts()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
