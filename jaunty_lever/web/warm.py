"""Loads (and, the first time, compiles) the kernels, so that no artist waits for them."""

import threading

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sampler import Moments, Sampler
from jaunty_lever.core.evaluation.table import frame_table


def _work() -> None:
    chain = [{"kind": "wiggle", "id": "a", "frequency": {"keys": [{"frame": 0, "value": 1}, {"frame": 9, "value": 2}]}}]
    layers = [
        {"kind": "text", "id": "l", "name": "Warm", "rotation": {"chain": chain}},
        {"kind": "ellipse", "id": "m", "name": "Up", "rotation": {"chain": [{"kind": "wiggle", "id": "b"}]}},
    ]
    scene = Scene.model_validate({"id": "warm", "name": "Warm", "layers": layers})
    frame_table(Sampler(scene), Moments.frames(30, 0, 10))


def warm_up() -> None:
    """Starts the work on a thread of its own; pages are served meanwhile."""
    threading.Thread(target=_work, name="warm-up", daemon=True).start()
