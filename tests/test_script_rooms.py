"""Where the scripts of the pages stand, and that each folder knows only those before it."""

import re
import unittest
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

JS = Path(__file__).resolve().parent.parent / "jaunty_lever/web/static/js"

#: What each folder may know besides itself. What draws knows nobody whom one could ask.
KNOWS = {
    "lib": set[str](),
    "talk": {"lib"},
    "display": {"lib"},
    "stage": {"lib", "talk", "display"},
    "chain": {"lib", "talk", "display", "stage"},
    "board": {"lib", "talk"},
    "sheets": {"lib", "talk", "stage", "chain"},
    "lists": {"lib", "talk", "display", "board", "sheets"},
    "pages": {"lib", "talk", "display", "stage", "chain", "board", "sheets", "lists"},
}
_IMPORT = re.compile(r"""^(?:import|export)\b[^;"']*["'](\.[^"']+)["']|\bimport\(["'](\.[^"']+)["']\)""", re.MULTILINE)


def scripts() -> dict[str, set[str]]:
    """What each script imports, both as paths from the folder of all."""
    found = {}
    for path in JS.rglob("*.js"):
        named = (one or other for one, other in _IMPORT.findall(path.read_text(encoding="utf-8")))
        targets = {(path.parent / name).resolve() for name in named}
        found[path.relative_to(JS).as_posix()] = {t.relative_to(JS).as_posix() for t in targets if t.is_relative_to(JS)}
    return found


class Layout(unittest.TestCase):
    def test_no_line_of_a_script_a_style_or_a_template_is_longer_than_120(self) -> None:
        web = JS.parent.parent
        ours = [*JS.rglob("*.js"), *(web / "templates").rglob("*.html")]
        ours += [path for path in (web.parent.parent / "assets").rglob("*") if path.suffix in (".css", ".mjs", ".js")]
        self.assertGreater(len(ours), 100)
        lines = ((path, k, line) for path in ours for k, line in enumerate(path.read_text("utf-8").splitlines(), 1))
        self.assertEqual([f"{path.name}:{k}" for path, k, line in lines if len(line) > 120], [])


class Rooms(unittest.TestCase):
    def test_every_script_stands_in_a_folder_and_knows_only_those_before_it(self) -> None:
        wrong = []
        for name, targets in scripts().items():
            folder = name.partition("/")[0]
            if "/" not in name or folder not in KNOWS:
                wrong.append(f"{name} stands in no folder")
                continue
            for target in targets:
                there = target.partition("/")[0]
                if there != folder and there not in KNOWS[folder]:
                    wrong.append(f"{name} imports {target}")
        self.assertEqual(sorted(wrong), [])

    def test_no_script_knows_one_that_knows_it(self) -> None:
        try:
            TopologicalSorter(scripts()).prepare()
        except CycleError as error:
            self.fail(" → ".join(error.args[1]))
