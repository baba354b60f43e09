"""Depth: a thousand tilted cards against flat ones, and what a perspective costs where nothing lies in depth."""

from typing import Any

import skia

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import draw_on
from jaunty_lever.formats.project_file import write
from tests.browser.harness import Server

from .measure import best, line, middle
from .pages import brought_in, opened

FRAMES = 60


def _cards(many: int, tilt: bool) -> Scene:
    """Cards that turn, flat or in space, each by so much more than the one before."""
    turn = {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "3 * i + 60 * t"}]}
    flop = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "(2 * i + 40 * t, 3 * i + 60 * t)"}]}
    array: dict[str, Any] = {
        "kind": "array",
        "id": "a",
        "name": "A",
        "position": [640, 360],
        "arrangement": {"kind": "grid", "columns": 40, "rows": many // 40, "gap": [30, 27]},
        "layers": [{"kind": "rectangle", "id": "c", "name": "C", "size": [26, 22]}],
        "copy_tilt" if tilt else "copy_rotation": flop if tilt else turn,
    }
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


def town(columns: int, rows: int) -> Scene:
    """Blocks on the ground, as tall as a noise says, and a camera that goes round them."""
    tall = {"rest": 60, "chain": [{"kind": "formula", "id": "f", "text": "20 + 260 * $<g.value> ^ 2"}]}
    block = {
        "kind": "block",
        "id": "b",
        "name": "B",
        "width": 40,
        "thickness": 40,
        "stands": "on its base",
        "height": tall,
    }
    around = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "o", "text": "(20 * t, 20)"}]}
    layers: list[dict[str, Any]] = [
        {
            "kind": "array",
            "id": "t",
            "name": "T",
            "position": [640, 500],
            "by_depth": True,
            "layers": [block],
            "arrangement": {"kind": "ground", "columns": columns, "rows": rows, "gap": [60, 70]},
            "gauges": [{"kind": "noise", "id": "g", "name": "G"}],
        },
        {
            "kind": "camera",
            "id": "c",
            "name": "C",
            "position": [640, 360],
            "depth": 1400,
            "aim": [640, 420],
            "around": around,
        },
    ]
    return Scene.model_validate(
        {"id": "town-scene", "name": "S", "width": 1280, "height": 720, "length": 300, "layers": layers}
    )


def blocks() -> None:
    """The display list of two hundred blocks, and of a hundred times as many."""

    def lasts(columns: int, rows: int, frames: int) -> float:
        one, samples = town(columns, rows), SampleTimes.frames(30, 0, frames)
        return best(lambda: display_list(Sampler(one, Cache()), samples), 3) / frames

    few, many = lasts(20, 10, 60), lasts(200, 100, 4)
    line("200 blocks and a moving camera, display list a frame", f"{few * 1000:.1f} ms", "30 a second", few < 1 / 30)
    line("20,000 blocks / 200 blocks", f"{many / few:.0f} ×", "at most 110 ×", many / few <= 110)


#: Milliseconds that a frame takes to be drawn on the page's own canvas, for frames over the whole scene.
FRAMES_DRAWN = """async () => {
  const base = document.querySelector('script[type=module]').src;
  const { drawScene } = await import(base.replace('pages/bench.js', 'display/list.js'));
  const { answerAt } = await import(base.replace('pages/bench.js', 'talk/server.js'));
  const sheet = Object.assign(document.createElement('canvas'), { width: 1280, height: 720 }),
  context = sheet.getContext('2d', { willReadFrequently: true });
  const times = [];
  for (let frame = 0; frame < 120; frame += 4) {
    const start = performance.now();
    drawScene(context, answerAt(frame), frame);
    context.getImageData(0, 0, 1, 1);
    times.push(performance.now() - start);
  }
  return times;
}"""


def on_a_page(server: Server) -> None:
    """Two hundred blocks and a camera that goes round them, in Chromium."""
    project = Project(id="town", name="Town", scenes=(town(20, 10),))
    brought_in(server, write(project).encode())
    with opened(server, "/projects/town/scenes/town-scene/bench") as page:
        took = middle(page.evaluate(FRAMES_DRAWN))
        line(
            "200 blocks and a moving camera, drawn by Chromium, 1280 × 720",
            f"{took:.1f} ms",
            "30 a second",
            took < 1000 / 30,
        )


def everything() -> None:
    """All of it."""
    cards()
    flat()
    blocks()
