"""Reading files from outside in a process of its own, with a bound on its memory and its time.

A small file may unfold to something huge, or hold a million mistakes. Whoever else uses the program must not notice.
"""

import os
import subprocess
import sys

import orjson

from jaunty_lever.core.document.scene import Project
from jaunty_lever.processes import hold_to, leave_with

from . import project_file
from .open_json import BadFile

ALONE = 256 << 10
"""Bytes of the largest file that is read at once, without a process of its own."""
MOST_MEMORY = 3 << 30
MOST_SECONDS = 120
_BAD = 3


def read(content: bytes) -> Project:
    """The project in a file's content. Raises BadFile."""
    if len(content) <= ALONE:
        return project_file.read(content)
    try:
        done = subprocess.run(
            [sys.executable, "-m", __name__, str(os.getpid())],
            input=content,
            capture_output=True,
            timeout=MOST_SECONDS,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise BadFile(f"The file takes more than {MOST_SECONDS} seconds to read. Nothing was taken in.") from None
    if done.returncode == _BAD:
        raise BadFile(*orjson.loads(done.stdout))
    if done.returncode:
        raise BadFile("The file unfolds to more than this program can hold. Nothing was taken in.")
    # Known to be sound, and within the limits: what is left to do is short.
    return project_file.read(content)


def main() -> int:
    """Read a file from standard input; its problems, if any, go to standard output as JSON."""
    leave_with(int(sys.argv[1]))
    hold_to(MOST_MEMORY)
    try:
        project_file.read(sys.stdin.buffer.read())
    except BadFile as error:
        sys.stdout.buffer.write(orjson.dumps(list(error.problems)))
        return _BAD
    except MemoryError:
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
