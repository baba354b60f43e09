"""How much nearer copies are brought by what pushes their position."""

import numpy as np

from ..document.protocols import Values
from ..geometry.outline import Floats
from .apply import by_state, strength_of
from .context import Incoming, ModifierContext
from .pushing import in_space_moved
from .sample_times import SampleTimes
from .sampling import Sampling


def brought(sampler: Sampling, array: str, samples: SampleTimes, before: str | None = None) -> Floats:
    """How much nearer copies are brought by the pushes of their position, or by those that stand before one of them,
    px; (elements or 1, times or 1, 1)."""
    line = sampler.line(f"{array}.copy_position")
    made: Floats = np.zeros((1, 1, 1))
    for step in line.acting():
        pushes = step.modifier
        if pushes.id == before:
            break
        zone = getattr(pushes, "zone", "")
        if not pushes.stands or not sampler.index.solid_zone(zone):
            continue

        def third(here: ModifierContext, incoming: Incoming, _: int, zone: str = zone) -> Values:
            moved = in_space_moved(here, zone, incoming.values, round(float(here.number("way")[0, 0])))
            return np.asarray(moved[..., 2:].reshape(-1, 1))

        context = ModifierContext(sampler, line, step, samples)
        nearer = by_state(context, Incoming(sampler, line, step.position, samples), third)
        made = made + samples.from_rows(strength_of(context) * nearer)
    return made
