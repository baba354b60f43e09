"""A cache of evaluated arrays, by the content hash of everything upstream."""

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass
from threading import Lock
from typing import Any, NamedTuple


@dataclass(frozen=True)
class Fault:
    """Something that makes no sense at some time: where, why, and the first time (seconds) it happens."""

    parameter: str
    modifier: str
    message: str
    time: float


class Entry(NamedTuple):
    """A remembered result, the faults found while working it out, and its size in bytes."""

    value: Any
    faults: tuple[Fault, ...]
    size: int


class Cache:
    """Least recently used entries go first once `most` bytes are held. Safe to share between threads."""

    def __init__(self, most: int = 256 << 20) -> None:
        self._most = most
        self._held = 0
        self._entries: OrderedDict[Hashable, Entry] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Hashable) -> Entry | None:
        """What is remembered under a key, if anything."""
        with self._lock:
            entry = self._entries.get(key)
            if entry is not None:
                self._entries.move_to_end(key)
            return entry

    def put(self, key: Hashable, value: Any, faults: tuple[Fault, ...], size: int) -> None:
        """Remember a value. Arrays must not be written to afterwards."""
        with self._lock:
            old = self._entries.pop(key, None)
            self._held += size - (old.size if old else 0)
            self._entries[key] = Entry(value, faults, size)
            while self._held > self._most and len(self._entries) > 1:
                self._held -= self._entries.popitem(last=False)[1].size
