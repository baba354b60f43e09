"""A process beside this one that serves it over a line: begun when it is needed, let go of at any time.

What may break down, take all memory or never end is done there: whoever asked loses the answer, and nothing else.
"""

import atexit
import os
import socket
import subprocess
import sys
import threading
from contextlib import suppress
from multiprocessing.connection import Connection
from weakref import WeakSet

_CHILD = f"{__name__.rpartition('.')[0]}.child"
_PATIENCE = 2.0
"""Seconds within which it has to go by itself when it is no longer needed."""


class Ended(Exception):
    """The process went before it had said what it was asked."""


_all: "WeakSet[Beside]" = WeakSet()


@atexit.register
def _at_the_end() -> None:
    for one in list(_all):
        one.close()


class Beside:
    """A process that runs one function of a module over and over, `serve(line)`, until its line is closed."""

    def __init__(self, module: str) -> None:
        """`module`: its name; it has a `serve` that takes a Connection and ends with an EOFError or by itself."""
        self._module = module
        self._lock = threading.Lock()
        self._begun: tuple[subprocess.Popen[bytes], Connection] | None = None
        self._closed = False
        _all.add(self)

    @property
    def process(self) -> "subprocess.Popen[bytes] | None":
        """The process, if there is one."""
        return self._begun[0] if self._begun else None

    @property
    def line(self) -> Connection | None:
        """Its line, if it is there."""
        begun = self._begun
        return begun[1] if begun is not None and begun[0].poll() is None else None

    def begin(self) -> Connection:
        """Its line; it is begun if it is not there, which takes it some seconds in which nobody need wait. Raises Ended
        once closed."""
        with self._lock:
            if self._closed:
                raise Ended
            if self._begun is None or self._begun[0].poll() is not None:
                self._forgotten()
                ours, theirs = socket.socketpair()
                with theirs:
                    # Not by what the standard library has for it: that would run the program of whoever began this once
                    # more.
                    process = subprocess.Popen(
                        [sys.executable, "-m", _CHILD, self._module, str(theirs.fileno()), str(os.getpid())],
                        pass_fds=(theirs.fileno(),),
                        stdin=subprocess.DEVNULL,
                        stdout=subprocess.DEVNULL,
                        # Who interrupts the program from a terminal means the program: it tells its own.
                        start_new_session=True,
                    )
                self._begun = process, Connection(ours.detach())
            return self._begun[1]

    def let_go(self, gently: bool = False) -> None:
        """It is no longer wanted, whatever it is at; `gently`: it may end what it has begun of its own."""
        with self._lock:
            begun = self._begun
            if begun is not None:
                if gently:
                    begun[1].close()
                    with suppress(subprocess.TimeoutExpired):
                        begun[0].wait(_PATIENCE)
                self._forgotten()

    def close(self, gently: bool = False) -> None:
        """No more work: what is being done is left."""
        self._closed = True
        self.let_go(gently)

    def _forgotten(self) -> None:
        """Called under the lock."""
        begun, self._begun = self._begun, None
        if begun is not None:
            process, line = begun
            if process.poll() is None:
                process.kill()
            process.wait()
            line.close()
