"""Who draws the pieces: this process, or a pool of processes. A piece that is lost with its process is drawn again."""

import contextlib
import multiprocessing
import os
from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool

from jaunty_lever.core.document.progress import Stopped
from jaunty_lever.drawing.footage import decode_here
from jaunty_lever.processes.with_parent import leave_with

from .work import Piece, Work, make

Frames = tuple[int, int]
"""First, and the one after the last."""
Asked = Callable[[], bool]
"""Whether the work is to be stopped."""

TRIES = 3


class TooOften(Exception):
    """A piece could not be drawn however often it was tried."""

    def __init__(self, frames: Frames) -> None:
        self.frames = frames
        super().__init__(
            f"Frames {frames[0]} to {frames[1] - 1} could not be drawn: whoever began them was lost, {TRIES} times. "
            "Perhaps they need more memory than there is."
        )


class Runner(ABC):
    """Draws pieces of a work."""

    @property
    @abstractmethod
    def told(self) -> str:
        """Who draws, in words."""

    @abstractmethod
    def run(self, work: Work, pieces: Sequence[Frames], stop: Asked) -> Iterator[tuple[Frames, Piece]]:
        """Each piece as it is finished, in any order. Raises Stopped, TooOften, or what drawing raised."""

    @abstractmethod
    def close(self) -> None:
        """Let go of whatever it holds."""


class Here(Runner):
    """Draws in this process, one piece after the other."""

    @property
    def told(self) -> str:
        return "the program itself"

    def close(self) -> None:
        pass

    def run(self, work: Work, pieces: Sequence[Frames], stop: Asked) -> Iterator[tuple[Frames, Piece]]:
        for frames in pieces:
            if stop():
                raise Stopped
            yield frames, make(work, *frames)


def _at_first(parent: int) -> None:
    """In each process, at first."""
    leave_with(parent)
    decode_here()


class Pool(Runner):
    """Draws in processes on this machine, which are started when they are needed and go with this one."""

    def __init__(self, processes: int) -> None:
        self.processes = max(1, processes)
        self._pool: ProcessPoolExecutor | None = None

    @property
    def told(self) -> str:
        return f"{self.processes} processes on this machine" if self.processes > 1 else "a process on this machine"

    def run(self, work: Work, pieces: Sequence[Frames], stop: Asked) -> Iterator[tuple[Frames, Piece]]:
        left, lost = list(reversed(pieces)), Counter[Frames]()
        drawn: dict[Future[Piece], Frames] = {}
        try:
            while left or drawn:
                if stop():
                    raise Stopped
                # No more than are being drawn: what is given out and not begun would be counted as lost with them.
                while left and len(drawn) < self.processes:
                    frames = left[-1]
                    drawn[self._begun().submit(make, work, *frames)] = frames
                    left.pop()
                for future in wait(drawn, timeout=0.1, return_when=FIRST_COMPLETED).done:
                    frames = drawn.pop(future)
                    try:
                        yield frames, future.result()
                    except BrokenProcessPool:
                        self._let_go()
                        for gone in (frames, *drawn.values()):
                            lost[gone] += 1
                            if lost[gone] >= TRIES:
                                raise TooOften(gone) from None
                            left.append(gone)
                        drawn.clear()
                        break
        except BrokenProcessPool:
            raise TooOften(left[-1]) from None
        finally:
            if drawn:
                # What is still being drawn is of no use to anybody.
                self._let_go()

    def _begun(self) -> ProcessPoolExecutor:
        if self._pool is None:
            # Not forked: this process has threads.
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(self.processes, context, _at_first, (os.getpid(),))
        return self._pool

    def _let_go(self) -> None:
        pool, self._pool = self._pool, None
        if pool is None:
            return
        # They may be in the middle of something that nobody wants any more.
        for process in list((pool._processes or {}).values()):
            with contextlib.suppress(OSError, ValueError):
                process.terminate()
        pool.shutdown(wait=True, cancel_futures=True)

    def close(self) -> None:
        self._let_go()
