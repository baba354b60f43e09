"""Rescue: what is saved of databases that are cut off, overwritten, full of garbage, or were left in the middle of a
write."""

import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.formats import project_file, recipe_file
from jaunty_lever.recipes import ready
from jaunty_lever.storage.pages import Pages
from jaunty_lever.storage.rescue import Rescued, rescue
from jaunty_lever.storage.store import Store
from tests.core.scenes import project, wiggling
from tests.storage.test_opening import Folder, turned

PAGE = 4096


class Damage(Folder):
    def setUp(self) -> None:
        super().setUp()
        store = self.store()
        for name in "abc":
            store.create(project(wiggling()).changed(id=name, name=f"Project {name}"))
            for value in range(1, 21):
                store.edit(name, turned(value))
        self.recipe = recipe_file.write(next(iter(ready().values()))).encode()
        store.keep_recipe("mine", "Mine", self.recipe)
        store.close()
        self.whole = self.path.read_bytes()

    def saved(self, content: bytes) -> tuple[Rescued, dict[str, float]]:
        """What comes of a rescue of a database with this content; the values of the projects that were saved, by
        name."""
        self.path.write_bytes(content)
        out = Path(tempfile.mkdtemp(dir=self.folder))
        found = rescue(self.path, out)
        assert found.aside
        self.assertEqual(found.aside.read_bytes(), content)
        made = {}
        for file in found.files:
            if file.name.endswith(project_file.ENDING) and not file.name.endswith(recipe_file.ENDING):
                read: Any = project_file.read(file.read_bytes())
                made[read.id] = read.scenes[0].layers[0].rotation.rest
        return found, made

    def test_whole_it_loses_nothing(self) -> None:
        found, values = self.saved(self.whole)
        self.assertEqual((values, found.lost), (dict.fromkeys("abc", 20), []))
        (recipe,) = [file for file in found.files if file.name == f"Mine{recipe_file.ENDING}"]
        self.assertEqual(recipe.read_bytes(), self.recipe)

    def test_cut_off_by_a_page(self) -> None:
        found, values = self.saved(self.whole[:-PAGE])
        # The newest revisions of the last project stood there.
        self.assertEqual((values["a"], values["b"]), (20, 20))
        self.assertGreater(values["c"], 0)
        self.assertIn("4,096 bytes", found.lost[0])
        self.assertIn(
            "Project c: its newest revision is not there. It is saved as it was before, at “Layer 0: rotation "
            f"{values['c']:g}°”",
            found.lost[1],
        )

    def test_its_first_bytes_are_overwritten(self) -> None:
        for lost in (16, 100, PAGE):
            _, values = self.saved(b"\xaa" * lost + self.whole[lost:])
            self.assertEqual(values, dict.fromkeys("abc", 20), lost)

    def test_pages_of_garbage_cost_what_stood_there(self) -> None:
        pages = len(self.whole) // PAGE
        for seed in range(12):
            chosen = random.Random(seed)
            content = bytearray(self.whole)
            for page in chosen.sample(range(pages), pages // 4):
                content[page * PAGE : (page + 1) * PAGE] = chosen.randbytes(PAGE)
            found, values = self.saved(bytes(content))
            for name in "abc":
                # Saved as it stood, or told.
                if values.get(name) != 20:
                    self.assertTrue(any(name in lost for lost in found.lost), (seed, name, found.lost))
            self.assertTrue(values, seed)

    def test_what_was_undone_or_deleted_stays_so(self) -> None:
        store = self.store()
        store.undo("a")
        store.undo("a")
        store.delete("b")
        store.close()
        _, values = self.saved(self.path.read_bytes())
        self.assertEqual(values, {"a": 18, "c": 20})

    def test_what_was_written_last_stands_in_the_log_alone(self) -> None:
        code = (
            "import os, signal, sys; from pathlib import Path; from jaunty_lever.storage.store import Store; "
            "from tests.storage.test_opening import turned; store = Store(Path(sys.argv[1])); "
            "[store.edit('a', turned(value)) for value in (70, 77)]; os.kill(os.getpid(), signal.SIGKILL)"
        )
        done = subprocess.run([sys.executable, "-c", code, str(self.path)], timeout=120, check=False)
        self.assertEqual(done.returncode, -signal.SIGKILL)
        log = self.path.with_name(self.path.name + "-wal")
        self.assertGreater(log.stat().st_size, 0)
        _, values = self.saved(b"\0" * 100 + self.path.read_bytes()[100:])
        self.assertEqual(values["a"], 77)

    def test_half_a_page_at_the_end_of_the_log_was_never_kept(self) -> None:
        store = self.store()
        store.edit("a", turned(50))
        log = self.path.with_name(self.path.name + "-wal")
        kept, before = log.read_bytes(), self.path.read_bytes()
        store.edit("a", turned(60))
        longer = log.read_bytes()
        store.close()
        log.write_bytes(longer[: len(kept) + 4096] if longer.startswith(kept) else kept)
        _, values = self.saved(before)
        self.assertEqual(values["a"], 50)

    def test_the_command_says_what_was_lost_and_that_it_was(self) -> None:
        def run(content: bytes) -> "subprocess.CompletedProcess[str]":
            self.path.write_bytes(content)
            command = [sys.executable, "-m", "jaunty_lever", "rescue", str(self.folder)]
            return subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)

        for content, code, said in (
            (self.whole, 0, "4 saved, 0 lost"),
            (self.whole[:-PAGE], 1, "cut off"),
            (b"garbage" * 999, 1, "0 saved, 1 lost"),
        ):
            done = run(content)
            self.assertEqual(done.returncode, code, done.stderr)
            self.assertIn(said, done.stdout + done.stderr)
            shutil.rmtree(self.folder / "rescued")

    def test_nothing_where_something_was_is_no_new_start(self) -> None:
        (self.folder / "exports").mkdir()
        self.path.write_bytes(b"")
        done = self.served()
        self.assertEqual((done.returncode, done.stdout), (1, ""))
        self.assertIn("it is empty", done.stderr)
        self.assertIn("rescue", done.stderr)
        # Beside nothing at all it is one that had only just begun.
        shutil.rmtree(self.folder / "exports")
        Store(self.path).close()


_cells = (
    st.none()
    | st.integers(-(2**63), 2**63 - 1)
    | st.floats(allow_nan=False)
    | st.text(max_size=300)
    | st.binary(max_size=300)
)


class Rows(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(
        st.sampled_from([512, 4096, 65536]),
        st.lists(st.tuples(_cells, _cells, st.integers(0, 9000)), max_size=30),
        st.booleans(),
    )
    def test_any_row_is_read_as_it_was_written(self, size: int, cells: list[Any], logged: bool) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, True)
        database = sqlite3.connect(folder / "some.db")
        database.execute(f"PRAGMA page_size = {size}")
        if logged:
            database.execute("PRAGMA journal_mode = WAL")
        database.execute("CREATE TABLE things (one, two, large)")
        rows = [(one, two, os.urandom(long)) for one, two, long in cells]
        for row in rows:
            database.execute("INSERT INTO things VALUES (?, ?, ?)", row)
            database.commit()
        wanted = database.execute("SELECT * FROM things ORDER BY rowid").fetchall()
        found = [row for _, row in Pages(folder / "some.db").rows() if len(row) == 3]
        database.close()
        self.assertEqual(sorted(map(repr, found)), sorted(map(repr, wanted)))
