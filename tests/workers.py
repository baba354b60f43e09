"""Test cases in several processes, by class: each class is run by one process, the longest first."""

import contextlib
import importlib
import io
import multiprocessing
import os
import sys
import time
import traceback
import unittest
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from multiprocessing.connection import Connection, wait
from pkgutil import walk_packages
from typing import Any

import hypothesis

import jaunty_lever


@dataclass
class Told:
    """What came of the cases of a class."""

    ran: int = 0
    seconds: float = 0.0
    """With what the class sets up before its cases."""
    failures: list[tuple[str, str]] = field(default_factory=list)
    """The case, and what it said."""
    skipped: int = 0
    each: list[tuple[float, str]] = field(default_factory=list)
    """Seconds of each case."""


class _Timed(unittest.TestResult):
    """A result that knows how long each case took."""

    def __init__(self) -> None:
        super().__init__()
        self.each: list[tuple[float, str]] = []
        self._since = 0.0

    def startTest(self, test: unittest.TestCase) -> None:
        self._since = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        self.each.append((time.perf_counter() - self._since, test.id()))
        super().stopTest(test)


def run_here(cases: Sequence[str]) -> Told:
    """Run some cases of one class, by their ids, in this process."""
    result, since, said = _Timed(), time.perf_counter(), io.StringIO()
    with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
        unittest.defaultTestLoader.loadTestsFromNames(list(cases)).run(result)
    wrong = [(case.id(), text) for case, text in result.failures + result.errors]
    wrong += [(case.id(), "It passed, which was not expected.") for case in result.unexpectedSuccesses]
    if wrong and said.getvalue():
        wrong[-1] = (wrong[-1][0], f"{wrong[-1][1]}\nMeanwhile it was said:\n{said.getvalue()[-4000:]}")
    seconds = time.perf_counter() - since
    return Told(result.testsRun, seconds, wrong, len(result.skipped), result.each)


def set_up() -> None:
    """What a process that runs tests begins with: random cases that are the same in every run, unless one explores."""
    # Random cases draw on the numbers that stand in whatever modules are loaded: all of them, whoever was tested
    # before.
    for module in walk_packages(jaunty_lever.__path__, "jaunty_lever."):
        if not module.name.endswith("__main__") and ".migrations." not in module.name:
            importlib.import_module(module.name)
    hypothesis.settings.register_profile("same", derandomize=True, database=None, deadline=None)
    hypothesis.settings.register_profile("explore", print_blob=True, deadline=None)
    hypothesis.settings.load_profile("explore" if os.environ.get("EXPLORE") else "same")


def _work(pipe: Connection) -> None:
    """A process that runs classes as they are asked for, until it is told that there are none."""
    from tests.browser.harness import SHARED

    set_up()
    try:
        while (cases := pipe.recv()) is not None:
            try:
                pipe.send(run_here(cases))
            except Exception:
                pipe.send(Told(0, 0.0, [(cases[0], traceback.format_exc())]))
    finally:
        SHARED.close()


@dataclass
class _Worker:
    process: Any
    pipe: Connection
    group: str = ""
    since: float = 0.0


def run_all(groups: Sequence[tuple[str, Sequence[str]]], processes: int) -> Iterator[tuple[str, Told]]:
    """Run groups of cases, (name, ids) in this order, by some processes; yields what came of each when it is over.

    A process that dies fails the group it was at, and another one takes its place.
    """
    context = multiprocessing.get_context("spawn")
    waiting, workers = list(groups), []

    def begin() -> _Worker:
        mine, theirs = context.Pipe()
        process = context.Process(target=_work, args=(theirs,))
        process.start()
        theirs.close()
        return _Worker(process, mine)

    def give(worker: _Worker) -> None:
        if waiting:
            worker.group, cases = waiting.pop(0)
            worker.since = time.perf_counter()
            worker.pipe.send(list(cases))
        else:
            workers.remove(worker)
            worker.pipe.send(None)
            ended.append(worker.process)

    ended: list[Any] = []
    for _ in range(min(processes, len(waiting))):
        workers.append(begin())
        give(workers[-1])
    while workers:
        for pipe in wait([worker.pipe for worker in workers]):
            worker = next(worker for worker in workers if worker.pipe is pipe)
            try:
                told = worker.pipe.recv()
            except (EOFError, OSError):
                worker.process.join()
                text = f"The process that ran it ended with {worker.process.exitcode}."
                told = Told(1, time.perf_counter() - worker.since, [(worker.group, text)])
                workers[workers.index(worker)] = again = begin()
                yield worker.group, told
                give(again)
                continue
            group = worker.group
            # The next ones begin before anybody looks at what came of these.
            give(worker)
            yield group, told
    for process in ended:
        process.join(60)


def cases_of(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """The cases of a suite, one by one."""
    for part in suite:
        if isinstance(part, unittest.TestSuite):
            yield from cases_of(part)
        else:
            yield part


def processes_wanted() -> int:
    """How many processes run tests: two, or as many as PROCESSES says."""
    try:
        return max(1, int(os.environ.get("PROCESSES", "2")))
    except ValueError:
        sys.exit("PROCESSES is a whole number: how many processes run the tests.")
