"""Motion built by hand in the browser: a drop, a title that shoots past, formulas, and keys on the Curves page."""

from typing import Any

from playwright.sync_api import expect

from tests.browser.harness import BrowserTest


class Landing(BrowserTest):
    def test_a_cone_drops_and_a_title_shoots_past_from_an_empty_scene(self) -> None:
        page = self.new_scene("Race day")
        cone = self.add_layer("Polygon")
        self.choose(f"{cone}.position")
        bounce = self.add_modifier("Bounce")
        note = page.locator(f"#station-{bounce} .station-note")
        expect(note).to_contain_text("nothing to bounce from: set two keys")
        self.field(f"{bounce}.when").locator("select").select_option("drop")
        expect(note).to_contain_text("bounces can be seen")
        self.type_into(f"{bounce}.height", "400")
        self.type_into(f"{bounce}.gravity", "3000")
        self.shown(f"{cone}.position")
        lands = (2 * 400 / 3000) ** 0.5
        expect(note).to_contain_text(f"lands at frame {lands * 30:.1f}")
        # The second component falls; the panel's own figures say so.
        self.to_frame(0)
        expect(page.locator("[data-station-value=result]")).to_contain_text("−40 px")

        title = self.add_layer("Text")
        self.choose(f"{title}.scale")
        for frame, size in ((10, "0"), (24, "100")):
            self.to_frame(frame)
            page.locator("[data-do=key]").click()
            expect(self.field(f"{title}.scale").locator("[data-input]").first).to_be_visible()
            self.type_into(f"{title}.scale", size)
            self.type_into(f"{title}.scale", size, 1)
        swing = self.add_modifier("Overshoot")
        note = page.locator(f"#station-{swing} .station-note")
        expect(note).to_contain_text("arrives at rest, so there is nothing to shoot past")
        note.get_by_role("button", name="Make the last ease accelerate").click()
        expect(note).to_contain_text("Shoots past by")
        self.shown(f"{title}.scale")
        values = self.curve()
        self.assertGreater(max(values), 105)
        self.assertAlmostEqual(values[-1], 100, delta=0.01)
        self.assertIn("Make the last ease accelerate", self.undo_words())

    def test_a_loop_says_what_is_wrong_and_mends_it(self) -> None:
        page = self.new_scene("Flags")
        flag = self.add_layer("Rectangle")
        self.choose(f"{flag}.rotation")
        for frame, angle in ((0, "5"), (20, "35")):
            self.to_frame(frame)
            page.locator("[data-do=key]").click()
            self.type_into(f"{flag}.rotation", angle)
        self.add_wiggle()
        loop = self.add_modifier("Loop")
        notes = page.locator(f"#station-{loop} .station-notes")
        expect(notes).to_contain_text("First and last key differ by 30°")
        notes.get_by_role("button", name="Move it to the front").click()
        expect(page.locator(".station[data-modifier]").first).to_have_attribute("data-modifier", loop)
        notes.get_by_role("button", name="Close").click()
        expect(notes).not_to_contain_text("differ")
        expect(notes).to_contain_text("One cycle is 20 frames.")


