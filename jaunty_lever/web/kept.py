"""Answers that are kept for as long as there is room, those made last."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)


class Kept(Generic[Key]):
    """The last `most` answers, by what was asked. Two who ask at once may both work it out; neither waits."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._known: OrderedDict[Key, bytes] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Key, work: Callable[[], bytes]) -> bytes:
        """What is kept, or is worked out and kept."""
        with self._lock:
            known = self._known.get(key)
        if known is None:
            known = work()
            with self._lock:
                self._known[key] = known
                while len(self._known) > self._most:
                    self._known.popitem(last=False)
        return known
