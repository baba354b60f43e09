"""Imports run downward only, in no circle, in every file; those too that only a type checker reads."""

import ast
import unittest
from collections.abc import Iterator
from pathlib import Path

import jaunty_lever

PACKAGE = Path(jaunty_lever.__file__).parent
ROOT = PACKAGE.parent

#: From the lowest to the topmost. What stands in a line may import what stands before it.
LAYERS = (
    "version",
    "figures",
    "loading",
    "processes",
    "core",
    "drawing",
    "formats",
    "exporters",
    "rendering",
    "importers",
    "scripting",
    "recipes",
    "storage",
    "demo",
    "web",
    "commands",
    "cli",
)
CORE = (
    "document",
    "kernels",
    "formula",
    "motion",
    "words",
    "ties",
    "older",
    "geometry",
    "arrangements",
    "gauges",
    "evaluation",
    "display",
    "soundness",
    "arrays_in_words",
    "edits",
    "checks",
    "view",
)
#: The rooms of the evaluation, with doors one way: what samples are, what is known before anything is worked out, what
#: can be asked, what works things out, who answers, and what asks.
ROOMS = (
    {"elements", "sample_times", "cache", "ragged", "resting", "fit"},
    {"structure", "listening", "readings", "graph"},
    {"steps"},
    {"plan"},
    {"upstream", "axes", "turning"},
    {"symmetry"},
    {"sampling"},
    {
        *(
            "apply",
            "breaks",
            "bringing",
            "clips",
            "context",
            "depth",
            "edges",
            "gauging",
            "noising",
            "integrals",
            "layouts",
            "lettering",
        ),
        *(
            "lines",
            "moved_outlines",
            "outlines",
            "periods",
            "placing",
            "pushing",
            "seen_in_depth",
            "spark_source",
            "sparks",
        ),
        *("taking", "traces", "walls", "zoning", "ordering"),
    },
    {"sampler"},
    {"extent", "notes", "trains"},
)
#: Layers of the core that know less than what stands below them.
ALONE = {
    "arrangements": {"geometry", "kernels"},
    "gauges": {"kernels"},
    "kernels": set[str](),
    "formula": {"document", "kernels"},
    "geometry": {"document", "kernels"},
}
#: A parameter has a chain of modifiers, whose settings are parameters: what is so in the work is so in its types.
RECURSIVE = {"jaunty_lever.core.document.parameter": {"jaunty_lever.core.document.modifier"}}
OUTSIDE = {"fastapi", "starlette", "jinja2", "sqlalchemy", "alembic", "skia", "uvicorn", "typer"}


def modules() -> dict[str, Path]:
    """Every module of the package, the tests and the benchmarks, by its dotted name."""
    found = {}
    for folder in ("jaunty_lever", "tests", "bench"):
        for path in (ROOT / folder).rglob("*.py"):
            parts = path.relative_to(ROOT).with_suffix("").parts
            found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    return found


def statements(nodes: list[ast.stmt]) -> Iterator[ast.Import | ast.ImportFrom]:
    """Import statements wherever they stand, those too that only a type checker reads."""
    for node in nodes:
        if isinstance(node, ast.Import | ast.ImportFrom):
            yield node
        for part in ("body", "orelse", "finalbody", "handlers"):
            yield from statements(getattr(node, part, []))


def imported(name: str, path: Path, known: dict[str, Path]) -> set[str]:
    """The modules that a module imports; of the package by their full names."""
    package = name.split(".") if path.name == "__init__.py" else name.split(".")[:-1]
    found = set()
    for node in statements(ast.parse(path.read_text()).body):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
            continue
        base = package[: len(package) - node.level + 1] if node.level else []
        target = ".".join([*base, *(node.module or "").split(".")]).rstrip(".")
        found |= {inner if (inner := f"{target}.{alias.name}") in known else target for alias in node.names}
    return found - {name} - RECURSIVE.get(name, set())


def layer(module: str) -> tuple[int, int] | None:
    """Where a module of the package stands; None for those that stand nowhere."""
    parts = module.split(".")
    if parts[0] != "jaunty_lever" or len(parts) < 2 or parts[1] not in LAYERS:
        return None
    inner = CORE.index(parts[2]) if parts[1] == "core" and len(parts) > 2 else -1
    return LAYERS.index(parts[1]), inner


class Imports(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.known = modules()
        cls.graph = {name: imported(name, path, cls.known) for name, path in cls.known.items()}

    def test_every_file_has_its_place_and_imports_run_downward(self) -> None:
        wrong = []
        for name, targets in self.graph.items():
            here = layer(name)
            if name.startswith("jaunty_lever.") and here is None and not name.endswith("__main__"):
                wrong.append(f"{name} stands in no layer")
            for target in targets if here else ():
                there = layer(target)
                # The core's own front door completes the models that refer to one another.
                if there is None or here is None or name == "jaunty_lever.core" or target == "jaunty_lever.core":
                    continue
                if there > here:
                    wrong.append(f"{name} imports {target}")
                allowed = ALONE.get(CORE[here[1]]) if here[0] == LAYERS.index("core") and here[1] >= 0 else None
                if (
                    allowed is not None
                    and there[0] == here[0]
                    and there[1] != here[1]
                    and CORE[there[1]] not in allowed
                ):
                    wrong.append(f"{name} imports {target}, of which its layer knows nothing")
        self.assertEqual(wrong, [])

    def test_doors_of_the_evaluation_lead_one_way(self) -> None:
        front = "jaunty_lever.core.evaluation."
        room = {name: k for k, some in enumerate(ROOMS) for name in some}
        wrong = []
        for name, targets in self.graph.items():
            if not name.startswith(front):
                continue
            here = name.removeprefix(front)
            self.assertIn(here, room, "it stands in no room")
            wrong += [
                f"{here} imports {there}"
                for target in targets
                if target.startswith(front) and room[there := target.removeprefix(front)] > room[here]
            ]
        self.assertEqual(wrong, [])

    def test_there_is_no_circle(self) -> None:
        done: set[str] = set()

        def walk(name: str, way: tuple[str, ...]) -> None:
            if name in way:
                self.fail(" → ".join([*way[way.index(name) :], name]))
            if name in done:
                return
            for target in sorted(self.graph[name]):
                if target in self.graph:
                    walk(target, (*way, name))
            done.add(name)

        for name in self.graph:
            walk(name, ())

    def test_the_core_knows_no_web_database_or_drawing(self) -> None:
        for name, targets in self.graph.items():
            if name.startswith("jaunty_lever.core"):
                self.assertEqual({target.split(".")[0] for target in targets} & OUTSIDE, set(), name)

    def test_nothing_that_runs_needs_the_tests(self) -> None:
        for name, targets in self.graph.items():
            if name.startswith("jaunty_lever"):
                self.assertEqual([one for one in targets if one.split(".")[0] in ("tests", "bench")], [], name)
