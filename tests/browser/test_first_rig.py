"""A first rig, from an empty scene to files and back, as an artist makes it."""

import csv
import io
import zipfile
from pathlib import Path

import numpy as np
from playwright.sync_api import expect

from tests.browser.harness import BrowserTest


class FirstRig(BrowserTest):
    alone = True

    def test_wiggle_steer_keep_and_take_out(self) -> None:
        page = self.new_scene_by_hand("First rig")
        layer = self.add_layer("Star")

        # Drag the pivot: the layer stays where it is.
        before = page.evaluate("Array.from(bench.scenePixels(0)).reduce((a, b) => (a * 31 + b) % 1000003, 7)")
        zoom = float((page.locator("#zoom").text_content() or "").rstrip(" %")) / 100
        x, y = page.evaluate("bench.rim().pivot")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + 30, steps=5)
        self.let_go()
        pivot = float(self.field(f"{layer}.pivot").locator("input").nth(1).input_value())
        self.assertAlmostEqual(pivot, 30 / zoom, delta=4)
        self.assertEqual(
            page.evaluate("Array.from(bench.scenePixels(0)).reduce((a, b) => (a * 31 + b) % 1000003, 7)"), before
        )

        # Its rotation wiggles, and everything follows while the frequency is dragged, before anything is kept.
        self.choose(f"{layer}.rotation")
        wiggle = self.add_wiggle()
        self.shown(f"{layer}.rotation")
        calm = self.curve()
        name = self.field(f"{wiggle}.frequency").locator("[data-scrub]")
        place = name.bounding_box()
        assert place
        undo_before = self.undo_words()
        page.mouse.move(place["x"] + 20, place["y"] + 10)
        page.mouse.down()
        page.mouse.move(place["x"] + 120, place["y"] + 10, steps=10)
        self.until(f"parseFloat(document.querySelector('[data-parameter=\"{wiggle}.frequency\"] input').value) > 5")
        self.assertEqual(self.undo_words(), undo_before)
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.mouse.up()
        expect(page.locator(".sentence")).to_contain_text("7 times a second")
        self.shown(f"{layer}.rotation")
        fast = self.curve()
        self.assertGreater(np.abs(np.diff(fast)).mean(), 2 * np.abs(np.diff(calm)).mean())

        # Off and on to compare, with the ghost.
        page.locator("[data-do=ghost]").click()
        self.until("bench.answers.last.ghost !== null")
        page.locator(f'[data-bypass="{wiggle}"]').click()
        expect(page.locator(f"#station-{wiggle}")).to_have_class("station folding is-bypassed")
        self.shown(f"{layer}.rotation")
        self.assertEqual(len(set(self.curve())), 1)
        page.locator(f'[data-bypass="{wiggle}"]').click()
        expect(page.locator(f"#station-{wiggle}")).to_have_class("station folding")

        # Onto five others, each with a seed of its own.
        others = []
        for kind in ("Ellipse", "Rectangle", "Polygon", "Line", "Text"):
            others.append(self.add_layer(kind))
        page.locator(f'[data-choose-layer="{layer}"]').click()
        self.choose(f"{layer}.rotation")
        page.locator("[data-do=copy-chain]").click()
        page.locator("[data-tick-same=rotation]").click()
        expect(page.locator("#sheet input[name=target]:checked")).to_have_count(5)
        page.get_by_role("button", name="Copy", exact=True).click()
        expect(page.locator("#toasts")).to_contain_text("copied to 5 parameters")
        curves = [np.array(fast)]
        for other in others:
            page.locator(f'[data-choose-layer="{other}"]').click()
            self.shown(f"{other}.rotation")
            curves.append(np.array(self.curve()))
        for k, one in enumerate(curves):
            for two in curves[:k]:
                self.assertLess(abs(np.corrcoef(one, two)[0, 1]), 0.8, (k, one[:5], two[:5]))

        # The amplitude becomes a lever in one step, and its value stays.
        page.locator(f'[data-choose-layer="{layer}"]').click()
        self.type_into(f"{wiggle}.amplitude", "360/31")
        expect(self.field(f"{wiggle}.amplitude").locator("input")).to_have_value("360/31")
        self.shown(f"{layer}.rotation")
        still = self.curve()
        self.field(f"{wiggle}.amplitude").locator("[data-menu]").click()
        page.get_by_label("Make it a lever named").fill("Wind")
        page.get_by_role("button", name="Make", exact=True).click()
        lever = page.locator("[data-lever]", has_text="Wind")
        expect(lever).to_contain_text("drives 1")
        expect(self.field(f"{wiggle}.amplitude").locator(".driven")).to_have_text("Wind")
        self.shown(f"{layer}.rotation")
        self.assertEqual(self.curve(), still)
        self.assertIn("made a lever named Wind", self.undo_words())

        # Keyed, so that the motion comes in and dies away.
        value = f"{lever.get_attribute('data-lever')}.value"
        lever.locator(".lever-name").click()
        expect(page.locator(f'[data-chain="{value}"]')).to_be_attached()
        for frame, amount in ((0, "0"), (100, "40"), (200, "0")):
            self.to_frame(frame)
            if frame == 0:
                page.locator("#chain [data-do=key]").click()
                expect(page.locator("#chain .peg")).to_be_visible()
            self.type_into(value, amount)
            # At the next frame the field shows what this one has led to.
            self.shown(value)
        page.locator(f'[data-choose-layer="{layer}"]').click()
        self.shown(f"{layer}.rotation")
        swell = np.abs(self.curve())
        self.assertEqual(swell[0], 0)
        self.assertEqual(swell[210:].max(), 0)
        self.assertGreater(swell[70:130].max(), 5)

        # One axis of a position.
        self.choose(f"{layer}.position")
        shake = self.add_wiggle()
        page.locator(f'[data-unfold="{shake}"]').click()
        self.type_into(f"{shake}.weights", "0", component=1)
        self.shown(f"{layer}.position")
        ranges = page.locator("[data-range]").text_content() or ""
        y_low, y_high = ranges.split(" y ")[1].split(" to ")
        self.assertEqual(y_low, y_high)
        page.locator(f'[data-unfold="{shake}"]').click()

        # All of it undone step by step, and done again.
        address = page.url.split("?")[0].replace(self.server.address, "")
        final = page.locator(".sentence").text_content()
        steps = 0
        while not page.locator("[data-do=undo]").is_disabled():
            label = self.undo_words()
            page.keyboard.press("Control+z")
            expect(page.locator("[data-do=undo]")).not_to_have_attribute("title", label)
            steps += 1
        expect(page.locator("[data-layer]")).to_have_count(0)
        for _ in range(steps):
            label = page.locator("[data-do=redo]").get_attribute("title") or ""
            page.keyboard.press("Control+Shift+z")
            expect(page.locator("[data-do=redo]")).not_to_have_attribute("title", label)
        expect(page.locator("[data-layer]")).to_have_count(6)
        self.assertGreater(steps, 14)

        # Close the browser's page, stop the server, start again: everything is there.
        page.close()
        self.server.stop()
        self.server.start()
        page = self.page = page.context.new_page()
        self.open(f"{address}?layer={layer}&parameter={layer}.position#frame=42", page)
        expect(page.locator(".sentence")).to_have_text(final or "")
        expect(page.locator("#frame")).to_have_value("42")

        # Take it out as CSV, frames and project file; bring the project file back in.
        page.get_by_role("link", name="Export").click()
        page.locator("[data-use='csv.0']").click()
        page.get_by_role("button", name="Tick all").click()
        with page.expect_download() as download:
            page.get_by_role("button", name="Save CSV").click()
        table = list(csv.DictReader(io.StringIO(Path(download.value.path()).read_text())))
        self.assertEqual(len(table), 300)
        self.assertAlmostEqual(float(table[100]["Wind"]), 40)
        np.testing.assert_allclose(np.abs([float(row["Star/rotation"]) for row in table]), swell, atol=1e-4)
        page.locator("[data-use='png-frames.0']").click()
        page.locator("[name=transparent][type=checkbox]").wait_for()
        page.locator("[name=stop]").fill("4")
        page.get_by_role("button", name="Draw frames").click()
        with page.expect_download() as download:
            page.locator("[data-result]").click()
        with zipfile.ZipFile(download.value.path()) as archive:
            self.assertEqual(archive.namelist(), [f"frame-{k:05d}.png" for k in range(5)])
            self.assertTrue(archive.read("frame-00000.png").startswith(b"\x89PNG"))
        page.locator("[data-use='project.0']").click()
        with page.expect_download() as download:
            page.get_by_role("link", name="First rig.lever.json").click()
        kept = Path(self.folder) / "first.lever.json"
        download.value.save_as(kept)
        self.open("/", page)
        projects = page.locator(".project").count()
        page.locator(".import input[type=file]").set_input_files(kept)
        expect(page.locator(".project")).to_have_count(projects + 1)
        expect(page.locator("[data-toast]")).to_contain_text("First rig brought in")
