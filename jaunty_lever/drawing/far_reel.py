"""A video file being read in a process beside this one: a decoder that breaks down takes nothing along but that
process.

The process holds the files that were read last, and of each the picture that was decoded last.
"""

import os
from collections import OrderedDict
from collections.abc import Iterator
from multiprocessing.connection import Connection
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.processes import Beside, Ended, hold_to

from .reel import BadReel, Reel, Seen

_MANY = min(2, os.cpu_count() or 1)
"""Processes: who waits for a frame of one clip does not hold up all others."""
_MOST_HELD = 16
"""Files that each of them holds."""
_MOST_MEMORY = 4 << 30
"""Bytes of address space of each."""
_PATIENCE = 30.0
"""Seconds that a decoder may take for one frame."""


class Lost(Exception):
    """The process does not have the file any more; `broke`: it went while this very file was read."""

    def __init__(self, broke: bool) -> None:
        super().__init__(broke)
        self.broke = broke


class _Decoder:
    """One of the processes, asked by one thread after the other."""

    def __init__(self) -> None:
        self.beside, self.lock = Beside(__name__), Lock()

    def asked(self, key: str, asks: str, *given: Any, content: bytes | None = None) -> Any:
        """What it answers about a file. Raises BadReel, Lost."""
        with self.lock:
            broke = False
            try:
                line = self.beside.begin()
                line.send((key, asks, given))
                if content is not None:
                    line.send_bytes(content)
                broke = True
                if not line.poll(_PATIENCE):
                    raise EOFError
                kind, told = line.recv()
                if kind == "pixels":
                    return told, line.recv_bytes()
            except (EOFError, OSError, Ended):
                self.beside.let_go()
                raise Lost(broke) from None
        if kind == "bad":
            raise BadReel(told)
        if kind == "unknown":
            raise Lost(False)
        return told


_decoders = [_Decoder() for _ in range(_MANY)]


class FarReel:
    """A Reel that is read there. Each of its methods may raise Lost; then it is of no use any more."""

    _numbers = 0
    _counting = Lock()

    def __init__(self, content: bytes, media: str) -> None:
        """Raises BadReel, Lost."""
        with FarReel._counting:
            FarReel._numbers += 1
            number = FarReel._numbers
        self._key, self._decoder = f"{number}", _decoders[number % len(_decoders)]
        self.tick: float = self._decoder.asked(self._key, "open", media, content=content)

    def packets(self) -> tuple[list[int], list[int]]:
        """As a Reel's."""
        times, alone = self._decoder.asked(self._key, "packets")
        return times, alone

    def play(self, at: int | None = None) -> Iterator[Seen]:
        """As a Reel's; only the last frame that came has pixels."""
        self._decoder.asked(self._key, "play", at)
        while (came := self._decoder.asked(self._key, "next")) is not None:
            yield Seen(came[0], came[1], None)

    def pixels(self, picture: None, width: int, height: int) -> tuple[NDArray[np.uint8], bool]:
        """Those of the frame that came last, as a Reel's."""
        clear, data = self._decoder.asked(self._key, "pixels", width, height)
        return np.frombuffer(bytearray(data), dtype=np.uint8).reshape(height, width, 4), clear


def serve(line: Connection) -> None:
    """In the process: files that are read."""
    hold_to(_MOST_MEMORY)
    held: OrderedDict[str, _Held] = OrderedDict()
    while True:
        key, asks, given = line.recv()
        try:
            if asks == "open":
                content = line.recv_bytes()
                while len(held) >= _MOST_HELD:
                    held.popitem(last=False)[1].reel.close()
                held[key] = _Held(Reel(content, *given))
                line.send(("told", held[key].reel.tick))
                continue
            if key not in held:
                line.send(("unknown", None))
                continue
            held.move_to_end(key)
            if asks == "pixels":
                pixels, clear = held[key].reel.pixels(held[key].last, *given)
                line.send(("pixels", clear))
                line.send_bytes(pixels.reshape(-1).data)
            else:
                line.send(("told", getattr(held[key], asks)(*given)))
        except BadReel as error:
            line.send(("bad", str(error)))
        except MemoryError:
            line.send(("bad", "Its frames take more memory than there is."))


class _Held:
    """A file in the process."""

    def __init__(self, reel: Reel) -> None:
        self.reel = reel
        self.last: Any = None
        self._playing: Iterator[Seen] | None = None

    def packets(self) -> tuple[list[int], list[int]]:
        return self.reel.packets()

    def play(self, at: int | None) -> None:
        self._playing = self.reel.play(at)

    def next(self) -> tuple[int, int] | None:
        seen = next(self._playing, None) if self._playing is not None else None
        if seen is None:
            return None
        self.last = seen.picture
        return seen.at, seen.lasts
