"""The pages' scripts: their own tests by Node's runner, their style, and what they share with the server."""

import json
import math
import re
import shutil
import subprocess
import sys
import unittest
from pathlib import Path
from typing import get_args

from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.edits import AnyEdit
from jaunty_lever.core.formula.quantity import Unreadable, read_number, read_step
from jaunty_lever.web.types import page_schema
from tests.core.scenes import apply, project, scene

ROOT = Path(__file__).parent.parent
CASES = json.loads((ROOT / "tests/scripts/figures.json").read_text(encoding="utf-8"))
NODE = shutil.which("node")


class Shared(unittest.TestCase):
    """The server's half of the tables of cases."""

    def test_numbers_are_shown_as_the_scripts_show_them(self) -> None:
        for value, digits, words in CASES["shown"]:
            self.assertEqual(plain_number(value, digits), words, value)

    def test_numbers_are_read_as_the_scripts_read_them(self) -> None:
        plain = ParameterSpec("number", 0.0, "Number")
        for text, value in CASES["typed"]:
            if value is not None:
                self.assertTrue(math.isclose(read_number(text, plain, 30), value, rel_tol=1e-15), text)
        with self.assertRaises(Unreadable):
            read_number("abc", plain, 30)

    def test_what_is_typed_to_act_is_read_as_the_scripts_read_it(self) -> None:
        plain = ParameterSpec("number", 0.0, "Number")
        for text, step in CASES["steps"]:
            self.assertEqual(read_step(text, plain, 30), None if step is None else tuple(step), text)

    def test_edits_of_the_project_name_no_scene(self) -> None:
        text = (ROOT / "jaunty_lever/web/static/js/lib/of_project.js").read_text(encoding="utf-8")
        (union,) = [one for one in get_args(AnyEdit) if get_args(one)]
        own = {one.model_fields["kind"].default for one in get_args(union) if "scene" not in one.model_fields}
        self.assertEqual(set(re.findall(r'^  "([^"]+)",$', text, re.MULTILINE)), own)

    def test_keys_land_where_the_scripts_draw_them(self) -> None:
        for case in json.loads((ROOT / "tests/scripts/keys.json").read_text(encoding="utf-8")):
            frame, values = case["key"]
            keys = [{"frame": frame, "value": values}, {"frame": 200, "value": [0, 0]}]
            made = apply(
                project(scene({"position": {"keys": keys}})),
                "move keys",
                keys=[{"parameter": "layer0.position", "frames": [frame]}],
                **case["way"],
            )
            (moved,) = [key for key in made.scenes[0].layers[0].position.keys if key.frame != 200]
            self.assertEqual((moved.frame, list(moved.value)), (case["to"][0], case["to"][1]), case)


class Scripts(unittest.TestCase):
    def run_it(self, *command: str) -> None:
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stdout[-4000:] + done.stderr[-2000:])

    @unittest.skipIf(NODE is None, "Node is not here: the scripts' own tests were left out (only tests need it)")
    def test_the_scripts_own_tests(self) -> None:
        self.run_it("node", "--test", *sorted(str(path) for path in (ROOT / "tests/scripts").glob("*.test.mjs")))

    @unittest.skipIf(not (ROOT / "node_modules/eslint").exists(), "ESLint is not here: `make assets` brings it")
    def test_the_scripts_style(self) -> None:
        self.run_it("node", "node_modules/eslint/bin/eslint.js", "jaunty_lever/web/static/js", "tests/scripts")

    @unittest.skipIf(not (ROOT / "node_modules/prettier").exists(), "Prettier is not here: `make assets` brings it")
    def test_the_scripts_and_styles_layout(self) -> None:
        self.run_it(
            *("node", "node_modules/prettier/bin/prettier.cjs", "--check"),
            *("jaunty_lever/web/static/js", "tests/scripts", "assets", "eslint.config.mjs"),
        )

    def test_the_templates_layout(self) -> None:
        self.run_it(sys.executable, "-m", "djlint", "--check", "--lint", "--quiet", "jaunty_lever/web/templates")

    @unittest.skipIf(not (ROOT / "node_modules/typescript").exists(), "TypeScript is not here: `make assets` brings it")
    def test_the_scripts_types(self) -> None:
        for path in (ROOT / "jaunty_lever/web/static/js").rglob("*.js"):
            self.assertTrue(path.read_text(encoding="utf-8").startswith("// @ts-check\n"), path)
        # What knows nobody else is held to all that the checker can ask; the rest to most of it.
        for settings in ("tsconfig.json", "tsconfig.strict.json"):
            with self.subTest(settings):
                self.run_it("node", "node_modules/typescript/bin/tsc", "-p", settings)

    def test_the_types_of_edits_are_those_of_the_models(self) -> None:
        kinds = page_schema()["$defs"]["Edit"]["properties"]["kind"]["enum"]
        made = (ROOT / "assets/types/models.d.ts").read_text(encoding="utf-8")
        self.assertEqual([kind for kind in kinds if f'"{kind}"' not in made], [], "run `make assets`")
