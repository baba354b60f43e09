"""Keys wherever the focus is, drags that break off, how the Bench shares its room, and pages that are tried."""

import json
import sqlite3

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest


class Places(BrowserTest):
    def test_they_are_looked_for_once_and_again_when_there_is_something_else_in_the_page(self) -> None:
        page = self.open()
        told = page.evaluate(
            """async () => {
              const src = document.querySelector('script[type=module][src*="/js/"]').src;
              const { all, first } = await import(new URL("../lib/places.js", src).href);
              const count = () => all("[data-strip]").length, before = count(), told = [];
              const same = all("[data-strip]") === all("[data-strip]");
              const place = document.createElement("canvas");
              place.dataset.strip = "nobody.value";
              document.body.append(place);
              told.push(count() - before);
              place.textContent = "a word";
              const kept = all("[data-strip]") === all("[data-strip]");
              place.removeAttribute("data-strip");
              told.push(count() - before);
              place.setAttribute("data-strip", "");
              told.push(count() - before, first("[data-strip]") === document.querySelector("[data-strip]"));
              place.remove();
              return [same, kept, ...told, count() - before];
            }"""
        )
        self.assertEqual(told, [True, True, 1, 0, 1, True, 0])


class Keys(BrowserTest):
    def playing(self) -> bool:
        return bool(self.page.evaluate("bench.clock.playing"))

    def test_space_plays_after_a_modifier_was_added_and_presses_what_tab_has_reached(self) -> None:
        page = self.new_scene("Space")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        page.keyboard.press("m")
        page.locator("#sheet .entry").filter(has=page.get_by_text("Wiggle", exact=True)).click()
        expect(page.locator(".station[data-modifier]")).to_have_count(1)
        page.keyboard.press("Space")
        self.until("bench.clock.playing")
        page.keyboard.press("Space")
        self.until("!bench.clock.playing")
        ring = page.locator(".power-ring")
        page.locator("[data-station-name]").focus()
        page.keyboard.press("Shift+Tab")
        expect(ring).to_be_focused()
        page.keyboard.press("Space")
        expect(ring).to_have_attribute("aria-checked", "false")
        self.assertFalse(self.playing())

    def test_keys_work_from_a_slider_and_not_while_text_is_typed(self) -> None:
        page = self.open()
        page.locator("[data-slide]").first.focus()
        page.keyboard.press("Space")
        self.until("bench.clock.playing")
        page.keyboard.press("Space")
        page.locator("#frame").focus()
        page.keyboard.type(" g")
        self.assertFalse(self.playing() or page.evaluate("bench.views.ghost"))

    def test_a_keyed_field_shows_what_holds_at_the_playhead_and_enter_keys_it_as_it_stands(self) -> None:
        page = self.new_scene("Keyed fields")
        star = self.add_layer("Star")
        field = self.field(f"{star}.rotation")
        self.make(kind="set key", parameter=f"{star}.rotation", frame=0)
        self.to_frame(60)
        self.type_into(f"{star}.rotation", "90")
        box = field.locator("[data-input]").first
        # The field that was typed in still has the focus, and shows what was typed, not the first key.
        self.until(SETTLED)
        expect(box).to_have_value("90")
        self.to_frame(30)
        self.until("Math.abs(bench.clock.frame - 30) < 0.5")
        expect(box).to_have_value("45")
        box.focus()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            box.press("Enter")
        self.until(SETTLED)
        self.assertIn("keyed at frame 30", self.undo_words())
        expect(box).to_have_value("45")
        # Where there is a key, nothing is done.
        undo = self.undo_words()
        box.press("Enter")
        self.to_frame(60)
        expect(box).to_have_value("90")
        self.assertEqual(self.undo_words(), undo)


