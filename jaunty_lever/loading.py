"""Loading the program."""

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def loading() -> Iterator[None]:
    """While modules are imported, no garbage is looked for.

    Models are made by the thousand and none is let go, yet looking through them again and again takes as
    long as making them. What has been made stays out of later searches too.
    """
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        gc.enable()
        # A project is a hundred thousand small things that live long: to look for garbage each 700 of them costs more
        # than it finds.
        gc.set_threshold(20_000, 20, 20)
