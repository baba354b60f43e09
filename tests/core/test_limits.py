"""How much there may be: the editor and the reader of files are held to the same, and say it in the same words."""

import json
import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.limits import (
    MOST_DEPTH,
    MOST_DRAWN_LETTERS,
    MOST_IN_CHAIN,
    MOST_LETTERS,
    MOST_LEVERS,
    MOST_NUMBER,
    MOST_SNAPSHOTS,
    MOST_WINDOWS,
)
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.geometry.text import text_outline
from jaunty_lever.core.soundness import problems
from jaunty_lever.formats import project_file
from jaunty_lever.formats.open_json import BadFile
from tests.core.scenes import apply, project, scene


def read(made: Project) -> Project:
    """A project brought in from its own export."""
    return project_file.read(project_file.write(made).encode())


def written(one: dict[str, Any]) -> bytes:
    """A file with one scene, as a program may write it."""
    whole = {"id": "s", "name": "Test", **one}
    content = json.loads(project_file.write(project()))
    content["scenes"] = [whole]
    return json.dumps(content).encode()


class Counted(unittest.TestCase):
    """For each limit: as many as may be come in again from their export; one more is refused here and there."""

    def at_the_edge(self, made: Project, edit: dict[str, Any], over: dict[str, Any], said: str) -> None:
        self.assertEqual(read(made).scenes, made.scenes)
        with self.assertRaises(Refused) as refused:
            apply(made, **edit)
        self.assertIn(said, refused.exception.message)
        with self.assertRaises(BadFile) as bad:
            project_file.read(written(over))
        self.assertIn(said, " ".join(bad.exception.problems))

    def test_levers(self) -> None:
        def board(count: int) -> list[dict[str, Any]]:
            return [{"id": f"v{k}", "name": f"V {k}"} for k in range(count)]

        made = project(scene({}, levers=tuple(board(MOST_LEVERS))))
        self.at_the_edge(
            made, {"kind": "add lever", "name": "More"}, {"levers": board(MOST_LEVERS + 1)}, f"{MOST_LEVERS} levers"
        )

    def test_snapshots(self) -> None:
        shots = [{"id": f"n{k}", "name": f"N {k}", "values": {"v": 1.0}} for k in range(MOST_SNAPSHOTS + 1)]
        lever = {"id": "v", "name": "V"}
        one = Scene.model_validate({"id": "s", "name": "Test", "levers": [lever], "snapshots": shots[:-1]})
        self.at_the_edge(
            project(one),
            {"kind": "store snapshot", "name": "More"},
            {"levers": [lever], "snapshots": shots},
            f"{MOST_SNAPSHOTS} snapshots",
        )

    def test_modifiers_in_a_chain(self) -> None:
        chain = [{"kind": "adjust", "id": f"m{k}"} for k in range(MOST_IN_CHAIN + 1)]
        dot = {"kind": "ellipse", "id": "layer0", "name": "Dot"}
        self.at_the_edge(
            project(scene({"rotation": {"chain": chain[:-1]}})),
            {"kind": "add modifier", "parameter": "layer0.rotation", "modifier": "adjust"},
            {"layers": [{**dot, "rotation": {"chain": chain}}]},
            f"{MOST_IN_CHAIN}",
        )

    def test_active_windows(self) -> None:
        windows = [{"start": 2 * k, "end": 2 * k + 1} for k in range(MOST_WINDOWS + 1)]
        dot = {"kind": "ellipse", "id": "layer0", "name": "Dot"}
        self.at_the_edge(
            project(scene({"rotation": {"chain": [{"kind": "wiggle", "id": "w", "windows": windows[:-1]}]}})),
            {"kind": "set windows", "modifier": "w", "windows": windows},
            {"layers": [{**dot, "rotation": {"chain": [{"kind": "wiggle", "id": "w", "windows": windows}]}}]},
            f"{MOST_WINDOWS} active windows",
        )

    def test_groups_one_inside_the_other(self) -> None:
        def nested(depth: int) -> dict[str, Any]:
            inner: dict[str, Any] = {"kind": "ellipse", "id": "dot", "name": "Dot"}
            for k in reversed(range(depth)):
                inner = {"kind": "group", "id": f"g{k}", "name": f"G {k}", "layers": [inner]}
            return inner

        deepest = nested(MOST_DEPTH)
        made = project(Scene.model_validate({"id": "s", "name": "Test", "layers": [deepest]}))
        self.at_the_edge(
            made,
            {"kind": "group layers", "layers": ["dot"], "id": "more"},
            {"layers": [nested(MOST_DEPTH + 1)]},
            f"at most {MOST_DEPTH} deep",
        )
        # A hundred more by a program's file: told, and not a word of the inside of this program.
        with self.assertRaises(BadFile):
            project_file.read(written({"layers": [nested(MOST_DEPTH + 100)]}))

    def test_numbers_and_keys_that_lie_too_far_out(self) -> None:
        most = project(scene({"rotation": MOST_NUMBER}))
        self.at_the_edge(
            most,
            {"kind": "set value", "parameter": "layer0.rotation", "value": MOST_NUMBER * 1.01},
            {"layers": [{"kind": "ellipse", "id": "layer0", "name": "Dot", "rotation": -MOST_NUMBER * 1.01}]},
            "too large",
        )
        for frame in (1e8, -1e8):
            with self.assertRaises(Refused):
                apply(project(), "set key", parameter="layer0.rotation", frame=frame)

    def test_a_long_text_is_kept_to_its_end_and_drawn_as_far_as_said(self) -> None:
        words = ("lantern " * (MOST_LETTERS // 8))[:MOST_LETTERS]
        text = {"kind": "text", "id": "layer0", "name": "Words"}
        made = project(scene({**text, "text": words}))
        self.at_the_edge(
            made,
            {"kind": "set value", "parameter": "layer0.text", "value": words + "x"},
            {"layers": [{**text, "text": words + "x"}]},
            f"{MOST_LETTERS:,} letters",
        )
        self.assertEqual(read(made).scenes[0].index.parameters["layer0.text"].parameter.rest, words)

        def drawn(content: str) -> tuple[str, bytes]:
            size, tracking, leading = (np.array([number]) for number in (20.0, 0.0, 120.0))
            outline = text_outline(content, "Martian Mono", 400, "start", size, tracking, leading)
            return outline.verbs, outline.points.tobytes()

        cut = words[:MOST_DRAWN_LETTERS]
        self.assertEqual(drawn(words), drawn(cut))
        self.assertNotEqual(drawn(cut[:-3]), drawn(cut))

    def test_the_whole_project_counts(self) -> None:
        some = [{"kind": "ellipse", "id": f"l{k}", "name": f"L {k}"} for k in range(1900)]
        whole = []
        for number in range(3):
            layers = [{**layer, "id": f"{layer['id']}-{number}"} for layer in some]
            whole.append(Scene.model_validate({"id": f"s{number}", "name": f"S {number}", "layers": layers}))
        said = [problem.text for problem in problems(Project(id="p", name="P", scenes=tuple(whole)))]
        self.assertEqual(len(said), 1)
        self.assertIn("5,000 layers", said[0])
        self.assertEqual(list(problems(Project(id="p", name="P", scenes=tuple(whole[:2])))), [])
