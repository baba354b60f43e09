"""Processes that do not outlive whoever began them, however that one went."""

import os
import threading
import time

_OFTEN = 0.5
"""Seconds between two looks."""


def leave_with(parent: int) -> None:
    """From now on, leave when the process with that number, which began this one, is gone."""

    # A signal of the system would come when the thread is gone that began this process, which may be long before its
    # program.
    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(_OFTEN)
        os._exit(1)

    threading.Thread(target=watch, name="parent", daemon=True).start()
