"""Runs every test and closes with one line that counts them: python -m tests [names]."""

import sys
import unittest
from pathlib import Path


def main() -> int:
    """0 when everything passed."""
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
