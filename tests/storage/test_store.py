"""The store: history with labels, branches, copies, and starting again."""

import shutil
import tempfile
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Barrier, RLock
from time import sleep
from typing import Any
from unittest.mock import patch

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.storage import store as module
from jaunty_lever.storage.store import NotThere, Store
from tests.core.scenes import project, wiggling


class Stored(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, True)
        self.store = Store(self.folder / "test.db")
        self.addCleanup(lambda: self.store.close())
        self.store.create(project(wiggling()))

    def turn(self, value: float) -> None:
        self.store.edit(
            "p",
            EDIT.validate_python({"kind": "set value", "scene": "s", "parameter": "layer0.rotation", "value": value}),
        )

    def rotation(self) -> Any:
        return self.store.state("p").project.scenes[0].layers[0].rotation.rest

    def again(self) -> None:
        self.store.close()
        self.store = Store(self.folder / "test.db")

    def test_a_step_back_is_told_with_the_scene_where_it_is_seen(self) -> None:
        self.store.edit("p", EDIT.validate_python({"kind": "add scene", "id": "t", "name": "Tide mill"}))
        self.turn(20)
        state = self.store.state("p")
        here, there = state.project.scenes[0], state.project.scenes[1]
        self.assertEqual(state.undo_from(here.id), state.undo)
        self.assertEqual(state.undo_from(there.id), f"{state.undo}, in {here.name}")
        self.again()
        self.assertEqual(self.store.state("p").undo_from(there.id), f"{state.undo}, in {here.name}")
        self.store.undo("p")
        state = self.store.state("p")
        self.assertEqual(state.redo_from(there.id), f"{state.redo}, in {here.name}")
        self.assertEqual(state.undo_from(here.id), f"{state.undo}, in Tide mill")
        # What changes several scenes, or none, is told by itself.
        self.store.edit("p", EDIT.validate_python({"kind": "rename project", "name": "Other"}))
        self.assertEqual(self.store.state("p").undo_from(there.id), self.store.state("p").undo)

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.lists(st.sampled_from(["edit", "undo", "redo", "restart"]), max_size=25))
    def test_undo_and_redo_walk_the_history(self, steps: list[str]) -> None:
        self.store.close()
        (self.folder / "test.db").unlink()
        self.store = Store(self.folder / "test.db")
        self.store.create(project(wiggling()))
        past, future = [0], []
        for number, step in enumerate(steps, 1):
            if step == "edit":
                self.turn(number)
                past.append(number)
                future = []
            elif step == "undo" and self.store.undo("p"):
                future.append(past.pop())
            elif step == "redo" and self.store.redo("p"):
                past.append(future.pop())
            elif step == "restart":
                self.again()
            state = self.store.state("p")
            self.assertEqual(self.rotation(), past[-1])
            self.assertEqual((state.undo is None, state.redo is None), (len(past) == 1, not future))

    def test_labels_say_what_undo_and_redo_do(self) -> None:
        self.turn(40)
        self.assertEqual(self.store.state("p").undo, "Layer 0: rotation 40°")
        undone = self.store.undo("p")
        assert undone
        self.assertEqual((undone[1], undone[0].redo), ("Layer 0: rotation 40°", "Layer 0: rotation 40°"))
        self.assertEqual([label for _, label, _ in self.store.history("p")], ["Made"])

    def test_edits_of_different_things_by_two_people_both_hold(self) -> None:
        def change(k: int) -> None:
            fields = {
                "kind": "set value",
                "scene": "s",
                "parameter": ("w.amplitude", "layer0.opacity")[k % 2],
                "value": k,
            }
            self.store.edit("p", EDIT.validate_python(fields))

        with ThreadPoolExecutor(4) as pool:
            list(pool.map(change, range(40)))
        self.assertEqual(self.store.state("p").revision, 41)
        self.again()
        self.assertEqual(len(self.store.history("p")), 41)

    def all_hold(self) -> None:
        """Eight edits of eight things at once, the first of a store that has just been opened: all of them hold."""
        parameters = [f"w.{name}" for name in ("amplitude", "frequency", "octaves", "strength")]
        parameters += [f"layer0.{name}" for name in ("opacity", "rotation", "depth")]
        parameters.append("s.perspective")
        self.again()
        ready = Barrier(len(parameters))

        def change(k: int) -> None:
            ready.wait(30)
            fields = {"kind": "set value", "scene": "s", "parameter": parameters[k], "value": k + 2}
            self.store.edit("p", EDIT.validate_python(fields))

        with ThreadPoolExecutor(len(parameters)) as pool:
            list(pool.map(change, range(len(parameters))))
        self.again()
        index = self.store.state("p").project.scenes[0].index
        self.assertEqual([index.parameters[one].parameter.rest for one in parameters], [k + 2 for k in range(8)])

    def test_edits_at_once_right_after_a_start_all_hold(self) -> None:
        def slow() -> Any:
            # Whoever makes a lock of its own meanwhile has another one.
            sleep(0.02)
            return RLock()

        with patch.object(module, "RLock", slow):
            self.all_hold()

    def test_the_write_itself_proves_that_nothing_has_come_between(self) -> None:
        with patch.object(Store, "_turn", lambda store, project: RLock()), patch.object(module, "_TRIES", 50):
            self.all_hold()

    def test_a_refused_edit_leaves_no_trace(self) -> None:
        with self.assertRaises(Refused):
            self.store.edit(
                "p",
                EDIT.validate_python({"kind": "set value", "scene": "s", "parameter": "layer0.rotation", "text": "x"}),
            )
        self.assertEqual(self.store.state("p").revision, 1)

    def test_deleted_copied_and_brought_back(self) -> None:
        self.store.delete("p")
        with self.assertRaises(NotThere):
            self.store.state("p")
        self.assertEqual(self.store.entries(), [])
        self.assertEqual(self.store.restore("p"), "Project")
        copy = self.store.duplicate("p").project
        self.assertEqual((copy.name, len(self.store.entries())), ("Project 2", 2))
        self.assertNotEqual(copy.scenes[0].layers[0].id, "layer0")

    def test_old_history_is_let_go_and_undo_ends_there(self) -> None:
        kept, module.KEPT_REVISIONS = module.KEPT_REVISIONS, 20
        self.addCleanup(setattr, module, "KEPT_REVISIONS", kept)
        for value in range(1, 121):
            self.turn(value)
        steps = 0
        while self.store.undo("p"):
            steps += 1
        self.assertTrue(20 <= steps < 120, steps)
