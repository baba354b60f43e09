"""Drawing by hand: lines in part, filters, mattes, traces, textures and motion blur, from an empty scene."""

import json

from playwright.sync_api import Locator, expect

from tests.browser.harness import BrowserTest

PICTURE = "bench.scenePixels(12).reduce((whole, v, k) => (whole * 31 + v) % 1000003, 7)"


class Drawing(BrowserTest):
    def layer(self, kind: str) -> str:
        return str(self.page.locator(f'.layer[data-kind="{kind}"]').first.get_attribute("data-layer"))

    def box(self, parameter: str) -> Locator:
        return self.page.locator(f'#layers [data-parameter="{parameter}"] [data-input]').first

    def menu(self, layer: str, words: str) -> None:
        self.page.locator(f'[data-layer-menu="{layer}"]').click()
        self.page.get_by_role("menuitem", name=words).click()

    def change(self) -> int:
        return int(self.page.evaluate(PICTURE))

    def test_a_line_is_drawn_in_part_by_its_ends_on_the_outline(self) -> None:
        page = self.new_scene("Lines of mine")
        self.add_layer("Star")
        star = self.layer("star")
        before = self.change()
        self.menu(star, "Draw its line in part, or in dashes")
        expect(self.box(f"{star}.line.end")).to_have_value("100")
        # A shape without a line gets one.
        expect(self.box(f"{star}.stroke_width")).to_have_value("4")
        self.until(f"{PICTURE} !== {before}")
        self.box(f"{star}.line.end").fill("60")
        self.box(f"{star}.line.end").press("Enter")
        self.until(f"bench.value('{star}.line.end')[0] === 60")
        ends = self.handle("Where the line ends")
        x, y = page.evaluate("bench.rim().centre")
        page.mouse.move(*ends)
        page.mouse.down()
        page.mouse.move(x, y + 60, steps=6)
        self.let_go()
        self.assertTrue(35 < float(self.box(f"{star}.line.end").input_value()) < 65)
        expect(self.box(f"{star}.line.gap")).to_have_count(0)
        self.box(f"{star}.line.dash").fill("14")
        self.box(f"{star}.line.dash").press("Enter")
        expect(self.box(f"{star}.line.gap")).to_be_visible()
        page.get_by_role("button", name="Draw the line whole").click()
        expect(page.locator("[data-part=line]")).to_have_count(0)
        page.get_by_role("button", name="Undo").first.click()
        expect(page.locator("[data-part=line]")).to_have_count(1)

    def test_filters_are_put_on_moved_switched_off_and_a_matte_is_chosen(self) -> None:
        page = self.new_scene("Filters of mine")
        self.add_layer("Text")
        self.add_layer("Ellipse")
        disc, word = self.layer("ellipse"), self.layer("text")
        bare = self.change()
        for name in ("Two colours", "Blur"):
            page.get_by_role("button", name="Put a filter on").click()
            page.get_by_role("menuitem", name=name, exact=True).click()
            expect(page.locator(".filter-name", has_text=name)).to_be_visible()
        self.until(f"{PICTURE} !== {bare}")
        page.get_by_role("button", name="More for blur").click()
        page.get_by_role("menuitem", name="Earlier").click()
        expect(page.locator(".filter-name").first).to_have_text("Blur")
        for name in ("blur", "two colours"):
            page.get_by_role("button", name=f"Switch {name} off").click()
            expect(page.get_by_role("button", name=f"Switch {name} on")).to_be_visible()
        self.until(f"{PICTURE} === {bare}")
        page.locator("[data-matte]").select_option(word)
        expect(page.locator(f'.layer[data-layer="{word}"]')).to_have_class("layer depth-0 is-hidden")
        expect(page.locator(f'[data-parameter="{disc}.matte.backwards"]').first).to_be_visible()
        self.until(f"{PICTURE} !== {bare}")
        page.locator("[data-matte]").select_option("")
        expect(page.locator(f'[data-parameter="{disc}.matte.backwards"]')).to_have_count(0)

    def test_a_trace_of_what_is_chosen_and_of_each_copy(self) -> None:
        page = self.new_scene("Traces of many")
        star = self.add_layer("Star")
        traces = page.locator('.layer[data-kind="trace"]')
        page.locator(f'[data-choose-layer="{star}"]').click()
        first = self.add_layer("Trace")
        expect(page.locator(f'[data-traces="{first}"]')).to_have_value(star)
        page.locator(f'[data-choose-layer="{star}"]').click()
        page.locator("#handles").focus()
        page.keyboard.press("c")
        array = page.locator('.layer.is-chosen[data-kind="array"]')
        expect(array).to_be_visible()
        self.menu(array.get_attribute("data-layer") or "", "Let each copy leave a trace")
        expect(traces).to_have_count(2)
        traces.first.locator(".layer-row").click()
        chosen = traces.first.locator("[data-traces]")
        expect(chosen).to_have_value(star)
        expect(chosen.locator("option:checked")).to_have_text("Star, each copy")

    def test_a_trace_is_left_and_a_texture_laid_over_it(self) -> None:
        page = self.new_scene("Traces of mine")
        self.add_layer("Star")
        star = self.layer("star")
        self.choose(f"{star}.position")
        self.add_modifier("Figure")
        before = self.change()
        self.menu(star, "Let it leave a trace")
        expect(page.locator('.layer[data-kind="trace"]')).to_have_count(1)
        self.until(f"{PICTURE} !== {before}")
        page.locator('.layer[data-kind="trace"] .layer-row').click()
        expect(page.locator("[data-traces]")).to_have_value(star)
        # Its oldest place on the stage tells how long it is, and is drawn along it.
        line = page.locator('.layer[data-kind="trace"]').get_attribute("data-layer")
        page.evaluate("bench.setFrame(60)")
        oldest = "JSON.stringify(bench.handlesOnPage().find(({ words }) => words === 'How long')?.at ?? null)"
        self.until(f"{oldest} !== 'null'")
        places = [page.evaluate(oldest)]
        for seconds in ("0.5", "1"):
            self.type_into(f"{line}.seconds", seconds)
            self.until(f"{oldest} !== {places[-1]!r}")
            places.append(page.evaluate(oldest))
        shorter, longer = (json.loads(place) for place in places[-2:])
        page.mouse.move(*longer)
        page.mouse.down()
        page.mouse.move(*shorter, steps=5)
        self.let_go()
        self.assertAlmostEqual(float(self.box(f"{line}.seconds").input_value()), 0.5, delta=0.06)
        traced = self.change()
        self.add_layer("Texture")
        fog = self.layer("texture")
        self.until(f"{PICTURE} !== {traced}")
        x, y = self.handle("Zoom")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 30, y, steps=5)
        self.let_go()
        self.assertLess(float(self.box(f"{fog}.zoom").input_value()), 150)

    def test_motion_blur_is_switched_on_for_the_scene_and_off_for_a_layer(self) -> None:
        page = self.new_scene("Blur of mine")
        self.add_layer("Star")
        star = self.layer("star")
        self.choose(f"{star}.rotation")
        self.type_into(f"{self.add_modifier('Rate')}.rate", "900")
        page.get_by_role("button", name="Scene settings").first.click()
        page.locator("[name=motion_blur]").select_option("yes")
        page.get_by_role("button", name="Keep").click()
        self.until("bench.answers.last?.motion_blur === true")
        self.until("bench.answers.last.exposure?.samples > 4")
        self.menu(star, "Keep it sharp in motion")
        self.until("bench.answers.last.exposure?.samples === 1")
