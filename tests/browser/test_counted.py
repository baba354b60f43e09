"""How much has to be done for a first rig, and for forty copies that come one after the other: counted, at three sizes
of the window by hand, and by the keyboard alone."""

import numpy as np
from playwright.sync_api import Locator, Page, expect

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.formats import project_file
from tests.browser.harness import SETTLED, BrowserTest

SIZES = ((1024, 700), (1280, 800), (1920, 1080))


class Counted(BrowserTest):
    """An action is one press on something, one key, or one thing that is typed and entered."""

    actions = 0

    def press(self, place: Locator) -> None:
        self.actions += 1
        place.click()

    def key(self, key: str) -> None:
        self.actions += 1
        self.page.keyboard.press(key)

    def typed(self, text: str) -> None:
        """Typed where the focus is, and entered."""
        self.actions += 1
        self.page.keyboard.press("Control+a")
        self.page.keyboard.type(text)
        with self.page.expect_response(lambda r: r.url.endswith("/edits")):
            self.page.keyboard.press("Enter")

    def kept(self) -> Project:
        self.until(SETTLED)
        project = self.page.evaluate("bench.scene.project")
        got = self.page.request.get(f"{self.server.address}/api/projects/{project}/file")
        return project_file.read(got.body())

    def steered(self) -> None:
        """A star that wiggles, by an amplitude that is a lever."""
        one = self.kept().scenes[0]
        (star,), (lever,) = one.layers, one.levers
        self.assertEqual((star.kind, lever.name), ("star", "Wind"))
        calm = Sampler(one.changed(levers=(lever.changed(value=lever.value.changed(rest=0.0)),)))
        times = np.arange(0, 5, 0.1)
        self.assertGreater(np.ptp(Sampler(one).sample(f"{star.id}.rotation", times)), 5)
        self.assertEqual(np.ptp(calm.sample(f"{star.id}.rotation", times)), 0)

    def staggered(self) -> None:
        """Forty copies, each a tenth of a second later than the one before."""
        one = self.kept().scenes[0]
        (array,) = one.layers
        at = SampleTimes.frames(one.fps, 0, one.length)
        name = f"{array.layers[0].id}.rotation"
        together = one.changed(layers=(array.changed(later=array.later.changed(rest=0.0)),))
        turned, once = (
            sampler.evaluate(name, inside(sampler, name, at)) for sampler in (Sampler(one), Sampler(together))
        )
        self.assertEqual(turned.shape[:2], (40, one.length))
        for k in range(1, 40):
            np.testing.assert_allclose(turned[k, 3 * k :, 0], once[k, : one.length - 3 * k, 0], atol=1e-9)
        self.assertGreater(np.ptp(turned), 5)

    def test_by_hand(self) -> None:
        for width, height in SIZES:
            with self.subTest(width=width):
                self.page.set_viewport_size({"width": width, "height": height})
                self.by_hand()

    def shaken_by_hand(self, name: str) -> Page:
        """An empty scene, and in it a star whose rotation wiggles."""
        page = self.new_scene(name)
        self.actions = 0
        self.press(page.locator("#layers .button[data-do=add-layer]"))
        self.press(page.locator("#menu").get_by_role("menuitem", name="Star", exact=True))
        self.press(page.locator("#chain .add-station"))
        self.press(page.locator('#sheet [data-add="wiggle"]'))
        return page

    def by_hand(self) -> None:
        page = self.shaken_by_hand("Counted by hand")
        self.press(page.locator('#chain [data-parameter$=".amplitude"] [data-menu]'))
        expect(page.locator("#menu input").first).to_be_focused()
        self.typed("Wind")
        self.assertLessEqual(self.actions, 6)
        self.steered()

        page = self.shaken_by_hand("Forty by hand")
        self.press(page.locator("[data-do=repeat-layers]"))
        for name, text in (("arrangement.count", "40"), ("later", "0.1")):
            box = page.locator(f'#layers .is-chosen [data-parameter$=".{name}"] [data-input]')
            expect(box).to_be_visible()
            box.click()
            self.typed(text)
        self.assertLessEqual(self.actions, 8)
        self.staggered()

    def to(self, selector: str) -> None:
        """Go somewhere by Tab alone."""
        for _ in range(200):
            if self.page.evaluate("one => document.activeElement?.matches(one)", selector):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"not reached: {selector}")

    def enter(self, selector: str) -> None:
        self.to(selector)
        self.key("Enter")

    def shaken(self) -> None:
        """A star whose rotation wiggles, by keys."""
        self.enter("#layers [data-do=add-layer]")
        expect(self.page.locator("#menu button:focus")).to_be_visible()
        for _ in range(30):
            if self.page.evaluate("document.activeElement.textContent.trim()") == "Star":
                break
            self.page.keyboard.press("ArrowDown")
        self.key("Enter")
        expect(self.page.locator(".layer.is-chosen [data-choose-layer]")).to_be_focused()
        expect(self.page.locator("#chain .add-station")).to_be_visible()
        self.key("m")
        expect(self.page.locator("#sheet input[type=search]")).to_be_focused()
        self.page.keyboard.type("wiggle")
        self.key("Enter")
        expect(self.page.locator("#chain [data-kind=wiggle] h3")).to_be_focused()

    def test_by_the_keyboard_alone(self) -> None:
        page = self.new_scene("Counted by keys")
        self.actions = 0
        self.shaken()
        self.enter('#chain [data-parameter$=".amplitude"] [data-menu]')
        expect(page.locator("#menu input").first).to_be_focused()
        self.typed("Wind")
        self.assertLessEqual(self.actions, 6)
        self.steered()

        page = self.new_scene("Forty by keys")
        self.actions = 0
        self.shaken()
        self.key("c")
        expect(page.locator('#layers .is-chosen [data-parameter$=".arrangement.count"]')).to_be_visible()
        for name, text in (("arrangement.count", "40"), ("later", "0.1")):
            self.to(f'#layers [data-parameter$=".{name}"] [data-input]')
            self.typed(text)
        self.assertLessEqual(self.actions, 8)
        self.staggered()
