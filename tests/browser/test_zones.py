"""Zones by hand: hollow, with the outline of a layer, or with a line that is typed."""

import re

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

GULLS = "/projects/lantern-quay/scenes/gull-flock/bench?layer=gulls#frame=60"


class Zones(BrowserTest):
    def asked(self) -> None:
        self.open(GULLS)
        self.until(SETTLED)
        self.page.locator("[data-choose='near.value']").first.click()
        expect(self.page.locator("#chain .station.source")).to_contain_text("Zone")

    def test_a_ring_is_typed_and_an_outline_is_chosen(self) -> None:
        self.asked()
        page, chain = self.page, self.page.locator("#chain")
        shape = chain.locator("[data-parameter='near.shape'] select").first
        self.type_into("near.hollow", "70")
        expect(page.locator("[data-do=undo]")).to_have_attribute("title", re.compile("hollow", re.IGNORECASE))
        self.undo()
        expect(chain.locator("[data-parameter='near.hollow'] input").first).to_have_value("0")
        shape.select_option("outline")
        lead = chain.locator("[data-count=outline]")
        expect(lead).to_have_value("")
        expect(chain.locator("[data-count=data]")).to_be_visible()
        lead.select_option(label="Sail")
        expect(chain.locator("[data-count=data]")).to_have_count(0)
        # Its place is that of the layer.
        expect(chain.locator("[data-parameter='near.centre']")).to_have_count(0)
        self.until(SETTLED)
        x, y = self.handle("Near the kite: how far it reaches from its outline")
        before = self.undo_words()
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 30, y, steps=4)
        self.let_go()
        self.until(SETTLED)
        self.assertNotEqual(self.undo_words(), before)
        size = chain.locator("[data-parameter='near.size'] input")
        self.assertLess(float(size.first.input_value()), 220)
        self.assertEqual(float(size.last.input_value()), 230)

    def test_a_line_is_typed_and_a_mistake_in_it_is_told(self) -> None:
        self.asked()
        chain = self.page.locator("#chain")
        chain.locator("[data-parameter='near.shape'] select").first.select_option("line")
        path = chain.locator("[data-count=data]")
        path.fill("M0 300 H 1280 Z Q")
        path.press("Tab")
        expect(self.page.locator(".note, .complaint, .wrong, .field-error").first).to_be_visible()
        path.fill("M0 300 H 1280")
        path.press("Tab")
        self.until(SETTLED)
        expect(path).to_have_value("M0 300 H 1280")
        expect(self.page.locator("#gauge-near")).to_be_visible()

    def test_copies_are_counted_from_points_along_a_line_and_by_a_gauge(self) -> None:
        self.open(GULLS)
        page, layers = self.page, self.page.locator("#layers")
        measure = layers.locator("[data-parameter='gulls.order.measure'] select").first
        measure.select_option("points")
        points = layers.locator("[data-count=points]")
        points.fill("100 100, left")
        points.press("Tab")
        expect(page.locator(".complaint")).to_contain_text("A point is two numbers")
        points.fill("100 100, 50 0")
        points.press("Tab")
        x, y = self.handle("Another point to count from")
        self.until(SETTLED)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 60, y - 40, steps=4)
        self.let_go()
        expect(points).not_to_have_value("100 100, 50 0")
        expect(points).to_have_value(re.compile(r"^\d+ \d+, 50 0$"))
        measure.select_option("line")
        layers.locator("[data-count=outline]").select_option(label="Shore")
        expect(page.locator("[data-do=undo]")).to_have_attribute("title", re.compile("counted along Shore"))
        measure.select_option("gauge")
        layers.locator("[data-count=by]").select_option(label="Flocks")
        expect(page.locator("[data-do=undo]")).to_have_attribute("title", re.compile("counted by Flocks"))
        expect(layers.locator("[data-count=by]")).to_have_value("flocks")
