"""Every page, in the states that people see it in, looked through by axe: nothing serious, a heading, regions."""

from pathlib import Path
from typing import Any, ClassVar

import axe_playwright_python

from .harness import BrowserTest

AXE = (Path(axe_playwright_python.__file__).parent / "axe.min.js").read_text(encoding="utf-8")
RUN = """async () => (await axe.run(document, {
  runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'], resultTypes: ['violations'],
})).violations.flatMap((found) => found.nodes.map((node) => [found.impact, found.id, node.target.join(' '),
node.failureSummary]))"""

QUAY = "/projects/lantern-quay/scenes/evening-quay"
WINCH = "/projects/lantern-quay/scenes/winch-house"


class Accessibility(BrowserTest):
    """Ready for those who see, hear or point otherwise."""

    alone = True

    PAGES: ClassVar[dict[str, str]] = {
        "the Shelf": "/",
        "a Bench, nothing chosen": f"{QUAY}/bench",
        "a Bench with a chain": f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity",
        "the Curves": f"{QUAY}/curves",
        "the Linkage": f"{WINCH}/linkage",
        "the Export page": f"{QUAY}/export",
        "the Handover": "/handover/lantern-quay/winch-house",
        "all of the help": "/help",
        "the list of modifiers": "/help/modifiers",
        "a modifier's page": "/help/modifiers/wiggle",
        "the language's page": "/help/formula",
        "a page that is not there": "/nothing",
    }

    def found(self) -> list[list[Any]]:
        """What axe finds on the page as it stands."""
        self.page.evaluate(AXE)
        return list(self.page.evaluate(RUN))

    def test_every_page(self) -> None:
        for name, path in self.PAGES.items():
            with self.subTest(name):
                self.page.goto(self.address(path))
                if "projects" in path:
                    self.page.locator("[data-ready]").first.wait_for()
                self.assertEqual(self.found(), [])

    def test_sheets_over_the_bench(self) -> None:
        self.page.goto(self.address(f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity"))
        self.page.locator("[data-ready]").first.wait_for()
        for button in ("Find", "All keys", "Scene settings"):
            with self.subTest(button):
                self.page.get_by_role("button", name=button, exact=True).first.click()
                self.page.locator("#sheet[open] .sheet-head").wait_for()
                self.assertEqual(self.found(), [])
                self.page.keyboard.press("Escape")
                self.page.locator("#sheet[open]").wait_for(state="detached")

    def test_sheets_in_which_figures_are_typed_and_the_ten_steps(self) -> None:
        page = self.page
        page.goto(
            self.address(
                "/projects/lantern-quay/scenes/forge-sparks/bench?layer=forge-throw&parameter=spark-size.value"
            )
        )
        page.locator("[data-ready]").first.wait_for()
        page.locator("[data-curve-sheet]").first.click()
        page.locator("#sheet[open] [data-points] tr").first.wait_for()
        self.assertEqual(self.found(), [])
        page.keyboard.press("Escape")
        page.goto(self.address(f"{QUAY}/bench?layer=lantern3&parameter=lantern3.opacity&steps"))
        page.locator("[data-ready]").first.wait_for()
        page.locator("#ten-steps").wait_for()
        self.assertEqual(self.found(), [])
        page.locator("[data-leave-steps]").click()
        page.locator("canvas.windows").first.focus()
        page.keyboard.press("Enter")
        page.locator("#sheet[open] [data-windows-form]").wait_for()
        page.locator("#sheet [data-add-window]").click()
        self.assertEqual(self.found(), [])
