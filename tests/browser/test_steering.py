"""Many gauges on one value: each is a station of its own, is weighted, moved and taken off, and none loses another."""

from typing import Any

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

SCENE = "/projects/lantern-quay/scenes/pennant-line/bench?layer=pennants&parameter=pennants.copy_position#frame=75"


class Steering(BrowserTest):
    def opened(self) -> Any:
        self.open(SCENE)
        self.until(SETTLED)
        return self.page

    def chain(self, value: str) -> None:
        """The chain of a value of the copies."""
        self.page.locator(f"#layers [data-choose='pennants.{value}']").first.click()
        expect(self.page.locator("#chain .crumbs [aria-current]")).to_have_text(value.replace("_", " "))
        self.until(SETTLED)

    def led_by(self, gauge: str, way: str, goal: str, row: str = "Position") -> None:
        """A value of the copies led by a gauge, by its menu."""
        page = self.page
        page.get_by_role("button", name=f"More for {gauge}").click()
        page.get_by_text("What follows it …").click()
        line = page.locator("#sheet .tie-row").filter(has_text=row)
        line.locator("[name=way]").select_option(way)
        line.locator("[name=to]").fill(goal)
        page.get_by_role("button", name="Let them follow").click()
        expect(page.locator("#sheet")).to_be_hidden()
        self.until(SETTLED)

    def led(self, *names: str) -> None:
        """Wait until the chain's stations are Steers led by these, one behind the other."""
        stations = self.page.locator("#chain .station[data-modifier]")
        expect(stations.locator("h3")).to_have_text(["Steer"] * len(names))
        expect(stations.locator(".main-fields > .field:first-child .driven")).to_have_text(list(names))
        self.until(SETTLED)

    def test_sweeps_a_noise_and_a_zone_act_on_one_position(self) -> None:
        page = self.opened()
        self.led("Pennants Hop")
        for wish in ("Noise", "Zone"):
            page.locator("[data-add-gauge]").first.click()
            page.locator(f"#sheet [data-new-gauge={wish.lower()}]").click()
            expect(page.locator("#sheet [data-tie-form]")).to_be_visible()
            page.keyboard.press("Escape")
            self.until(SETTLED)
        self.chain("copy_position")
        led = {"Gust": ("by", "0, -40"), "Gilding": ("times", "0.5"), "Noise": ("by", "20, 0"), "Zone": ("by", "6, 6")}
        for gauge, (way, goal) in led.items():
            self.led_by(gauge, way, goal)
        self.led(*(f"Pennants {name}" for name in ("Hop", *led)))
        # Weighted, moved and taken off like all modifiers; the others stay.
        last = page.locator("#chain .station[data-modifier]").last
        last.locator(".field input").first.fill("40")
        page.keyboard.press("Enter")
        self.until(SETTLED)
        expect(last.locator(".field input").first).to_have_value("40")
        last.locator("h3").focus()
        page.keyboard.press("Alt+ArrowLeft")
        self.led(*(f"Pennants {name}" for name in ("Hop", "Gust", "Gilding", "Zone", "Noise")))
        # Who moved it still has it.
        expect(page.locator("#chain .station[data-modifier]").nth(-2).locator("h3")).to_be_focused()
        page.keyboard.press("Delete")
        self.led(*(f"Pennants {name}" for name in ("Hop", "Gust", "Gilding", "Noise")))

    def test_the_sheet_tells_what_there_is_and_what_there_will_be_and_shows_it(self) -> None:
        page = self.opened()
        page.get_by_role("button", name="More for Gust").click()
        page.get_by_text("What follows it …").click()
        row = page.locator("#sheet .tie-row").filter(has_text="Opacity")
        told = row.locator("[data-tie-told]")
        expect(told).to_have_text("100 → 20 %")
        row.locator("[name=way]").select_option("times")
        row.locator("[name=to]").fill("0.25")
        expect(told).to_have_text("100 → 25 %")
        expect(row.locator("[name=value]")).to_be_checked()
        # What makes no sense is told in the sheet, and keeps nothing.
        row.locator("[name=to]").fill("a quarter")
        expect(page.locator("#sheet [data-error]")).to_contain_text("is not a number")
        expect(told).to_have_text("")
        row.locator("[name=to]").fill("0.25")
        expect(page.locator("#sheet [data-error]")).to_be_hidden()
        page.keyboard.press("Escape")
        expect(page.locator("#sheet")).to_be_hidden()
        self.chain("copy_opacity")
        self.led()

    def test_a_lever_leads_a_value_on_top_of_what_it_does(self) -> None:
        page = self.opened()
        self.chain("copy_rotation")
        self.led("Pennants Gust")
        page.keyboard.press("l")
        page.locator(".can-drive").first.wait_for()
        page.locator("[data-lever=pennant-wind] .lever-name").click()
        page.locator("[name=way][value=steer]").check(force=True)
        page.locator("[name=steers]").select_option("by")
        page.locator("[name=goal]").fill("30")
        page.locator("form[data-tie] .primary").click()
        expect(page.locator("#sheet")).to_be_hidden()
        self.led("Pennants Gust", "Wind")
        expect(page.locator("#chain .station[data-modifier]").last.locator("h3")).to_be_focused()

    def test_one_noise_leads_place_and_size_by_numbers_that_go_apart_or_in_step(self) -> None:
        page = self.new_scene("Posts")
        self.add_layer("Rectangle")
        page.locator("#handles").focus()
        page.keyboard.press("c")
        array = page.locator('.layer.is-chosen[data-kind="array"]').get_attribute("data-layer")
        page.locator("[data-add-gauge]").first.click()
        page.locator("#sheet [data-new-gauge=noise]").click()
        form = page.locator("#sheet [data-tie-form]")
        for row in ("Position", "Scale"):
            form.locator(".tie-row").filter(has_text=row).locator("[name=value]").check()
        # Place goes by two numbers to begin with, size by the third.
        expect(form.locator(".tie-row").filter(has_text="Position").locator("[name=part]")).to_have_value("each")
        form.locator(".tie-row").filter(has_text="Scale").locator("[name=part]").select_option("z")
        page.get_by_role("button", name="Let them follow").click()
        expect(page.locator("#sheet")).to_be_hidden()
        gauge = page.locator(".gauge[data-kind=noise]")
        expect(gauge.locator(".drives")).to_have_text("drives 2")
        page.locator(f"#layers [data-choose='{array}.copy_position']").first.click()
        self.led("Rectangle array Noise", "Rectangle array Noise y")
        # Each of its numbers has a chain of its own; one setting leads them together.
        gauge.get_by_role("button", name="z", exact=True).click()
        expect(page.locator("#chain .crumbs [aria-current]")).to_have_text("z")
        expect(gauge.get_by_role("button", name="z", exact=True)).to_have_attribute("aria-pressed", "true")

    def test_an_outline_is_roughened_by_a_noise_round_it_without_a_formula(self) -> None:
        page = self.new_scene("Shore")
        self.add_layer("Ellipse")
        picture = "bench.scenePixels(12).reduce((whole, v, k) => (whole * 31 + v) % 1000003, 7)"
        page.locator("[data-layer-menu]").first.click()
        page.get_by_text("Move its edge point by point").click()
        # Its chain opens: where each point of the outline goes.
        expect(page.locator(".sentence")).to_contain_text("Each point of Ellipse's outline")
        bare = page.evaluate(picture)
        page.locator(".add-station").click()
        page.locator("#sheet [data-add=noise]").first.click()
        station = page.locator("#chain .station[data-modifier]")
        expect(station.locator("h3")).to_have_text("Noise")
        station.get_by_label("Over", exact=True).select_option("along")
        expect(page.locator(".sentence")).to_contain_text("smooth noise along it")
        self.until(f"{picture} !== {bare}")

    def test_a_little_motion_is_drawn_in_degrees_kept_and_put_on_another_value(self) -> None:
        page = self.opened()
        self.led_by("Gust", "plays", "35", "Rotation")
        self.chain("copy_rotation")
        station = page.locator("#chain .station[data-kind=cam]")
        station.locator("[data-curve-sheet]").click()
        form = page.locator("[data-curve-form]")
        value = form.locator("[data-points] tr").nth(1).locator("[name=value]")
        expect(value).to_have_value("35")
        value.fill("-30°")
        page.keyboard.press("Enter")
        expect(value).to_have_value("−30")
        value.fill("lots")
        page.keyboard.press("Enter")
        expect(form.locator("[data-error]")).to_contain_text("“lots” is not a number")
        value.fill("-30")
        page.keyboard.press("Enter")
        expect(form.locator("[data-error]")).to_be_hidden()
        form.locator("[data-keep-name]").fill("Shiver")
        form.locator("[data-keep-curve]").click()
        expect(form.locator("[data-take-curve]", has_text="Shiver")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator(".sentence")).to_contain_text("plays a cam of −30 to 0 as Pennants Gust goes")
        # On another value, as it was kept.
        self.led_by("Gust", "plays", "5", "Scale")
        self.chain("copy_scale")
        page.locator("#chain .station[data-kind=cam] [data-curve-sheet]").first.click()
        form.locator("[data-take-curve]", has_text="Shiver").click()
        expect(form.locator("[data-points] tr").nth(1).locator("[name=value]")).to_have_value("−30")

    def test_copies_glow_by_how_fast_they_turn_themselves(self) -> None:
        page = self.opened()
        self.chain("copy_opacity")
        page.keyboard.press("l")
        page.locator("#layers [data-choose='pennants.copy_rotation']").first.click()
        page.locator("form[data-tie]").get_by_text("How fast it moves").click()
        # How fast it is in this scene is filled in.
        expect(page.locator("form[data-tie] [name=fast]")).not_to_have_value("100")
        page.locator("form[data-tie] .primary").click()
        expect(page.locator("#sheet")).to_be_hidden()
        expect(page.locator("#chain .station[data-modifier] h3")).to_have_text(["Formula", "Remap"])
        expect(page.locator("#chain .formula-text")).to_have_text("speed(Pennants.copy_rotation)")
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("#chain .station[data-modifier]")).to_have_count(0)


