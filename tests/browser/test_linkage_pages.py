"""Checks, recipes, snapshots and Handover of linked things, through the real interface."""

import json
from pathlib import Path

from PIL import Image
from playwright.sync_api import expect

from tests.browser.test_linkage import WINCH, LinkageTest


class Pages(LinkageTest):
    checks = True

    def test_the_linkage_shows_values_filters_cuts_and_prints(self) -> None:
        page = self.open(f"{WINCH}/linkage")
        box = page.locator('[data-box="drum.rotation"]')
        self.to_frame(120)
        expect(box.locator(".box-value")).to_have_text("−717.4°")
        self.to_frame(30)
        expect(box.locator(".box-value")).not_to_have_text("−717.4°")
        expect(page.locator('[data-tie-follower="drum.rotation"]').first).to_have_attribute(
            "data-tie-words", "Pinion rotation × −14/35"
        )
        cards = page.locator("[data-card]").count()
        box.click()
        page.locator("[data-linkage-show=up]").click()
        expect(page.locator("[data-card]")).to_have_count(4)
        page.locator("[data-linkage-show=all]").click()
        expect(page.locator("[data-card]")).to_have_count(cards)
        page.locator("#linkage-named").fill("float")
        expect(page.locator("[data-card]")).to_have_count(3)
        page.locator("#linkage-named").fill("")
        page.locator("[data-card=crank] [data-fold]").click()
        expect(page.locator('[data-box="crank.rotation"]')).to_have_count(0)
        with page.expect_download() as saved:
            page.locator("[data-do=save-svg]").click()
        text = Path(saved.value.path()).read_text()
        self.assertTrue(text.startswith("<?xml") and "Hoist rack" in text and "on a rack" in text)
        # Cut here, it is undone here.
        page.locator(
            '.tie-label[data-tie-follower="load.position"], .tie[data-tie-follower="load.position"]'
        ).first.focus()
        page.keyboard.press("Enter")
        page.locator("#menu").get_by_role("menuitem", name="Cut it; the follower stays where it is").click()
        expect(page.locator('[data-box="load.position"]')).to_have_count(0)
        page.locator("body").press("Control+z")
        expect(page.locator('[data-box="load.position"]')).to_have_count(1)
        # Linked here, from one value to another.
        page.locator('[data-box="float-left.position"]').click()
        page.locator("[data-do=link]").click()
        page.locator('[data-box="hoist.position"]').click()
        page.locator("#menu").get_by_role("menuitem", name="position", exact=True).click()
        expect(page.locator("form[data-tie]")).to_be_visible()
        self.link()
        expect(page.locator('[data-tie-follower="float-left.position"]').first).to_have_attribute(
            "data-tie-words", "Hoist rack position"
        )
        page.locator("body").press("Control+z")

    def test_levers_are_ordered_by_keyboard_and_the_project_is_described(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench")
        names = "[...document.querySelectorAll('[data-lever]')].map((one) => one.dataset.name)"
        first, second = "Wind", "Swell"
        page.locator(f"[data-lever][data-name={first}] .lever-name").focus()
        page.keyboard.press("Alt+ArrowDown")
        self.until(f"{names}.indexOf('{second}') < {names}.indexOf('{first}')")
        expect(page.locator(f"[data-lever][data-name={first}] .lever-name")).to_be_focused()
        # Over the edge of its group it joins the next one.
        page.keyboard.press("Alt+ArrowDown")
        expect(page.locator(f".lever-group[data-group=Light] [data-lever][data-name={first}]")).to_be_visible()
        page.locator("[data-do=scenes]").click()
        page.locator("#menu").get_by_role("menuitem", name="About this project …").click()
        page.locator("[data-project-form] [name=author]").fill("The quay’s workshop")
        page.locator("[data-project-form] [name=link]").fill("quay")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.locator("[data-project-form] [data-error]")).to_contain_text("begins with https://")
        page.locator("[data-project-form] [name=link]").fill("https://example.org")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.locator("#sheet")).not_to_be_visible()
        self.open("/handover/lantern-quay/regatta-start")
        expect(page.locator(".handover-head")).to_contain_text("The quay’s workshop")

    def test_checks_lead_and_mend(self) -> None:
        page = self.new_scene("Odd things")
        layer = self.add_layer("Star")
        self.choose(f"{layer}.rotation")
        wave = self.add_modifier("Wave")
        self.type_into(f"{wave}.frequency", "0.52")
        page.locator(".panel-head [data-do=add-lever]").click()
        page.locator("#menu").get_by_role("menuitem", name="Number", exact=True).click()
        page.get_by_role("button", name="Cancel").click()
        expect(page.locator("#faults")).to_have_text("! 2")
        page.locator("#faults").click()
        expect(page.locator(".check")).to_have_count(2)
        page.get_by_role("button", name="Delete Number").click()
        expect(page.locator(".check")).to_have_count(1)
        page.locator(".check").get_by_role("button", name="Round 1 to the nearest that fits").click()
        expect(page.locator("#sheet h2")).to_have_text("Nothing to mend")
        expect(page.locator(".perfect")).to_contain_text("all of them are back together after 60 frames")
        page.get_by_role("button", name="Make the scene 60 frames long").click()
        expect(page.locator(".perfect")).to_contain_text("which is this scene’s length")
        page.get_by_role("button", name="Close").click()
        expect(self.field(f"{wave}.frequency").locator("input")).to_have_value("1/2")
        expect(page.locator("#faults")).to_have_text("✓")

    def test_pictures_come_in_and_shake_with_hidden_edges(self) -> None:
        page = self.new_scene("Picture")
        path = Path(self.folder) / "pier.png"
        Image.effect_noise((1400, 800), 60).save(path)
        (Path(self.folder) / "words.png").write_text("not a picture")
        page.locator(".panel-head [data-do=add-layer]").click()
        with page.expect_file_chooser() as chooser:
            page.locator("#menu").get_by_role("menuitem", name="A file: picture, clip, SVG, Lottie, font …").click()
        chooser.value.set_files([path, Path(self.folder) / "words.png"])
        expect(page.locator(".layer[data-kind=picture]")).to_have_count(1)
        expect(page.locator("#toasts")).to_contain_text("words.png: This is not a PNG, JPEG or WebP picture.")
        layer = page.locator(".layer[data-kind=picture]").get_attribute("data-layer") or ""
        self.until("(() => { const p = bench.scenePixels(0); return new Set(p.slice(0, 400)).size > 20; })()")
        self.choose(f"{layer}.position")
        wiggle = self.add_wiggle()
        for k in (0, 1):
            self.type_into(f"{wiggle}.amplitude", "90", k)
        expect(page.locator("#faults")).to_have_text("! 2")
        page.locator("#faults").click()
        expect(page.locator(".check", has_text="lets an edge show")).to_be_visible()
        page.locator(".check", has_text="lets an edge show").get_by_role("button", name="Scale it to").click()
        expect(page.locator(".check", has_text="lets an edge show")).to_have_count(0)

    def test_a_blend_of_snapshots_is_keyed(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/evening-quay/bench")
        for name, value in (("Calm", "2"), ("Gale", "18")):
            self.type_into("swell.value", value)
            page.locator("[data-store-snapshot]").click()
            page.locator("#menu input").fill(name)
            with page.expect_response(lambda r: r.url.endswith("/edits")):
                page.locator("#menu input").press("Enter")
            expect(page.locator("[data-snapshot]", has_text=name)).to_be_visible()
        for box in page.locator("[data-blend-tick]").all():
            box.check()
        slide = page.locator("[data-blend-slide]")
        slide.fill("50")
        expect(self.field("swell.value").locator("input")).to_have_value("10")
        page.locator("[data-make-blend]").click()
        page.locator("#menu input").fill("Weather")
        page.locator("#menu input").press("Enter")
        lever = page.locator("[data-lever][data-name=Weather]")
        expect(lever).to_be_visible()
        parameter = f"{lever.get_attribute('data-lever')}.value"
        expect(self.field("swell.value").locator(".driven")).to_contain_text("Weather: 2 px, 18 px")
        self.choose_lever(parameter)
        for frame, value in ((0, "0"), (60, "100")):
            self.to_frame(frame)
            page.locator(".station.source [data-do=key]").click()
            self.until(
                f"JSON.parse(document.querySelector('[data-chain]').dataset.keys).some(([at]) => at === {frame})"
            )
            self.type_into(parameter, value)
        self.wanted("swell.value")
        page.evaluate("bench.requestFrames()")
        self.to_frame(60)
        self.until("bench.value('swell.value')?.[0] === 18")
        self.to_frame(0)
        self.until("bench.value('swell.value')?.[0] === 2")

    def choose_lever(self, parameter: str) -> None:
        self.page.locator(f'.lever-name[data-choose="{parameter}"]').click()
        expect(self.page.locator(f'[data-chain="{parameter}"]')).to_be_attached()

    def test_a_recipe_is_tried_put_on_and_taken_back_in_one_step(self) -> None:
        page = self.new_scene("Recipes")
        layer = self.add_layer("Ellipse")
        before = self.undo_words()
        page.locator("body").press("r")
        page.locator(".recipe", has_text="Drop and bounce").locator(".entry").click()
        expect(page.locator("[data-recipe-form] input:checked")).to_have_count(1)
        self.wanted(f"{layer}.position")
        page.locator("[data-recipe-form] input[type=checkbox]").first.uncheck()
        page.locator("[data-recipe-form] input[type=checkbox]").first.check()
        self.until(f"(bench.value({json.dumps(f'{layer}.position')})?.[1] ?? 999) < 0")
        self.assertEqual(self.undo_words(), before, "trying keeps nothing")
        page.get_by_role("button", name="Put it on").click()
        expect(page.locator("[data-lever]")).to_have_count(2)
        page.locator("body").press("Control+z")
        expect(page.locator("[data-lever]")).to_have_count(0)
        # One's own chain becomes a recipe.
        self.choose(f"{layer}.rotation")
        self.add_wiggle()
        page.locator("[data-do=save-chain]").click()
        page.locator("#menu input").fill("Jittery lamp")
        page.locator("#menu input").press("Enter")
        page.locator("#toasts button", has_text="Recipes").click()
        own = page.locator(".recipe", has_text="Jittery lamp")
        with page.expect_download() as saved:
            own.locator("a[download]").click()
        self.assertEqual(json.loads(Path(saved.value.path()).read_text())["parts"][0]["name"], "Ellipse")
        own.locator("[data-forget-recipe]").click()
        expect(own).to_have_count(0)

    def test_recipes_that_bring_layers_play_when_they_are_pointed_at(self) -> None:
        page = self.open()
        page.keyboard.press("r")
        petals = page.locator(".recipe", has_text="Ring of petals")
        page.locator("#sheet [type=search], #sheet input").first.fill("petals")
        expect(page.locator(".recipe:visible")).to_have_count(1)
        still = petals.locator(".entry-film img")
        self.until(
            "[...document.querySelectorAll('.entry-film img')].some((one) => one.checkVisibility() && "
            "one.complete && one.naturalWidth === 16 * 224)"
        )
        playing = "(one) => getComputedStyle(one).animationName"
        self.assertEqual(still.evaluate(playing), "none")
        # Who asked for less motion sees it rest, even when pointing at it.
        petals.locator(".entry").hover()
        self.assertEqual(still.evaluate(playing), "none")
        page.emulate_media(reduced_motion="no-preference")
        self.assertEqual(still.evaluate(playing), "film")
        page.mouse.move(5, 5)
        self.assertEqual(still.evaluate(playing), "none")

    def test_handover_changes_only_the_visitors_copy_until_it_is_kept(self) -> None:
        page = self.open("/handover/lantern-quay/winch-house")
        self.assertEqual(page.locator("[data-layer], [data-chain], .station").count(), 0)
        page.set_viewport_size({"width": 390, "height": 844})
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        slide = page.locator("[data-slide='embers.value']")
        slide.focus()
        for _ in range(3):
            slide.press("Shift+ArrowRight")
        expect(slide).to_have_attribute("aria-valuenow", "33")
        kept = page.request.get(self.address("/api/projects/lantern-quay/file")).json()
        embers = next(lever for scene in kept["scenes"] for lever in scene.get("levers", []) if lever["id"] == "embers")
        self.assertEqual(embers["value"], 18)
        page.reload()
        page.locator("[data-ready]").first.wait_for()
        expect(page.locator("[data-slide='embers.value']")).to_have_attribute("aria-valuenow", "33")
        page.locator("[data-own=keep]").click()
        page.locator("#menu input").fill("Glowing")
        page.locator("#menu input").press("Enter")
        expect(page.locator(".snapshot", has_text="Glowing")).to_be_visible()
        page.locator("[data-own=back]").click()
        expect(page.locator("[data-slide='embers.value']")).to_have_attribute("aria-valuenow", "18")
        page.locator("[data-ready]").first.wait_for()
        page.locator(".snapshot-name", has_text="Glowing").click()
        expect(page.locator("[data-slide='embers.value']")).to_have_attribute("aria-valuenow", "33")
        # What is typed stays within the lever's ends, and that is said; sums are read as everywhere.
        typed = page.locator("[data-lever=embers] [data-input]")
        typed.fill("200 + 300")
        typed.press("Enter")
        expect(page.locator("#toasts")).to_contain_text("goes from 0 % to 100 %")
        expect(typed).to_have_value("100")
        uses = page.locator("select[name=for]")
        self.assertGreater(uses.locator("option").count(), 10)
        uses.select_option(label="To go on with, frame by frame · PNG frames")
        expect(page.locator("#export-settings")).to_contain_text("PNG frames")
        with page.expect_response(lambda r: r.url.endswith("/export/png-frames")) as drawn:
            page.locator("[name=stop]").fill("0")
            page.locator("#export-settings .export-go button").click()
        self.assertIn("embers.value", drawn.value.request.post_data or "")
        self.assertEqual(drawn.value.status, 200)
        expect(page.locator("[data-result]")).to_be_visible()
