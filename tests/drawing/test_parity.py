"""Skia and the browser's canvas draw the same: every kind of node, over all sample scenes, at several moments."""

import base64
import io
from typing import Any, ClassVar
from unittest import TestCase

import numpy as np
from PIL import Image

from jaunty_lever.core.display.building import described
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.display.kinds import NODE_KINDS
from jaunty_lever.core.display.node import COMMON, COMPOSITED, COMPOSITED_FIXED
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.drawing.nodes import DRAW
from jaunty_lever.formats.pictures import take_in
from tests.browser.harness import BrowserTest
from tests.drawing.composited import at_the_edges, composited
from tests.formats.made_clips import clip

NEAR, SHARE = 8, 0.98
"""How many of 255 levels a pixel may differ by, and how large a share of all pixels keeps to that."""

CANVAS = """async (frame) => {
  const { waiting } = await import(document.querySelector('script[type=module]').src.replace('pages/bench.js',
  'display/clip.js'));
  let pixels = bench.scenePixels(frame);
  // Frames of clips are fetched as large as they are drawn.
  while (waiting()) {
    await new Promise((done) => setTimeout(done, 20));
    pixels = bench.scenePixels(frame);
  }
  const canvas = Object.assign(document.createElement('canvas'), { width: bench.scene.width,
  height: bench.scene.height });
  canvas.getContext('2d').putImageData(new ImageData(pixels, bench.scene.width, bench.scene.height), 0, 0);
  return canvas.toDataURL();
}"""


def striped() -> bytes:
    """A small picture with an edge that can be told from its mirror image."""
    rows, columns = np.mgrid[0:40, 0:60]
    colours = np.stack([columns * 4, rows * 6, np.where(columns < 20, 220, 40)], axis=2).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(colours).save(out, "PNG")
    return out.getvalue()


