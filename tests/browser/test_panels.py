"""The panels: layers, levers, links, fills, texts, scenes, and the Shelf."""

import math

import numpy as np
from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

QUAY = "/projects/lantern-quay/scenes/evening-quay/bench"


class Layers(BrowserTest):
    def names(self) -> list[str]:
        return self.page.locator(".layer-name").all_text_contents()

    def menu(self, words: str) -> None:
        self.page.locator("#menu").get_by_role("menuitem", name=words, exact=True).click()

    def test_rows_that_stay_are_left_alone_and_the_list_is_what_a_page_opened_anew_has(self) -> None:
        page = self.open(f"{QUAY}?layer=lantern3")
        list_ = """[...document.querySelectorAll('.layer')].map((row) => {
          const own = row.cloneNode(true);
          own.querySelector('.layer-fields')?.remove();
          return own.outerHTML.replace(/\\s+/g, ' ');
        }).join('')"""
        page.evaluate("document.getElementById('row-boat1').marked = true")
        mark = "document.getElementById('row-boat1').marked === true"
        deep, last = "mast2", "sky"

        def keep(*edits: dict[str, object]) -> None:
            page.evaluate(
                """async (edits) => {
                  const base = document.querySelector('script[type=module]').src;
                  await (await import(base.replace('pages/bench.js', 'talk/server.js'))).commitEdits(edits);
                }""",
                list(edits),
            )

        keep({"kind": "set value", "parameter": "lantern3.opacity", "value": 40, "frame": 0})
        keep({"kind": "change layer", "layer": last, "name": "Name <of> its own & more"})
        expect(page.locator(f'[data-layer="{last}"] .layer-name')).to_have_text("Name <of> its own & more")
        self.assertTrue(page.evaluate(mark))
        keep({"kind": "change layer", "layer": deep, "hidden": True})
        keep({"kind": "arrange layer", "layer": deep, "parent": None, "position": 3})
        keep({"kind": "duplicate layers", "layers": [last]})
        keep({"kind": "group layers", "layers": [last, "star1"], "id": "both"})
        self.assertTrue(page.evaluate(mark))
        keep({"kind": "remove layers", "layers": ["lantern3"]})
        expect(page.locator("#row-lantern3")).to_have_count(0)
        self.assertTrue(page.evaluate(mark))
        here = page.evaluate(list_)
        page.reload()
        page.locator("[data-ready]").first.wait_for()
        self.assertEqual(page.evaluate(list_), here)
        for came in ("#row-lantern3", "#row-sky.depth-0", "#row-mast2.depth-1"):
            page.locator("body").press("Control+z")
            if came == "#row-mast2.depth-1":
                page.locator("body").press("Control+z")
            expect(page.locator(came)).to_have_count(1)
        self.until(SETTLED)
        here = page.evaluate(list_)
        page.reload()
        page.locator("[data-ready]").first.wait_for()
        self.assertEqual(page.evaluate(list_), here)

    def test_rename_hide_order_group_duplicate_and_delete(self) -> None:
        page = self.new_scene("Layers")
        first, second = self.add_layer("Star"), self.add_layer("Ellipse")
        self.assertEqual(self.names(), ["Ellipse", "Star"])
        page.locator(f'[data-choose-layer="{first}"]').press("F2")
        page.locator(".rename").fill("Weather vane")
        page.locator(".rename").press("Enter")
        expect(page.locator(f'[data-layer="{first}"] .layer-name')).to_have_text("Weather vane")

        page.locator(f'[data-toggle-layer="{second}"]').click()
        expect(page.locator(f'[data-layer="{second}"]')).to_have_class("layer depth-0 is-chosen is-hidden")
        self.until("bench.answers.last.nodes.length === 1")
        page.locator(f'[data-toggle-layer="{second}"]').click()
        self.until("bench.answers.last.nodes.length === 2")

        page.locator(f'[data-layer-menu="{first}"]').click()
        self.menu("Higher")
        expect(page.locator(".layer-name").first).to_have_text("Weather vane")

        page.locator(f'[data-choose-layer="{second}"]').click()
        page.locator(f'[data-choose-layer="{first}"]').click(modifiers=["Control"])
        expect(page.locator(".layer.is-chosen")).to_have_count(2)
        page.locator("[data-do=group-layers]").click()
        self.until(
            "[...document.querySelectorAll('.layer.is-chosen')].map((row) => row.dataset.name).join() === 'Group'"
        )
        self.assertEqual(self.names(), ["Group", "Weather vane", "Ellipse"])

        page.locator("body").press("Control+d")
        expect(page.locator("[data-layer]")).to_have_count(6)
        self.assertEqual(self.names()[:3], ["Group 2", "Weather vane 2", "Ellipse 2"])
        page.locator(f'[data-layer-menu="{second}"]').click()
        self.menu("Out of its group")
        self.until("document.querySelectorAll('.layer.depth-0').length === 3")

        page.locator(f'[data-choose-layer="{second}"]').click()
        expect(page.locator(f'[data-layer="{second}"].is-chosen')).to_have_count(1)
        page.locator("#handles").focus()
        page.keyboard.press("Delete")
        expect(page.locator("[data-layer]")).to_have_count(5)
        page.locator("#toasts").get_by_role("button", name="Undo").click()
        expect(page.locator("[data-layer]")).to_have_count(6)

    def test_rows_are_dragged_into_a_group_and_out(self) -> None:
        page = self.new_scene("Dragging rows")
        group = self.add_layer("Group")
        page.locator("#handles").click(position={"x": 20, "y": 60})
        expect(page.locator(".layer.is-chosen")).to_have_count(0)
        star = self.add_layer("Star")
        row = page.locator(f'[data-choose-layer="{star}"]')
        row.drag_to(page.locator(f'[data-choose-layer="{group}"]'), target_position={"x": 60, "y": 14})
        expect(page.locator(f'[data-layer="{star}"]')).to_have_class("layer depth-1 is-chosen")
        row.drag_to(page.locator(f'[data-choose-layer="{group}"]'), target_position={"x": 60, "y": 3})
        expect(page.locator(f'[data-layer="{star}"]')).to_have_class("layer depth-0 is-chosen")

    def test_fills_stops_outlines_and_texts(self) -> None:
        page = self.new_scene("Fills")
        layer = self.add_layer("Rectangle")
        page.locator("[data-fill]").select_option("linear")
        expect(page.locator("[data-stop]")).to_have_count(2)
        page.locator("[data-add-stop]").click()
        expect(page.locator("[data-stop]")).to_have_count(3)
        page.locator("[data-remove-stop]").click()
        expect(page.locator("[data-stop]")).to_have_count(2)
        page.locator("[data-fill]").select_option("solid")
        colour = self.field(f"{layer}.fill.colour").locator("[data-input]")
        expect(colour).to_be_visible()
        self.type_into(f"{layer}.fill.colour", "#a93c28")
        self.until(
            "(() => { const p = bench.scenePixels(0), k = (360 * 1280 + 640) * 4; "
            "return p[k] === 169 && p[k + 1] === 60 })()"
        )
        self.type_into(f"{layer}.fill.colour", "reddish")
        expect(page.locator(".complaint")).to_contain_text("#e0b050")
        page.keyboard.press("Escape")

        path = self.add_layer("Path")
        data = page.locator("[data-path-input]")
        data.fill("M 0 0 L nowhere")
        data.blur()
        expect(page.locator(".complaint")).to_contain_text("SVG path data")
        data.fill("M-50 0A50 50 0 1 1 50 0Z")
        data.blur()
        self.until(f"bench.answers.last.nodes.find((l) => l.id === '{path}').verbs[0].includes('C')")

        text = self.add_layer("Text")
        box = self.field(f"{text}.text").locator("[data-input]")
        box.fill("Quay 57 %")
        box.press("Enter")
        self.until(f"bench.answers.last.nodes.find((l) => l.id === '{text}').verbs[0].length > 100")
        self.field(f"{text}.font").locator("select").select_option("Martian Mono")
        self.until(
            f"bench.answers.last.nodes.find((l) => l.id === '{text}').verbs.length === 1 && "
            f"document.querySelector('#saved').textContent === 'saved'"
        )


