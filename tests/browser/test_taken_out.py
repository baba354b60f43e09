"""What is taken out, seen by a browser: vectors and pictures that move by themselves, and the page that makes them."""

import io
import signal
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from tests.browser.harness import BrowserTest
from tests.drawing.composited import composited
from tests.exporters.taken_out import drawn, psnr, quay, taken_out

QUAY = "/projects/lantern-quay/scenes/evening-quay"


def with_layers_changed(scene: Scene, change: Callable[[Any], Any]) -> Scene:
    made: Scene = scene.changed(layers=tuple(change(layer) for layer in scene.layers))
    return made


class Files(BrowserTest):
    def seen(self) -> np.ndarray[Any, Any]:
        """The window as it stands, r g b."""
        return np.asarray(Image.open(io.BytesIO(self.page.screenshot())).convert("RGB")).astype(int)

    def test_an_animated_svg_plays_by_itself_as_the_stage_does(self) -> None:
        project = demo_project()
        exporter = EXPORTERS["svg"]
        for one in project.scenes:
            if one.id == "harbour-screens":
                # Clips stand still in vectors, which is told.
                continue
            if one.id in ("gull-flock", "mooring-posts"):
                # Hundreds of them take their time; their kind is in others.
                continue
            # A texture stays as it is at first there, which is told.
            one = with_layers_changed(
                one, lambda layer: layer.changed(hidden=True) if layer.kind == "texture" else layer
            )
            source, options, target = Source(project, one), read_options(exporter, {}), io.BytesIO()
            exporter.write(source, options, target, lambda count: None)
            path = Path(self.folder) / f"{one.id}.svg"
            path.write_bytes(target.getvalue())
            self.assertNotIn(b"<script", target.getvalue())
            self.page.set_viewport_size({"width": one.width, "height": one.height})
            self.page.goto(path.as_uri())
            for frame in np.linspace(0, one.length - 1, 10).astype(int).tolist():
                with self.subTest(one.name, frame=frame):
                    seconds = (frame + 1e-4) / one.fps
                    self.page.evaluate(
                        "document.documentElement.pauseAnimations(); "
                        f"document.documentElement.setCurrentTime({seconds})"
                    )
                    listed = display_list(Sampler(one), SampleTimes.frames(one.fps, frame, frame + 1))
                    wanted = pixels(listed, 0, Look(pictures=project.picture_table))[..., :3].astype(int)
                    off = np.abs(self.seen() - wanted).max(axis=2)
                    # Edges may lie a third of a pixel beside where they should.
                    self.assertGreater((off <= 8).mean(), 0.99)
                    self.assertGreater((off <= 80).mean(), 0.999)

    def test_blends_filters_and_mattes_look_the_same_as_svg(self) -> None:
        whole = composited()
        # What stands in arrays keeps no matte there, which is told.
        layers = tuple(one for one in whole.scenes[0].layers if one.kind != "array")
        scene = whole.scenes[0].changed(layers=layers)
        whole = whole.changed(scenes=(scene,))
        path = Path(self.folder) / "mixed.svg"
        path.write_bytes(taken_out(whole, "svg-frame", frame=0))
        self.page.set_viewport_size({"width": scene.width, "height": scene.height})
        self.page.goto(path.as_uri())
        listed = display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, 1))
        wanted = pixels(listed, 0, Look())[..., :3].astype(int)
        self.assertGreater((np.abs(self.seen() - wanted).max(axis=2) <= 8).mean(), 0.98)

    def test_one_frame_as_svg_looks_like_that_frame(self) -> None:
        whole = quay()
        path = Path(self.folder) / "frame.svg"
        path.write_bytes(taken_out(whole, "svg-frame", frame=37))
        self.page.set_viewport_size({"width": 320, "height": 180})
        self.page.goto(path.as_uri())
        self.assertGreater(psnr(self.seen().astype(np.uint8), drawn(whole, 37)[..., :3]), 38)

    def test_moving_pictures_are_pictures_for_a_browser(self) -> None:
        whole = quay(length=6)
        self.page.set_viewport_size({"width": 320, "height": 180})
        for name in ("gif", "apng", "webp"):
            with self.subTest(name):
                path = Path(self.folder) / f"moving{EXPORTERS[name].ending}"
                path.write_bytes(taken_out(whole, name, size=1, rounds=1))
                self.page.goto(path.as_uri())
                # Played once, the last frame stays.
                last = drawn(whole, 5)[..., :3]
                for _ in range(200):
                    if psnr(self.seen().astype(np.uint8), last) > 26:
                        break
                else:
                    self.fail("the last frame is never seen")


