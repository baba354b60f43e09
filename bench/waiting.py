"""What the program does for itself, and how much of that anybody feels: looks through scenes, stills, starts, and
playing."""

import json
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from importlib.resources import files
from pathlib import Path
from typing import Any

from starlette.testclient import TestClient

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.demo import FILE, demo_project
from jaunty_lever.formats.project_file import write
from jaunty_lever.storage.store import Store
from jaunty_lever.web.app import create_app
from tests.browser.harness import Server, free_port

from .measure import best, line, middle
from .pages import brought_in, opened

QUAY = "/api/projects/lantern-quay"
_TICKS = 100
"""Of the processor's time in /proc, a second."""


def _processor(looking: Any) -> float:
    """Seconds of processor that the process which looks through scenes has taken."""
    told = Path(f"/proc/{looking.beside.process.pid}/stat").read_text(encoding="ascii").rpartition(")")[2].split()
    return (int(told[11]) + int(told[12])) / _TICKS


def looks() -> None:
    """The processor's time of looking through each scene of the sample: at first, after a lever has moved, and after a
    renaming; and how soon it can be left."""
    folder = Path(tempfile.mkdtemp())
    store = Store(folder / "bench.db")
    store.create(demo_project())
    app = create_app(store, folder / "exports", frozenset({"testserver"}))
    client, looking = TestClient(app), app.state.site.looking

    def looked(scene: str) -> float:
        before = _processor(looking) if looking.beside.process else None
        client.get(f"{QUAY}/scenes/{scene}/checks?wait=true")
        return _processor(looking) - before if before is not None else 0.0

    def edit(**edit: Any) -> None:
        client.post(f"{QUAY}/edits", json={"edits": [edit]}).raise_for_status()

    scenes = store.state("lantern-quay").project.scenes
    looked("winch-house")
    looking._known.clear()
    first, again, named = [], [], []
    for scene in scenes:
        first.append((looked(scene.id), scene.id))
        if not scene.levers:
            continue
        edit(kind="set value", scene=scene.id, parameter=f"{scene.levers[0].id}.value", text="+1")
        again.append((looked(scene.id), scene.id))
        edit(kind="change layer", scene=scene.id, layer=scene.layers[0].id, name="Renamed")
        named.append((looked(scene.id), scene.id))
    most, which = max(first)
    line(
        "A scene of the sample looked through, processor, the slowest",
        f"{most:.1f} s",
        f"at most 4 s ({which})",
        most <= 4,
    )
    (most, which), half = max(again), middle([took for took, _ in again])
    line("  after a lever has moved, median", f"{half:.2f} s", "at most 0.5 s", half <= 0.5)
    line("    the slowest", f"{most:.1f} s", f"at most 2 s ({which})", most <= 2)
    line("  after a layer has got another name, median", f"{middle([took for took, _ in named]):.2f} s")
    worst = 0.0
    for k in range(8):
        looking._known.clear()
        client.get(f"{QUAY}/scenes/mooring-posts/checks")
        while not looking._begun:
            time.sleep(0.001)
        time.sleep(0.3 + 0.4 * k)
        start = time.perf_counter()
        looking.changed("lantern-quay")
        while looking._now is not None:
            time.sleep(0.001)
        worst = max(worst, time.perf_counter() - start)
        looking._edited.clear()
    line("  left by an edit after, at most of 8", f"{worst * 1000:.0f} ms", "at most 50 ms", worst <= 0.05)
    app.state.site.looking.close()
    app.state.site.drawn.close()
    app.state.site.aside.close()
    store.close()


def edits_meanwhile(server: Server) -> None:
    """An edit kept while a scene is looked through, against one while nothing is."""

    def asked(path: str, body: dict[str, Any] | None = None) -> float:
        headers = {"content-type": "application/json", "origin": server.address}
        data = json.dumps(body).encode() if body is not None else None
        start = time.perf_counter()
        with urllib.request.urlopen(urllib.request.Request(f"{server.address}{path}", data, headers)) as answer:
            answer.read()
        return time.perf_counter() - start

    def edit(k: int) -> float:
        one = {
            "kind": "set value",
            "scene": "mooring-posts",
            "parameter": "mooring-posts.shutter_phase",
            "text": str(-90 - k % 7),
        }
        return asked(f"{QUAY}/edits", {"edits": [one]})

    times: dict[bool, list[float]] = {True: [], False: []}
    for k in range(5):
        edit(k)
    for k in range(24):
        looked = k % 2 == 0
        if looked:
            asked(f"{QUAY}/scenes/mooring-posts/checks")
        # The look begins when all has been quiet for a while.
        time.sleep(1.5)
        times[looked].append(edit(k))
    ratio = middle(times[True]) / middle(times[False])
    line(
        "An edit kept while checks look on, against one while none do", f"{ratio:.2f} ×", "at most 1.1 ×", ratio <= 1.1
    )


