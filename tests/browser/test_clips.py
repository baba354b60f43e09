"""Clips by hand: brought in, cut by their strip, slowed, held, folded, keyed; a wall of one; and what is said on the
way."""

import json
import re
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.harness import BrowserTest
from tests.formats.made_clips import film

SHOWN = """async (frame) => {
  const src = document.querySelector('script[type=module]').src;
  const { row } = await import(src.replace('pages/bench.js', 'lib/channels.js'));
  const { nodesOf } = await import(src.replace('pages/bench.js', 'display/list.js'));
  const found = [];
  for (const { node, index, element } of nodesOf(bench.answers.last,
  frame)) if (node.kind === 'clip') found.push(Math.round(row(node.channels.frame, index, element)[0]));
  return found;
}"""
WAITING = (
    "import(document.querySelector('script[type=module]').src.replace('pages/bench.js', 'display/clip.js'))"
    ".then(({ waiting }) => waiting() === 0)"
)
#: The number that is written in the upper half of the stage's picture, in ten blocks.
NUMBER = """async (box) => {
  const [x, y, wide, high] = box, frame = Math.floor(bench.clock.frame);
  const pixels = await bench.scenePixels(frame);
  let number = 0;
  for (let bit = 0; bit < 10; bit += 1) {
    const at = 4 * (Math.round(y + high / 4) * bench.scene.width + Math.round(x + (wide * (2 * bit + 1)) / 20));
    number = 2 * number + (pixels[at] > 128 ? 1 : 0);
  }
  return number;
}"""


