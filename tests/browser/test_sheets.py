"""Sheets that float over the Bench: what they offer, what they leave out, and how far long work is."""

import csv
import io
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.harness import BrowserTest


class Sheets(BrowserTest):
    checks = True

    def keep(self, edit: dict[str, Any]) -> None:
        """An edit as a program makes it, kept."""
        self.page.evaluate(
            """async (edit) => {
              const { commitEdits } = await import(document.querySelector('script[type=module]')
              .src.replace('pages/bench.js', 'talk/server.js'));
              await commitEdits(edit);
            }""",
            edit,
        )

    def test_only_what_fits_is_offered_and_what_was_left_out_is_said(self) -> None:
        page = self.new_scene("Copies")
        one, two = self.add_layer("Star"), self.add_layer("Ellipse")
        self.keep({"kind": "link to", "parameter": f"{two}.position", "driver": f"{one}.position"})
        self.choose(f"{two}.position")
        expect(page.locator(".station[data-modifier]")).to_have_count(1)
        self.add_modifier("Wiggle")
        page.locator("[data-do=copy-chain]").click()
        sheet = page.locator("[data-copy-chain]")
        rotation = sheet.locator(f'.target:has([value="{two}.rotation"])')
        expect(rotation).to_contain_text("without Follow")
        expect(sheet.locator(f'.target:has([value="{one}.position"])')).to_contain_text("without Follow")
        expect(sheet.locator(f'.target:has([value="{one}.scale"])')).not_to_contain_text("without")
        rotation.locator("input").check()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            sheet.get_by_role("button", name="Copy", exact=True).click()
        self.choose(f"{two}.rotation")
        expect(page.locator(".station[data-modifier]")).to_have_count(1)
        expect(page.locator(".station[data-modifier]")).to_contain_text("Wiggle")
        self.assertIn("left out on", self.undo_words())

    def long_scene(self, name: str) -> tuple[Page, str]:
        """A scene that takes a while to be looked through, just opened, and the layer that moves in it."""
        page = self.new_scene(name)
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        self.add_wiggle()
        self.keep({"kind": "change scene", "length": 36000})
        page.reload()
        page.locator("#bench[data-ready]").wait_for()
        return page, layer

    def test_a_long_scene_tells_how_far_it_is_and_then_what_it_found(self) -> None:
        page, _ = self.long_scene("Long")
        page.locator("#faults").click()
        sheet = page.locator("#sheet")
        expect(sheet.locator("progress")).to_be_visible()
        expect(sheet).to_contain_text("of 36,000 frames drawn")
        # It looks again by itself until all of them are.
        expect(sheet.locator("progress")).to_have_count(0, timeout=120_000)
        expect(sheet.locator(".check")).not_to_have_count(0)

    def test_an_edit_is_saved_while_the_scene_is_looked_through(self) -> None:
        page, layer = self.long_scene("Saved")
        looked = """() => fetch(`/api/projects/${bench.scene.project}/scenes/${bench.scene.id}/checks`)
          .then((one) => one.headers.get('x-looked-at').split('/').map(Number))"""
        for value in (80, 60, 40):
            self.until(f"({looked})().then(([done, total]) => done > 0 && done < total)")
            before = page.evaluate("bench.scene.revision")
            page.locator(f'#layers [data-parameter="{layer}.opacity"] [data-input]').first.fill(str(value))
            page.keyboard.press("Enter")
            self.until(f"bench.scene.revision > {before}")
            expect(page.locator("#saved")).to_have_text("saved")
            # It was not waited for: it looks through what has just been saved, from its beginning.
            done, total = page.evaluate(looked)
            self.assertLess(done, total)

    def test_a_keyed_turn_is_made_to_loop_and_its_key_pulled_back_from_the_end(self) -> None:
        page = self.new_scene("Round")
        layer = self.add_layer("Star")
        for frame, value in ((0, 0), (200, 350)):
            self.keep(
                {"kind": "set value", "parameter": f"{layer}.rotation", "frame": frame, "value": value, "key": True}
            )
        self.choose(f"{layer}.rotation")
        keys = "JSON.parse(document.querySelector('[data-chain]').dataset.keys).map((key) => [key[0], key[2]])"
        page.locator(f'#layers [data-parameter="{layer}.rotation"] [data-menu]').click()
        page.get_by_role("menuitem", name="Make this loop …").click()
        offers = page.locator("#sheet [data-closing] strong")
        expect(offers).to_have_text(["Key the end like the start", "Lead the last key back", "There and back"])
        page.keyboard.press("Enter")
        expect(page.locator("#sheet")).to_be_hidden()
        self.shown(f"{layer}.rotation")
        self.assertEqual(page.evaluate(keys), [[0, 0], [200, 350], [300, 360]])
        # Asked again, it says that all is well; and what moves by nothing that closes is told what to do.
        page.locator(f'#layers [data-parameter="{layer}.rotation"] [data-menu]').click()
        page.get_by_role("menuitem", name="Make this loop …").click()
        expect(page.locator("#sheet")).to_contain_text("It is back at frame 300")
        page.get_by_role("button", name="Close").click()
        # The key at the end is taken hold of at the edge, and a key is dragged there.
        box: Any = page.locator('canvas[data-curve="0"]').bounding_box()
        right = box["x"] + box["width"] - 2
        top = box["y"] + 4 + 0.12 / 1.24 * (box["height"] - 8)
        page.mouse.move(right, top)
        page.mouse.down()
        page.mouse.move(right - 50, top, steps=4)
        self.let_go()
        (last,) = page.evaluate(keys)[2:]
        self.assertTrue(200 < last[0] < 290, last)
        page.mouse.move(right - 50, top)
        page.mouse.down()
        page.mouse.move(right + 30, top, steps=4)
        self.let_go()
        self.assertEqual(page.evaluate(keys)[-1][0], 300)

    def test_names_that_look_like_formulas_stay_texts_in_csv(self) -> None:
        page = self.new_scene("Out")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        self.add_wiggle()
        page.locator(".layer.is-chosen .layer-name").first.dblclick()
        page.keyboard.press("Control+A")
        page.keyboard.type("=HYPERLINK(A1)")
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.keyboard.press("Enter")
        page.get_by_role("link", name="Export").click()
        page.locator("[data-use='csv.0']").click()
        expect(page.locator("#export-settings")).to_contain_text("get an apostrophe")
        page.get_by_role("button", name="Tick all").click()
        with page.expect_download() as download:
            page.get_by_role("button", name="Save CSV").click()
        with open(download.value.path(), encoding="utf-8-sig") as file:
            rows = list(csv.reader(io.StringIO(file.read())))
        self.assertEqual(rows[0][2], "'=HYPERLINK(A1)/rotation")
        self.assertEqual(len(rows), 301)