class Drags(BrowserTest):
    def test_what_is_dragged_on_the_stage_is_told_in_its_fields(self) -> None:
        page = self.new_scene("Figures in the hand")
        layer = self.add_layer("Ellipse")
        boxes = self.field(f"{layer}.position").locator("[data-input]")
        stage = page.locator("#handles").bounding_box()
        assert stage
        x, y = stage["x"] + stage["width"] / 2 + 14, stage["y"] + stage["height"] / 2 + 14
        zoom = float((page.locator("#zoom").text_content() or "").removesuffix(" %")) / 100
        for commit in (False, True):
            page.mouse.move(x, y)
            page.mouse.down()
            page.mouse.move(x + 30, y + 40, steps=4)
            # What is tried on the way is told one after the other, until it is where the pointer is.
            for k, led in enumerate((640 + 30 / zoom, 360 + 40 / zoom)):
                box = (
                    f"document.querySelector('[data-field][data-parameter=\"{layer}.position\"]')"
                    f".querySelectorAll('[data-input]')[{k}]"
                )
                self.until(f"Math.abs(Number({box}.value) - {led}) < 2")
            across, down = (float(boxes.nth(k).input_value()) for k in (0, 1))
            if not commit:
                page.keyboard.press("Escape")
                expect(boxes.first).to_have_value("640")
            page.mouse.up()
        self.until(SETTLED)
        self.assertEqual([float(boxes.nth(k).input_value()) for k in (0, 1)], [across, down])

    def test_only_the_pointer_that_began_moves_and_what_breaks_off_is_put_back(self) -> None:
        page = self.open()
        slide = page.locator("[data-slide]").first
        box = slide.bounding_box()
        assert box
        before, undo = slide.get_attribute("aria-valuenow"), self.undo_words()
        send = """([kind, id, share, primary]) => {
          const slide = document.querySelector('[data-slide]'), box = slide.getBoundingClientRect();
          slide.setPointerCapture = () => {};
          slide.dispatchEvent(new PointerEvent(kind, { pointerId: id, isPrimary: primary, pointerType: id > 1 ?
          'touch' : 'pen', button: 0,
            clientX: box.left + share * box.width, clientY: box.top + 4, bubbles: true, cancelable: true }));
        }"""
        tell = lambda *event: page.evaluate(send, list(event))  # noqa: E731
        tell("pointerdown", 1, 0.3, True)
        held = slide.get_attribute("aria-valuenow")
        self.assertNotEqual(held, before)
        # A second finger neither moves it nor lets it go, nor begins a drag of its own.
        for kind in ("pointerdown", "pointermove", "pointerup", "pointercancel"):
            tell(kind, 2, 0.9, False)
            self.assertEqual(slide.get_attribute("aria-valuenow"), held)
        tell("pointermove", 1, 0.6, True)
        self.assertNotEqual(slide.get_attribute("aria-valuenow"), held)
        tell("pointercancel", 1, 0.6, True)
        expect(slide).to_have_attribute("aria-valuenow", before or "")
        self.assertEqual(self.undo_words(), undo)
        # And the next drag is a drag.
        tell("pointerdown", 1, 0.2, True)
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            tell("pointerup", 1, 0.2, True)


