"""The page for those who add a modifier: done as it says, in a copy of the program, its modifier appears everywhere."""

import os
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import jaunty_lever

PACKAGE = Path(jaunty_lever.__file__).parent
PAGE = (PACKAGE.parent / "CONTRIBUTING.md").read_text(encoding="utf-8")

TRY = """
import numpy as np
from pathlib import Path
import tempfile
from starlette.testclient import TestClient
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.elements import Elements
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats import project_file
from jaunty_lever.storage.store import Store
from jaunty_lever.web.app import create_app
import jaunty_lever

time = {"rest": 2, "chain": [{"kind": "follow", "id": "f", "driver": "element.i", "times": 1, "plus": 1}]}
layer = {"kind": "ellipse", "id": "layer0", "name": "Buoy", "rotation": {"rest": 90, "chain": [{"kind": "ebb",
"id": "e"}]}}
scene = Scene.model_validate({"id": "s", "name": "S", "layers": [layer]})
%(check)s
many = {**layer, "rotation": {"rest": 90, "chain": [{"kind": "ebb", "id": "e", "time": time}]}}
array = {"kind": "array", "id": "a", "name": "A", "arrangement": {"kind": "row", "count": 3}, "layers": [many]}
found = Sampler(Scene.model_validate({"id": "s", "name": "S", "layers": [array]})).evaluate(
    "layer0.rotation", SampleTimes(np.array([2.0]), None, Elements.of("a", 3)))
np.testing.assert_allclose(found[:, 0, 0], 90 * np.exp(-2 / np.arange(1, 4)))

assert project_file.read(project_file.write(Project(id="p", name="P", scenes=(scene,))).encode()).scenes[0] == scene
assert "ebb" in str(project_file.schema())
folder = Path(tempfile.mkdtemp())
store = Store(folder / "x.db")
store.create(Project(id="p", name="P", scenes=(scene,)))
client = TestClient(create_app(store, folder / "exports", frozenset({"testserver"})))
bench = "/projects/p/scenes/s"
assert "Runs out towards a level" in client.get(f"{bench}/sheets/add-modifier?parameter=layer0.rotation").text
page = client.get("/help/modifiers/ebb")
assert page.status_code == 200 and "What it is drawn towards" in page.text and "is not above 0" in page.text
chain = client.get(f"{bench}/bench?layers=layer0&parameter=layer0.rotation").text
assert "ebbs towards 0°, 2 s long" in chain, chain
broken = {"kind": "set value", "scene": "s", "parameter": "e.time", "value": -1}
assert client.post("/api/projects/p/edits", json={"edits": [broken]}).status_code == 200
sampler = Sampler(store.state("p").project.scenes[0])
assert sampler.sample("layer0.rotation", 1.0)[0] == 90
assert [fault.message for fault in sampler.faults.values()] == ["The time is not above 0"]
store.close()
print("everywhere")
"""


def blocks(language: str) -> list[str]:
    """What stands on the page in blocks of a language."""
    return re.findall(rf"```{language}\n(.*?)```", PAGE, flags=re.DOTALL)


class TenMinutes(unittest.TestCase):
    def test_a_modifier_added_as_the_page_says_appears_everywhere(self) -> None:
        source, check = blocks("python")
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "jaunty_lever"
            shutil.copytree(PACKAGE, copy, ignore=shutil.ignore_patterns("__pycache__"))
            motion = copy / "core/motion"
            (motion / "ebb.py").write_text(source, encoding="utf-8")
            registry = (motion / "__init__.py").read_text(encoding="utf-8")
            for block in blocks("diff"):
                lines = block.splitlines()
                (added,) = [line[1:] for line in lines if line.startswith("+")]
                before = [line[1:] for line in lines if line.startswith(" ")] or ["from .adjust import Adjust"]
                self.assertIn(before[-1], registry)
                registry = registry.replace(before[-1], f"{before[-1]}\n{added}", 1)
            (motion / "__init__.py").write_text(registry, encoding="utf-8")
            # Nothing of it is worth compiling for.
            around = {**os.environ, "PYTHONPATH": folder, "NUMBA_DISABLE_JIT": "1"}
            done = subprocess.run(
                [sys.executable, "-c", TRY % {"check": check}], cwd=folder, env=around, capture_output=True, text=True
            )
        self.assertEqual((done.returncode, done.stdout.strip()), (0, "everywhere"), done.stderr[-3000:])