class Levers(BrowserTest):
    def add_lever(self, kind: str, name: str) -> str:
        page = self.page
        before = page.locator("[data-lever]").count()
        page.locator(".panel-head [data-do=add-lever]").click()
        page.locator("#menu").get_by_role("menuitem", name=kind, exact=True).click()
        page.locator("[data-lever-form] [name=name]").fill(name)
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.locator("#sheet")).not_to_be_visible()
        expect(page.locator("[data-lever]")).to_have_count(before + 1)
        return page.locator("[data-lever]", has_text=name).get_attribute("data-lever") or ""

    def open_links(self, parameter: str) -> None:
        self.field(parameter).locator("[data-menu]").click()
        self.page.locator("#menu").get_by_role("menuitem", name="Link: point at what drives it …").click()
        self.page.locator("[data-point-list]").click()

    def test_switch_choice_and_colour_levers_drive_what_fits_them(self) -> None:
        page = self.new_scene("Kinds of levers")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        wiggle = self.add_wiggle()
        switch = self.add_lever("Switch", "Shaken")
        colour = self.add_lever("Colour", "Paint")
        self.open_links(f"{wiggle}.strength")
        page.locator(f'[data-tie-driver="{switch}.value"]').click()
        expect(page.locator("form[data-tie] [name=stop]").last).to_have_value("100")
        page.get_by_role("button", name="Link", exact=True).click()
        expect(page.locator(f'[data-chain="{wiggle}.strength"]')).to_be_attached()
        self.choose_crumb("rotation")
        self.shown(f"{layer}.rotation")
        self.assertGreater(np.ptp(self.curve()), 1)
        page.locator(f"#lever-{switch} .switch").click()
        expect(page.locator(f"#lever-{switch} .switch")).to_have_attribute("aria-checked", "false")
        self.shown(f"{layer}.rotation")
        self.assertEqual(np.ptp(self.curve()), 0)

        self.open_links(f"{layer}.fill.colour")
        page.locator(f'[data-tie-driver="{colour}.value"]').click()
        page.get_by_role("button", name="Link", exact=True).click()
        self.shown(f"{layer}.fill.colour")
        self.type_into(f"{colour}.value", "#102030")
        expect(page.locator("[data-station-value=result]")).to_have_text("#102030")

        # A choice made a lever keeps its options.
        self.choose(f"{layer}.rotation")
        self.field(f"{wiggle}.character").locator("[data-menu]").click()
        page.get_by_role("button", name="Make", exact=True).click()
        lever = page.locator("[data-lever]", has_text="Character")
        expect(lever.locator("option")).to_have_count(5)

    def choose_crumb(self, words: str) -> None:
        self.page.locator(".crumbs").get_by_role("button", name=words, exact=True).click()

    def test_a_driven_field_leads_to_its_driver_and_can_be_cut_free(self) -> None:
        page = self.open(QUAY)
        page.locator('[data-choose-layer="lantern3"]').click()
        self.choose("lantern3.opacity")
        self.to_frame(100)
        amplitude = self.field("flicker3.amplitude")
        expect(amplitude.locator(".driven")).to_have_text("Wind × 7 + 6 %")
        amplitude.locator(".driven").click()
        expect(page.locator('[data-chain="wind.value"]')).to_be_attached()
        page.locator('[data-drives="wind"]').click()
        page.locator("#menu").get_by_role("menuitem", name="Lantern 3 / opacity / Wiggle / amplitude").click()
        self.shown("flicker3.amplitude")
        now = self.curve()[100]
        page.locator("[data-modifier-menu]").click()
        page.locator("#menu").get_by_role("menuitem", name="Cut the link, stay where it is").click()
        expect(page.locator(".station[data-modifier]")).to_have_count(0)
        self.shown("flicker3.amplitude")
        self.assertAlmostEqual(self.curve()[0], now, places=4)
        page.locator("body").press("Control+z")
        expect(page.locator(".station[data-modifier]")).to_have_count(1)

    def test_the_knob_of_a_driven_lever_goes_where_it_is_led_and_is_not_pulled(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/mooring-posts/bench")
        growth = page.locator('[data-slide="post-growth.value"]')
        told = page.locator('[data-lever="post-growth"] output')
        stands = []
        for frame in (0, 150):
            self.to_frame(frame)
            self.until(f"Math.floor(bench.clock.frame) === {frame}")
            stands.append(float(growth.get_attribute("aria-valuenow") or 0))
            self.assertAlmostEqual(stands[-1], float(told.inner_text()), delta=0.1)
        self.assertGreater(stands[1], stands[0] + 20)
        where = growth.bounding_box()
        assert where
        page.mouse.click(where["x"] + 3, where["y"] + where["height"] / 2)
        note = page.locator(".toast", has_text="Growth follows Years")
        expect(page.locator("[data-do=undo]")).to_be_disabled()
        note.get_by_text("Go there").click()
        expect(page.locator('[data-chain="post-years.value"]')).to_be_attached()

    def test_range_group_and_order(self) -> None:
        page = self.open(QUAY)
        page.locator('[data-lever-sheet="dusk"]').click()
        form = page.locator("[data-lever-form]")
        form.locator("[name=low]").fill("200")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(form.locator("[data-error]")).to_contain_text("range")
        form.locator("[name=low]").fill("10")
        form.locator("[name=group]").fill("Weather")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.locator(".lever-group h3")).to_have_text(["Weather"])
        expect(page.locator('[data-slide="dusk.value"]')).to_have_attribute("data-low", "10.0")
        page.locator("#lever-dusk").drag_to(
            page.locator("#lever-wind"), source_position={"x": 130, "y": 12}, target_position={"x": 60, "y": 4}
        )
        self.until("document.querySelector('[data-lever]').dataset.lever === 'dusk'")
        for _ in range(2):
            label = self.undo_words()
            page.locator("body").press("Control+z")
            expect(page.locator("[data-do=undo]")).not_to_have_attribute("title", label)
        expect(page.locator(".lever-group h3")).to_have_text(["Weather", "Light"])