class ExportPage(BrowserTest):
    alone = True

    def test_a_film_is_chosen_in_words_drawn_left_and_fetched(self) -> None:
        page = self.open(f"{QUAY}/bench")
        page.get_by_role("link", name="Export").click()
        page.locator("[data-use='mov.1']").click()
        expect(page.locator("#export-settings h2").first).to_have_text("For a film editor, with transparency")
        expect(page.locator("[name=codec]")).to_have_value("ProRes 4444")
        expect(page.locator("[name=transparent][type=checkbox]")).to_be_checked()
        # What it will not carry is told before anything is drawn, and follows the settings.
        expect(page.locator("#export-plan")).to_contain_text("300 frames")
        page.locator("[name=codec]").select_option("ProRes 422")
        expect(page.locator("#export-plan")).to_contain_text("ProRes 422 has no transparency")
        page.locator("[name=codec]").select_option("ProRes 4444")
        expect(page.locator("#export-plan")).not_to_contain_text("has no transparency")
        page.locator("[name=size]").select_option("0.5")
        page.locator("[name=stop]").fill("39")
        page.locator("[name=stop]").press("Tab")
        expect(page.locator("#export-plan")).to_contain_text("40 frames")
        page.get_by_role("button", name="Draw the film").click()
        expect(page.locator(".job")).to_have_count(1)
        # Somewhere else meanwhile, and back.
        page.get_by_role("link", name="Curves").click()
        page.locator("[data-ready]").first.wait_for()
        page.get_by_role("link", name="Export").click()
        expect(page.locator(".job.is-done")).to_contain_text("40 frames drawn", timeout=120_000)
        with page.expect_download() as download:
            page.locator("[data-result]").click()
        self.assertEqual(download.value.suggested_filename, "Evening quay.mov")
        self.assertGreater(Path(download.value.path()).stat().st_size, 100_000)
        page.get_by_role("button", name="Remove").click()
        expect(page.locator(".job")).to_have_count(0)

    def test_a_mistake_is_told_in_the_form_and_a_drawing_can_be_stopped(self) -> None:
        page = self.open(f"{QUAY}/export?for=png-frames.0")
        page.locator("[name=stop]").fill("900")
        page.get_by_role("button", name="Draw frames").click()
        expect(page.locator("[data-error]")).to_contain_text("frames 0 to 299")
        expect(page.locator(".job")).to_have_count(0)
        page.locator("[name=stop]").fill("299")
        # So large that it is not drawn before anybody can stop it.
        page.locator("[name=size]").select_option("2")
        page.get_by_role("button", name="Draw frames").click()
        expect(page.locator("[data-error]")).to_be_hidden()
        page.locator(".job").get_by_role("button", name="Stop").click()
        expect(page.locator(".job.is-stopped")).to_contain_text("Stopped.")
        self.assertEqual(list((Path(self.folder) / "exports").iterdir()), [])


