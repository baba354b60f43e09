"""The Shelf and what it leads to: its stills keep no page waiting, and a scene is made where one works."""

import time

from playwright.sync_api import Route, expect

from tests.browser.harness import BrowserTest


class Shelf(BrowserTest):
    alone = True

    def test_stills_that_take_their_time_leave_room_for_whoever_goes_on(self) -> None:
        asked, held = [], list[Route]()

        def hold(route: Route) -> None:
            asked.append(route.request.url)
            held.append(route)

        def asks(count: int) -> None:
            """Wait until so many have been asked for, and no more."""
            deadline = time.monotonic() + 30
            while len(asked) < count and time.monotonic() < deadline:
                self.page.wait_for_timeout(20)
            self.assertEqual(len(asked), count, asked)

        self.page.route("**/strip.png*", hold)
        page = self.open("/")
        self.until("document.querySelectorAll('[data-asked]').length > 8")
        asks(2)
        # What is pointed at is next.
        last = page.locator("[data-still]").nth(8)
        last.hover()
        held.pop(0).fulfill(status=404)
        self.until("document.querySelectorAll('[data-shown]').length === 1")
        asks(3)
        self.assertTrue(asked[2].endswith(last.get_attribute("data-strip") or "-"), asked)
        page.get_by_label("Open Evening quay").click()
        page.locator("#bench[data-ready]").wait_for()
        asks(3)

    def test_a_scene_is_made_beside_the_one_that_one_works_on(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/name-plate/bench")
        page.locator("[data-do=scenes]").click()
        page.get_by_role("menuitem", name="New scene …").click()
        sheet = page.locator("#sheet")
        expect(sheet.get_by_label("Width in pixels")).to_have_value("960")
        expect(sheet.get_by_label("Length")).to_have_value("120")
        page.keyboard.type("Plate at night")
        sheet.get_by_label("Length").fill("soon")
        page.keyboard.press("Enter")
        expect(sheet.locator("[data-error]")).to_contain_text("whole number")
        sheet.get_by_label("Length").fill("2s")
        page.keyboard.press("Enter")
        expect(page.locator("[data-do=scenes]")).to_contain_text("Plate at night")
        page.locator("#bench[data-ready]").wait_for()
        told = page.evaluate("() => fetch('/api/projects/lantern-quay/file').then((one) => one.json())")
        made = next(one for one in told["scenes"] if one["name"] == "Plate at night")
        self.assertEqual((made["width"], made["length"]), (960, 60))