class Clips(BrowserTest):
    alone = True

    def bring(self, content: bytes, name: str = "Ferry.mp4") -> str:
        path = Path(self.folder) / name
        path.write_bytes(content)
        self.page.locator(".panel-head [data-do=add-layer]").click()
        with self.page.expect_file_chooser() as choosing:
            self.page.get_by_role("menuitem", name="A file: picture, clip").click()
        choosing.value.set_files(str(path))
        self.page.locator('.layer.is-chosen[data-kind="clip"] .clip-strip').wait_for()
        self.until(WAITING)
        return str(self.page.locator('.layer.is-chosen[data-kind="clip"]').get_attribute("data-layer"))

    def shown(self, frame: int) -> list[int]:
        return list(self.page.evaluate(SHOWN, frame))

    def set(self, parameter: str, value: str) -> None:
        box = self.page.locator(f'#layers [data-parameter="{parameter}"] [data-input]').first
        box.fill(value)
        box.press("Enter")
        expect(self.page.locator("#saved")).to_have_text("saved")

    def go(self, frame: int) -> None:
        self.page.locator("#frame").fill(str(frame))
        self.page.locator("#frame").press("Enter")

    def test_a_clip_is_brought_in_cut_slowed_held_folded_and_its_moment_keyed(self) -> None:
        page = self.new_scene("Clips of mine")
        clip = self.bring(film(frames=60, size=(320, 180)))
        expect(page.locator(".clip-words")).to_contain_text("320 × 180 · 2 s · 60 frames at 30 a second · silent")
        wide, high = page.evaluate("[bench.scene.width, bench.scene.height]")
        box = [wide / 2 - 160, high / 2 - 90, 320, 180]
        for frame in (0, 13, 41, 90):
            self.go(frame)
            self.until(WAITING)
            self.assertEqual(page.evaluate(NUMBER, box), min(frame, 59))
        self.set(f"{clip}.speed", "50")
        self.until(f"({SHOWN})(40).then(([one]) => one === 20)")
        self.set(f"{clip}.speed", "100")
        # The strip's left end, a quarter of its length on, is half a second.
        strip = page.locator(".clip-strip")
        strip.scroll_into_view_if_needed()
        place = strip.bounding_box()
        assert place is not None
        page.mouse.move(place["x"] + 6, place["y"] + 20)
        page.mouse.down()
        page.mouse.move(place["x"] + 8 + (place["width"] - 16) / 4, place["y"] + 20, steps=6)
        # All of it moves along before anything is kept, and the fields tell where to.
        kept = self.undo_words()
        self.until(f"({SHOWN})(0).then(([one]) => one >= 14 && one <= 16)")
        start = page.locator(f'#layers [data-parameter="{clip}.start"] [data-input]')
        expect(start).not_to_have_value("0")
        self.assertEqual(self.undo_words(), kept)
        self.let_go()
        self.assertAlmostEqual(float(start.input_value()), 0.5, delta=0.03)
        self.set(f"{clip}.start", "0.5")
        self.set(f"{clip}.stop", "1")
        page.locator(f'#layers [data-parameter="{clip}.ends"] select').select_option("there and back")
        self.until(f"({SHOWN})(16).then(([one]) => one === 28)")
        self.assertEqual([self.shown(k)[0] for k in (0, 14, 15, 29, 30)], [15, 29, 29, 15, 15])
        page.locator(f'#layers [data-parameter="{clip}.ends"] select').select_option("nothing")
        self.until(f"({SHOWN})(40).then(([one]) => one === -1)")
        page.locator(f'#layers [data-parameter="{clip}.ends"] select').select_option("held")
        self.until(f"({SHOWN})(40).then(([one]) => one === 29)")
        self.set(f"{clip}.stop", "0")
        self.set(f"{clip}.speed", "0")
        # Its moment is keyed like any other value.
        for frame, value in ((0, "0"), (30, "1")):
            self.go(frame)
            self.choose(f"{clip}.moment")
            if frame == 0:
                page.get_by_role("button", name="Key here").click()
                expect(page.locator("#saved")).to_have_text("saved")
            else:
                self.set(f"{clip}.moment", value)
        self.until(f"({SHOWN})(30).then(([one]) => one === 45)")
        page.locator("[data-choose-layer]").first.click()
        page.get_by_role("button", name="Undo").first.click()

    def test_a_wall_of_one_clip_each_later_than_the_one_before(self) -> None:
        page = self.new_scene("Wall of mine")
        self.bring(film(frames=60, size=(320, 180)))
        page.keyboard.press("r")
        page.locator("[data-recipe=wall-of-one-clip]").first.click()
        page.get_by_role("button", name="Put it on").click()
        self.until("bench.answers.last.nodes.some(({ kind }) => kind === 'array')")
        self.until(f"({SHOWN})(0).then((all) => all.length === 64)")
        self.assertEqual(set(self.shown(100)), {min(59, max(0, 100 - 4 * k)) for k in range(64)})
        self.assertEqual(self.shown(100)[:4], [59, 59, 59, 59])
        self.assertEqual(self.shown(100)[20], 20)
        self.until(WAITING)

    def test_what_cannot_be_read_is_said_and_a_wall_plays(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/harbour-screens/bench")
        self.until(WAITING)
        self.assertEqual(len(set(self.shown(0))), 64)
        page.locator("#handles").focus()
        page.keyboard.press(" ")
        self.until("bench.clock.frame > 20")
        page.keyboard.press(" ")
        self.until(WAITING)
        path = Path(self.folder) / "Letter.mp4"
        path.write_bytes(b"Dear harbour master,")
        page.locator(".panel-head [data-do=add-layer]").click()
        with page.expect_file_chooser() as choosing:
            page.get_by_role("menuitem", name="A file: picture, clip").click()
        choosing.value.set_files(str(path))
        expect(page.locator(".toast.is-bad")).to_contain_text("Letter.mp4: This is no video")
        told = json.loads(page.request.get(self.server.address + "/api/clip-frames").text())
        self.assertGreater(told["taken"], 10_000)
        page.locator('[data-choose-layer="screen-clip"]').click()
        page.locator("[data-clip-room] summary").click()
        expect(page.locator("[data-clip-room-told]")).to_contain_text("of 512")
        page.get_by_role("button", name="Clear").click()
        # The page may ask for the frame that it shows at once.
        expect(page.locator("[data-clip-room-told]")).to_have_text(re.compile(r"^\d kB of"))