class Formulas(BrowserTest):
    checks = True

    def test_a_formula_is_written_mistyped_told_why_and_mended(self) -> None:
        page = self.new_scene("Lines")
        wheel = self.add_layer("Star")
        self.choose(f"{wheel}.rotation")
        box = self.field(f"{wheel}.rotation").locator("[data-input]")
        box.click()
        box.press("Control+A")
        page.keyboard.type("=")
        pad = page.locator("#formula-pad")
        expect(pad).to_be_visible()
        expect(pad.locator(".cm-content")).to_be_focused()
        page.keyboard.type("base + 40 * osc(t")
        self.until("bench.answers.last.chosen?.outputs.length === 2")
        good = self.curve()
        self.assertAlmostEqual(max(good), 40, delta=0.5)
        page.keyboard.press("End")
        page.keyboard.type(" * clmp(t, 0, 1")
        told = pad.locator("[data-formula-told]")
        expect(told).to_contain_text("There is no function “clmp”. Did you mean clamp?")
        expect(pad.locator(".cm-lintRange-error")).to_have_text("clmp")
        self.assertEqual(self.curve(), good)
        page.keyboard.press("Control+Enter")
        expect(pad).to_be_hidden()
        expect(page.locator("#faults")).to_contain_text("! 1")
        note = page.locator(".station .station-note.is-warning")
        expect(note).to_have_text("There is no function “clmp”. Did you mean clamp?")
        self.shown(f"{wheel}.rotation")
        self.assertEqual(set(self.curve()), {0.0})
        page.locator(".formula-text").click()
        expect(told).to_contain_text("Did you mean clamp?")
        page.keyboard.press("Control+A")
        page.keyboard.type("base + 20 * t")
        page.keyboard.press("Control+Enter")
        self.until("bench.answers.last.faults.length === 0")
        self.shown(f"{wheel}.rotation")
        self.assertAlmostEqual(self.curve()[30], 20, delta=1e-4)
        self.assertIn("formula written", self.undo_words())

    def test_renaming_shows_in_the_formula_and_names_are_completed(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/regatta-start/bench?layer=race-count&parameter=race-count.text")
        expect(page.locator(".formula-text")).to_contain_text("ceil($Start - t)")
        page.locator("[data-lever=start] [data-lever-sheet]").click()
        page.locator("#sheet [name=name]").fill("Signal")
        page.locator("#sheet").get_by_role("button", name="Keep").click()
        expect(page.locator(".formula-text")).to_contain_text("ceil($Signal - t)")
        page.locator(".formula-text").click()
        pad = page.locator("#formula-pad")
        expect(pad.locator(".cm-line").first).to_contain_text("$Signal")
        page.keyboard.press("Control+A")
        page.keyboard.type("$Si")
        expect(pad.locator(".cm-tooltip-autocomplete li").first).to_contain_text("$Signal")
        page.keyboard.press("Enter")
        expect(pad.locator("[data-formula-told]")).to_contain_text("needs a text, and this is a number")
        page.keyboard.press("Escape")
        expect(pad).to_be_hidden()
        expect(page.locator(".formula-text")).to_contain_text("ceil($Signal - t)")


class Curves(BrowserTest):
    URL = "/projects/lantern-quay/scenes/evening-quay/curves?parameter=wind.value&show=levers"

    def keys(self) -> list[list[Any]]:
        return self.page.evaluate("curves.lanes()[0].keys.map((key) => [key.frame, key.values[0], key.ease])")

    def at(self, frame: float, value: float) -> tuple[float, float]:
        """Where a frame and a value of the first lane stand on the screen."""
        return tuple(
            self.page.evaluate(
                """async ([frame, value]) => {
                  const { xOf, yOf, lanes, canvas } = await import(document.querySelector("script[type=module]")
                  .src.replace("pages/curves", "chain/lanes"));
                  const box = canvas.getBoundingClientRect();
                  return [box.x + xOf(frame), box.y + yOf(lanes[0], value)];
                }""",
                [frame, value],
            )
        )

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        mouse = self.page.mouse
        mouse.move(*start)
        mouse.down()
        mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2)
        mouse.move(*end)
        mouse.up()

    def test_keys_are_dragged_boxed_scaled_eased_and_undone(self) -> None:
        page = self.open(self.URL)
        self.assertEqual([key[0] for key in self.keys()], [0, 45, 85, 140, 190, 240, 299])
        self.drag(self.at(85, 9), self.at(100, 6))
        self.until("curves.lanes()[0].keys[2].frame === 100")
        self.assertAlmostEqual(self.keys()[2][1], 6, delta=0.1)
        expect(page.locator("#key-frame")).to_have_value("100")
        # With its peak gone the lane has found a new scale.
        self.until("curves.lanes()[0].lows[0] + curves.lanes()[0].span < 8")
        self.drag(self.at(130, 7.3), self.at(250, 0.6))
        expect(page.locator("#key-count")).to_have_text("3 keys")
        page.locator("#key-frame").fill("150")
        page.locator("#key-frame").press("Enter")
        self.until("curves.lanes()[0].keys[3].frame === 150")
        self.assertEqual([key[0] for key in self.keys()], [0, 45, 100, 150, 200, 250, 299])
        right, top, bottom = self.at(250, 7), self.at(150, 7)[1], self.at(200, 1)[1]
        grip = (right[0] + 12, (top + bottom) / 2)
        self.drag(grip, (self.at(200, 0)[0] + 12, grip[1]))
        self.until("String(curves.lanes()[0].keys.map((key) => key.frame)) === '0,45,100,150,175,200,299'")
        page.locator("[data-do=undo]").click()
        self.until("curves.lanes()[0].keys[5].frame === 250")
        page.keyboard.press("Escape")
        page.mouse.click(*self.at(150, 7))
        self.until("curves.chosenKeys().length === 1")
        page.locator("[data-key-do=ease]").click()
        page.locator("#menu").get_by_role("menuitem", name="linear", exact=True).click()
        self.until("curves.lanes()[0].keys[3].ease === 'linear'")
        third = self.at(150 + 50 / 3, 7 - 6 / 3)
        self.drag(third, self.at(160, 9))
        self.until("Array.isArray(curves.lanes()[0].keys[3].ease)")
        x1, y1 = self.keys()[3][2][:2]
        self.assertAlmostEqual(x1, 0.2, delta=0.02)
        self.assertLess(y1, -0.2)

    def test_copy_paste_reverse_remove_and_filters(self) -> None:
        page = self.open(self.URL)
        page.locator("#lanes").focus()
        self.drag(self.at(-4, 2.4), self.at(60, 0.6))
        expect(page.locator("#key-count")).to_have_text("2 keys")
        page.keyboard.press("Control+c")
        page.locator("#frame").fill("250")
        page.locator("#frame").press("Enter")
        page.locator("[data-key-do=paste]").click()
        self.until("curves.lanes()[0].keys.length === 9")
        self.assertEqual([key[0] for key in self.keys()][-3:], [250, 295, 299])
        # What was pasted is what is chosen now.
        expect(page.locator("#key-frame")).to_have_value("250")
        page.locator("[data-key-do=arrange]").click()
        page.locator("#menu").get_by_role("menuitem", name="Reverse in time").click()
        self.until("curves.lanes()[0].keys.find((key) => key.frame === 295).values[0] === 1")
        page.keyboard.press("Control+a")
        page.locator("#lanes").press("Delete")
        expect(page.locator(".lanes-empty")).to_contain_text("No lever is keyed or rigged yet.")
        self.undo()
        self.until("curves.lanes().length === 1")
        while "Nothing to undo" not in self.undo_words():
            self.undo()
        page.locator("[data-show=rigged]").first.click()
        self.until("curves.lanes().length > 40")
        page.locator("#named").fill("lantern 3")
        self.until("curves.lanes().length > 0 && curves.lanes().every((lane) => lane.label.startsWith('Lantern 3'))")
        page.get_by_role("link", name="Bench").click()
        page.wait_for_url("**/bench?*parameter=wind.value*")
