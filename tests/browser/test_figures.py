"""What hands drag can be typed: when a modifier acts, and curves over a passage, which are kept by name."""

import json
from typing import Any

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest


class Windows(BrowserTest):
    def test_stretches_of_time_are_told_dragged_moved_by_keys_and_typed(self) -> None:
        page = self.new_scene("When it acts")
        one = self.add_layer("Ellipse")
        self.choose(f"{one}.rotation")
        wiggle = self.add_wiggle()
        station = page.locator(f"#station-{wiggle}")
        strip, told = station.locator("canvas.windows"), station.locator("[data-window-told]")

        def windows() -> list[list[float]]:
            self.until(SETTLED)
            found: list[list[float]] = json.loads(station.get_attribute("data-windows") or "[]")
            return found

        # One that is drawn is hard at both ends, and says its frames while it is.
        box = strip.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 40, box["y"] + 16)
        page.mouse.down()
        page.mouse.move(box["x"] + 120, box["y"] + 16, steps=4)
        expect(told).to_contain_text("frames")
        shown = told.inner_text()
        page.mouse.up()
        expect(told).to_be_hidden()
        [[start, end, *fades]] = windows()
        self.assertEqual(shown, f"{start:g} to {end:g}: {end - start + 1:g} frames")
        self.assertEqual(fades, [0, 0])

        # It is the chosen one. By keys: steps add up however fast they come, and are one step back.
        strip.focus()
        page.keyboard.press("ArrowRight")
        expect(told).to_contain_text("fade in of")
        page.keyboard.down("Alt")
        for _ in range(6):
            page.keyboard.press("ArrowRight")
        expect(told).to_contain_text("in over 6")
        page.keyboard.up("Alt")
        self.until(f"JSON.parse(document.getElementById('station-{wiggle}').dataset.windows)[0][2] === 6")
        page.locator("body").press("Control+z")
        self.until(f"JSON.parse(document.getElementById('station-{wiggle}').dataset.windows)[0][2] === 0")

        # Typed: a mistake stays where it was made, a time is read at the scene's rate.
        strip.focus()
        page.keyboard.press("Enter")
        form = page.locator("[data-windows-form]")
        boxes = form.locator("[data-window-row] input")
        expect(boxes).to_have_count(4)
        boxes.nth(1).fill("10")
        boxes.nth(0).fill("abc")
        page.keyboard.press("Enter")
        expect(form.locator("[data-error]")).to_contain_text("“abc” is no number of frames")
        expect(boxes.nth(0)).to_be_focused()
        boxes.nth(0).fill("40")
        page.keyboard.press("Enter")
        expect(form.locator("[data-error]")).to_contain_text("ends before it starts")
        boxes.nth(1).fill("4s")
        boxes.nth(2).fill("90")
        page.keyboard.press("Enter")
        expect(form.locator("[data-error]")).to_contain_text("too short for its fades")
        boxes.nth(2).fill("0.5s")
        form.locator("[data-add-window]").click()
        boxes.nth(4).fill("200")
        boxes.nth(5).fill("220")
        form.get_by_role("button", name="Keep", exact=True).click()
        expect(form).to_have_count(0)
        self.assertEqual(windows(), [[40, 120, 15, 0], [200, 220, 0, 0]])
        # One that is dragged past another is still the chosen one.
        across = box["width"] / 300
        page.mouse.move(box["x"] + 80 * across, box["y"] + 20)
        page.mouse.down()
        page.mouse.move(box["x"] + 240 * across, box["y"] + 20, steps=4)
        page.mouse.up()
        [first, [start, end, *_]] = windows()
        self.assertEqual((first, end - start), ([200, 220, 0, 0], 80))
        page.keyboard.down("Alt")
        page.keyboard.press("ArrowRight")
        page.keyboard.up("Alt")
        self.until(f"JSON.parse(document.getElementById('station-{wiggle}').dataset.windows)[1][0] === {start + 1}")
        page.locator("body").press("Control+z")
        page.locator("body").press("Control+z")
        self.until(f"JSON.parse(document.getElementById('station-{wiggle}').dataset.windows)[0][0] === 40")
        # Taken out by a key.
        strip.focus()
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("Delete")
        self.until(f"JSON.parse(document.getElementById('station-{wiggle}').dataset.windows).length === 1")
        self.assertEqual(windows(), [[200, 220, 0, 0]])


