"""Runs every test and closes with one line that counts them: python -m tests [names].

Random cases are the same ones in every run, so that a run says something about the change and not about
its luck; EXPLORE=1 looks at new ones.
"""

import os
import sys
import unittest
from pathlib import Path

import hypothesis

from jaunty_lever.web.warm import prepare

hypothesis.settings.register_profile("same", derandomize=True, database=None, deadline=None)
hypothesis.settings.register_profile("explore", print_blob=True, deadline=None)
hypothesis.settings.load_profile("explore" if os.environ.get("EXPLORE") else "same")


def main() -> int:
    """0 when everything passed."""
    # No server that a test starts has to compile while a browser waits for its first page.
    prepare()
    loader = unittest.TestLoader()
    if sys.argv[1:]:
        suite = loader.loadTestsFromNames(sys.argv[1:])
    else:
        suite = loader.discover(str(Path(__file__).parent), top_level_dir=str(Path(__file__).parent.parent))
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    wrong = [case for case, _ in result.failures + result.errors] + result.unexpectedSuccesses
    failed = len({case.id().split(" ")[0] for case in wrong})
    skipped = len(result.skipped)
    print(f"tests: {result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main())
