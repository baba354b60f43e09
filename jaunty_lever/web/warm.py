"""Compiles the kernels, so that no artist waits for them: once after installation, and what is left at each start."""

import os
import sys
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from functools import partial
from multiprocessing import get_context
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.demo import demo_project

_LANGUAGE = (
    "osc(t) + tri(t) + saw(t) + square(t) + wrap(t, 0, 1) + fold(t, 0, 1) + round(t, 0.5) + remap(t, 0, 1, 0, 2) "
    "+ noise(t) + random(t)"
)
#: Rates that jump and bend: what tells their pieces, and what integrates them.
_RATES: tuple[list[dict[str, Any]], ...] = (
    [{"kind": "wave", "id": "a1"}, {"kind": "round", "id": "a2", "step": 5}],
    [{"kind": "bounce", "id": "b1", "when": "drop", "height": 5}],
    [{"kind": "formula", "id": "c1", "text": _LANGUAGE}],
)


def _scene(*layers: dict[str, Any]) -> Scene:
    whole = [{"kind": "ellipse", "id": f"l{k}", "name": f"Warm {k}", **layer} for k, layer in enumerate(layers)]
    return Scene.model_validate({"id": "warm", "name": "Warm", "layers": whole, "length": 30})


def _used_first() -> None:
    """What every scene needs."""
    chain = [{"kind": "wiggle", "id": "a", "frequency": {"keys": [{"frame": 0, "value": 1}, {"frame": 9, "value": 2}]}}]
    up = {"rotation": {"chain": [{"kind": "wiggle", "id": "b"}]}}
    scene = _scene({"kind": "text", "rotation": {"chain": chain}}, up)
    display_list(Sampler(scene), SampleTimes.frames(30, 0, 10))


def _phases() -> None:
    """What integrals need."""
    turning = [
        {"rotation": {"chain": [{"kind": "rate", "id": f"r{k}", "rate": {"chain": rate}}]}}
        for k, rate in enumerate(_RATES)
    ]
    scene = _scene(*turning)
    for layer in scene.layers:
        Sampler(scene).sample(f"{layer.id}.rotation", np.arange(30) / 30)


def _scene_of_sample(number: int) -> str:
    scene = demo_project().scenes[number]
    display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, min(60, scene.length)))
    return scene.name


def prepare(told: Callable[[str], object] = lambda words: None) -> None:
    """Compile what the sample scenes use, by as many processes as there are processors; it is kept beside the program,
    so a second time takes a moment. The first scene goes ahead: the others need most of what it needs."""
    names = [scene.name for scene in demo_project().scenes]
    told(f"Compiling the mathematics of the sample, once: {names[0]}, 1 of {len(names)} scenes …")
    _scene_of_sample(0)
    with ProcessPoolExecutor(min(os.cpu_count() or 1, 4), get_context("spawn")) as pool:
        going = [pool.submit(_scene_of_sample, number) for number in range(1, len(names))]
        for done, one in enumerate(as_completed(going), 2):
            told(f"  {one.result()}, {done} of {len(names)}")


def rest() -> None:
    """Compile what else there is, for which nobody has to wait."""
    from .pages.help import plotted

    os.nice(19)
    _used_first()
    _phases()
    for modifier in MODIFIERS.values():
        plotted(modifier)


def warm_up() -> None:
    """Starts what every scene needs on a thread of its own; pages are served meanwhile."""
    threading.Thread(target=_used_first, name="warm-up", daemon=True).start()


if __name__ == "__main__":
    rest() if "rest" in sys.argv else prepare(partial(print, flush=True))
