"""Drawing: films against bare replay, motion blur, traces, textures."""

from typing import Any

import numpy as np
import skia

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.traces import traced
from jaunty_lever.core.kernels.parallel import over
from jaunty_lever.core.kernels.texture import clouds
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, draw, draw_on, exposure_of, images
from jaunty_lever.formats.project_file import write
from tests.browser.harness import Server

from .measure import best, line
from .pages import brought_in, middles, opened

FRAMES = 60


def _surface(scene: Scene) -> skia.Surface:
    return skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(scene.width, scene.height, skia.ColorSpace.MakeSRGB()))


def film() -> None:
    """Frames of Evening quay against the same recorded pictures replayed; and with motion blur."""
    project = demo_project()
    scene = project.scenes[0]
    look = Look(pictures=project.picture_table)
    drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, FRAMES))
    recorded = []
    for frame in range(FRAMES):
        recorder = skia.PictureRecorder()
        draw_on(recorder.beginRecording(skia.Rect.MakeWH(scene.width, scene.height)), drawn, frame, look)
        recorded.append(recorder.finishRecordingAsPicture())
    surface = _surface(scene)

    def replay() -> None:
        for picture in recorded:
            surface.getCanvas().drawPicture(picture)

    bare = best(replay, 3)
    whole = best(lambda: [None for _ in images(scene, 0, FRAMES, look)], 3)
    line(
        f"Evening quay, {FRAMES} frames / bare Skia, one core",
        f"{whole / bare:.2f} ×",
        "at most 1.2 ×",
        whole / bare <= 1.2,
    )
    swings: Any = scene.changed(motion_blur=True, least_samples=16, most_samples=16)
    sampler = Sampler(swings)
    few = FRAMES // 6
    blurred = best(lambda: [exposure_of(sampler, frame, look) for frame in range(few)], 2)
    ratio = blurred / few / (bare / FRAMES)
    line("The same with 16 samples of motion blur / bare Skia", f"{ratio:.1f} ×", "at most 17 ×", ratio <= 17)


def traces() -> None:
    """A trace of some ten thousand vertices against one stroke of the same line; its last frame against its middle."""
    text = "(640 + 300 * sin(360 * 7.3 * t), 360 + 300 * cos(360 * 8.1 * t))"
    dot = {
        "kind": "ellipse",
        "id": "p",
        "name": "P",
        "position": {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": text}]},
    }
    scene = Scene.model_validate(
        {
            "id": "s",
            "name": "S",
            "length": 300,
            "layers": [dot, {"kind": "trace", "id": "t", "name": "T", "follows": "p"}],
        }
    )
    sampler = Sampler(scene)
    trace: Any = scene.layers[1]
    made = traced(sampler, trace)
    drawn = display_list(sampler, SampleTimes.frames(30, 0, 300))
    surface = _surface(scene)
    paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=3)
    path = skia.Path()
    path.addPoly([skia.Point(float(x), float(y)) for x, y in made.points], False)
    once = best(lambda: surface.getCanvas().drawPath(path, paint), 5)
    whole = best(lambda: draw(drawn, 299), 5)
    line(
        f"A trace of {len(made.points):,} vertices / one stroke of it",
        f"{whole / once:.2f} ×",
        "at most 1.5 ×",
        whole / once <= 1.5,
    )
    took = best(lambda: traced(Sampler(scene, Cache()), trace), 3)
    line("Working it out, once for the scene", f"{took * 1e3:.0f} ms")


def textures() -> None:
    """A texture against the noise kernel for as many points."""
    layer = {"kind": "texture", "id": "t", "name": "T", "size": [640, 360], "zoom": 6, "octaves": 3}
    scene = Scene.model_validate({"id": "s", "name": "S", "length": 30, "layers": [layer]})
    frames = SampleTimes.frames(30, 0, 1)
    columns, rows = display_list(Sampler(scene), frames).nodes[0].fixed["grid"]
    settings = np.array([[640.0, 360, 6, 0, 0, 0, 0, 0.5, 1.4, 0, 1]])
    out = np.empty((1, columns * rows))
    kernel = best(lambda: over(1, clouds, settings, columns, rows, 3, 0, out), 7)
    whole = best(lambda: display_list(Sampler(scene, Cache()), frames), 7)
    line(
        f"A texture of {columns} × {rows} points, 3 octaves / its noise",
        f"{whole / kernel:.2f} ×",
        "at most 4 ×",
        whole / kernel <= 4,
    )