class Swinging(BrowserTest):
    def test_copies_swing_out_of_step_and_are_told_where_they_meet(self) -> None:
        page = self.new_scene("Swings")
        self.add_layer("Line")
        page.locator("#handles").focus()
        page.keyboard.press("c")
        row = page.locator('.layer.is-chosen[data-kind="array"]')
        expect(row).to_be_visible()
        array = row.get_attribute("data-layer") or ""
        page.locator(f"#layers [data-choose='{array}.copy_rotation']").first.click()
        expect(page.locator("#chain .crumbs [aria-current]")).to_have_text("copy rotation")
        page.locator(".add-station").click()
        page.locator("#sheet [data-add=wave]").first.click()
        self.until(SETTLED)
        page.locator("[data-modifier-menu]").first.click()
        page.get_by_text("Swing out of step").click()
        told = page.locator("[data-swing-told]")
        expect(told).to_contain_text("9 copies, each another number of rounds; all together again at frame 300")
        page.locator("[name=least]").fill("12")
        page.locator("[name=most]").fill("28")
        expect(told).to_contain_text("all together again at frames 150, 300")
        page.locator("#sheet [name=by]").select_option("step")
        page.locator("[name=most]").fill("3")
        expect(told).to_contain_text("all together again at frames 100, 200, 300")
        page.locator("#sheet [name=by]").select_option("most")
        page.locator("[name=most]").fill("twenty")
        expect(told).to_contain_text("whole numbers of rounds")
        page.get_by_role("button", name="Let them swing").click()
        expect(page.locator("#sheet [data-error]")).to_contain_text("whole numbers of rounds")
        page.locator("[name=most]").fill("20")
        page.get_by_role("button", name="Let them swing").click()
        expect(page.locator("#sheet")).to_be_hidden()
        self.until(SETTLED)
        # Told beside the chain, and marked on the ruler.
        expect(page.locator("#chain [data-chain]")).to_have_attribute("data-meets", "[300.0]")
        expect(page.locator("#chain .of-copies").first).to_contain_text("All together again at frame 300")
        wave = page.locator("#chain .station[data-modifier]").get_attribute("data-modifier")
        page.locator(f"#chain [data-choose='{wave}.frequency']").click()
        expect(page.locator("#chain .crumbs [aria-current]")).to_have_text("frequency")
        self.assertEqual(
            page.locator("#chain .station[data-modifier] h3").all_inner_texts(),
            ["Steer", "Round"],
        )
        # Found by everyday words too.
        page.locator("body").press("/")
        page.keyboard.type("pendulum")
        expect(page.locator("#sheet .found:visible").first).to_contain_text("Swing out of step")
