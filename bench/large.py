"""Much of one thing: levers that listen twice, thousands of wheels, layers, keys and letters, and how cost grows with
them."""

import csv
import io
import json
import re
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.graph import circles
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.soundness import problems
from jaunty_lever.formats import project_file
from jaunty_lever.formats.values import csv_of

from .linkage import _train
from .measure import line, middle

DOT = {"kind": "ellipse", "size": [20, 20]}


def took(work: Callable[[], object]) -> float:
    """Seconds of one run."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _project(**scene: Any) -> Project:
    return Project(id="p", name="P", scenes=(Scene.model_validate({"id": "s", "name": "S", **scene}),))


def _edit(project: Project, **fields: Any) -> Project:
    return EDIT.validate_python({"scene": "s", **fields}).apply(project)


def listening_twice() -> None:
    """A chain of levers, each of which listens twice to the one before it."""

    def run(count: int) -> float:
        levers = []
        for k in range(count):
            text = f"$<l{k - 1}.value> @ (t - 0.1) + 0.5 * ($<l{k - 1}.value> @ (t - 0.25))" if k else "osc(t)"
            chain = [{"kind": "formula", "id": f"m{k}", "text": text}]
            levers.append({"id": f"l{k}", "name": f"L{k}", "value": {"chain": chain}})
        scene = Scene.model_validate({"id": "s", "name": "S", "levers": levers})
        samples = SampleTimes.frames(30, 0, 300)
        Sampler(scene, Cache()).track(f"l{min(2, count - 1)}.value", samples)
        return took(lambda: Sampler(scene, Cache()).track(f"l{count - 1}.value", samples))

    few, many = run(16), run(64)
    line("64 levers that listen twice, 300 frames", f"{many:.2f} s", "under 1 s", many < 1)
    line("  as a multiple of 16 levers (each moment once: 15 ×)", f"{many / few:.0f} ×")


TEN_SECONDS = SampleTimes.frames(30, 0, 300)


def wheels() -> None:
    """Trains of wheels: read from a file, looked through for circles, and turned."""
    spent = {}
    for count in (300, 3000):
        scenes = []
        # Two thousand layers fit into a scene: longer trains are split over levers of their own.
        left, number = count, 0
        while left > 0:
            many = min(left, 1500)
            scenes.append({"id": f"s{number}", "name": f"S{number}", "layers": _renamed(_train(many, 7), number)})
            left, number = left - many, number + 1
        project = Project(id="p", name="P", scenes=tuple(Scene.model_validate(one) for one in scenes))
        content = project_file.write(project).encode()
        spent[count] = took(lambda content=content: project_file.read(content))  # type: ignore[misc]
        if count == 3000:
            round_ = took(lambda project=project: [circles(one.index) for one in project.scenes])  # type: ignore[misc]
            line("3,000 wheels: looked through for circles", f"{round_ * 1000:.0f} ms")
            scene = project.scenes[0]
            turned = took(lambda scene=scene: Sampler(scene, Cache()).track("w1499-0.rotation", TEN_SECONDS))  # type: ignore[misc]
            line("  the last of 1,500 in one train, 300 frames", f"{turned * 1000:.1f} ms")
    line("3,000 wheels read from a file", f"{spent[3000]:.1f} s")
    line("  as a multiple of 300", f"{spent[3000] / spent[300]:.1f} ×", "at most 12 ×", spent[3000] / spent[300] <= 12)


def _renamed(layers: list[dict[str, Any]], number: int) -> list[dict[str, Any]]:
    """The same layers and links with ids of their own."""
    text = re.sub(r'"([wg])(\d+)(\.rotation)?"', rf'"\1\2-{number}\3"', json.dumps(layers))
    made: list[dict[str, Any]] = json.loads(text)
    return made


def crowd() -> Project:
    """A scene of two thousand layers, each with a wiggle and a link to one lever."""
    some = []
    for k in range(2000):
        chain = [
            {"kind": "wiggle", "id": f"w{k}"},
            {"kind": "follow", "id": f"f{k}", "driver": "lever.value", "blend": "add"},
        ]
        some.append(
            {
                **DOT,
                "id": f"l{k}",
                "name": f"L{k}",
                "position": [k % 40 * 30, k // 40 * 14],
                "rotation": {"chain": chain},
            }
        )
    return _project(layers=some, levers=[{"id": "lever", "name": "Lever", "value": 5}])


def layers() -> None:
    """Two thousand layers: an edit with its gate, and what it evaluates."""
    project = crowd()
    whole = took(lambda: list(problems(project)))
    times = []
    for k in range(7):
        start = time.perf_counter()
        project = _edit(project, kind="set value", parameter=f"l{k}.opacity", value=50 + k)
        times.append(time.perf_counter() - start)
    edit = middle(times)
    line("2,000 layers, 4,000 modifiers: an edit with its gate", f"{edit * 1000:.0f} ms", "under 150 ms", edit < 0.15)
    line("  looked through as a whole, as a file is", f"{whole:.1f} s")
    cache, samples = Cache(), SampleTimes.frames(30, 0, 300)
    first = took(lambda: display_list(Sampler(project.scenes[0], cache), samples))
    moved = _edit(project, kind="set value", parameter="l9.opacity", value=12)
    again = took(lambda: display_list(Sampler(moved.scenes[0], cache), samples))
    line("  their table of 300 frames, first and after the edit", f"{first:.1f} s, {again * 1000:.0f} ms")


def keys() -> None:
    """Keys moved by the thousand."""
    times = {}
    for count in (1000, 10_000):
        some = [{"frame": k / 10, "value": k % 50} for k in range(count)]
        project = _project(length=1200, layers=[{**DOT, "id": "e", "name": "E", "rotation": {"keys": some}}])
        picked = [{"parameter": "e.rotation", "frames": [k / 10 for k in range(count)]}]
        edit = EDIT.validate_python({"scene": "s", "kind": "move keys", "keys": picked, "by": 0.05})
        times[count] = min(took(lambda edit=edit, project=project: edit.apply(project)) for _ in range(3))  # type: ignore[misc]
    line("10,000 keys moved", f"{times[10_000] * 1000:.0f} ms", "under 1 s", times[10_000] < 1)
    line(
        "  as a multiple of 1,000",
        f"{times[10_000] / times[1000]:.1f} ×",
        "at most 15 ×",
        times[10_000] / times[1000] <= 15,
    )


def letters() -> None:
    """A text of two thousand letters laid out, against two hundred."""
    times = {}
    for count in (200, 2000):
        words = ("Lantern Quay at dusk " * 200)[: count - 1]
        samples = SampleTimes.frames(30, 0, 300)

        def lay(ending: str, words: str = words, samples: SampleTimes = samples) -> None:
            # Another last letter each time: a text that is known already costs nothing.
            project = _project(
                layers=[{"kind": "text", "id": "t", "name": "T", "text": words + ending, "font_size": {"rest": 20}}]
            )
            display_list(Sampler(project.scenes[0], Cache()), samples)

        lay("a")
        times[count] = min(took(lambda ending=ending: lay(ending)) for ending in "bcdefg")  # type: ignore[misc]
    line("2,000 letters laid out", f"{times[2000] * 1000:.0f} ms", "under 100 ms", times[2000] < 0.1)
    line("  as a multiple of 200", f"{times[2000] / times[200]:.1f} ×", "at most 12 ×", times[2000] / times[200] <= 12)


def table_of_values() -> None:
    """A CSV of 360,000 lines against the csv module writing the same rows."""
    chain = [{"kind": "wave", "id": "w", "frequency": 0.7}]
    scene = _project(length=36_000, layers=[{**DOT, "id": "e", "name": "E", "rotation": {"chain": chain}}]).scenes[0]
    ours = min(
        took(lambda: sum(len(part) for part in csv_of(scene, [("e.rotation", None)], 0, 36_000, 0.1))) for _ in range(3)
    )
    frames = (0.1 * np.arange(360_000)).tolist()
    values = Sampler(scene).track("e.rotation", SampleTimes.frames(30, 0, 36_000, 0.1))[:, 0].tolist()
    rows = list(zip(frames, [f / 30 for f in frames], values, strict=True))
    plain = min(took(lambda: csv.writer(io.StringIO()).writerows(rows)) for _ in range(3))
    line("CSV of 360,000 lines, against the csv module", f"{ours / plain:.2f} ×", "at most 3 ×", ours <= 3 * plain)


def everything() -> None:
    """All of it."""
    for part in (listening_twice, wheels, layers, keys, letters, table_of_values):
        part()
