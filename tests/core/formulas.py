"""Scenes with a formula in them."""

from typing import Any

import numpy as np

from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.names import mistake_in
from jaunty_lever.core.formula.nodes import Mistake
from tests.core.scenes import apply, project, scene

TIMES = np.arange(120) / 30
LEVERS = (
    {"id": "wind", "name": "Wind", "low": 0, "high": 15, "value": 3},
    {"id": "force", "name": "Wind force!", "value": 2},
    {"id": "night", "name": "Night", "kind": "switch", "value": True},
    {"id": "sky", "name": "Sky", "kind": "colour", "value": "#204060"},
    {"id": "mode", "name": "Mode", "kind": "choice", "options": ["calm", "storm"], "value": "storm"},
)
DRUM = {"name": "Drum", "rotation": {"chain": [{"kind": "rate", "id": "r", "rate": 90}]}, "position": [3, 4]}
BUOY = {"name": "Bell buoy", "position": {"chain": [{"kind": "wave", "id": "v", "amplitude": 10}]}}


def written(text: str, field: str = "rotation", rest: Any = 5) -> Any:
    """A project whose third layer has the formula on one of its values."""
    own = {field: rest} if field != "text" else {"kind": "text", "text": rest}
    made = project(scene(DRUM, BUOY, {"name": "Float", **own}, levers=LEVERS))
    return apply(made, "write formula", parameter=f"layer2.{field}", text=text, id="f")


def values(text: str, field: str = "rotation", rest: Any = 5, times: Any = TIMES) -> Any:
    sampler = Sampler(written(text, field, rest).scenes[0])
    found = sampler.sample(f"layer2.{field}", times)
    assert not sampler.faults, sampler.faults
    return found


def mistake(text: str, spec: ParameterSpec | None = None) -> Mistake | None:
    index = scene(DRUM, BUOY, levers=LEVERS).index
    return mistake_in(text, spec or ParameterSpec("angle", 0.0, "Rotation", "°"), index, lambda _: None)


def text_of(made: Any) -> str:
    """The formula as the project keeps it."""
    text: str = made.scenes[0].index.modifiers["f"].modifier.text
    return text
