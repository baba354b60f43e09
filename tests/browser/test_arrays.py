"""An array, from one pennant to a flock, as an artist makes it: seen, pulled, pointed at, undone."""

import json
import re

import numpy as np
from playwright.sync_api import Locator, Page, expect

from tests.browser.harness import SETTLED, BrowserTest

MAP = """async ([station, paint]) => {
  const base = document.querySelector('script[type=module]').src;
  const { channel } = await import(base.replace('pages/bench.js', 'lib/channels.js'));
  const { pictureOf } = await import(base.replace('pages/bench.js', 'chain/copies.js'));
  const { copies } = bench.answers.last.chosen, one = channel(copies.outputs[station]);
  const sheet = pictureOf(one, copies.numbers.length, paint, 1);
  const { data } = sheet.getContext('2d').getImageData(0, 0, sheet.width, sheet.height);
  return { wide: sheet.width, high: sheet.height, pixels: [...data], numbers: copies.numbers, step: copies.step };
}"""


class Arrays(BrowserTest):
    def picture(self) -> int:
        frame = "Math.floor(bench.clock.frame)"
        return int(
            self.page.evaluate(f"Array.from(bench.scenePixels({frame})).reduce((a, b) => (a * 31 + b) % 1000003, 7)")
        )

    def drag(self, start: tuple[float, float], by: tuple[float, float], held: str = "") -> None:
        """Drag on the stage; `held` must come true while the button is still down, and nothing is kept until it is
        up."""
        self.until("document.getElementById('saved').textContent === 'saved'")
        mouse, before = self.page.mouse, self.undo_words()
        mouse.move(*start)
        mouse.down()
        mouse.move(start[0] + by[0], start[1] + by[1], steps=6)
        if held:
            self.until(held)
        self.assertEqual(self.undo_words(), before)
        self.let_go()
        self.assertNotEqual(self.undo_words(), before)

    def gauge(self, wish: str) -> str:
        """A gauge by what the artist wants; its id. What follows it is left for later."""
        before = self.page.evaluate("[...document.querySelectorAll('[data-gauge]')].map((one) => one.dataset.gauge)")
        self.page.locator("[data-add-gauge]").first.click()
        self.page.locator("#sheet .gauge-entry").filter(has_text=wish).click()
        expect(self.page.locator("#sheet [data-tie-form]")).to_be_visible()
        ids = self.page.evaluate("[...document.querySelectorAll('[data-gauge]')].map((one) => one.dataset.gauge)")
        return str(next(one for one in ids if one not in before))

    def array(self, name: str) -> tuple[Page, str, str]:
        """A pennant that is repeated with a key: the page, the array and the pennant."""
        page = self.new_scene(name)
        pennant = self.add_layer("Polygon")
        self.type_into(f"{pennant}.radius", "24")
        page.locator("#handles").focus()
        page.keyboard.press("c")
        row = page.locator('.layer.is-chosen[data-kind="array"]')
        expect(row).to_be_visible()
        expect(row.locator(".times")).to_contain_text("9")
        return page, row.get_attribute("data-layer") or "", pennant

    def test_from_one_pennant_to_a_flock(self) -> None:
        page, array, pennant = self.array("Flock")
        # A grid by two clicks, its gap pulled on the stage.
        page.locator("[data-arrangement]").select_option("grid")
        expect(self.field(f"{array}.arrangement.columns")).to_be_visible()
        self.type_into(f"{array}.arrangement.columns", "8")
        self.type_into(f"{array}.arrangement.rows", "5")
        for axis in (0, 1):
            self.type_into(f"{array}.arrangement.gap", "50", axis)
        expect(page.locator(".layer.is-chosen .times")).to_contain_text("40")
        # Its handles lie where the forty put them.
        self.until("bench.answers.last.nodes.some((one) => one.kind === 'array' && one.copies === 40)")
        self.drag(
            self.handle("Gap"), (60, 40), f"bench.answers.last.curves.result['{array}.arrangement.gap'] !== undefined"
        )
        expect(self.field(f"{array}.arrangement.gap").locator("input").first).not_to_have_value("50")
        gap = float(self.field(f"{array}.arrangement.gap").locator("input").first.input_value())
        self.assertGreater(gap, 60)

        # Its position waves along the copies, with more on top; each later than its neighbour with one field.
        self.choose(f"{array}.copy_position")
        wave = self.add_modifier("Wave")
        self.type_into(f"{wave}.amplitude", "30", 1)
        self.type_into(f"{wave}.along", "1.5")
        self.add_modifier("Wave")
        self.add_wiggle()
        self.shown(f"{array}.copy_position")
        expect(page.locator(".of-copies").first).to_contain_text("40 copies in a grid of 8 by 5")
        self.until("bench.answers.last.chosen.copies.numbers.length === 24")
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("[data-later-each]").fill("3f")
            page.locator("[data-later-each]").press("Enter")
        expect(page.locator(".station[data-modifier]")).to_have_count(4)
        expect(page.locator("[data-later-each]")).to_have_value("3f")

        # Clicking a copy shows it, and its values.
        self.shown(f"{array}.copy_position")
        x, y = page.evaluate(f"bench.copyOnPage('{pennant}', 12)")
        page.mouse.click(x, y)
        expect(page.locator("[data-copy-told]")).to_have_text("copy 12 of 40")

        # The map: every pixel is the colour of the value that was sampled there.
        page.locator("[data-spread=map]").click()
        self.until("bench.answers.last.chosen.copies?.spread === 'map'")
        self.check_map(array)
        page.locator("[data-spread=fan]").click()
        self.until("bench.answers.last.chosen.copies?.spread === 'fan'")

        # A zone pushes them while it is dragged.
        zone = self.gauge("What is near")
        page.keyboard.press("Escape")
        page.locator(f'[data-gauge-menu="{zone}"]').click()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("#menu").get_by_role("menuitem", name="Push the copies by it").click()
        before = self.picture()
        self.drag(self.handle("Zone: centre"), (70, 30), "true")
        self.until(f"Array.from(bench.scenePixels(0)).reduce((a, b) => (a * 31 + b) % 1000003, 7) !== {before}")
        # Undone step by step.
        for words in ("centre", "Push", "Zone", "later"):
            expect(page.locator("[data-do=undo]")).to_have_attribute("title", re.compile(words, re.IGNORECASE))
            self.undo()

    def check_map(self, array: str) -> None:
        """Holds the last station's map of y to values that the server gives for single copies."""
        station = self.page.evaluate("bench.answers.last.chosen.outputs.length - 1")
        found = self.page.evaluate(MAP, [station, "vector"])
        pixels = np.array(found["pixels"]).reshape(found["high"], found["wide"], 4)
        values = np.array([self.values_of(array, copy) for copy in (0, 7, 39)])
        least, most = self.page.evaluate(
            """async (station) => {
              const { channel } = await import(document.querySelector('script[type=module]')
              .src.replace('pages/bench.js', 'lib/channels.js'));
              const one = channel(bench.answers.last.chosen.copies.outputs[station]);
              const ys = [...one.data].filter((_, k) => k % 2 === 1);
              return [Math.min(...ys), Math.max(...ys)];
            }""",
            station,
        )
        paper, brick, sea = np.array([245, 241, 232]), np.array([169, 60, 40]), np.array([31, 111, 120])
        big = max(-least, most)
        for row, copy in enumerate((0, 7, 39)):
            line = pixels[found["numbers"].index(copy)]
            share = np.abs(values[row])[:, None] / big
            wanted = paper + (np.where(values[row][:, None] < 0, brick, sea) - paper) * np.minimum(share, 1)
            np.testing.assert_allclose(line[:, :3], wanted[:: found["step"]][: len(line)], atol=1.01)

    def values_of(self, array: str, copy: int) -> list[float]:
        """y of one copy's position over the scene, by showing it."""
        self.page.evaluate(
            """async ([array, copy]) => {
              const { showCopy } = await import(document.querySelector('script[type=module]')
              .src.replace('pages/bench.js', 'chain/copies.js'));
              showCopy(array, copy);
            }""",
            [array, copy],
        )
        self.until(f"bench.answers.last.chosen.copies.shown === {copy}")
        return list(
            self.page.evaluate(
                """async () => {
                  const { channel } = await import(document.querySelector('script[type=module]')
                  .src.replace('pages/bench.js', 'lib/channels.js'));
                  const one = channel(bench.answers.last.chosen.outputs.at(-1));
                  return [...one.data].filter((_, k) => k % 2 === 1);
                }"""
            )
        )

    def test_a_sweep_takes_what_it_changes_along(self) -> None:
        page, array, pennant = self.array("Sweep")
        sweep = self.gauge("A change that travels")
        form = page.locator("#sheet [data-tie-form]")
        form.locator(f'.tie-row:has(input[value="{array}.copy_opacity"]) [name=to]').fill("30")
        form.locator(f'.tie-row:has(input[value="{pennant}.fill.colour"]) [name=value]').check()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            form.get_by_role("button", name="Let them follow").click()
        expect(page.locator(f"#gauge-{sweep} .drives")).to_have_text("drives 2")
        # Keyed over the scene as it is; pulled by hand it follows at once.
        self.to_frame(40)
        before = self.picture()
        slide = page.locator(f'[data-slide="{sweep}.travel"]')
        box = slide.bounding_box()
        assert box
        page.mouse.move(box["x"] + 20, box["y"] + 12)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 0.7, box["y"] + 12, steps=8)
        self.until(f"Array.from(bench.scenePixels(40)).reduce((a, b) => (a * 31 + b) % 1000003, 7) !== {before}")
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.mouse.up()
        # From the middle, shuffled, reversed: the order is the array's.
        page.locator(f'[data-choose-layer="{array}"]').click()
        order = self.field(f"{array}.order.measure").locator("select")
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            order.select_option("shuffled")
        expect(page.locator(".of-copies").first).to_contain_text("shuffled")
        # The little curve that each copy plays is drawn in the gauge's first station.
        page.locator(f'#gauge-{sweep} [data-choose="{sweep}.value"]').first.click()
        expect(page.locator(f'[data-chain="{sweep}.value"]')).to_be_attached()
        curve = page.locator(".profile-curve")
        curve.scroll_into_view_if_needed()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            curve.dblclick(position={"x": 40, "y": 12})
        expect(page.locator("[data-clear-profile]")).to_be_visible()
        self.assertEqual(len(json.loads(page.locator("[data-profile]").get_attribute("data-profile-keys") or "[]")), 3)
        # Shown as dots on the copies, and put away again.
        page.locator(f'[data-dots="{sweep}.value"]').click()
        self.until("bench.answers.last.dots?.count === 9")
        page.locator(f'[data-dots="{sweep}.value"]').click()
        self.until("bench.answers.last.dots === null")
        # Deleted, in one step, while it drives: what followed it rests, and the page goes on.
        page.locator(f'[data-gauge-menu="{sweep}"]').click()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("#menu").get_by_role("menuitem", name="Delete").click()
            page.locator("[data-delete-now]").click()
        expect(page.locator("[data-gauge]")).to_have_count(0)

    def test_a_mistake_is_told_in_its_place(self) -> None:
        page, array, _ = self.array("Mistakes")
        for text, said in (("-1", "does not lie between"), ("1.5", "is not a whole number"), ("1000000", "20,000")):
            box = self.field(f"{array}.arrangement.count").locator("[data-input]").first
            box.fill(text)
            box.press("Enter")
            expect(page.locator(".complaint, [data-complaint], #notes").filter(has_text=said).first).to_be_visible()
            box.press("Escape")
        self.assertIn("9", page.locator(".layer.is-chosen .times").text_content() or "")

    def test_taken_apart_it_looks_the_same(self) -> None:
        page, array, _ = self.array("Apart")
        before = self.picture()
        page.locator(f'[data-layer-menu="{array}"]').click()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("#menu").get_by_role("menuitem", name="Take apart: copies as they stand now").click()
        expect(page.locator("[data-layer]")).to_have_count(19)
        self.until("document.getElementById('saved').textContent === 'saved'")
        self.assertEqual(self.picture(), before)

    def test_taken_apart_with_its_motion_as_closely_as_is_told(self) -> None:
        page, array, _ = self.array("Apart in motion")
        self.make(kind="add modifier", parameter=f"{array}.copy_rotation", modifier="wiggle")
        page.locator(f'[data-layer-menu="{array}"]').click()
        page.get_by_role("menuitem", name="Take apart: copies with their motion as keys …").click()
        expect(page.locator("#sheet")).to_contain_text("9 copies become layers in a group")
        page.get_by_label("Tolerance").fill("much")
        page.keyboard.press("Enter")
        expect(page.locator("#sheet [data-error]")).to_be_visible()
        page.get_by_label("Tolerance").fill("4")
        page.keyboard.press("Enter")
        expect(page.locator("#sheet")).to_be_hidden()
        expect(page.locator("[data-layer]")).to_have_count(19)
        self.assertIn("taken apart", self.undo_words())

    def test_two_hundred_gulls_are_taken_apart_while_the_work_goes_on(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/gull-flock/bench")

        def begin() -> Locator:
            page.locator('[data-layer-menu="gulls"]').click()
            page.get_by_role("menuitem", name="Take apart: copies with their motion as keys …").click()
            page.get_by_label("Tolerance").fill("2")
            page.keyboard.press("Enter")
            expect(page.locator("#sheet")).to_be_hidden()
            note = page.locator(".toast").filter(has_text="Taking Gulls apart …")
            expect(note.get_by_role("progressbar")).to_be_visible()
            return note

        begin().get_by_role("button", name="Stop").click()
        expect(page.locator(".toast").filter(has_text="Stopped. Nothing was changed.")).to_be_visible()
        expect(page.locator('.layer[data-layer="gulls"]')).to_have_attribute("data-kind", "array")
        note = begin()
        # Nobody waits for it: what is done meanwhile is kept at once, and stays.
        page.locator('[data-choose-layer="gulls"]').click()
        self.type_into("gulls.opacity", "90")
        expect(note).to_be_visible()
        expect(page.locator(".toast").filter(has_text="Gulls taken apart.")).to_be_visible(timeout=60_000)
        expect(page.locator('.layer[data-layer="gulls"]')).to_have_attribute("data-kind", "group")
        expect(self.field("gulls.opacity").locator("[data-input]")).to_have_value("90")
        # It came after what was done meanwhile, and goes back alone.
        self.until(SETTLED)
        page.locator("body").press("Control+z")
        expect(page.locator('.layer[data-layer="gulls"]')).to_have_attribute("data-kind", "array")
        expect(self.field("gulls.opacity").locator("[data-input]")).to_have_value("90")

    def test_the_map_is_as_large_as_the_sheet_of_curves(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/gull-flock/curves?parameter=gulls.copy_rotation")
        expect(page.locator("#spread [data-copy-told]")).to_contain_text("of 200")
        page.locator("#spread [data-spread=map]").click()
        self.until("curves.answers.last.chosen.copies?.spread === 'map'")
        sheet = page.locator("main canvas").first
        box = sheet.bounding_box()
        assert box
        # A press in the middle of the map points at a frame, and at a copy by its place in the order; held, it goes on.
        at = "(({ numbers, shown }) => numbers.indexOf(shown) / numbers.length)(curves.answers.last.chosen.copies)"
        shown, frame = page.evaluate(f"[{at}, curves.clock.frame]")
        page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.5)
        page.mouse.down()
        self.until(f"curves.clock.frame !== {frame} && {at} !== {shown}")
        self.assertAlmostEqual(page.evaluate(at), 0.5, delta=0.03)
        page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] * 0.7, steps=3)
        page.mouse.up()
        self.until(f"{at} > 0.65 && {at} < 0.75")
        self.assertGreater(page.evaluate("curves.clock.frame"), frame)
        page.locator("#spread [data-spread=fan]").click()
        self.until("curves.answers.last.chosen.copies?.spread === 'fan'")

    def test_what_differs_from_copy_to_copy_is_no_set_of_keys(self) -> None:
        page, array, _ = self.array("Unbaked")
        self.choose(f"{array}.copy_rotation")
        self.add_wiggle()
        self.shown(f"{array}.copy_rotation")
        page.locator("[data-do=bake]").click()
        expect(page.get_by_text("differs from copy to copy").first).to_be_visible()
