"""What is found without being looked for: what moves here, help at its place, and a scene that waits to be played."""

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest


class Found(BrowserTest):
    def test_a_scene_opens_resting_and_tells_what_moves_in_it(self) -> None:
        page = self.page
        page.emulate_media(reduced_motion="no-preference")
        self.addCleanup(lambda: page.is_closed() or page.emulate_media(reduced_motion=None))
        self.open()
        self.until(SETTLED)
        self.assertFalse(page.evaluate("bench.clock.playing"))
        cards = page.locator(".moving-one")
        self.assertGreater(cards.count(), 4)
        expect(cards.first).to_contain_text("Wind")
        expect(page.locator(".moving-list")).to_contain_text("and 4 more")
        cards.filter(has_text="Beam").click()
        self.shown("beam.rotation")
        expect(cards).to_have_count(0)
        # Whoever goes to type something lands at the frame that is seen.
        page.locator("#handles").focus()
        page.keyboard.press(" ")
        self.until("bench.clock.playing && bench.clock.frame > 2")
        self.field("beam.opacity").locator("input").first.click()
        self.until("!bench.clock.playing")
        page.keyboard.press("Escape")
        page.locator("#handles").focus()
        page.keyboard.press(" ")
        self.until("bench.clock.playing")
        page.locator("#frame").click()
        self.until("!bench.clock.playing")

    def test_help_is_one_key_away_at_the_paragraph_that_is_meant(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench?layer=lantern1&parameter=lantern1.opacity")
        self.shown("lantern1.opacity")
        page.locator('.station [data-field][data-label="Frequency"] .field-name').focus()
        with page.expect_popup() as opened:
            page.keyboard.press("F1")
        told = opened.value
        told.wait_for_load_state()
        self.assertTrue(told.url.endswith("/help/modifiers/wiggle#frequency"))
        expect(told.locator("#frequency")).to_contain_text("Frequency")
        told.goto(f"{self.server.address}/help")
        search = told.locator("#help-search")
        entries = told.locator("[data-help-entry]:visible")
        search.fill("jitter")
        expect(entries.first).to_contain_text("Wiggle")
        expect(told.locator("#values")).to_be_hidden()
        search.fill("wigle")
        expect(told.locator("[data-help-nothing]")).to_contain_text("This comes nearest")
        expect(entries.first).to_contain_text("Wiggle")
        search.fill("keyframe")
        entries.filter(has=told.get_by_text("Keys", exact=True)).locator("a").first.click()
        self.assertTrue(told.url.endswith("#keys-of-values"))
        expect(told.locator("#keys-of-values")).to_be_visible()
        told.close()