class Finding(BrowserTest):
    def test_everyday_words_and_mistyped_ones_lead_to_modifiers_and_actions(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench?layer=boat1&parameter=boat1.rotation")
        page.keyboard.press("m")
        shown = page.locator("#sheet .entry:visible strong")
        search = page.get_by_label("Find a modifier")
        for typed, title in (
            ("shake", "Wiggle"),
            ("ping-pong", "Loop"),
            ("spring", "Overshoot"),
            ("stop motion", "Hold steps"),
            ("delay", "Shift"),
            ("octaves", "Wiggle"),
            ("jiter", "Wiggle"),
            ("elastik", "Overshoot"),
        ):
            search.fill(typed)
            expect(shown.filter(has_text=title)).to_have_count(1)
        expect(page.locator("[data-nearest]")).to_be_visible()
        search.fill("qqqqq")
        expect(shown).to_have_count(0)
        expect(page.locator("[data-none]")).to_be_visible()
        search.fill("shake")
        search.press("Enter")
        expect(page.locator(".station[data-modifier] h3, .station[data-modifier] .station-title").last).to_contain_text(
            "Wiggle"
        )
        page.locator("body").press("Control+z")
        page.locator("body").press("/")
        search = page.get_by_role("searchbox", name="Find", exact=True)
        for typed, found in (
            ("motion blur", "Scene settings"),
            ("slider", "Add a lever"),
            ("flicker", "Flicker on Boat"),
            ("wigglle", "Wiggle on Boat"),
        ):
            search.fill(typed)
            expect(page.locator("#sheet .found:visible", has_text=found).first).to_be_visible()
        search.fill("bob")
        page.locator("#sheet .found:visible", has_text="Wave on").click()
        expect(page.locator(".station[data-modifier]").last).to_contain_text("Wave")