def everything() -> None:
    """All of it."""
    film()
    traces()
    textures()


def veils() -> Project:
    """Twenty discs, each blurred and each mixed with what lies below it."""
    blends = ("multiply", "screen", "overlay", "darken", "soft-light")
    layers = [
        {
            "kind": "ellipse",
            "id": f"v{k}",
            "name": f"Veil {k}",
            "size": [260, 180],
            "blend": blends[k % len(blends)],
            "position": [160 + 240 * (k % 5), 120 + 150 * (k // 5)],
            "fill": {"kind": "solid", "colour": f"#{40 + 10 * k:02x}80a0"},
            "rotation": {"rest": 0, "chain": [{"kind": "wave", "id": f"w{k}", "amplitude": 20}]},
            "filters": [{"kind": "blur", "id": f"f{k}", "radius": 8}],
        }
        for k in range(20)
    ]
    scene = Scene.model_validate({"id": "veils", "name": "Veils", "length": 60, "layers": layers})
    return Project(id="veils", name="Veils", scenes=(scene,))


COMPOSITED = """async () => {
  const base = document.querySelector('script[type=module]').src;
  const { drawScene } = await import(base.replace('pages/bench.js', 'display/list.js'));
  const { row } = await import(base.replace('pages/bench.js', 'lib/channels.js'));
  const answer = bench.answers.last, sheet = Object.assign(document.createElement('canvas'), { width: 1280,
  height: 720 });
  const context = sheet.getContext('2d', { willReadFrequently: true }), done = () => context.getImageData(0, 0, 1, 1);
  const BLENDS = ['source-over', 'multiply', 'screen', 'overlay', 'darken', 'lighten', 'color-dodge', 'color-burn',
  'hard-light', 'soft-light'];
  const made = answer.nodes.map((node) => {
    const points = row(node.channels['points.0'], 0), path = new Path2D(), [verbs] = node.verbs;
    let k = 0;
    for (const verb of verbs) {
      if (verb === 'M') path.moveTo(points[k], points[k + 1]), k += 2;
      else if (verb === 'C') path.bezierCurveTo(...points.slice(k, k + 6)), k += 6;
      else if (verb === 'L') path.lineTo(points[k], points[k + 1]), k += 2;
      else path.closePath();
    }
    const [r, g, b] = [...row(node.channels.colour, 0)].map((v) => Math.round(v * 255));
    return { path, place: [...row(node.channels.matrix, 0)], fill: `rgb(${r} ${g} ${b})`,
    blend: BLENDS[row(node.channels.blend, 0)[0]] };
  });
  const bare = () => {
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.fillStyle = '#fffdf8';
    context.fillRect(0, 0, 1280, 720);
    for (const { path, place, fill, blend } of made) {
      context.save();
      context.setTransform(...place);
      context.filter = 'blur(8px)';
      context.globalCompositeOperation = blend;
      context.fillStyle = fill;
      context.fill(path);
      context.restore();
    }
    done();
  };
  const ours = () => { context.setTransform(1, 0, 0, 1, 0, 0); drawScene(context, answer, answer.start); done(); };
  const ratios = [];
  for (let round = 0; round < 9; round += 1) {
    const time = (work) => { const start = performance.now(); for (let k = 0; k < 3; k += 1) work();
    return performance.now() - start; };
    time(bare); time(ours);
    const one = time(bare);
    ratios.push([time(ours) / one, one / 3]);
  }
  return ratios;
}"""


def hand(server: Server) -> None:
    """Layers with blends and filters on the stage, against the same things painted by bare calls of a canvas."""
    brought_in(server, write(veils()).encode())
    with opened(server, "/projects/veils/scenes/veils/bench?layer=v0") as page:
        ratio, bare = middles(page.evaluate(COMPOSITED))
    line(
        "20 blurred layers with blends painted",
        f"{ratio:.2f} ×",
        f"at most 1.3 × the bare calls ({bare:.1f} ms)",
        ratio <= 1.3,
    )
