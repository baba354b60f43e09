"""What makes no sense in a scene, for its pages."""

from typing import Any

import numpy as np

from ..checks.formulas import mistakes
from ..evaluation.graph import above_stations
from ..evaluation.sampler import Sampler


def faults(sampler: Sampler, chosen: str | None = None) -> list[dict[str, Any]]:
    """What makes no sense at some time, each with the first frame where it happens; and `through` which modifiers of
    the chosen parameter's chain it reaches that, where it comes from elsewhere."""
    index = sampler.index
    told = _faults(sampler)
    elsewhere = [one for one in told if one["parameter"] in index.parameters and one["parameter"] != chosen]
    if elsewhere and chosen is not None and chosen in index.parameters:
        above = above_stations(index, chosen)
        for one in elsewhere:
            one["through"] = [station for station, decides in above.items() if one["parameter"] in decides]
    return told


def _faults(sampler: Sampler) -> list[dict[str, Any]]:
    parameters = sampler.index.parameters
    wrong = {one.modifier: one for one in mistakes(sampler.scene)}
    read = [
        {
            "parameter": one.parameter,
            "modifier": one.modifier,
            "message": one.mistake.message,
            "label": one.label,
            "frame": 0,
            "text": True,
        }
        for one in wrong.values()
    ]
    return read + [
        {
            "parameter": fault.parameter,
            "modifier": fault.modifier,
            "message": fault.message,
            "label": parameters[fault.parameter].label if fault.parameter in parameters else "",
            "frame": int(np.ceil(fault.time * sampler.scene.fps - 1e-6)),
        }
        for fault in sampler.faults.values()
        if fault.modifier not in wrong
    ]
