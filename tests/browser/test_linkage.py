"""Linking by pointing, pulling by hand, the Linkage page, checks, snapshots, recipes, pictures and Handover."""

import json
import math
import re
from pathlib import Path

from PIL import Image
from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

WINCH = "/projects/lantern-quay/scenes/winch-house"


class LinkageTest(BrowserTest):
    def now(self, parameter: str) -> list[float]:
        """A parameter's value at the playhead, as it is shown (tried edits included)."""
        return self.page.evaluate(
            """async (parameter) => {
              const { row } = await import(document.querySelector('script[type=module]').src.replace(/pages\\/[a-z_]+\\.js$/, 'lib/channels.js'));
              return [...row(bench.state.answer.curves.result[parameter], Math.floor(bench.state.frame))];
            }""",
            parameter,
        )

    def wanted(self, *parameters: str) -> None:
        """Ask for the values of parameters from now on."""
        self.page.evaluate("(wanted) => { bench.state.wanted = { result: wanted }; }", list(parameters))

    def on_stage(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the scene lies on the page."""
        box = self.page.locator("#handles").bounding_box()
        assert box is not None
        width, height = (self.page.evaluate(f"bench.state.{side}") for side in ("width", "height"))
        zoom = min((box["width"] - 52) / width, (box["height"] - 60) / height)
        return box["x"] + (box["width"] - width * zoom) / 2 + x * zoom, box["y"] + 34 + (
            box["height"] - 60 - height * zoom
        ) / 2 + y * zoom

    def place(self, layer: str, x: float, y: float) -> None:
        for k, value in enumerate((x, y)):
            if self.field(f"{layer}.position").locator("[data-input]").nth(k).input_value() != str(value):
                self.type_into(f"{layer}.position", str(value), k)

    def point_at(self, x: float, y: float, words: str) -> None:
        """While pointing: click a layer on the stage and take one of its values."""
        expect(self.page.locator("#pointing")).to_be_visible()
        self.page.mouse.click(*self.on_stage(x, y))
        self.page.locator("#menu").get_by_role("menuitem", name=words, exact=True).click()
        expect(self.page.locator("form[data-tie]")).to_be_visible()

    def link(self) -> None:
        with self.page.expect_response(lambda r: r.url.endswith("/edits")):
            self.page.get_by_role("button", name="Link", exact=True).click()
        expect(self.page.locator("#sheet")).not_to_be_visible()


class Linking(LinkageTest):
    def test_two_layers_are_linked_by_pointing_and_the_first_is_pulled_by_hand(self) -> None:
        page = self.new_scene("Two wheels")
        first = self.add_layer("Gear")
        self.place(first, 400, 360)
        second = self.add_layer("Gear")
        self.place(second, 760, 360)
        self.type_into(f"{second}.teeth", "35")
        self.choose(f"{second}.rotation")
        page.locator("body").press("l")
        expect(page.locator("#pointing")).to_contain_text("Gear 2 / rotation")
        expect(page.locator(f"#row-{first}")).to_have_class(re.compile("can-drive"))
        self.point_at(400, 400, "rotation")
        expect(page.locator("input[name=way]:checked")).to_have_value("gears")
        page.locator("[name=way][value=ratio]").check(force=True)
        page.locator("[name=ratio]").fill("1/0")
        expect(page.locator("form[data-tie] [data-error]")).to_have_text("The ratio divides by 0.")
        page.locator("[name=way][value=gears]").check(force=True)
        # A screw is asked for its starts; what a wheel has stays.
        page.locator("[name=mesh]").select_option("screw")
        expect(page.get_by_label("Starts of the screw")).to_have_value("1")
        expect(page.locator("[data-of-driver]")).to_have_text("start of the screw,")
        page.locator("[name=mesh]").select_option("external")
        expect(page.get_by_label("Teeth of the driver")).to_have_value("20")
        self.link()
        tie = self.field(f"{second}.rotation").locator(".driven")
        expect(tie).to_have_text("Gear rotation × −20/35")
        expect(page.locator("[data-notes]").first).to_contain_text("−4/7 of Gear rotation, the other way round")
        # The tie leads to the driver, and the driver to its follower.
        tie.click()
        expect(page.locator(f'[data-chain="{first}.rotation"]')).to_be_attached()
        expect(page.locator(".station.result .driven")).to_have_text("Gear 2 / rotation")

        # Pulled by its rim: both turn at once, before anything is kept.
        self.wanted(f"{first}.rotation", f"{second}.rotation")
        page.evaluate("bench.requestFrames()")
        self.until(f"bench.value({json.dumps(f'{second}.rotation')})?.length === 1")
        still = self.now(f"{second}.rotation")[0]
        knob = page.evaluate("bench.rim()")
        before = self.undo_words()
        page.mouse.move(*knob["knob"])
        page.mouse.down()
        x, y = knob["centre"]
        for k in range(1, 7):
            page.mouse.move(*[c + o for c, o in zip((x, y), rotated(knob, 15 * k), strict=True)])
        first_id = json.dumps(f"{first}.rotation")
        self.until(f"bench.value({first_id})?.[0] === 90")
        self.assertAlmostEqual(self.now(f"{second}.rotation")[0] - still, -90 * 20 / 35, places=3)
        self.assertEqual(self.undo_words(), before, "nothing is kept while the hand holds it")
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.mouse.up()
        expect(page.locator("[data-do=undo]")).to_have_attribute("title", re.compile("rotation"))
        page.locator("body").press("Control+z")
        self.until(f"bench.value({first_id})?.[0] === 0")

        # A follower is not pulled: it says what it follows.
        page.locator(f"#row-{second} .layer-name").click()
        expect(self.field(f"{second}.rotation").locator(".driven")).to_be_visible()
        knob = page.evaluate("bench.rim()")
        page.mouse.move(*knob["knob"])
        page.mouse.down()
        page.mouse.up()
        expect(page.locator("#toasts")).to_contain_text("Its rotation follows Gear rotation")

        # Cut, it stays where it stands.
        self.wanted(f"{second}.rotation")
        self.field(f"{second}.rotation").locator("[data-menu]").click()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("#menu").get_by_role("menuitem", name="Cut the link, stay where it is").click()
        expect(self.field(f"{second}.rotation").locator(".driven")).to_have_count(0)

    def test_opposite_movement_by_one_pull_from_an_empty_scene(self) -> None:
        page = self.new_scene("Floats")
        paddle = self.add_layer("Rectangle")
        self.place(paddle, 640, 200)
        ball = self.add_layer("Ellipse")
        self.place(ball, 300, 500)
        self.choose(f"{ball}.position")
        page.locator("body").press("l")
        self.point_at(640, 200, "position y")
        page.locator("[name=way][value=ratio]").check(force=True)
        page.locator("[name=ratio]").fill("-1")
        page.locator("[name=axis]").select_option("only y")
        self.link()
        # What it starts from: the follower's height less the driver's.
        station = page.locator(".station[data-modifier]").first
        follow = station.get_attribute("data-modifier")
        self.type_into(f"{follow}.plus", "700", 1)
        # The hand is stopped by a Limit on what it pulls.
        page.locator(f"#row-{paddle} .layer-name").click()
        self.choose(f"{paddle}.position")
        limit = self.add_modifier("Limit")
        for name, ends in (("low", ("640", "120")), ("high", ("640", "260"))):
            for k, end in enumerate(ends):
                self.type_into(f"{limit}.{name}", end, k)
        self.until(SETTLED)
        self.wanted(f"{paddle}.position", f"{ball}.position")
        start = self.on_stage(640, 200)
        page.mouse.move(start[0] + 40, start[1])
        page.mouse.down()
        page.mouse.move(start[0] + 40, start[1] + 20, steps=3)
        page.mouse.move(start[0] + 80, start[1] + 260, steps=4)
        value = json.dumps(f"{paddle}.position")
        self.until(f"bench.value({value})?.[1] === 260")
        self.assertEqual((self.now(f"{paddle}.position"), self.now(f"{ball}.position")), ([640, 260], [300, 440]))
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.mouse.up()
        expect(self.field(f"{paddle}.position").locator("[data-input]").nth(1)).to_have_value("260")
        page.locator("body").press("Control+z")
        expect(self.field(f"{paddle}.position").locator("[data-input]").nth(1)).to_have_value("200")

    def test_several_chosen_layers_are_linked_at_once_with_steps(self) -> None:
        page = self.new_scene("Row")
        lever_driver = self.add_layer("Star")
        layers = [self.add_layer("Polygon") for _ in range(3)]
        for layer in layers[:-1]:
            page.locator(f"#row-{layer} .layer-name").click(modifiers=["Shift"])
        expect(page.locator(".layer.is-chosen")).to_have_count(3)
        last = page.evaluate("bench.state.layers.at(-1)")
        expect(page.locator(f"#row-{last} .layer-fields")).to_be_visible()
        self.choose(f"{last}.rotation")
        page.locator("body").press("l")
        expect(page.locator("#pointing")).to_be_visible()
        page.locator(f"#row-{lever_driver} .layer-name").click()
        page.locator("#menu").get_by_role("menuitem", name="rotation", exact=True).click()
        expect(page.locator("form[data-tie]")).to_contain_text("2 more chosen layers")
        page.locator("[name=plus_each]").fill("15")
        self.link()
        self.wanted(*(f"{layer}.rotation" for layer in layers))
        page.evaluate("bench.requestFrames()")
        last_layer = json.dumps([f"{layer}.rotation" for layer in layers])
        self.until(f"{last_layer}.every((p) => bench.value(p)?.length)")
        self.assertEqual(sorted(self.now(f"{layer}.rotation")[0] for layer in layers), [0, 15, 30])

    def test_a_circle_is_refused_by_name(self) -> None:
        page = self.new_scene("Circle")
        one, two = self.add_layer("Ellipse"), self.add_layer("Star")
        self.choose(f"{two}.rotation")
        page.locator("body").press("l")
        expect(page.locator("#pointing")).to_be_visible()
        page.locator(f"#row-{one} .layer-name").click()
        page.locator("#menu").get_by_role("menuitem", name="rotation", exact=True).click()
        self.link()
        answer = page.request.get(
            f"{self.server.address}/projects/{page.evaluate('bench.state.project')}/scenes/{page.evaluate('bench.state.scene')}"
            f"/sheets/tie?parameter={one}.rotation&driver={two}.rotation"
        )
        self.assertIn(
            "This link would close a circle: “Ellipse / rotation” → “Star / rotation” → “Ellipse / rotation”",
            answer.text(),
        )


def rotated(knob: dict[str, list[float]], degrees: float) -> tuple[float, float]:
    """The knob's place against the centre, turned."""
    (kx, ky), (cx, cy) = knob["knob"], knob["centre"]
    turn = math.radians(degrees)
    dx, dy = kx - cx, ky - cy
    return dx * math.cos(turn) - dy * math.sin(turn), dx * math.sin(turn) + dy * math.cos(turn)


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
            "[...document.querySelectorAll('.entry-film img')].some((one) => one.checkVisibility() && one.complete && one.naturalWidth === 16 * 224)"
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
        with page.expect_response(lambda r: r.url.endswith("/export/png-frames")) as drawn:
            page.locator("[name=stop]").fill("0")
            page.get_by_role("button", name="Draw PNG frames as you see them").click()
        self.assertEqual(drawn.value.status, 200)
        expect(page.locator("[data-result]")).to_be_visible()