class Killed(BrowserTest):
    alone = True

    def test_a_film_goes_on_when_the_program_was_killed_in_the_middle(self) -> None:
        page = self.open(f"{QUAY}/export?for=mp4.0")
        page.locator("[name=size]").select_option("0.5")
        page.locator("[name=stop]").fill("149")
        page.locator(".export-form .button.primary").click()
        kept = Path(self.folder) / "exports"
        deadline = time.monotonic() + 120
        while not list(kept.glob("*.pieces/*.piece")):
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.01)
        self.server.stop(signal.SIGKILL)
        whole = {path.name: path.read_bytes() for path in kept.glob("*.pieces/*.piece")}
        self.assertTrue(0 < len(whole) < 5)
        (kept / "export-left.mp4.part").write_bytes(b"half a film")
        self.server.start()
        page = self.open(f"{QUAY}/export")
        expect(page.locator(".job.is-done")).to_contain_text("150 frames drawn", timeout=180_000)
        with page.expect_download() as download:
            page.locator("[data-result]").click()
        project = demo_project()
        alone = io.BytesIO()
        exporter = EXPORTERS["mp4"]
        options = read_options(exporter, {"size": 0.5, "stop": 149})
        exporter.write(Source(project, project.scenes[0]), options, alone, lambda count: None)
        self.assertEqual(Path(download.value.path()).read_bytes(), alone.getvalue())
        self.assertEqual(len(list(kept.iterdir())), 1)


LOGO = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 200"><style>.ink { fill: #22313a }</style>
<g id="Mast"><path class="ink" d="M195 20h10v150h-10z"/><g id="Pennant" transform="translate(205 24)">
<path d="M0 0L90 18 0 40z" fill="#c8553d"/><circle cx="20" cy="20" r="6" fill="#fff"/></g></g>
<path id="Sea" fill="#2f6f73" style="clip-path:circle(90%)" d="M40 170q40-30 80 0t80 0 80 0 80 0v20H40z"/></svg>"""


class Logo(BrowserTest):
    def test_a_drawing_comes_in_is_rigged_and_goes_out_moving(self) -> None:
        logo = Path(self.folder) / "quay logo.svg"
        logo.write_text(LOGO)
        page = self.open("/")
        page.locator(".import input").set_input_files(logo)
        expect(page.locator("#shelf")).to_contain_text(
            "quay logo brought in. Not read: Clips told by CSS: nothing is cut off."
        )
        page.locator(".project", has_text="quay logo").locator("a[href*=bench]").first.click()
        page.locator("#bench[data-ready]").wait_for()
        names = page.locator(".layer .layer-name").all_inner_texts()
        self.assertEqual(names, ["quay logo", "Sea", "Mast", "Pennant", "Circle", "Path", "Path"])
        pennant = page.locator(".layer[data-name=Pennant]")
        layer = pennant.get_attribute("data-layer")
        pennant.locator(f'[data-choose-layer="{layer}"]').click()
        self.choose(f"{layer}.rotation")
        self.add_modifier("Wave")
        bench = page.url
        for use in ("svg.0", "lottie.0", "mov.1"):
            page.goto(f"{bench.rpartition('/')[0]}/export?for={use}")
            page.locator("[name=stop]").fill("19")
            page.locator("[name=stop]").press("Tab")
            expect(page.locator("#export-plan")).to_contain_text("20 frames")
            page.locator(".export-form .button.primary").click()
            expect(page.locator(".job.is-done").first).to_contain_text("20 frames drawn", timeout=120_000)
            page.get_by_role("button", name="Remove").click()
            expect(page.locator(".job")).to_have_count(0)
        # And once more onto a scene that is there, as one step that can be taken back.
        page.goto(bench)
        page.locator("#bench[data-ready]").wait_for()
        page.locator(".panel-head [data-do=add-layer]").click()
        with page.expect_file_chooser() as chooser:
            page.get_by_role("menuitem", name="A file: picture, clip, SVG, Lottie, font …").click()
        chooser.value.set_files(logo)
        expect(page.locator(".layer.is-chosen .layer-name")).to_have_text("quay logo 2")
        expect(page.locator(".layer")).to_have_count(14)
        page.keyboard.press("Control+z")
        expect(page.locator(".layer")).to_have_count(7)