class Curves(BrowserTest):
    def points(self) -> list[Any]:
        self.until(SETTLED)
        held = self.page.locator("#layers [data-profile]").get_attribute("data-profile-keys")
        return [[at, value] for at, value, _ in json.loads(held or "[]")]

    def test_a_curve_is_typed_kept_by_name_and_put_on_another_value(self) -> None:
        page = self.new_scene("Kept curves")
        first = self.lined("Path")
        page.locator("[data-curve-sheet]").click()
        form = page.locator("form[data-curve-form]")
        expect(form).to_contain_text("everywhere the same")
        form.locator("[data-add-point]").click()
        rows = form.locator("[data-points] tr")
        expect(rows).to_have_count(2)
        form.locator("[data-add-point]").click()
        expect(rows).to_have_count(3)
        self.assertEqual(self.points(), [[0, 0], [50, 0.5], [100, 1]])

        # In percent, and in pixels of the line that it is the width of.
        box = rows.nth(1).locator("[name=at]")
        box.fill("25%")
        box.press("Enter")
        width = rows.nth(1).locator("[name=value]")
        width.fill("9px")
        width.press("Enter")
        expect(rows.nth(1).locator("[name=value]")).to_have_value("1.5")
        self.assertEqual(self.points(), [[0, 0], [25, 1.5], [100, 1]])
        width.fill("wide")
        width.press("Enter")
        expect(form.locator("[data-error]")).to_contain_text("“wide” is not a number")
        self.assertEqual(self.points()[1], [25, 1.5])
        width.fill("1.2")
        width.press("Enter")
        expect(form.locator("[data-error]")).to_be_hidden()
        rows.nth(2).locator("[name=at]").fill("25")
        rows.nth(2).locator("[name=at]").press("Enter")
        expect(form.locator("[data-error]")).to_contain_text("Two points stand at 25 %")
        rows.nth(2).locator("[name=at]").fill("80")
        rows.nth(2).locator("[name=at]").press("Enter")
        expect(form.locator("[data-error]")).to_be_hidden()
        rows.nth(0).locator("select").select_option("hold")
        self.until("document.querySelector('#layers [data-profile]').dataset.profileKeys.includes('hold')")

        # The large picture is drawn in like the small one.
        canvas = form.locator("canvas")
        place = canvas.bounding_box()
        assert place is not None
        page.mouse.dblclick(place["x"] + place["width"] * 0.5, place["y"] + place["height"] * 0.5)
        expect(rows).to_have_count(4)
        rows.nth(2).locator("[data-drop-point]").click()
        expect(rows).to_have_count(3)
        drawn = self.points()
        self.assertEqual(drawn, [[0, 0], [25, 1.2], [80, 1]])

        form.locator("[data-keep-name]").fill("Reed")
        form.locator("[data-keep-name]").press("Enter")
        expect(form.locator("[data-take-curve]").first).to_contain_text("Reed")
        form.get_by_role("button", name="Done").click()

        # On another line it is there by its name, beside what there is to begin with.
        second = self.lined("Star")
        self.assertNotEqual(first, second)
        page.locator(f'[data-curve-sheet="{second}.line.profile"]').click()
        form.locator('[data-take-curve][data-name="Reed"]').click()
        expect(rows).to_have_count(3)
        expect(rows.nth(0).locator("select")).to_have_value("hold")
        self.assertEqual(self.points(), drawn)
        form.locator('[data-take-curve][data-name="Hump"]').click()
        expect(rows.nth(1).locator("[name=at]")).to_have_value("50")
        form.locator("[data-remove-curve]").click()
        expect(form.locator('[data-name="Reed"]')).to_have_count(0)
        expect(rows).to_have_count(3)
        form.get_by_role("button", name="Done").click()
        page.locator("body").press("Control+z")
        page.locator("body").press("Control+z")
        self.until(
            f"document.querySelector('#layers [data-profile^=\"{second}\"]').dataset.profileKeys.includes('hold')"
        )

    def lined(self, kind: str) -> str:
        """A layer of a kind, closed up to its line, which is six pixels wide."""
        made = self.add_layer(kind)
        width = self.field(f"{made}.stroke_width").locator("input").first
        width.fill("6")
        width.press("Enter")
        self.page.locator(f'[data-layer-menu="{made}"]').click()
        self.page.get_by_role("menuitem", name="Draw its line in part, or in dashes").click()
        expect(self.page.locator("[data-curve-sheet]").first).to_be_visible()
        return made
