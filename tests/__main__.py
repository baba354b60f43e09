"""Runs every test and closes with one line that counts them: python -m tests [names].

Test cases run in two processes, by class, the longest first as the last whole run that was remembered knew them
(REMEMBER=1 keeps how long they took). Random cases are the same ones in every run, so that a run says something about
the change and not about its luck; EXPLORE=1 looks at new ones.
"""

import json
import os
import sys
import time
import unittest
from pathlib import Path

from jaunty_lever.web.warm import prepare
from tests.workers import Told, cases_of, processes_wanted, run_all

FOLDER = Path(__file__).parent
REMEMBERED = FOLDER / "seconds.json"
SLOWEST = 10


def groups_of(names: list[str]) -> tuple[dict[str, list[str]], list[tuple[str, str]]]:
    """The cases of all tests, or of some by name, by class; and what could not be loaded."""
    loader = unittest.TestLoader()
    if names:
        suite = loader.loadTestsFromNames(names)
    else:
        suite = loader.discover(str(FOLDER), top_level_dir=str(FOLDER.parent))
    groups: dict[str, list[str]] = {}
    lost = []
    for case in cases_of(suite):
        if type(case).__module__ == "unittest.loader":
            # A module that cannot be imported stands here as a case that says why.
            result = unittest.TestResult()
            case.run(result)
            lost += [(case.id(), text) for _, text in result.errors]
        else:
            groups.setdefault(f"{type(case).__module__}.{type(case).__qualname__}", []).append(case.id())
    return groups, lost


def main() -> int:
    """0 when everything passed."""
    since = time.perf_counter()
    # No process and no server that a test starts has to compile while others wait.
    prepare()
    groups, lost = groups_of(sys.argv[1:])
    known = json.loads(REMEMBERED.read_text(encoding="utf-8")) if REMEMBERED.exists() else {}
    order = sorted(groups.items(), key=lambda group: -known.get(group[0], 1.0))
    whole, took = Told(failures=lost), {}
    for name, told in run_all(order, processes_wanted()):
        took[name] = round(told.seconds, 1)
        whole.ran += told.ran
        whole.skipped += told.skipped
        whole.each += told.each
        whole.failures += told.failures
        mark = "FAILED" if told.failures else f"{told.ran} passed"
        print(f"{time.perf_counter() - since:6.0f} s  {name}: {mark}, {told.seconds:.1f} s", flush=True)
        for case, text in told.failures:
            print(f"\n{'=' * 100}\n{case}\n{text}", flush=True)
    if os.environ.get("REMEMBER"):
        REMEMBERED.write_text(json.dumps({n: s for n, s in sorted(took.items()) if s >= 1}, indent=0) + "\n", "utf-8")
    if whole.failures:
        print("\nfailed:", *sorted({case for case, _ in whole.failures}), sep="\n  ")
    print(f"\nslowest of {time.perf_counter() - since:.0f} s:")
    for seconds, case in sorted(whole.each, reverse=True)[:SLOWEST]:
        print(f"{seconds:6.1f} s  {case}")
    failed = len({case.split(" ")[0] for case, _ in whole.failures})
    print(f"tests: {whole.ran - failed - whole.skipped} passed, {failed} failed, {whole.skipped} skipped", flush=True)
    return 1 if failed or not whole.ran else 0


if __name__ == "__main__":
    sys.exit(main())
