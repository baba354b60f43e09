"""Where the focus is after every action: on what was made, or where one came from, and never on nothing."""

from playwright.sync_api import Locator, expect

from tests.browser.harness import SETTLED, BrowserTest


class Focus(BrowserTest):
    def on(self, place: Locator) -> None:
        # What was done has come to its end by then: the focus goes nowhere else any more.
        self.until(SETTLED)
        expect(place).to_be_focused()

    def row(self, layer: str) -> Locator:
        return self.page.locator(f'[data-choose-layer="{layer}"]')

    def test_it_goes_to_what_was_made_or_back_to_where_one_came_from(self) -> None:
        page = self.new_scene("Kept in view")
        one = self.add_layer("Rectangle")
        self.on(self.row(one))
        two = self.add_layer("Ellipse")
        self.on(self.row(two))
        self.choose(f"{two}.rotation")
        first = self.add_wiggle()
        self.on(page.locator(f"#station-{first} h3"))
        second = self.add_modifier("Limit")
        self.on(page.locator(f"#station-{second} h3"))
        page.keyboard.press("Delete")
        self.on(page.locator(f"#station-{first} h3"))
        page.keyboard.press("Delete")
        self.on(page.locator(".add-station"))

        # A formula that is left leads back to its field, one that is kept to its text.
        box = self.field(f"{two}.opacity").locator("input").first
        box.click()
        page.keyboard.type("=50")
        expect(page.locator("[data-formula-of]")).not_to_be_empty()
        # Left at once, while the list of names is only about to be looked for.
        page.keyboard.type("0")
        page.keyboard.press("Escape")
        self.on(page.locator(f'#layers [data-parameter="{two}.opacity"] .field-name'))
        box.click()
        page.keyboard.type("=50 + 10 * t")
        expect(page.locator("[data-formula-of]")).not_to_be_empty()
        page.keyboard.press("Control+Enter")
        self.on(page.locator("#chain .formula-text"))

        # From the menu of a field a lever is made, which is then at hand.
        levers = []
        for name in ("Breeze", "Tide", "Gust"):
            self.field(f"{two}.rotation").locator("[data-menu]").click()
            page.locator("#menu input").first.fill(name)
            page.locator("#menu input").first.press("Enter")
            levers.append(page.locator(f'[data-lever][data-name="{name}"] .lever-name'))
            self.on(levers[-1])
            page.locator(f'#layers [data-parameter="{two}.rotation"] .dots').click()
            page.get_by_role("menuitem", name="Cut the link").click()
            self.until(SETTLED)
        # What is deleted leaves the focus beside it.
        page.locator('[data-lever][data-name="Tide"] [data-lever-sheet]').click()
        page.locator("[data-delete-lever]").click()
        expect(levers[1]).to_have_count(0)
        self.on(levers[2])
        self.row(two).focus()
        page.keyboard.press("Delete")
        expect(self.row(two)).to_have_count(0)
        self.on(self.row(one))

    def test_levers_and_groups_move_by_keys_and_every_press_does_something(self) -> None:
        page = self.open()
        self.until(SETTLED)
        names = "[...document.querySelectorAll('[data-lever]')].map((one) => one.dataset.name)"
        groups = "[...document.querySelectorAll('#levers [data-group]')].map((one) => one.dataset.group)"
        self.assertEqual(page.evaluate(names), ["Wind", "Swell", "Dusk"])
        wind = page.locator('[data-name="Wind"] .lever-name')
        wind.focus()
        page.keyboard.press("Alt+ArrowUp")
        expect(page.locator("#toasts")).to_contain_text("Wind is the first lever already.")
        page.keyboard.press("Alt+ArrowDown")
        self.until(f'JSON.stringify({names}) === \'["Swell","Wind","Dusk"]\'')
        self.on(wind)
        head = page.locator("#levers [data-group=Light] > h3")
        head.focus()
        page.keyboard.press("Alt+ArrowUp")
        self.until(f'JSON.stringify({groups}) === \'["Light","Weather"]\'')
        self.assertEqual(page.evaluate(names), ["Dusk", "Swell", "Wind"])
        self.on(head)
        page.keyboard.press("Alt+ArrowUp")
        expect(page.locator("#toasts")).to_contain_text("Light is the first group already.")