def stars(count: int) -> Scene:
    """A field of small stars, each turning, swelling, fading and wandering in its own time."""
    columns = 75 if count >= 3000 else 40
    array = {
        "kind": "array",
        "id": f"field{count}",
        "name": "Field",
        "position": [640, 360],
        "arrangement": {
            "kind": "grid",
            "columns": columns,
            "rows": count // columns,
            "gap": [1200 / columns, 640 * columns / count],
        },
        "copy_rotation": {"rest": 0, "chain": [{"kind": "rate", "id": f"r{count}", "rate": 45}]},
        "copy_scale": {"rest": [100, 100], "chain": [{"kind": "wave", "id": f"s{count}", "amplitude": [30, 30]}]},
        "copy_opacity": {"rest": 80, "chain": [{"kind": "wave", "id": f"o{count}", "amplitude": 20}]},
        "copy_position": {"rest": [0, 0], "chain": [{"kind": "wiggle", "id": f"w{count}", "amplitude": [10, 10]}]},
        "layers": [{"kind": "star", "id": f"star{count}", "name": "Star", "outer": 8, "inner": 4}],
    }
    return Scene.model_validate({"id": f"stars-{count}", "name": f"Stars {count}", "length": 150, "layers": [array]})


#: Frames that are shown in four seconds of playing, a second; and the longest and the middle time that a press on a
#: layer waits.
PLAY = """async () => {
  document.querySelector('.play').click();
  const wait = (time) => new Promise((done) => setTimeout(done, time));
  await wait(1500);
  const frame = document.getElementById('frame');
  let shown = 0, played = 0, last = '';
  // What a worker paints is counted when it is painted.
  document.addEventListener('played', () => { played += 1; });
  const start = performance.now();
  while (performance.now() < start + 4000) {
    await new Promise((done) => requestAnimationFrame(done));
    if (frame.value !== last) { shown += 1; last = frame.value; }
  }
  const rate = (played || shown) / ((performance.now() - start) / 1000), late = [];
  for (let k = 0; k < 25; k += 1) {
    const asked = performance.now();
    await new Promise((done) => { const line = new MessageChannel(); line.port1.onmessage = done;
    line.port2.postMessage(0); });
    late.push(performance.now() - asked);
    await wait(23);
  }
  document.querySelector('.play').click();
  return [rate, Math.max(...late)];
}"""


def plays(server: Server) -> None:
    """Frames a second at 1280 × 800, and how long a press would wait meanwhile."""
    scenes = tuple(stars(count) for count in (1_000, 3_000))
    text = brought_in(server, write(Project(id="stars", name="Stars", scenes=scenes)).encode())
    project = next(part.split('"')[0] for part in text.split('data-project="')[1:] if "stars-1000" in part)
    wanted = (
        (f"/projects/{project}/scenes/stars-1000/bench", "1,000 copies of a star", 28.0),
        (f"/projects/{project}/scenes/stars-3000/bench", "3,000 copies of a star", 24.0),
        ("/projects/lantern-quay/scenes/mooring-posts/bench", "Mooring posts", 28.0),
        ("/projects/lantern-quay/scenes/evening-quay/bench", "Evening quay", 29.5),
    )
    for path, what, least in wanted:
        with opened(server, path) as page:
            page.wait_for_timeout(1000)
            rate, late = page.evaluate(PLAY)
            line(f"{what}: frames a second of 30 while it plays", f"{rate:.1f}", f"at least {least:g}", rate >= least)
            line("  a press waits meanwhile, at most of 25", f"{late:.0f} ms", "at most 100 ms", late <= 100)


def starts() -> None:
    """From the command to the first page, to the first Bench, and a value printed."""
    folder, first, bench = Path(tempfile.mkdtemp()), list[float](), list[float]()
    for _ in range(4):
        address = f"http://127.0.0.1:{(port := free_port())}"
        command = [sys.executable, "-m", "jaunty_lever", "serve", "--demo", "--port", str(port), "--data", str(folder)]
        begun = time.perf_counter()
        with subprocess.Popen(command, stdout=subprocess.DEVNULL) as program:
            for path, times in (("/", first), ("/projects/lantern-quay/scenes/evening-quay/bench", bench)):
                asked = urllib.request.Request(f"{address}{path}", headers={"accept": "text/html"})
                while True:
                    try:
                        urllib.request.urlopen(asked, timeout=60).read()
                        break
                    except OSError:
                        time.sleep(0.02)
                times.append(time.perf_counter() - begun)
            program.terminate()
    line(
        "Start to the first page, again on a folder in use, median of 3",
        f"{statistics.median(first[1:]):.2f} s",
        "under 1.5 s",
        statistics.median(first[1:]) < 1.5,
    )
    line("  to the first Bench, median of 3", f"{statistics.median(bench[1:]):.2f} s")
    file = files("jaunty_lever.demo") / FILE
    command = [
        sys.executable,
        "-m",
        "jaunty_lever",
        "sample",
        str(file),
        "--scene",
        "Evening quay",
        "--parameter",
        "Wind",
        "--frames",
        "0:3",
    ]
    took = best(lambda: subprocess.run(command, check=True, stdout=subprocess.DEVNULL), 3)
    line("A value printed by `jaunty-lever sample`", f"{took:.2f} s", "under 3 s", took < 3)
