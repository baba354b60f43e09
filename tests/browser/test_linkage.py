"""Linking by pointing, pulling by hand, the Linkage page, checks, snapshots, recipes, pictures and Handover."""

import json
import math
import re

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest

WINCH = "/projects/lantern-quay/scenes/winch-house"


class LinkageTest(BrowserTest):
    def now(self, parameter: str) -> list[float]:
        """A parameter's value at the playhead, as it is shown (tried edits included)."""
        return self.page.evaluate(
            """async (parameter) => {
              const { row } = await import(document.querySelector('script[type=module]')
              .src.replace(/pages\\/[a-z_]+\\.js$/, 'lib/channels.js'));
              return [...row(bench.answers.last.curves.result[parameter], Math.floor(bench.clock.frame))];
            }""",
            parameter,
        )

    def wanted(self, *parameters: str) -> None:
        """Ask for the values of parameters from now on."""
        self.page.evaluate("(wanted) => { bench.answers.wanted = { result: wanted }; }", list(parameters))

    def on_stage(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the scene lies on the page."""
        box = self.page.locator("#handles").bounding_box()
        assert box is not None
        width, height = (self.page.evaluate(f"bench.scene.{side}") for side in ("width", "height"))
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
        last = page.evaluate("bench.choice.layers.at(-1)")
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
            f"{self.server.address}/projects/{page.evaluate('bench.scene.project')}/scenes/{page.evaluate('bench.scene.id')}"
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
