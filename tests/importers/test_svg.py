"""Drawings that come in: compared with how Chromium draws the same file, and what is told of what is not read."""

import base64
import io
import threading
import unittest
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
from PIL import Image
from playwright.sync_api import Page

import jaunty_lever
from jaunty_lever.core.document.scene import Project
from jaunty_lever.demo import demo_project
from jaunty_lever.formats import project_file, svg
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.importers import Brought, importer_for
from jaunty_lever.importers.drawings import added
from tests.browser.harness import SHARED
from tests.exporters.taken_out import Pixels, drawn, taken_out

FOLDER = Path(__file__).parent / "drawings"

#: What is told of each file that comes in, in order; nothing of those that are not named here.
TOLD = {
    "elsewhere": ["Pictures in other files", "Things that lie in other files", "@font-face", "@import"],
    "larger-than-a-scene": ["20,000 × 16,000; it comes in smaller"],
    "mistaken-paths": ["Shapes that make no sense"],
    "no-numbers": ["Shapes that make no sense: Its path lies too far out (2)", "Transforms", "path data", "too large"],
    "not-read": ["Patterns", "Markers", "Pages within", "Texts along paths", "Animations", "<video>"],
    "pictures-that-are-none": ["Pictures that cannot be read (2)", "Pictures of a kind"],
    "scripts": ["Scripts: they are never run"],
    "strokes-not-read": [
        "Patterns",
        "(<feTurbulence>)",
        "Clips told by CSS",
        "Gradients that repeat",
        "The blend mode hue",
    ],
    "texts-not-read": [
        "Letters that are turned",
        "Texts that run downwards",
        "Texts that run to the left",
        "Fonts narrower",
    ],
    "uses-of-itself": ["Uses of what is not there, or of themselves (4)"],
}
#: Files that are refused, and what is said.
REFUSED = {
    "a-billion-uses": "more than 1,980 layers",
    "a-page": "it begins with <html>",
    "cut-off": "Perhaps it was cut off",
    "entity-bomb": "defines entities of its own",
    "entity-from-outside": "defines entities of its own",
    "nothing-in-it": "Nothing is drawn in this SVG",
}
#: Where what is told cannot look as it does there, or a browser draws what is no number its own way.
OTHERWISE = {"not-read", "no-numbers", "strokes-not-read", "texts-not-read"}
#: Letters are little else than edges.
LETTERS = {"texts", "texts-dressed"}


def brought(content: bytes, name: str = "drawing.svg") -> Brought:
    return importer_for(content).read(content, name)


def whole(came: Brought) -> Project:
    assert isinstance(came.thing, Project)
    return came.thing


def on_white(picture: Pixels) -> Pixels:
    over = picture[..., 3:].astype(np.float64) / 255
    made: Pixels = (picture[..., :3] * over + 255 * (1 - over)).round().astype(np.uint8)
    return made


class Compared(unittest.TestCase):
    """Every file of the folder."""

    page: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = SHARED.browser().new_page(locale="en-US")
        cls.addClassCleanup(cls.page.close)
        letters = Path(jaunty_lever.__file__).parent / "web/static/fonts/instrument-sans-latin.woff2"
        cls.font = base64.b64encode(letters.read_bytes()).decode()

    def seen(self, file: Path, wide: int, high: int) -> Pixels:
        self.page.set_viewport_size({"width": wide, "height": high})
        self.page.goto(file.as_uri())
        self.page.evaluate(
            """async (data) => { const font = new FontFace("Instrument Sans",
                `url(data:font/woff2;base64,${data})`, { weight: "400 700" });
            document.fonts.add(await font.load()); await document.fonts.ready; }""",
            self.font,
        )
        return np.asarray(Image.open(io.BytesIO(self.page.screenshot())).convert("RGB"))

    def test_a_drawing_looks_as_a_browser_draws_it(self) -> None:
        files = [file for file in sorted(FOLDER.glob("*.svg")) if file.stem not in REFUSED]
        self.assertGreater(len(files) + len(REFUSED), 75)
        for file in files:
            with self.subTest(file.stem):
                came = brought(file.read_bytes(), file.name)
                told = TOLD.get(file.stem, [])
                self.assertEqual(len(came.remarks), len(told), came.remarks)
                for part in told:
                    self.assertTrue(any(part in said for said in came.remarks), (part, came.remarks))
                # What has come in is a project like any other.
                self.assertEqual(project_file.read(project_file.write(whole(came)).encode()), came.thing)
                if file.stem in OTHERWISE:
                    continue
                ours = on_white(drawn(whole(came), 0, transparent=True))[:800, :800]
                theirs = self.seen(file, ours.shape[1], ours.shape[0])
                off = np.abs(ours.astype(int) - theirs).max(axis=2)
                # The two smooth edges in ways of their own.
                self.assertGreater((off <= 8).mean(), 0.94 if file.stem in LETTERS else 0.98)
                self.assertGreater((off <= 80).mean(), 0.99 if file.stem in LETTERS else 0.998)

    def test_what_a_scene_draws_comes_in_as_it_was(self) -> None:
        project = demo_project()
        for one in project.scenes:
            alone = project.changed(scenes=(one,))
            came = whole(brought(taken_out(alone, "svg-frame", frame=40)))
            off = np.abs(drawn(came, 0).astype(int) - drawn(alone, 40)).max(axis=2)
            # Frames of clips are drawn as small as they are shown, and go out as large as they are.
            self.assertGreater((off <= 8).mean(), 0.99 if project.clips and _plays(one) else 0.999, one.name)


def _plays(one: Any) -> bool:
    """Whether a scene shows clips."""
    return any(layer.kind == "clip" for layer in one.index.layers.values())


