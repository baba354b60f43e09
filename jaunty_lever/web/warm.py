"""Compiles the kernels, so that no artist waits for them: once after installation, and what is left at each start."""

import threading
from collections.abc import Callable

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.demo import demo_project


def _used_first() -> None:
    """What every scene needs."""
    chain = [{"kind": "wiggle", "id": "a", "frequency": {"keys": [{"frame": 0, "value": 1}, {"frame": 9, "value": 2}]}}]
    layers = [
        {"kind": "text", "id": "l", "name": "Warm", "rotation": {"chain": chain}},
        {"kind": "ellipse", "id": "m", "name": "Up", "rotation": {"chain": [{"kind": "wiggle", "id": "b"}]}},
    ]
    scene = Scene.model_validate({"id": "warm", "name": "Warm", "layers": layers})
    display_list(Sampler(scene), SampleTimes.frames(30, 0, 10))


def prepare(told: Callable[[str], object] = lambda words: None) -> None:
    """Compile what modifiers and the sample scenes use; it is kept beside the program, so a second time takes a moment."""
    from .pages.help import plotted

    told("Compiling the mathematics, once …")
    _used_first()
    for modifier in MODIFIERS.values():
        plotted(modifier)
    for scene in demo_project().scenes:
        display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, min(60, scene.length)))


def warm_up() -> None:
    """Starts what every scene needs on a thread of its own; pages are served meanwhile."""
    threading.Thread(target=_used_first, name="warm-up", daemon=True).start()


if __name__ == "__main__":
    prepare(print)