def of_every_kind() -> Project:
    """A scene with every kind of node and fill, fading, turning, in groups, stroked and not."""
    picture, film = take_in(striped(), "stripes.png"), clip(frames=12, form="yuv444p")
    turn = {"chain": [{"kind": "rate", "id": "turn", "rate": 90}]}
    stops = [{"id": "s1", "offset": 0, "colour": "#204080"}, {"id": "s2", "offset": 100, "colour": "#f0c04080"}]
    more = [{**stop, "id": f"r{k}"} for k, stop in enumerate(stops)]
    shapes: list[dict[str, Any]] = [
        {
            "kind": "ellipse",
            "size": [90, 60],
            "fill": {"kind": "linear", "start": [-45, 0], "end": [45, 0], "stops": stops},
        },
        {
            "kind": "rectangle",
            "size": [70, 70],
            "corner": 16,
            "fill": {
                "kind": "radial",
                "radius": 50,
                "focus": {"rest": [0, 0], "chain": [{"kind": "rate", "id": "glides", "rate": [40, 25]}]},
                "stops": more,
            },
            "opacity": 60,
            "stroke": "#000000",
            "stroke_width": 6,
        },
        {"kind": "star", "rotation": turn, "fill": {"kind": "solid", "colour": "#a93c28"}},
        {"kind": "text", "text": "Quay", "font_size": 40, "fill": {"kind": "solid", "colour": "#22303c"}},
        {"kind": "line", "start": [-30, -20], "end": [30, 20], "stroke": "#1f6f78", "stroke_width": 9, "opacity": 40},
        {"kind": "gear", "teeth": 12, "module": 6, "fill": {"kind": "solid", "colour": "#8f5f12"}},
        {"kind": "path", "data": "M-30 20C-10 -40 10 -40 30 20Z", "fill": {"kind": "solid", "colour": "#3f7f88"}},
        {
            "kind": "picture",
            "picture": picture.id,
            "width": picture.width,
            "height": picture.height,
            "beyond": "nothing",
            "scale": [40, 40],
        },
        {
            "kind": "clip",
            "clip": film.id,
            "width": film.width,
            "height": film.height,
            "timing": film.timing.model_dump(),
            "ends": "again",
            "scale": [50, 50],
            "rotation": 10,
        },
        _flickering(),
        *_lines(),
        *_textures(),
    ]
    layers = [
        {**shape, "id": f"l{k}", "name": f"Layer {k}", "position": [80 + k % 4 * 110, 60 + k // 4 * 90]}
        for k, shape in enumerate(shapes)
    ]
    inner = [
        {
            **layers[k],
            "id": f"in{k}",
            "position": [k * 30, 0],
            "fill": {"kind": "solid", "colour": colour},
            "rotation": 20,
        }
        for k, colour in ((0, "#3050c0"), (2, "#c03050"))
    ]
    group = {
        "kind": "group",
        "id": "g",
        "name": "Group",
        "position": [360, 300],
        "opacity": 50,
        "scale": [120, 80],
        "layers": inner,
    }
    tiles = [
        {
            "kind": "picture",
            "id": f"t{k}",
            "name": f"Tiles {k}",
            "picture": picture.id,
            "width": picture.width,
            "height": picture.height,
            "beyond": beyond,
            "opacity": 30,
            "position": [200 + 60 * k, 200],
        }
        for k, beyond in enumerate(("repeated", "mirrored"))
    ]
    scene = {
        "id": "kinds",
        "name": "Kinds",
        "width": 480,
        "height": 400,
        "length": 60,
        "layers": [*tiles, *layers, group, *_arrays(), *_traces()],
    }
    return Project.model_validate(
        {"id": "kinds", "name": "Kinds", "pictures": [picture], "clips": [film], "scenes": [scene]}
    )


def in_depth() -> Project:
    """Every kind of node and fill, each tilted in a way of its own, and in a group and an array that are."""
    whole = of_every_kind()
    layers: list[dict[str, Any]] = []
    for k, layer in enumerate(whole.model_dump(mode="json")["scenes"][0]["layers"]):
        turns = {
            "chain": [{"kind": "rate", "id": f"tilts{k}", "rate": [9, 14]}],
            "rest": [25 - 9 * (k % 6), 12 * (k % 5) - 20],
        }
        placed = {**layer, "tilt": turns, "depth": {"rest": 15 * (k % 4) - 30}}
        if "beyond" in layer:
            placed["beyond"] = "nothing"
        if layer["kind"] in ("group", "array"):
            placed["by_depth"] = True
        layers.append(placed)
    layers += _solids()
    scene = {
        "id": "depth",
        "name": "Depth",
        "width": 480,
        "height": 400,
        "length": 60,
        "perspective": 420,
        "layers": layers,
    }
    return Project.model_validate(
        {"id": "depth", "name": "Depth", "pictures": whole.pictures, "clips": whole.clips, "scenes": [scene]}
    )


def _solids() -> list[dict[str, Any]]:
    """A floor that reaches behind the viewer, blocks and balls on the ground, a lamp, and a camera that sways."""
    swing = {"rest": [0, 0], "chain": [{"kind": "wave", "id": "sways", "amplitude": [14, 6], "frequency": 0.7}]}
    block = {
        "kind": "block",
        "id": "d-block",
        "name": "Block",
        "width": 18,
        "thickness": 18,
        "stands": "on its base",
        "height": {"rest": 20, "chain": [{"kind": "formula", "id": "d-tall", "text": "12 + 4 * i"}]},
        "stroke_width": 1,
    }
    ball = {
        "kind": "ball",
        "id": "d-ball",
        "name": "Ball",
        "radius": 11,
        "position": [0, -8],
        "depth": 16,
        "colour": "#1f6f78",
    }
    ground = {"kind": "ground", "columns": 4, "rows": 2, "gap": [44, 50]}
    return [
        {
            "kind": "rectangle",
            "id": "d-floor",
            "name": "Floor",
            "size": [900, 2400],
            "position": [240, 396],
            "tilt": [90, 0],
            "opacity": 60,
        },
        {
            "kind": "array",
            "id": "d-town",
            "name": "Town",
            "position": [240, 380],
            "arrangement": ground,
            "by_depth": True,
            "layers": [block, ball],
        },
        {
            "kind": "block",
            "id": "d-clear",
            "name": "Clear",
            "position": [420, 60],
            "width": 50,
            "height": 40,
            "thickness": 30,
            "tilt": [-24, 32],
            "colour": "#a93c2899",
        },
        {"kind": "light", "id": "d-lamp", "name": "Lamp", "position": [40, -80], "depth": 200, "colour": "#ffe8c0"},
        {
            "kind": "camera",
            "id": "d-camera",
            "name": "Camera",
            "position": [240, 200],
            "depth": 420,
            "aim": [240, 200],
            "perspective": 420,
            "around": swing,
        },
    ]


def _lines() -> list[dict[str, Any]]:
    """Lines in part, in dashes, with other ends and corners; corners rounded off; a gradient that goes round."""
    grows = {"rest": 0, "chain": [{"kind": "rate", "id": "grows", "rate": 40}]}
    stops = [{"id": "c1", "offset": 0, "colour": "#1f6f78"}, {"id": "c2", "offset": 100, "colour": "#e0b050"}]
    common = {"fill": {"kind": "none"}, "stroke_width": 7, "stroke": "#22303c"}
    return [
        {"kind": "star", "line": {"end": grows, "join": "miter", "cap": "butt"}, **common},
        {
            "kind": "star",
            "outer": 30,
            "inner": 12,
            "line": {
                "join": "miter",
                "miter": {**grows, "rest": 1, "chain": [{"kind": "rate", "id": "reaches", "rate": 2}]},
            },
            **common,
        },
        {
            "kind": "ellipse",
            "size": [80, 60],
            "line": {
                "dash": 14,
                "gap": 9,
                "offset": {**grows, "chain": [{"kind": "rate", "id": "runs"}]},
                "cap": "square",
            },
            **common,
        },
        {
            "kind": "text",
            "text": "Sea",
            "font_size": 50,
            "line": {"end": 60, "contours": "each by itself", "join": "bevel"},
            **common,
        },
        {
            "kind": "polygon",
            "radius": 44,
            "sides": 5,
            "corner": 14,
            "fill": {"kind": "conic", "angle": 30, "stops": stops},
        },
    ]


def _traces() -> list[dict[str, Any]]:
    """The ways of a point in a group that turns: whole, and as a tail that grows thin and clear and crosses itself."""
    text = "(240 + 90 * sin(360 * 1.1 * t), 330 + 40 * sin(360 * 2.3 * t))"
    dot = {
        "kind": "ellipse",
        "id": "roamer",
        "name": "Roamer",
        "size": [8, 8],
        "position": {"rest": [0, 0], "chain": [{"kind": "formula", "id": "roams", "text": text}]},
    }
    return [
        dot,
        {"kind": "trace", "id": "whole", "name": "Whole", "follows": "roamer", "stroke": "#1f6f78", "stroke_width": 2},
        {
            "kind": "trace",
            "id": "tail",
            "name": "Tail",
            "follows": "in2",
            "seconds": 0.8,
            "taper": 90,
            "fade": 80,
            "stroke_width": 12,
            "opacity": 80,
        },
        {"kind": "trace", "id": "swarm", "name": "Swarm", "follows": "as", "seconds": 0.5, "stroke_width": 3},
    ]


def _textures() -> list[dict[str, Any]]:
    """Fog that evolves, faded and turned; ridges of several colours."""
    goes_on = {"rest": 0, "chain": [{"kind": "rate", "id": "evolves", "rate": 0.7}]}
    ridges = [
        {"id": f"x{k}", "offset": 50 * k, "colour": colour}
        for k, colour in enumerate(("#102030", "#a0522d", "#ffe0a0"))
    ]
    return [
        {"kind": "texture", "size": [90, 70], "zoom": 30, "evolution": goes_on, "opacity": 70, "rotation": 20},
        {"kind": "texture", "size": [80, 80], "zoom": 24, "octaves": 2, "character": "ridged", "stops": ridges},
    ]


def _flickering() -> dict[str, Any]:
    """A shape whose outline moves, with shells inside it, that fades as one."""
    noise = {"kind": "formula", "id": "flicker", "text": "14 * noise(x / 14, y / 14 + t) * height"}
    colours = [
        {"id": f"e{k}", "offset": 100 * k, "colour": colour} for k, colour in enumerate(("#d06020", "#fff0a0c0"))
    ]
    edge = {"out": {"chain": [noise]}, "shells": 3, "about": [0, 20], "stops": colours}
    return {"kind": "ellipse", "size": [70, 90], "stroke_width": 3, "opacity": 70, "edge": edge}


def _arrays() -> list[dict[str, Any]]:
    """Copies that differ in place, size, colour and outline, that fade by themselves and as several; and an array in
    one."""

    def by(text: str, link: str) -> dict[str, Any]:
        return {"chain": [{"kind": "formula", "id": link, "text": text}]}

    star = {
        "kind": "star",
        "id": "as",
        "name": "Point",
        "points": {"rest": 5, **by("4 + i", "fa")},
        "outer": 14,
        "inner": 6,
        "stroke_width": 2,
        "rotation": {"chain": [{"kind": "rate", "id": "ra", "rate": 120}]},
        "fill": {"kind": "solid", "colour": {"rest": "#808080", **by("rgb(u, 0.4, 1 - u)", "fc")}},
    }
    ring = {
        "kind": "array",
        "id": "ar",
        "name": "Ring",
        "position": [400, 60],
        "arrangement": {"kind": "ring", "count": 7, "radius": 44},
        "later": 0.1,
        "copy_scale": {"rest": [100, 100], **by("(100, 100) * (0.6 + u)", "fs")},
        "copy_opacity": by("100 - 70 * u", "fo"),
        "layers": [star],
    }
    dots = [
        {"kind": "ellipse", "id": f"ad{k}", "name": f"Dot {k}", "size": [16, 16], "position": [6 * k, 0]}
        for k in (0, 1)
    ]
    inner = {
        "kind": "array",
        "id": "ai",
        "name": "Dots",
        "arrangement": {"kind": "row", "count": 3, "gap": [0, 14]},
        "copy_opacity": by("90 - 30 * i - 8 * outer.i", "fi"),
        "layers": dots,
    }
    outer = {
        "kind": "array",
        "id": "ao",
        "name": "Columns",
        "position": [240, 350],
        "opacity": 80,
        "arrangement": {"kind": "row", "count": {"keys": [{"frame": 0, "value": 5}, {"frame": 59, "value": 9}]}},
        "copy_rotation": by("20 * sin(90 * t + 40 * i)", "fr"),
        "layers": [inner],
    }
    return [ring, outer]


class Parity(BrowserTest):
    SCENES: ClassVar[tuple[str, ...]] = ("evening-quay", "regatta-start", "winch-house")

    def alike(self, project: Project, scene: Scene, frames: tuple[int, ...]) -> None:
        drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, scene.length))
        for frame in frames:
            data = self.page.evaluate(CANVAS, frame).split(",")[1]
            canvas = np.asarray(Image.open(io.BytesIO(base64.b64decode(data))).convert("RGB"), dtype=np.int64)
            skia = pixels(drawn, frame, Look(pictures=project.footage))[..., :3].astype(np.int64)
            near = (np.abs(canvas - skia).max(axis=2) <= NEAR).mean()
            self.assertGreaterEqual(near, SHARE, f"{scene.name}, frame {frame}")

    def test_all_sample_scenes(self) -> None:
        project = demo_project()
        for scene in project.scenes:
            with self.subTest(scene.name):
                self.open(f"/projects/lantern-quay/scenes/{scene.id}/bench")
                self.alike(project, scene, (0, scene.length // 3, scene.length * 2 // 3))

    def test_every_blend_filter_and_matte(self) -> None:
        project = composited()
        self.bring(project)
        self.open("/projects/mixed/scenes/mixed/bench")
        self.alike(project, project.scenes[0], (0,))

    def test_what_reaches_over_the_edges_of_the_stage(self) -> None:
        project = at_the_edges()
        self.bring(project)
        self.open("/projects/edges/scenes/edges/bench")
        self.alike(project, project.scenes[0], (0, 20))

    def test_every_kind_of_node_and_fill(self) -> None:
        project = of_every_kind()
        self.bring(project)
        # Pictures are fetched when they are first drawn.
        with self.page.expect_response(lambda response: "/pictures/" in response.url):
            self.open("/projects/kinds/scenes/kinds/bench")
        self.until(
            "import(document.querySelector('script[type=module]').src.replace('pages/bench.js', 'display/picture.js'))"
            ".then(({ waiting }) => !waiting())"
        )
        self.alike(project, project.scenes[0], (0, 20, 40))

    def test_everything_in_depth(self) -> None:
        project = in_depth()
        self.bring(project)
        self.open("/projects/depth/scenes/depth/bench")
        self.until(
            "import(document.querySelector('script[type=module]').src.replace('pages/bench.js', 'display/picture.js'))"
            ".then(({ waiting }) => !waiting())"
        )
        self.alike(project, project.scenes[0], (0, 20, 40))

    def test_each_interpreter_knows_every_kind(self) -> None:
        self.open("/projects/lantern-quay/scenes/evening-quay/bench")
        canvas = self.page.evaluate(
            """async () => {
              const { KINDS } = await import(document.querySelector('script[type=module]')
              .src.replace('pages/bench.js', 'display/list.js'));
              return Object.entries(KINDS).map(([kind, module]) => [kind, typeof module.draw]);
            }"""
        )
        self.assertEqual(dict.fromkeys(NODE_KINDS, "function"), dict(canvas))
        self.assertEqual(set(NODE_KINDS), set(DRAW))


class Described(TestCase):
    def test_every_channel_of_a_node_is_told_of_by_its_kind(self) -> None:
        seen = set()
        for project in (demo_project(), of_every_kind(), composited(), in_depth()):
            for scene in project.scenes:
                for node in display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, 9)).walk():
                    kind = NODE_KINDS[node.kind]
                    self.assertEqual(set(node.fixed) - {*kind.FIXED, *COMPOSITED_FIXED}, set(), node.kind)
                    for name, channel in node.channels.items():
                        told = described(kind, name)
                        seen.add((node.kind, name.partition(".")[0]))
                        self.assertIn(told.width, (None, channel.width), name)
                        self.assertIn(channel.rows.shape[0], (1, 9), name)
        wanted = {(kind, name) for kind, one in NODE_KINDS.items() for name in (*COMMON, *one.CHANNELS)}
        self.assertEqual({one for one in seen if one[1] not in COMPOSITED}, wanted)
        self.assertEqual({name for _, name in seen} & set(COMPOSITED), set(COMPOSITED))
