"""Timing helpers."""

import time
from collections.abc import Callable
from statistics import median


def best(work: Callable[[], object], rounds: int = 9) -> float:
    """The shortest of several runs, in seconds; a first run warms up."""
    work()
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def middle(times: list[float]) -> float:
    """The median."""
    return median(times)


def line(what: str, value: str, target: str = "", met: bool | None = None) -> None:
    """One printed result."""
    verdict = "" if met is None else ("  met" if met else "  MISSED")
    print(f"{what:<66} {value:>12}  {target}{verdict}", flush=True)
