"""Ordered steps, such as the modifiers of a chain and the filters of a layer."""

from typing import TypeVar

Step = TypeVar("Step")


def put_in(steps: tuple[Step, ...], step: Step, position: int | None) -> tuple[Step, ...]:
    """Steps with one more at a position, at the end when none is given."""
    at = len(steps) if position is None else min(max(position, 0), len(steps))
    return (*steps[:at], step, *steps[at:])


def put_elsewhere(steps: tuple[Step, ...], position: int, to: int) -> tuple[Step, ...]:
    """Steps with the one at a position at another one."""
    left = list(steps)
    left.insert(min(max(to, 0), len(left) - 1), left.pop(position))
    return tuple(left)
