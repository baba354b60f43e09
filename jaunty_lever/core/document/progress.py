"""How far long work is: told where it is done, heard by whoever waits for it."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class Stopped(Exception):
    """Somebody stopped the work."""


_told: ContextVar[Callable[[float], None] | None] = ContextVar("told", default=None)


@contextmanager
def heard(told: Callable[[float], None]) -> Iterator[None]:
    """Hear in shares, 0..1, how far what is done in it has come."""
    token = _told.set(told)
    try:
        yield
    finally:
        _told.reset(token)


@contextmanager
def part(low: float, high: float) -> Iterator[None]:
    """What is done in it is so much of the whole: from one share of it to another."""
    told = _told.get()
    if told is None:
        yield
        return
    with heard(lambda share: told(low + share * (high - low))):
        yield


def reached(share: float) -> None:
    """So much of the work is done, 0..1. Costs next to nothing while nobody listens."""
    told = _told.get()
    if told is not None:
        told(share)
