"""Depth: a thousand tilted cards against flat ones, and what a perspective costs where nothing lies in depth."""

from typing import Any

import skia

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import draw_on

from .measure import best, line

FRAMES = 60


def _cards(many: int, tilt: bool) -> Scene:
    """Cards that turn, flat or in space, each by so much more than the one before."""
    turn = {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "3 * i + 60 * t"}]}
    flop = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "(2 * i + 40 * t, 3 * i + 60 * t)"}]}
    array: dict[str, Any] = {
        "kind": "array", "id": "a", "name": "A", "position": [640, 360],
        "arrangement": {"kind": "grid", "columns": 40, "rows": many // 40, "gap": [30, 27]},
        "layers": [{"kind": "rectangle", "id": "c", "name": "C", "size": [26, 22]}],
        "copy_tilt" if tilt else "copy_rotation": flop if tilt else turn,
    }  # fmt: skip
    return Scene.model_validate(
        {"id": "s", "name": "S", "width": 1280, "height": 720, "length": 300, "perspective": 900, "layers": [array]}
    )


def cards() -> None:
    """Evaluation and drawing of a thousand cards, and of ten times as many."""
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(1280, 720, skia.ColorSpace.MakeSRGB()))
    canvas = surface.getCanvas()

    def lasts(many: int, tilt: bool) -> tuple[float, float]:
        scene, samples = _cards(many, tilt), SampleTimes.frames(30, 0, FRAMES)
        evaluated = best(lambda: display_list(Sampler(scene, Cache()), samples), 3)
        drawn = display_list(Sampler(scene), samples)

        def paint() -> None:
            for frame in range(FRAMES):
                canvas.resetMatrix()
                draw_on(canvas, drawn, frame)

        return evaluated, best(paint, 3)

    (flat_made, flat_drawn), (made, drawn) = lasts(1000, False), lasts(1000, True)
    ratio = (made + drawn) / (flat_made + flat_drawn)
    line("1,000 tilted cards / the same flat", f"{ratio:.2f} ×", "at most 3 ×", ratio <= 3)
    line("  their display list, their drawing", f"{made / flat_made:.2f} ×, {drawn / flat_drawn:.2f} ×", "", True)
    more = sum(lasts(10_000, True)) / (made + drawn)
    line("  ten times as many", f"{more:.1f} ×", "at most 11 ×", more <= 11)


def flat() -> None:
    """Evening quay with a perspective and nothing in depth, against itself without."""
    scene = demo_project().scenes[0]
    lensed = scene.changed(perspective=scene.perspective.changed(rest=900.0))
    samples = SampleTimes.frames(30, 0, 120)
    bare, with_lens = (best(lambda one=one: display_list(Sampler(one, Cache()), samples), 5) for one in (scene, lensed))
    line(
        "A perspective and nothing in depth / none",
        f"{with_lens / bare:.3f} ×",
        "at most 1.02 ×",
        with_lens / bare <= 1.02,
    )


def everything() -> None:
    """All of it."""
    cards()
    flat()
