"""The first rig, offered on the stage itself: each step waits until it is done, and can be left at any time."""

import re
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

README = Path(__file__).parents[2] / "README.md"


class TenSteps(BrowserTest):
    alone = True

    def step(self, number: int | str, words: str) -> None:
        """The card has come to a step."""
        card = self.page.locator("#ten-steps")
        expect(card.locator("[data-step-of]")).to_have_text(f"{number} of 10" if number != "done" else "done")
        expect(card.locator("[data-step]:visible")).to_contain_text(words)

    def ringed(self, selector: str) -> None:
        """What is to be pressed next has the ring about it."""
        self.until(
            f"""(() => {{
              const [one, ring] = [document.querySelector({selector!r}), document.getElementById("step-ring")];
              if (!one || !ring.matches(":popover-open")) return false;
              const [a, b] = [one.getBoundingClientRect(), ring.getBoundingClientRect()];
              return Math.abs(a.x + a.width / 2 - b.x - b.width / 2) < 2
                && Math.abs(a.y + a.height / 2 - b.y - b.height / 2) < 2;
            }})()"""
        )

    def test_they_lead_to_the_rig_of_the_readme(self) -> None:
        page = self.open("/")
        page.locator("[data-first-rig]").click()
        page.wait_for_url("**/bench*")
        page.locator("#bench[data-ready]").wait_for()
        self.assertNotIn("steps", page.url)

        self.step(2, "Add a layer")
        self.ringed("#layers .button[data-do=add-layer]")
        star = self.add_layer("Star")

        self.step(3, "pivot")
        x, y = page.evaluate("bench.rim().pivot")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + 30, steps=4)
        self.let_go()
        # Its rotation is open already: that is no step that has to be waited for.
        self.step(5, "Let it move")
        self.ringed("#chain .add-station")
        page.keyboard.press("m")
        self.ringed('#sheet [data-add="wiggle"]')
        page.locator('#sheet [data-add="wiggle"]').click()
        self.ringed("#time [data-do=play]")
        page.keyboard.press("Space")

        self.step(6, "Frequency")
        page.keyboard.press("Space")
        wiggle = page.locator("#chain [data-kind=wiggle]").get_attribute("data-modifier") or ""
        self.ringed(f'[data-parameter="{wiggle}.frequency"] .field-name')
        self.type_into(f"{wiggle}.frequency", "5")
        self.ringed(f'[data-parameter="{wiggle}.amplitude"] .field-name')
        self.type_into(f"{wiggle}.amplitude", "20")

        self.step(7, "With and without")
        self.ringed(f'[data-bypass="{wiggle}"]')
        for _ in range(2):
            page.locator(f'[data-bypass="{wiggle}"]').click()
            self.until(SETTLED)
            page.wait_for_timeout(250)
        self.ringed("[data-do=ghost]")
        page.locator("[data-do=ghost]").click()

        # Loaded anew, the page goes on where one was.
        self.step(8, "other layers")
        page.reload()
        page.locator("#bench[data-ready]").wait_for()
        self.step(8, "other layers")
        self.add_layer("Ellipse")
        self.add_layer("Polygon")
        self.ringed(f'[data-layer="{star}"] [data-choose-layer]')
        page.locator(f'[data-choose-layer="{star}"]').click()
        self.ringed("[data-do=copy-chain]")
        page.locator("[data-do=copy-chain]").click()
        self.ringed("#sheet [data-tick-same]")
        page.locator("#sheet [data-tick-same]").click()
        self.ringed("#sheet .button.primary")
        page.locator("#sheet .button.primary").click()

        self.step(9, "lever")
        self.ringed(f'[data-parameter="{wiggle}.amplitude"] [data-menu]')
        self.field(f"{wiggle}.amplitude").locator("[data-menu]").click()
        self.ringed("#menu .menu-field input")
        page.get_by_label("Make it a lever named").fill("Wind")
        page.keyboard.press("Enter")

        self.step(10, "Key here")
        self.ringed("#levers .lever-name")
        page.locator("#levers .lever-name").click()
        self.ringed("#time [data-do=home]")
        page.locator("#time [data-do=home]").click()
        self.ringed("#chain [data-do=key]")
        page.locator("#chain [data-do=key]").click()
        self.ringed("#ruler")
        self.to_frame(60)
        lever = page.locator("[data-lever]").get_attribute("data-lever")
        self.ringed("#chain .station.source [data-input]")
        self.type_into(f"{lever}.value", "0")
        self.step("done", "That is a rig")
        page.locator("[data-skip-step]").click()
        expect(page.locator("#ten-steps")).to_be_hidden()
        expect(page.locator("#step-ring")).to_be_hidden()

        # The Shelf does not offer it again; Find has it, and it can be left.
        page.goto(self.address("/"))
        expect(page.locator("#first-visit")).to_be_hidden()
        self.new_scene("Again")
        page.keyboard.press("/")
        page.keyboard.type("tutorial")
        page.locator("#sheet .found:visible, #sheet .entry:visible").first.click()
        self.step(2, "Add a layer")
        page.locator("[data-skip-step]").click()
        self.step(3, "pivot")
        page.locator("[data-leave-steps]").click()
        expect(page.locator("#ten-steps")).to_be_hidden()
        page.reload()
        page.locator("#bench[data-ready]").wait_for()
        expect(page.locator("#ten-steps")).to_be_hidden()
        page.locator("[data-begin-steps]").click()
        self.step(2, "Add a layer")

    def test_they_are_those_of_the_readme(self) -> None:
        rig = README.read_text(encoding="utf-8").split("## A first rig in ten steps")[1].split("\n## ")[0]
        told = re.findall(r"^\d+\. (.+)$", rig, re.MULTILINE)
        page = self.new_scene("Words")
        shown = page.locator("#ten-steps [data-step] p").all_text_contents()
        self.assertEqual(len(told), 10)
        for readme, words in list(zip(told, shown, strict=False))[1:]:
            # What is pressed and what it is called is the same in both.
            named = set(re.findall(r"\*\*([^*]+)\*\*|\*([^*]+)\*", readme))
            for name in (one or other for one, other in named):
                self.assertIn(name, words)
