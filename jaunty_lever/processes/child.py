"""What a process beside another one runs: a module's `serve` over its line, as long as whoever began it is there."""

import sys
from contextlib import suppress
from importlib import import_module
from multiprocessing.connection import Connection

from .with_parent import leave_with


def main(module: str, line: str, parent: str) -> None:
    """Serve until the line is closed."""
    leave_with(int(parent))
    with suppress(EOFError, OSError, KeyboardInterrupt):
        import_module(module).serve(Connection(int(line)))


if __name__ == "__main__":
    main(*sys.argv[1:])