class Scenes(BrowserTest):
    alone = True

    def test_scene_settings_and_a_long_scene_in_blocks(self) -> None:
        page = self.new_scene("Long")
        layer = self.add_layer("Star")
        page.locator("[data-do=scene-settings]").click()
        form = page.locator("[data-scene-form]")
        form.locator("[name=length]").fill("99999")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(form.locator("[data-error]")).to_contain_text("36,000")
        form.locator("[name=length]").fill("2000")
        form.locator("[name=width]").fill("900")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.locator("#sheet")).not_to_be_visible()
        self.until("bench.scene.length === 2000 && bench.scene.width === 900")
        self.choose(f"{layer}.rotation")
        self.add_wiggle()
        self.shown(f"{layer}.rotation")
        page.locator("body").press("End")
        self.until("bench.clock.frame === 1999")
        matrix = f"""(async () => {{
          const src = document.querySelector('script[type=module]').src;
          const {{ answerAt }} = await import(src.replace('pages/bench.js', 'talk/server.js')), {{
          row }} = await import(src.replace('pages/bench.js', 'lib/channels.js'));
          const answer = answerAt(1999);
          const m = row(answer.nodes.find((l) => l.id === '{layer}').channels.matrix, 1999 - answer.start);
          return [answer.start, Math.atan2(m[1], m[0]) * 180 / Math.PI];
        }})()"""
        self.until(f"{matrix}.then(([start]) => start === 1800)")
        self.assertAlmostEqual(page.evaluate(matrix)[1], self.curve()[1999], places=2)
        # What is taken by hand there is the layer as it stands there.
        rim = page.evaluate("bench.rim()")
        (cx, cy), (kx, ky) = rim["centre"], rim["knob"]
        self.assertAlmostEqual(math.degrees(math.atan2(ky - cy, kx - cx)), self.curve()[1999], places=2)

    def test_the_shelf_renames_copies_and_moves_a_still(self) -> None:
        page = self.open("/")
        quay = page.locator('.project[data-project="lantern-quay"]')
        still = quay.locator("[data-still]").first
        expect(still).to_have_attribute("data-shown", "yes")
        still.hover()
        self.until("Number(document.querySelector('[data-project=lantern-quay] [data-still]').dataset.frame) > 2")
        quay.locator("header").get_by_role("button", name="Duplicate").click()
        copy = page.locator(".project", has=page.locator("h2", has_text="Lantern Quay 2"))
        expect(copy).to_have_count(1)
        copy.locator("header").get_by_role("button", name="Rename").click()
        page.locator("#rename [name=name]").fill("Harbour fair")
        page.locator("#rename").get_by_role("button", name="Rename").click()
        fair = page.locator(".project", has=page.locator("h2", has_text="Harbour fair"))
        expect(fair).to_have_count(1)
        fair.locator(".scene-card").get_by_role("button", name="Duplicate Evening quay").click()
        expect(fair.locator(".scene-card", has_text="Evening quay 2")).to_have_count(1)
        scenes = fair.locator(".scene-card").count()
        fair.locator(".scene-card").first.get_by_role("button", name="Delete").click()
        expect(fair.locator(".scene-card")).to_have_count(scenes - 1)
        page.get_by_role("button", name="Undo").click()
        expect(fair.locator(".scene-card")).to_have_count(scenes)
        fair.locator("[data-new-scene]").first.click()
        page.locator("#new-project [name=name]").fill("Morning")
        page.get_by_role("button", name="Make it").click()
        page.wait_for_url("**/bench*")
        page.locator("#bench[data-ready]").wait_for()
        page.locator("[data-do=scenes]").click()
        expect(page.locator("#menu")).to_contain_text("Evening quay 2")


