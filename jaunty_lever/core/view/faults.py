"""What makes no sense in a scene, for its pages."""

from typing import Any

import numpy as np

from ..checks.formulas import mistakes
from ..evaluation.graph import stations_reached
from ..evaluation.sampler import Sampler


def faults(sampler: Sampler, chosen: str | None = None) -> list[dict[str, Any]]:
    """What makes no sense at some time, each with the first frame where it happens; and `through` which modifiers of the
    chosen parameter's chain it reaches that, where it comes from elsewhere."""
    index = sampler.index
    told = _faults(sampler)
    if chosen in index.parameters:
        for one in told:
            if one["parameter"] in index.parameters and one["parameter"] != chosen:
                one["through"] = stations_reached(index, chosen, one["parameter"])
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
