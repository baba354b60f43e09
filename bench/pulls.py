"""A lever pulled, on the server: what it costs by itself, in a project of many scenes, and beside many layers that it does not touch."""

import json
import re
import time
from collections.abc import Iterator

import msgpack

from jaunty_lever.core.document.owners import owners
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.view.question import Question
from jaunty_lever.core.view.scene_view import scene_view
from jaunty_lever.demo import demo_project

from .measure import line, middle

QUAY, SCENES, STILL, PULLS = "evening-quay", 50, 1900, 40


def _again(scene: Scene, number: int) -> Scene:
    """The same scene with ids of its own."""
    ids = "|".join(sorted({re.escape(owner.id) for owner in owners(scene)}, key=len, reverse=True))
    text = re.sub(rf'(?<![\w-])({ids})(?![\w-])(?=[".>@])', rf"\1-c{number}", json.dumps(plain(scene)))
    return Scene.model_validate({**json.loads(text), "name": f"Quay {number}"})


def _projects() -> Iterator[tuple[str, Project]]:
    whole = demo_project()
    quay = whole.scene(QUAY)
    assert quay is not None
    alone = Project(id="pulled", name="Pulled", scenes=(quay,))
    yield "alone", alone
    yield (
        f"in a project of {SCENES} such scenes",
        alone.changed(scenes=(quay, *(_again(quay, k) for k in range(1, SCENES)))),
    )
    still = [
        {
            "kind": "ellipse",
            "id": f"still{k}",
            "name": f"L{k}",
            "position": [k % 40 * 30, k // 40 * 14],
            "size": [8, 8],
        }
        for k in range(STILL)
    ]
    held = plain(quay)
    yield (
        f"beside {STILL:,} still layers",
        alone.changed(scenes=(Scene.model_validate({**held, "layers": [*held["layers"], *still]}),)),
    )


def _pulled(project: Project, lever: str) -> float:
    """Seconds of one question with the lever moved, the middle of several; its answer is packed too."""
    cache = Cache()

    def edit(value: float) -> dict[str, object]:
        return {"kind": "set value", "scene": QUAY, "parameter": f"{lever}.value", "value": value, "frame": 0}

    def asked(value: float) -> Question:
        return Question.model_validate({"edits": [edit(value)], "stop": 300, "only_new": True})

    project = EDIT.validate_python(edit(33)).apply(project)
    _, told = scene_view(project, QUAY, Question(stop=300), cache)
    _, told = scene_view(project, QUAY, asked(40), cache, told)
    times = []
    for k in range(PULLS):
        question = asked(10 + k)
        start = time.perf_counter()
        body, _ = scene_view(project, QUAY, question, cache, told)
        msgpack.packb(body)
        times.append(time.perf_counter() - start)
    return middle(times)


def everything() -> None:
    """Dusk, which moves one thing, and Wind, which moves fourteen."""
    first: dict[str, float] = {}
    for where, project in _projects():
        for lever in ("dusk", "wind"):
            took = _pulled(project, lever)
            least = first.setdefault(lever, took)
            target = "at most 3 ms" if lever == "dusk" else ""
            told = f"{took * 1000:.1f} ms, {took / least:.2f} ×"
            line(f"{lever} pulled, on the server, {where}", told, target, took <= 0.0036 if target else None)
