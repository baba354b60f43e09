"""The Bench: pictures, playing, dragging, mistakes, two tabs, and what the keyboard does."""

import base64
import io
import json
import zipfile

import numpy as np
from PIL import Image, ImageFilter
from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

QUAY = "/projects/lantern-quay/scenes/evening-quay/bench"


class Pictures(BrowserTest):
    def canvas(self, frame: int) -> np.ndarray:
        data = self.page.evaluate(
            """(frame) => {
              const sheet = document.createElement("canvas");
              Object.assign(sheet, { width: 1280, height: 720 });
              sheet.getContext("2d").putImageData(new ImageData(bench.scenePixels(frame), 1280, 720), 0, 0);
              return sheet.toDataURL();
            }""",
            frame,
        )
        return np.asarray(Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))))

    def test_the_canvas_and_the_png_show_the_same(self) -> None:
        self.open(QUAY)
        answer = self.page.request.post(
            self.address("/projects/lantern-quay/scenes/evening-quay/export/png-frames"),
            form={"start": "30", "stop": "30", "size": "1", "transparent": "false"},
            headers={"origin": self.server.address},
        )
        job = answer.text().split("/exports/")[1].split('"')[0].split("/")[0]
        while (file := self.page.request.get(f"{self.server.address}/api/exports/{job}/file")).status == 404:
            self.page.wait_for_timeout(50)
        with zipfile.ZipFile(io.BytesIO(file.body())) as archive:
            png = Image.open(io.BytesIO(archive.read("frame-00030.png"))).convert("RGB")
        canvas = Image.fromarray(self.canvas(30)).convert("RGB")
        # Along edges the two programs may smooth differently: there a pixel may be like any of its neighbours.
        a = np.asarray(png, dtype=int)
        low, high = (np.asarray(canvas.filter(f(3)), dtype=int) for f in (ImageFilter.MinFilter, ImageFilter.MaxFilter))
        off = ((a < low - 6) | (a > high + 6)).any(axis=2)
        self.assertLess(off.mean(), 0.02)
        self.assertGreater(np.asarray(png).std(), 20)

    def test_the_lanterns_flicker_over_time(self) -> None:
        self.open(QUAY)
        one, two = self.canvas(60), self.canvas(100)
        x, y = 494, 297
        near = (slice(y - 60, y + 60), slice(x - 60, x + 60))
        self.assertGreater(np.abs(one[near].astype(int) - two[near]).mean(), 2)

    def test_playing_keeps_real_time_and_goes_on_through_an_edit(self) -> None:
        self.open(QUAY)
        self.page.locator("body").press("Space")
        self.until("bench.clock.playing && bench.clock.frame > 3")
        passed = self.page.evaluate(
            """async () => {
              const from = [performance.now(), bench.clock.frame];
              await new Promise((done) => setTimeout(done, 900));
              return (bench.clock.frame - from[1]) / ((performance.now() - from[0]) / 1000);
            }"""
        )
        self.assertAlmostEqual(passed, 30, delta=5)
        slide = self.page.locator('[data-slide="swell.value"]')
        with self.page.expect_response(lambda r: r.url.endswith("/edits")):
            slide.press("ArrowRight")
        expect(slide).to_have_attribute("aria-valuenow", "9.5")
        self.assertTrue(self.page.evaluate("bench.clock.playing"))
        with self.page.expect_response(lambda r: r.url.endswith("/undo")):
            self.page.keyboard.press("Control+z")


