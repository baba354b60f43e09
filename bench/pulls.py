"""A lever pulled, on the server: what it costs by itself, in a project of many scenes, and beside many layers that it
does not touch."""

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


class _Page:
    """A page of a project that has its last answer."""

    def __init__(self, project: Project) -> None:
        self.cache = Cache()
        self.project = EDIT.validate_python(_edit("dusk", 33)).apply(project)
        _, told = scene_view(self.project, QUAY, Question(stop=300), self.cache)
        self.told = {
            lever: scene_view(self.project, QUAY, _asked(lever, 40), self.cache, told)[1] for lever in ("dusk", "wind")
        }

    def pulled(self, lever: str, value: float) -> float:
        """Seconds of one question with a lever moved; its answer is packed too."""
        question = _asked(lever, value)
        start = time.perf_counter()
        body, _ = scene_view(self.project, QUAY, question, self.cache, self.told[lever])
        msgpack.packb(body)
        return time.perf_counter() - start


def _edit(lever: str, value: float) -> dict[str, object]:
    return {"kind": "set value", "scene": QUAY, "parameter": f"{lever}.value", "value": value, "frame": 0}


def _asked(lever: str, value: float) -> Question:
    return Question.model_validate({"edits": [_edit(lever, value)], "stop": 300, "only_new": True})


def everything() -> None:
    """Dusk, which moves one thing, and Wind, which moves fourteen; in turn, since machines have moods."""
    pages = {where: _Page(project) for where, project in _projects()}
    for lever in ("dusk", "wind"):
        rounds = [[page.pulled(lever, 10 + k) for page in pages.values()] for k in range(PULLS)]
        for where, times in zip(pages, zip(*rounds, strict=True), strict=True):
            took = middle(list(times))
            ratio = middle([one / each[0] for one, each in zip(times, rounds, strict=True)])
            told = f"{took * 1000:.1f} ms, {ratio:.2f} ×"
            most = 0.003 if where == "alone" else 0.0036
            target = f"at most {most * 1000:.1f} ms" if lever == "dusk" else ""
            line(f"{lever} pulled, on the server, {where}", told, target, took <= most if target else None)
