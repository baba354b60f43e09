"""What every page owes whoever uses it: room for its words, targets large enough, sheets that take what is typed."""

import time

from playwright.sync_api import Route, expect

from tests.browser.harness import BrowserTest

QUAY = "/projects/lantern-quay/scenes/evening-quay"
REGATTA = "/projects/lantern-quay/scenes/regatta-start"
WINCH = "/projects/lantern-quay/scenes/winch-house"
PAGES = (
    "/",
    f"{QUAY}/bench?layer=boat2&parameter=boat2.position",
    f"{REGATTA}/bench?layer=title&parameter=title.scale#frame=53",
    f"{WINCH}/bench?layer=glow&parameter=glow.opacity",
    f"{REGATTA}/curves?parameter=title.scale",
    f"{WINCH}/linkage?parameter=drum.rotation",
    "/handover/lantern-quay/evening-quay",
    "/projects/lantern-quay/scenes/gull-flock/bench?layer=gulls",
    "/projects/lantern-quay/scenes/pennant-line/bench?layer=pennants",
    "/projects/lantern-quay/scenes/forge-sparks/bench?layer=forge-throw&parameter=spark-size.value",
    "/help/modifiers/bounce",
)

# Things to press or type into that are smaller than 24 × 24; a tick is as large as its label, a link as its line.
SMALL = """[...document.querySelectorAll(`button, input:not([type=checkbox], [type=radio], [type=file], [type=hidden]),
   select, canvas[tabindex], [role=slider], [role=switch]`)]
  .filter((e) => e.offsetWidth && getComputedStyle(e).visibility !== 'hidden')
  .map((e) => [e.getAttribute('aria-label') || e.textContent.trim() || e.className, e.getBoundingClientRect()])
  .filter(([, box]) => box.width < 23.5 || box.height < 23.5).map(([name, box]) =>
  `${name} ${box.width} × ${box.height}`)"""

# Figures, units and the names of values that do not fit. What people have named may be cut; it stands whole in its
# title.
CUT = """[...document.querySelectorAll('.field input[type=text], .field-name, .unit, .field select, .stations output')]
  .filter((i) => i.offsetWidth && (i.scrollWidth > i.clientWidth + 1 || i.scrollHeight > i.clientHeight + 2))
  .map((i) => `${i.getAttribute('aria-label') || i.textContent.trim()}: ${i.value ?? ''}`)"""


class Room(BrowserTest):
    alone = True

    def test_nothing_is_cut_off_or_too_small_to_hit_at_any_size(self) -> None:
        for width, height in ((1280, 800), (1024, 700), (1920, 1080)):
            self.page.set_viewport_size({"width": width, "height": height})
            for path in PAGES:
                with self.subTest(path=path, width=width):
                    self.page.goto(self.address(path))
                    if "/help/" not in path:
                        self.page.locator("[data-ready]").first.wait_for()
                    self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width)
                    self.assertEqual(self.page.evaluate(SMALL), [])
                    self.assertEqual(self.page.evaluate(CUT), [])

    def test_the_result_of_a_long_chain_stays_in_view_and_a_wheel_runs_along_it(self) -> None:
        page = self.open(f"{WINCH}/bench?layer=glow&parameter=glow.opacity")
        result, stations = page.locator(".station.result"), page.locator(".stations")
        self.assertGreater(stations.evaluate("(e) => e.scrollWidth - e.clientWidth"), 100)
        for turned in (0, 400):
            stations.locator(".station.source .curve-box").hover()
            page.mouse.wheel(0, turned)
            self.until(f"document.querySelector('.stations').scrollLeft >= {turned / 4}")
            box = result.bounding_box()
            assert box is not None
            self.assertLessEqual(box["x"] + box["width"], 1280)

    def test_what_is_chosen_elsewhere_comes_into_view_in_the_list(self) -> None:
        page = self.open(f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity")
        expect(page.locator("#row-lantern3 > .layer-row")).to_be_in_viewport()
        expect(page.locator('.layer .field.is-chosen [data-choose="lantern3.opacity"]')).to_be_in_viewport()
        page.locator("[data-drives=swell]").click()
        page.locator("#menu [role=menuitem]").first.click()
        expect(page.locator(".layer.is-chosen > .layer-row")).to_be_in_viewport()

    def test_words_stand_out_from_their_ground(self) -> None:
        page = self.open(f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity")
        tones = page.evaluate(
            """Object.fromEntries(['paper', 'sheet', 'ink', 'faded', 'brass', 'sea', 'brick', 'moss'].map((name) =>
              [name, getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim()]))"""
        )

        def light(name: str) -> float:
            parts = [int(tones[name][k : k + 2], 16) / 255 for k in (1, 3, 5)]
            # WCAG 2.2, relative luminance.
            r, g, b = (v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in parts)
            return 0.2126 * r + 0.7152 * g + 0.0722 * b

        for words in ("ink", "faded", "brass", "sea", "brick", "moss"):
            for ground in ("paper", "sheet"):
                self.assertGreaterEqual((light(ground) + 0.05) / (light(words) + 0.05), 4.5, (words, ground))


class Sheets(BrowserTest):
    def test_what_is_typed_while_a_sheet_opens_is_meant_for_it(self) -> None:
        page = self.open(f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity")

        def late(route: Route) -> None:
            time.sleep(0.4)
            route.continue_()

        page.route("**/sheets/add-modifier*", late)
        page.keyboard.press("m")
        # Each of these letters does something on the Bench.
        page.keyboard.type("bgp")
        expect(page.locator("#sheet .search")).to_have_value("bgp")
        expect(page.locator("[data-do=ghost]")).to_have_attribute("aria-pressed", "false")
        expect(page.locator("#sheet [data-nothing]")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator("#sheet")).not_to_be_visible()
        with page.expect_response("**/sheets/add-modifier*") as asked:
            page.keyboard.press("m")
            page.keyboard.press("Escape")
        asked.value.finished()
        # What came of it would be shown by now.
        page.evaluate("new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))")
        expect(page.locator("#sheet")).not_to_be_visible()

    def test_the_adding_sheet_narrows_to_what_is_found(self) -> None:
        page = self.open(f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity")
        page.keyboard.press("m")
        search, entries, heads = (page.locator(f"#sheet {one}") for one in (".search", ".entry:visible", "h3:visible"))
        expect(heads).to_have_count(6)
        search.fill("gear")
        expect(entries).to_have_count(1)
        expect(heads).to_have_text(["follow something"])
        search.fill("random")
        expect(heads).to_have_text(["shake it"])
        search.press("Enter")
        expect(page.locator(".station[data-modifier]")).to_have_count(2)
        expect(page.locator(".sentence")).to_contain_text("wiggles", ignore_case=True)

    def test_enter_takes_the_recipe_that_is_found(self) -> None:
        page = self.open(f"{QUAY}/bench?layer=boat2&parameter=boat2.position")
        page.keyboard.press("r")
        page.locator("#sheet .search").fill("orbit")
        expect(page.locator("#sheet .recipe:visible")).to_have_count(1)
        page.locator("#sheet .search").press("Enter")
        expect(page.locator("#sheet h2")).to_contain_text("Orbit")
