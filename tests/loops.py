"""What awaits, from tests that may run beside a browser, whose own loop stands still meanwhile."""

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any


def awaited(work: Coroutine[Any, Any, Any]) -> Any:
    """What comes of a coroutine, in a loop and a thread of its own."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()