class Traps(unittest.TestCase):
    def refused(self, content: bytes) -> str:
        with self.assertRaises(BadFile) as caught:
            brought(content)
        return str(caught.exception)

    def test_what_cannot_come_in_says_why(self) -> None:
        for name, said in REFUSED.items():
            self.assertIn(said, self.refused((FOLDER / f"{name}.svg").read_bytes()), name)
        self.assertIn("empty", self.refused(b" \n"))
        self.assertIn("of no kind", self.refused(b"\x89PNG\r\n"))
        self.assertIn("more than 200,000 elements", self.refused(b'<svg xmlns="a">' + b"<g/>" * 200_001 + b"</svg>"))
        self.assertIn("of up to 30 MB", self.refused(b"<svg>" + b" " * svg.MOST_BYTES))

    def test_nothing_is_fetched(self) -> None:
        asked: list[str] = []

        class Heard(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                asked.append(self.path)
                self.send_error(404)

        server = HTTPServer(("127.0.0.1", 0), Heard)
        self.addCleanup(server.server_close)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.shutdown)
        content = (FOLDER / "elsewhere.svg").read_bytes()
        brought(content.replace(b"127.0.0.1:9", b"127.0.0.1:%d" % server.server_port))
        self.assertEqual(asked, [])

    def test_what_lies_too_deep_is_left_out_and_the_rest_comes_in(self) -> None:
        deep = b"<g>" * 10_000 + b'<rect width="9" height="9"/>' + b"</g>" * 10_000
        came = brought(b'<svg xmlns="http://www.w3.org/2000/svg">' + deep + b'<circle r="9"/></svg>')
        self.assertEqual(came.remarks, ("Groups more than 100 deep: what is in them",))
        self.assertEqual(len(whole(came).scenes[0].layers), 1)

    def test_sheets_of_many_rules_are_read_up_to_a_limit(self) -> None:
        many = b"".join(b".a%d{fill:red}" % k for k in range(3000))
        came = brought(
            b'<svg xmlns="http://www.w3.org/2000/svg"><style>' + many + b'</style><rect width="5" height="5"/></svg>'
        )
        self.assertEqual(came.remarks, ("Style sheets: more than 2,000 selectors",))


class Layers(unittest.TestCase):
    def test_groups_and_their_names_come_along(self) -> None:
        one = whole(brought((FOLDER / "names.svg").read_bytes(), "signs/quay sign.svg")).scenes[0]
        self.assertEqual((one.name, one.width, one.height), ("quay sign", 200, 160))
        [sign] = one.layers
        self.assertEqual([layer.name for layer in sign.layers], ["The mast", "<b>"])
        mast, other = sign.layers
        self.assertEqual([layer.name for layer in mast.layers], ["Rect", "Flag"])
        # A group turns about the middle of what it holds.
        self.assertEqual((mast.pivot.rest, mast.position.rest), ((40, 50), (40, 50)))
        self.assertEqual((other.pivot.rest, other.position.rest), ((10, 10), (110, 10)))

    def test_shapes_stay_what_they_are(self) -> None:
        one = whole(brought((FOLDER / "rounded.svg").read_bytes())).scenes[0]
        kinds = [layer.kind for layer in one.layers[0].layers]
        self.assertEqual(kinds, ["rectangle", "rectangle", "path", "path"])
        self.assertEqual(one.layers[0].layers[1].corner.rest, 20)

    def test_what_is_the_same_by_either_rule_stays_as_it_was_written(self) -> None:
        rings = "M10 10h40v40h-40z M60 10h20l-10 30z"
        content = f'<svg xmlns="http://www.w3.org/2000/svg"><path fill-rule="evenodd" d="{rings}" stroke="#333"/></svg>'
        [one] = whole(brought(content.encode())).scenes[0].layers[0].layers
        self.assertEqual((one.kind, one.data, one.stroke_width.rest), ("path", rings, 1))

    def test_what_is_no_value_is_told_by_what_it_is_of(self) -> None:
        drawing = svg.read(b'<svg xmlns="http://www.w3.org/2000/svg"><rect id="Mast" width="5" height="9"/></svg>')
        drawing.layers[0]["stroke_width"] = float("nan")
        with self.assertRaises(BadFile) as caught:
            added(drawing, "s")
        self.assertEqual(
            str(caught.exception),
            "It draws what no layer can have: the stroke width of “Mast” is no value that can be drawn. Leave "
            "it out of the "
            "drawing, or simplify it.",
        )

    def test_more_shapes_than_layers_are_joined_where_that_shows_nowhere(self) -> None:
        side = 3000
        bars = "".join(
            f'<path d="{"m" if k % 2 else "M"}{k % 100 * 8 + 4} {k // 100 * 12 + 4}h5v5z" '
            f'fill="{"#a03020" if k % 300 < 150 else "#205060"}"/>'
            for k in range(side)
        )
        content = f'<svg xmlns="http://www.w3.org/2000/svg" width="808" height="372">{bars}</svg>'.encode()
        came = brought(content)
        self.assertIn("It draws 3,000 shapes", came.remarks[0])
        [group] = whole(came).scenes[0].layers
        self.assertEqual(len(group.layers), 20)
        self.assertEqual(group.layers[0].name, "150 shapes")
        picture = on_white(drawn(whole(came), 0, transparent=True))
        # All of them are there: each has 12.5 px, and no other colour than theirs is in them.
        self.assertAlmostEqual((255.0 - picture[..., 1]).sum() / (255 - 0x48) / 12.5 / side, 1, delta=0.07)
        self.assertLess(picture[5, 8, 1], 60)


if __name__ == "__main__":
    unittest.main()
