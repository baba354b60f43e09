"""Outlines that move point by point, against what must be written at the least."""

from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import copies_at

from .measure import best, line

FRAMES = 300


def outline(points: int) -> Scene:
    """A circle of so many points, each moved by two octaves of noise."""
    wiggle = {"kind": "wiggle", "id": "w", "over": "each its own", "amplitude": 12, "frequency": 1, "octaves": 2}
    layer: dict[str, Any] = {
        "kind": "ellipse",
        "id": "a",
        "name": "A",
        "size": [points * 6 / np.pi - 0.01] * 2,
        "edge": {"out": {"chain": [wiggle]}},
    }
    return Scene.model_validate({"id": "s", "name": "S", "length": FRAMES, "layers": [layer]})


def everything() -> None:
    """What edges cost: their values, and with the curves through them; at three times as many points."""
    frames = SampleTimes.frames(30, 0, FRAMES)

    def values(scene: Scene) -> None:
        sampler = Sampler(scene, Cache())
        sampler.evaluate("a.edge.out", copies_at(sampler, "a", frames))

    took = {}
    for points in (600, 1_800):
        scene = outline(points)
        took[points] = best(lambda one=scene: values(one), 40)  # type: ignore[misc]
    rows = np.random.default_rng(1).random((FRAMES, 600, 2))
    into = np.empty_like(rows)
    bare = best(lambda: np.copyto(into, rows), 40)
    whole = best(lambda: display_list(Sampler(outline(600), Cache()), frames), 9)
    ratio = took[600] / bare
    line("An outline of 600 points, two octaves, 300 frames / copyto", f"{ratio:.1f} ×", "at most 8 ×", ratio <= 8)
    line("The same with its curves, ready to be drawn / copyto", f"{whole / bare:.1f} ×", "told", None)
    grown = took[1_800] / took[600]
    line("1,800 points / 600", f"{grown:.1f} ×", "at most 3.6 ×", grown <= 3.6)
