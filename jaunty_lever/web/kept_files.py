"""Files that can be made again, kept on disk within a bound: the longest unused go first."""

import contextlib
import os
from collections.abc import Callable
from pathlib import Path
from threading import Lock


class KeptFiles:
    """The files of one folder, each in a folder of that. Whatever is lost of them is made again."""

    def __init__(self, folder: Path, pattern: str, most: Callable[[], int]) -> None:
        """`pattern` matches those that are kept there; `most` tells how many bytes that may be."""
        self.folder, self._pattern, self._most, self._lock = folder, pattern, most, Lock()
        self._sizes: dict[Path, int] | None = None
        #: Bytes that are kept now.
        self.held = 0

    def get(self, path: Path) -> bytes | None:
        """What is kept at a path in the folder."""
        with contextlib.suppress(OSError):
            found = (self.folder / path).read_bytes()
            os.utime(self.folder / path)
            return found
        return None

    def bound(self, most: int) -> None:
        """Keep no more bytes than that."""
        with self._lock:
            self._known()
            self._make_room(most)

    def taken(self) -> int:
        """Bytes that are kept now."""
        with self._lock:
            self._known()
            return self.held

    def keep(self, at: Path, made: bytes) -> None:
        """Keep something at a path in the folder; what finds no room on the disk is not kept."""
        path = self.folder / at
        with self._lock:
            known = self._known()
            with contextlib.suppress(OSError):
                path.parent.mkdir(parents=True, exist_ok=True)
                beside = path.with_suffix(f".{os.getpid()}")
                try:
                    beside.write_bytes(made)
                    beside.replace(path)
                except OSError:
                    beside.unlink(missing_ok=True)
                    raise
                self.held += len(made) - known.get(path, 0)
                known[path] = len(made)
            if self.held > self._most():
                # A tenth more than needed, so that not every file has to look for room.
                self._make_room(self._most() * 9 // 10)

    def _known(self) -> dict[Path, int]:
        """The size of each, as the folder was found."""
        if self._sizes is None:
            self._sizes = {}
            for path in self.folder.glob(self._pattern):
                with contextlib.suppress(OSError):
                    self._sizes[path] = path.stat().st_size
            self.held = sum(self._sizes.values())
        return self._sizes

    def _make_room(self, most: int) -> None:
        known = self._known()
        if self.held <= most:
            return

        def used(path: Path) -> float:
            try:
                return path.stat().st_mtime
            except OSError:
                return 0.0

        for path in sorted(known, key=used):
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)
            self.held -= known.pop(path)
            if self.held <= most:
                return
