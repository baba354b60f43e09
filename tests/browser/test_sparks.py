"""Sparks, letters and points by hand: an emitter made of a layer, its handles on the stage, curves over a life; a
headline taken apart; an outline that flickers."""

import json
import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Locator, expect

from tests.browser.harness import SETTLED, BrowserTest


class ComingAndGoing(BrowserTest):
    def field(self, parameter: str) -> Locator:
        return self.page.locator(f'#layers [data-parameter="{parameter}"] [data-input]')

    def array(self) -> str:
        return str(self.page.locator('[data-kind="array"]').first.get_attribute("data-layer"))

    def test_a_shape_is_thrown_dragged_about_and_faded_over_its_life(self) -> None:
        page = self.new_scene("Sparks of mine")
        self.add_layer("Star")
        page.get_by_role("button", name="Repeat the chosen layers").click()
        page.locator("[data-arrangement]").select_option("emitter")
        expect(page.locator("#layers")).to_contain_text("Lifetime")
        array = self.array()
        self.assertEqual(self.field(f"{array}.arrangement.rate").input_value(), "20")
        # Its direction and speed in one pull: the handle stands straight above the start.
        x, y = self.handle("Direction and speed")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 60, y + 30, steps=6)
        self.let_go()
        self.assertGreater(float(self.field(f"{array}.arrangement.direction").input_value()), 10)
        # A curve over the life, tied to how each fades.
        page.locator(f'[data-add-gauge="{array}"]').first.click()
        page.locator('[data-new-gauge="life"]').click()
        canvas = page.locator("canvas.profile-curve")
        box = canvas.bounding_box()
        assert box is not None
        for x, y in ((0.1, 0.2), (0.9, 0.8)):
            page.mouse.dblclick(box["x"] + x * box["width"], box["y"] + y * box["height"])
            expect(page.locator(".profile [data-clear-profile]")).to_have_count(1)
        expect(page.locator(".life-curve")).to_have_count(1)
        page.get_by_role("button", name="Undo").first.click()
        page.locator(f'[data-layer="{array}"] [data-layer-menu]').first.click()
        page.get_by_text("Take apart: copies as they stand now").click()
        expect(page.locator("body")).to_contain_text("come and go")

    def test_a_curve_over_the_life_is_drawn_by_keys_and_goes_on_as_it_is_told(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/forge-sparks/bench")
        page.locator('[data-choose-layer="forge-throw"]').click()
        page.locator('#gauge-spark-size [data-choose="spark-size.value"]').first.click()
        curve, told = page.locator("canvas.profile-curve"), page.locator("[data-point-told]")

        def points() -> list[list[Any]]:
            return [one[:2] for one in self.keys_of_curve()]

        before = points()
        self.assertEqual([at for at, _ in before], [0, 12, 100])
        curve.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowRight")
        expect(told).to_have_text("12 %: 1")
        for key, said in (("ArrowDown", "12 %: 0.98"), ("Alt+ArrowRight", "13 %: 0.98"), ("+", "57 %: 0.61")):
            self.keep(lambda key=key: page.keyboard.press(key))  # type: ignore[misc]
            # The point stays chosen through the panels that come.
            expect(told).to_have_text(said)
        self.assertEqual(points(), [[0, 0.2], [13, 0.98], [57, 0.61], [100, 0.25]])
        # Keys that come faster than they are kept all count.
        page.keyboard.press("ArrowLeft")
        there = ["Alt+ArrowRight"] * 3 + ["ArrowUp"] * 2 + ["Alt+ArrowLeft"] * 2 + ["ArrowDown"]
        back = ["Alt+ArrowLeft", "ArrowDown"]
        for keys, said, at, value in ((there, "14 %: 1", 14, 1), (back, "13 %: 0.98", 13, 0.98)):
            for key in keys:
                page.keyboard.press(key)
            expect(told).to_have_text(said)
            read = "JSON.parse(document.querySelector('[data-profile]').dataset.profileKeys)[1]"
            self.until(f"{read}[0] === {at} && {read}[1] === {value} && {SETTLED}")
        page.keyboard.press("ArrowRight")
        # A jump in the curve: the sparks stand at their size until the next point.
        page.keyboard.press("Enter")
        expect(page.locator("#menu")).to_contain_text("At 57 %: 0.61")
        self.keep(lambda: page.locator("#menu").get_by_role("menuitem", name="hold").click())
        self.assertEqual(self.keys_of_curve()[2][2], "hold")
        self.keep(lambda: page.keyboard.press("Delete"))
        self.assertEqual(len(points()), 3)
        # With the pointer: the last point has nothing to go on to, and goes.
        box = curve.bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + box["width"] - 6, box["y"] + 42, button="right")
        expect(page.locator("#menu")).to_contain_text("At 100 %: 0.25")
        expect(page.locator("#menu")).not_to_contain_text("hold")
        self.keep(lambda: page.locator("#menu").get_by_role("menuitem", name="Remove this point").click())
        self.assertEqual([at for at, _ in points()], [0, 13])

    def keep(self, act: Callable[[], None]) -> None:
        """Do something that is an edit; until the page shows what came of it."""
        with self.page.expect_response(lambda r: r.url.endswith("/edits")):
            act()
        self.until(SETTLED)

    def keys_of_curve(self) -> list[list[Any]]:
        keys: list[list[Any]] = json.loads(
            self.page.locator("[data-profile]").get_attribute("data-profile-keys") or "[]"
        )
        return keys

    def test_a_headline_is_taken_apart_and_changed_afterwards(self) -> None:
        page = self.new_scene("Headline of mine")
        self.add_layer("Text")
        page.locator("[data-layer-menu]").first.click()
        page.get_by_text("Take apart into letters").click()
        array = self.array()
        times = page.locator(f'[data-layer="{array}"] .times')
        expect(times).to_have_text("× 4")
        # What was made is chosen, its chain open: only then is something else.
        expect(page.locator(".sentence")).to_contain_text("4 letters of a text")
        # Written by somebody else meanwhile: the rig stays, the letters are others.
        text = page.locator('.layer[data-kind="text"]').get_attribute("data-layer")
        scene, project = page.url.split("/scenes/")[1].split("/")[0], page.url.split("/projects/")[1].split("/")[0]
        edit = {"kind": "set value", "scene": scene, "parameter": f"{text}.text", "value": "Old slip"}
        answer = page.request.post(f"{self.server.address}/api/projects/{project}/edits", data={"edits": [edit]})
        self.assertTrue(answer.ok, answer.text())
        expect(times).to_have_text("× 7")
        page.locator(f'#layers [data-parameter="{array}.arrangement.by"] select').select_option("word")
        expect(times).to_have_text("× 2")
        expect(page.locator(".sentence")).to_contain_text("2 words of a text")

    def test_an_outline_flickers_with_shells_inside_it(self) -> None:
        page = self.new_scene("Flame of mine")
        self.add_layer("Ellipse")
        layer = page.locator('.layer[data-kind="ellipse"]').get_attribute("data-layer")
        picture = "bench.scenePixels(12).reduce((whole, v, k) => (whole * 31 + v) % 1000003, 7)"
        bare = page.evaluate(picture)
        page.locator("[data-layer-menu]").first.click()
        page.get_by_text("Move its edge point by point").click()
        expect(page.locator(".sentence")).to_contain_text("Each point of Ellipse's outline")
        expect(page.locator("[data-copy-told]")).to_have_text(re.compile(r"point 0 of \d+"))
        rests = page.evaluate(picture)
        self.field(f"{layer}.edge.out").click()
        page.keyboard.press("Control+A")
        page.keyboard.type("=")
        expect(page.locator("#formula-pad .cm-content")).to_be_focused()
        page.keyboard.type("30 * noise(x / 30, y / 40 + t) * height")
        page.keyboard.press("Control+Enter")
        expect(page.locator(".station[data-modifier]")).to_have_count(1)
        self.until(f"{picture} !== {rests}")
        moves = page.evaluate(picture)
        expect(self.field(f"{layer}.edge.about").first).to_have_count(0)
        self.field(f"{layer}.edge.shells").fill("3")
        self.field(f"{layer}.edge.shells").press("Enter")
        expect(self.field(f"{layer}.edge.about").first).to_be_visible()
        expect(page.locator("[data-stops-of=edge]").first).to_be_visible()
        self.until(f"{picture} !== {moves}")
        page.get_by_role("button", name="Take the edge off").click()
        expect(page.locator("[data-part=edge]")).to_have_count(0)
        self.until(f"{picture} === {bare}")
        page.get_by_role("button", name="Undo").first.click()
        expect(page.locator("[data-part=edge]")).to_have_count(1)
