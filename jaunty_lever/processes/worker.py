"""A thread that hands work to a process beside this one, from the first piece of it on."""

import threading

from .beside import Beside


class Worker:
    """The thread and the process. What is to be done is kept by whoever is made of this, and touched only in the
    turn."""

    def __init__(self, module: str, name: str) -> None:
        """`module`: what the process runs (see `Beside`); `name`: of the thread."""
        self.beside = Beside(module)
        self._name = name
        self._turn = threading.Condition()
        self._thread: threading.Thread | None = None
        self._closed = False

    def close(self) -> None:
        """No more work: what is being done is left."""
        with self._turn:
            self._closed = True
            self._turn.notify_all()
        self.beside.close()
        if self._thread is not None:
            self._thread.join(10)

    def _wake(self) -> None:
        """Called in the turn: there is something to be done."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name=self._name, daemon=True)
            self._thread.start()
        self._turn.notify_all()

    def _work(self) -> None:
        """On the thread: whatever there is, until it is closed."""
        raise NotImplementedError