class Copies(BrowserTest):
    def test_a_chain_is_copied_and_pasted_with_the_keyboard(self) -> None:
        page = self.new_scene("Copy and paste")
        one, two, three = self.add_layer("Star"), self.add_layer("Ellipse"), self.add_layer("Text")
        page.locator(f'[data-choose-layer="{one}"]').click()
        self.choose(f"{one}.opacity")
        self.add_wiggle()
        page.locator(".sentence").click()
        page.keyboard.press("Control+c")
        expect(page.locator("#toasts")).to_contain_text("Chain copied")
        page.locator(f'[data-choose-layer="{two}"]').click()
        page.locator(f'[data-choose-layer="{three}"]').click(modifiers=["Shift"])
        expect(page.locator(".layer.is-chosen")).to_have_count(2)
        page.locator(".sentence").click()
        page.keyboard.press("Control+v")
        expect(page.locator("#toasts")).to_contain_text("copied to 2 parameters")
        expect(page.locator(".layer .moves")).to_have_count(3)
        seeds = page.evaluate(
            "fetch(location.pathname.replace(/scenes.*/, '').replace('/projects', '/api/projects') + 'file')"
            ".then((r) => r.text())"
        )
        self.assertEqual(len({part.split(",")[0].split("}")[0] for part in seeds.split('"seed": ')[1:]}), 3)