class Hands(BrowserTest):
    def test_a_layer_is_chosen_and_dragged_on_the_stage_and_escape_puts_it_back(self) -> None:
        page = self.new_scene("Drag")
        layer = self.add_layer("Ellipse")
        box = page.locator("#handles").bounding_box()
        assert box
        zoom = float((page.locator("#zoom").text_content() or "").rstrip(" %")) / 100
        x, y = box["x"] + box["width"] / 2 + 25, box["y"] + 34 + (box["height"] - 60) / 2
        page.keyboard.press("Escape")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 40, y - 20, steps=4)
        self.until(f"bench.answers.last.nodes.length === 1 && '{layer}'")
        page.keyboard.press("Escape")
        page.mouse.up()
        expect(self.field(f"{layer}.position").locator("input").first).to_have_value("640")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 40, y - 20, steps=4)
        self.let_go()
        moved = [float(self.field(f"{layer}.position").locator("input").nth(k).input_value()) for k in (0, 1)]
        np.testing.assert_allclose(moved, [640 + 40 / zoom, 360 - 20 / zoom], atol=3)

    def test_windows_are_made_moved_and_faded_by_dragging(self) -> None:
        page = self.new_scene("Windows")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        wiggle = self.add_wiggle()
        strip = page.locator(f'[data-windows-of="{wiggle}"]')
        box = strip.bounding_box()
        assert box

        def x(frame: float) -> float:
            return box["x"] + 4 + frame / 299 * (box["width"] - 8)

        held = f"document.getElementById('station-{wiggle}').dataset.windows"

        def drag(start: float, end: float, y: float) -> None:
            before = page.evaluate(held)
            page.mouse.move(x(start), box["y"] + y)
            page.mouse.down()
            page.mouse.move(x(end), box["y"] + y, steps=6)
            with page.expect_response(lambda r: r.url.endswith("/edits")):
                page.mouse.up()
            self.until(f"{held} !== {json.dumps(before)}")
            self.shown(f"{layer}.rotation")

        def windows() -> list[list[float]]:
            return page.evaluate(f"JSON.parse({held})")

        drag(100, 200, 8)
        self.assertEqual(len(windows()), 1)
        np.testing.assert_allclose(windows()[0][:2], [100, 200], atol=2)
        self.assertEqual(np.ptp(self.curve()[:98]), 0)
        self.assertGreater(np.ptp(self.curve()[102:198]), 1)
        drag(windows()[0][0], windows()[0][0] + 30, 4)
        self.assertAlmostEqual(windows()[0][2], 30, delta=3)
        drag(160, 190, 10)
        np.testing.assert_allclose(windows()[0][:2], [130, 230], atol=4)

    def test_keys_are_added_dragged_and_eased_on_the_curve(self) -> None:
        page = self.new_scene("Keys")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        curve = page.locator('canvas[data-curve="0"]')
        box = curve.bounding_box()
        assert box
        page.mouse.dblclick(box["x"] + 60, box["y"] + 10)
        expect(page.locator("#chain .peg")).to_be_visible()
        self.to_frame(250)
        self.type_into(f"{layer}.rotation", "90")
        keys = "JSON.parse(document.querySelector('[data-chain]').dataset.keys)"
        self.until(f"{keys}.length === 2")
        first = page.evaluate(keys)[0][0]
        self.shown(f"{layer}.rotation")
        x = box["x"] + 4 + first / 299 * (box["width"] - 8)
        y = (
            page.evaluate(
                "(() => { const c = document.querySelector('canvas[data-curve=\"0\"]'); return c.clientHeight })()"
            )
            * 0.5
        )
        # The key at 0° lies low in its lane: 12 % of the span above the floor.
        page.mouse.move(x, box["y"] + 4 + (y * 2 - 8) * (1 - 0.12 / 1.24))
        page.mouse.down()
        page.mouse.move(x + 30, box["y"] + 20, steps=5)
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.mouse.up()
        self.until(f"{keys}[0][0] > {first} + 20 && {keys}[0][2] > 20")
        page.locator("[data-do=key-menu]").click()
        page.locator("#menu").get_by_role("menuitem", name="hold", exact=True).click()
        self.until(f"{keys}.some((key) => key[1] === 'hold')")

    def test_a_figure_entered_gives_keys_back_to_the_page_and_focus_says_which_value_is_meant(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench?layer=boat1&parameter=boat1.rotation")
        field = page.locator('.layer [data-parameter="boat1.opacity"] [data-input]')
        field.click()
        page.keyboard.type("80")
        page.keyboard.press("Enter")
        self.until(SETTLED)
        page.keyboard.press("Space")
        self.until("bench.clock.playing")
        page.keyboard.press("Space")
        self.until("!bench.clock.playing")
        expect(field).to_be_focused()
        expect(field).to_have_value("80")
        page.keyboard.type("65")
        expect(field).to_have_value("65")
        page.keyboard.press("Enter")
        self.until(SETTLED)
        page.keyboard.press("m")
        expect(page.locator("#sheet h2")).to_have_text("Add a modifier to Boat 1 / opacity")
        page.keyboard.press("Escape")
        expect(page.locator('[data-chain="boat1.opacity"]')).to_be_attached()
        page.locator('.layer [data-parameter="boat1.pivot"] .field-name').focus()
        page.keyboard.press("k")
        expect(page.locator('.layer [data-parameter="boat1.pivot"] .peg')).to_have_count(1)

    def test_a_reload_restores_what_was_chosen_and_the_playhead(self) -> None:
        page = self.open(QUAY)
        page.locator('[data-choose-layer="boat2"]').click()
        self.choose("boat2.position")
        self.to_frame(123)
        page.locator("[data-do=path]").click()
        self.until("location.hash === '#frame=123' && location.search.includes('path=1')")
        page.reload()
        page.locator("#bench[data-ready]").wait_for()
        expect(page.locator("#frame")).to_have_value("123")
        expect(page.locator('[data-chain="boat2.position"]')).to_be_attached()
        expect(page.locator(".layer.is-chosen .layer-name")).to_have_text("Boat 2")
        expect(page.locator("[data-do=path]")).to_have_attribute("aria-pressed", "true")

    def test_the_keyboard(self) -> None:
        page = self.open(QUAY)
        body = page.locator("body")
        body.press("Shift+ArrowRight")
        body.press("ArrowRight")
        expect(page.locator("#frame")).to_have_value("11")
        body.press("End")
        expect(page.locator("#frame")).to_have_value("299")
        body.press("?")
        expect(page.locator("#sheet")).to_contain_text("Play and pause")
        page.keyboard.press("Escape")
        body.press("/")
        page.locator("#sheet [type=search]").fill("lantern 3 opacity")
        page.keyboard.press("Enter")
        expect(page.locator('[data-chain="lantern3.opacity"]')).to_be_attached()
        expect(page.locator("[data-do=bypass-chain]")).to_contain_text("On")
        page.locator(".sentence").click()
        page.keyboard.press("b")
        expect(page.locator("[data-do=bypass-chain]")).to_contain_text("Off")
        page.keyboard.press("Control+z")
        expect(page.locator("[data-do=bypass-chain]")).to_contain_text("On")


class Mistakes(BrowserTest):
    alone = True

    def test_a_mistake_is_told_at_its_field_and_nothing_is_lost(self) -> None:
        page = self.new_scene("Mistakes")
        layer = self.add_layer("Star")
        for text, words in (
            ("twelve", "not a number"),
            ("", "Nothing was typed"),
            ("1e999", "too large"),
            ("NaN", "not a number"),
            ("9" * 3000, "3,000 letters"),
        ):
            self.type_into(f"{layer}.rotation", text)
            expect(page.locator(".complaint")).to_contain_text(words)
            place, told = self.field(f"{layer}.rotation").bounding_box(), page.locator(".complaint").bounding_box()
            assert place and told
            self.assertLess(abs(told["y"] - place["y"]), 90)
            expect(self.field(f"{layer}.rotation").locator("input")).to_have_value(text)
        page.keyboard.press("Escape")
        expect(page.locator(".complaint")).to_have_count(0)
        expect(self.field(f"{layer}.rotation").locator("input")).to_have_value("0")

    def test_a_wrong_project_file_is_explained(self) -> None:
        page = self.open("/")
        page.locator(".import input[type=file]").set_input_files(
            {"name": "x.json", "mimeType": "application/json", "buffer": b'{"format": 1}'}
        )
        expect(page.locator("#problems")).to_contain_text("not a Jaunty Lever project")
        expect(page.locator(".project h2", has_text="Lantern Quay")).to_have_count(1)

    def test_limits_are_said_in_the_form_and_deleting_can_be_undone(self) -> None:
        page = self.open("/")
        page.locator(".head [data-open=new-project]").click()
        page.locator("#new-project [name=length]").fill("1000000")
        page.get_by_role("button", name="Make it").click()
        expect(page.locator("#new-project [data-error]")).to_contain_text("36,000")
        page.locator("#new-project [name=length]").fill("10s")
        page.locator("#new-project [name=project]").fill("Short lived")
        page.get_by_role("button", name="Make it").click()
        page.wait_for_url("**/bench*")
        self.open("/")
        mine = page.locator(".project", has=page.locator("h2", has_text="Short lived"))
        mine.get_by_role("button", name="Delete").first.click()
        expect(mine).to_have_count(0)
        page.get_by_role("button", name="Undo").click()
        expect(mine).to_have_count(1)


class TwoTabs(BrowserTest):
    def test_each_sees_the_others_change_and_what_is_gone_is_said(self) -> None:
        one = self.new_scene("Two tabs")
        layer = self.add_layer("Star")
        two = one.context.new_page()
        self.open(one.url.replace(self.server.address, ""), two)
        expect(two.locator(f'[data-layer="{layer}"]')).to_have_count(1)
        self.type_into(f"{layer}.rotation", "77")
        expect(two.locator(f'[data-field][data-parameter="{layer}.rotation"] input').first).to_have_value("77")
        one.locator("#handles").focus()
        one.keyboard.press("Delete")
        expect(two.locator("[data-layer]")).to_have_count(0)
        late = {
            "kind": "set value",
            "scene": one.url.split("/scenes/")[1].split("/")[0],
            "parameter": f"{layer}.rotation",
            "value": 12,
        }
        project = one.url.split("/projects/")[1].split("/")[0]
        answer = two.request.post(
            f"{self.server.address}/api/projects/{project}/edits", data={"edits": [late], "by": "two"}
        )
        self.assertEqual(answer.status, 409)
        self.assertIn("deleted", answer.json()["message"])
        one.locator("body").press("Control+z")
        expect(one.locator("[data-layer]")).to_have_count(1)

    def test_deleting_a_lever_says_what_it_drives(self) -> None:
        page = self.open(QUAY)
        page.locator('[data-lever-sheet="dusk"]').click()
        page.locator('[data-delete-lever="dusk"]').click()
        left = page.locator("#sheet .left-behind")
        expect(left).to_contain_text("Night / opacity")
        expect(left).to_contain_text("rests at")
        # Escape leaves all as it is.
        page.keyboard.press("Escape")
        expect(page.locator("#sheet")).to_be_hidden()
        expect(page.locator("#lever-dusk")).to_have_count(1)
        page.locator('[data-lever-sheet="dusk"]').click()
        page.locator('[data-delete-lever="dusk"]').click()
        page.locator("[data-delete-now]").click()
        expect(page.locator("#lever-dusk")).to_have_count(0)
        page.locator("body").press("Control+z")
        expect(page.locator("#lever-dusk")).to_have_count(1)

    def test_deleting_a_layer_says_whose_formula_it_is_in_and_leaves_the_number(self) -> None:
        page = self.new_scene("Left behind")
        drum = self.add_layer("Star")
        self.type_into(f"{drum}.rotation", "40")
        needle = self.add_layer("Ellipse")
        self.make(kind="write formula", parameter=f"{needle}.rotation", text="Star.rotation * 2")
        page.locator(f'[data-choose-layer="{drum}"]').click()
        page.locator("#handles").focus()
        page.keyboard.press("Delete")
        expect(page.locator("#sheet .left-behind")).to_contain_text("Ellipse / rotation")
        page.locator("[data-delete-now]").click()
        expect(page.locator("[data-layer]")).to_have_count(1)
        self.until(SETTLED)
        page.locator(f'[data-choose-layer="{needle}"]').click()
        self.choose(f"{needle}.rotation")
        self.shown(f"{needle}.rotation")
        self.assertEqual(self.curve()[0], 80)
        page.locator("#toasts").get_by_role("button", name="Undo").click()
        expect(page.locator("[data-layer]")).to_have_count(2)