class Room(BrowserTest):
    def test_the_chain_is_pulled_folded_and_remembered(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench?layer=lantern3&parameter=lantern3.opacity")
        height = lambda: page.locator(".bottom").bounding_box()["height"]  # type: ignore[index]  # noqa: E731
        first = height()
        pull = page.locator("#pull").bounding_box()
        assert pull
        page.mouse.move(600, pull["y"] + 4)
        page.mouse.down()
        page.mouse.move(600, pull["y"] - 96, steps=5)
        page.mouse.up()
        self.assertAlmostEqual(height(), first + 100, delta=4)
        page.reload()
        page.locator("[data-ready]").first.wait_for()
        self.assertAlmostEqual(height(), first + 100, delta=4)
        page.locator("#pull").focus()
        page.keyboard.press("Home")
        self.assertEqual(height(), 36)
        page.keyboard.press("Enter")
        self.assertEqual(height(), first)

    def test_the_stage_fills_the_window_and_gives_it_back(self) -> None:
        page = self.open()
        wide = lambda: page.locator("#stage").bounding_box()["width"]  # type: ignore[index]  # noqa: E731
        narrow = wide()
        page.keyboard.press("f")
        self.assertEqual(wide(), 1280)
        page.keyboard.press("Escape")
        self.assertEqual(wide(), narrow)

    def test_the_end_of_the_chain_tells_what_the_value_has_to_do_with_others(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench?layer=boat1&parameter=boat1.position")
        about = page.locator(".chain-about")
        expect(about).to_contain_text("Listens to")
        about.get_by_role("button", name="Swell").click()
        expect(page.locator('[data-chain="swell.value"]')).to_be_attached()
        expect(about).to_contain_text("Boat 1")

    def test_no_value_in_the_list_is_cut_off(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench?layer=boat1&parameter=boat1.position")
        for edit in ({"text": "-1611.81", "component": 0}, {"text": "-1523.84", "component": 1}):
            page.evaluate(
                """async (edit) => { const {
                    commitEdits } = await import(document.querySelector('script[type=module]')
                    .src.replace('pages/bench.js', 'talk/server.js'));
                await commitEdits([{ kind: 'set value', parameter: 'boat1.position', frame: 0, ...edit }]); }""",
                edit,
            )
        for size in ({"width": 1280, "height": 800}, {"width": 1024, "height": 700}):
            page.set_viewport_size(size)
            cut = page.evaluate(
                """() => { const list = document.querySelector('.side.left').getBoundingClientRect();
                return [...document.querySelectorAll('.now output')].filter((one) =>
                one.scrollWidth > one.clientWidth + 1 || one.getBoundingClientRect().right > list.right)
                .map((one) => one.textContent); }"""
            )
            self.assertEqual(cut, [])


class Levers(BrowserTest):
    def test_a_lever_made_of_an_amplitude_stands_in_the_middle_and_turns_nothing(self) -> None:
        page = self.new_scene("Amplitude")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        wiggle = self.add_wiggle()
        self.field(f"{wiggle}.amplitude").locator("[data-menu]").click()
        page.locator("#menu").get_by_role("button", name="Make", exact=True).click()
        slide = page.locator("[data-slide]")
        expect(slide).to_have_attribute("aria-valuenow", "10")
        self.assertEqual((slide.get_attribute("aria-valuemin"), slide.get_attribute("aria-valuemax")), ("0.0", "20.0"))
        page.locator(".lever .lever-name").first.click()
        expect(page.locator("[data-chain$='.value']")).to_be_attached()
        expect(page.locator("[data-turning]")).to_have_count(0)


class Trying(BrowserTest):
    def test_plots_of_the_reference_follow_their_sliders(self) -> None:
        page = self.page
        page.goto(f"{self.server.address}/help/modifiers/wiggle")
        expect(page.locator(".compared figure")).to_have_count(5)
        curve = page.locator("#plot .plot-out")
        before = curve.get_attribute("points")
        page.locator(".knob input[name=frequency]").fill("9")
        expect(page.locator(".knob input[name=frequency] + output")).to_have_text("9 Hz")
        expect(curve).not_to_have_attribute("points", before or "")
        page.get_by_role("button", name="As at first").click()
        expect(curve).to_have_attribute("points", before or "")


class Shelf(BrowserTest):
    alone = True

    def test_a_damaged_project_is_shown_with_its_reason_and_the_rest_works(self) -> None:
        page = self.new_scene("Broken one")
        project = page.url.split("/projects/")[1].split("/")[0]
        with sqlite3.connect(f"{self.folder}/jaunty-lever.db", timeout=30) as connection:
            connection.execute("UPDATE revisions SET body = X'00' WHERE project = ?", (project,))
        connection.close()
        self.server.stop()
        self.server.start()
        self.open_shelf()
        damaged = page.locator(f'[data-project="{project}"]')
        expect(damaged).to_contain_text("cannot be read")
        with page.expect_download() as download:
            damaged.get_by_role("link", name="Raw contents").click()
        self.assertIn("raw", download.value.suggested_filename)
        damaged.get_by_role("button", name="Delete").click()
        expect(damaged).to_have_count(0)
        expect(page.locator(".scene-card").first).to_be_visible()

    def open_shelf(self) -> None:
        self.page.goto(f"{self.server.address}/")
        expect(self.page.locator("#shelf .project").first).to_be_visible()


class Choices(BrowserTest):
    def test_options_that_are_used_stay_and_renamed_ones_are_led_over(self) -> None:
        page = self.new_scene("Options")
        post = """async (edits) => { const {
            commitEdits } = await import(document.querySelector('script[type=module]')
            .src.replace('pages/bench.js', 'talk/server.js'));
          try { await commitEdits(edits); return ''; } catch (error) { return error.message; } }"""
        page.evaluate(
            post,
            [
                {
                    "kind": "add lever",
                    "id": "mood",
                    "name": "Mood",
                    "lever": "choice",
                    "options": ["calm", "wild"],
                    "value": "wild",
                }
            ],
        )
        said = page.evaluate(post, [{"kind": "change lever", "lever": "mood", "options": ["calm"]}])
        self.assertIn("still used", said)
        self.assertEqual(
            page.evaluate(post, [{"kind": "change lever", "lever": "mood", "options": ["gentle", "stormy"]}]), ""
        )
        expect(page.locator('[data-lever="mood"] select')).to_have_value("stormy")
        self.assertEqual(
            page.evaluate(post, [{"kind": "change lever", "lever": "mood", "options": ["stormy", "gentle"]}]), ""
        )
        expect(page.locator('[data-lever="mood"] select option').first).to_have_text("stormy")
        expect(page.locator('[data-lever="mood"] select')).to_have_value("stormy")
        self.assertEqual(json.loads(page.evaluate("JSON.stringify(bench.answers.last.faults)")), [])

    def test_what_nobody_has_set_folds_away_and_what_decides_stays_in_sight(self) -> None:
        page = self.new_scene("Folded away")
        self.add_layer("Texture")
        self.add_layer("Ellipse")
        page.locator('[data-do="repeat-layers"]').click()
        self.until(SETTLED)
        # A fresh array, and a fresh texture, are seen whole at 1280 × 800.
        room = "document.querySelector('.layer-list').parentElement.getBoundingClientRect().height - 36"
        opened = "document.querySelector('.layer-fields').closest('.layer').getBoundingClientRect().height"
        array = page.evaluate("bench.choice.layers.at(-1)")
        self.until(f"document.querySelector('.layer-fields')?.closest('.layer').dataset.layer === '{array}'")
        self.assertLess(page.evaluate(opened), page.evaluate(room))
        page.locator(".layer[data-kind=texture] [data-choose-layer]").click()
        self.until("document.querySelector('.layer-fields')?.closest('.layer').dataset.kind === 'texture'")
        # Its ramp may be long; what comes before it is there at a glance.
        self.assertLess(
            page.evaluate("document.querySelector('.layer-fields .stop').getBoundingClientRect().bottom - 80"),
            page.evaluate(room),
        )
        # Unfolded, set and folded again: what was set stays in sight.
        seed, octaves = (page.locator(f'.layer [data-parameter$=".{name}"]') for name in ("seed", "octaves"))
        expect(seed).to_be_hidden()
        page.locator(".layer [data-unfold]").click()
        expect(seed).to_be_visible()
        octaves.locator("[data-input]").fill("5")
        octaves.locator("[data-input]").press("Enter")
        self.until(SETTLED)
        page.locator(".layer [data-unfold]").click()
        expect(seed).to_be_hidden()
        expect(octaves).to_be_visible()
        # How far x and y go apart decides what a shaken scale looks like.
        page.locator(f'.layer[data-layer="{array}"] > [data-choose-layer]').click()
        self.choose(f"{array}.copy_scale")
        wiggle = self.add_wiggle()
        expect(self.page.locator(f'#station-{wiggle} [data-parameter="{wiggle}.apart"]')).to_be_visible()
        expect(self.page.locator(f'#station-{wiggle} [data-parameter="{wiggle}.octaves"]')).to_be_hidden()
