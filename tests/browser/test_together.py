"""Many at once, by hand: what is chosen is what is changed."""

from playwright.sync_api import expect

from tests.browser.harness import SETTLED, BrowserTest


class Many(BrowserTest):
    def rests(self, field: str) -> list[object]:
        """What a value rests at on each layer, from the lowest up, as it is kept."""
        path = self.page.evaluate("`/api/projects/${bench.scene.project}/file`")
        layers = self.page.request.get(f"{self.server.address}{path}").json()["scenes"][0]["layers"]
        found = []
        for layer in layers:
            value = layer.get(field, 0)
            found.append(value["rest"] if isinstance(value, dict) else value)
        return found

    def layers(self, count: int) -> list[str]:
        made = [self.add_layer("Rectangle") for _ in range(count)]
        for k, layer in enumerate(made):
            self.make(kind="set value", parameter=f"{layer}.rotation", value=10 * (k + 1))
        for k, layer in enumerate(made):
            self.page.locator(f'[data-choose-layer="{layer}"]').click(modifiers=["Control"] if k else [])
            self.until(SETTLED)
        self.choose(f"{made[-1]}.rotation")
        return made

    def test_fields_modifiers_keys_and_removal_act_on_all_that_are_chosen(self) -> None:
        page = self.new_scene("Several")
        a, b, c = self.layers(3)
        others = page.locator(".and-others")
        expect(others).to_have_text("and 2 others")
        # Where they differ, the field says so; a number before which there is a sign acts on each.
        box = self.field(f"{c}.rotation").locator("input").first
        expect(box).to_have_attribute("placeholder", "several")
        expect(box).to_have_value("")
        self.type_into(f"{c}.rotation", "+20")
        self.until(SETTLED)
        self.assertEqual(self.rests("rotation"), [30, 40, 50])
        self.assertIn("and on 2 others", self.undo_words())
        # A step on it is a step of each; what is dragged goes on from where each stands.
        box.focus()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            box.press("ArrowUp")
        self.until(SETTLED)
        self.assertEqual(self.rests("rotation"), [31, 41, 51])
        name = page.locator(f'#layers .field-name[data-choose="{c}.rotation"]').bounding_box()
        assert name is not None
        page.mouse.move(name["x"] + 8, name["y"] + 8)
        page.mouse.down()
        page.mouse.move(name["x"] + 48, name["y"] + 8, steps=5)
        expect(box).to_have_value("+20")
        self.let_go()
        self.assertEqual(self.rests("rotation"), [51, 61, 71])
        self.type_into(f"{c}.rotation", "12")
        expect(box).to_have_value("12")
        self.assertEqual(self.rests("rotation"), [12, 12, 12])

        wiggle = self.add_wiggle()
        self.until(SETTLED)
        self.type_into(f"{wiggle}.amplitude", "33")
        self.until(SETTLED)
        stations = page.locator(".station[data-modifier]")
        page.locator(f"#station-{wiggle} [data-bypass]").click()
        self.until(SETTLED)
        for layer in (a, b, c):
            page.locator(f'[data-choose-layer="{layer}"]').click()
            self.shown(f"{layer}.rotation")
            expect(stations).to_have_count(1)
            expect(stations).to_have_class("station folding is-bypassed")
            expect(stations.locator('[data-field][data-label="Amplitude"] input').first).to_have_value("33")
        expect(others).to_have_count(0)
        page.locator(f'[data-choose-layer="{a}"]').click(modifiers=["Shift"])
        self.shown(f"{a}.rotation")
        expect(others).to_have_text("and 2 others")
        stations.locator("h3").focus()
        page.keyboard.press("Delete")
        expect(stations).to_have_count(0)
        self.until(SETTLED)
        page.keyboard.press("k")
        self.until(f"{SETTLED} && document.querySelector('.peg') !== null")
        self.assertIn("and on 2 others", self.undo_words())
        # What has no such value is left out, and named.
        self.add_layer("Group")
        page.locator(f'[data-choose-layer="{a}"]').click(modifiers=["Control"])
        self.shown(f"{a}.rotation")
        self.choose(f"{a}.fill.colour")
        expect(others).to_have_text("alone")
        self.type_into(f"{a}.fill.colour", "#204060")
        self.until(SETTLED)
        self.assertIn("left out: Group", self.undo_words())

    def test_copies_are_chosen_a_little_aside_and_layers_set_in_one_line(self) -> None:
        page = self.new_scene("In a row")
        first = self.add_layer("Rectangle")
        page.keyboard.press("Control+d")
        self.until(f"{SETTLED} && bench.choice.layers.length === 1 && bench.choice.layers[0] !== '{first}'")
        page.keyboard.press("Control+d")
        self.until(f"{SETTLED} && document.querySelectorAll('[data-layer]').length === 3")
        self.assertEqual(self.rests("position"), [[640, 360], [664, 384], [688, 408]])
        rows = page.locator("[data-choose-layer]")
        rows.first.click()
        rows.last.click(modifiers=["Shift"])
        self.until(f"{SETTLED} && bench.choice.layers.length === 3")
        page.keyboard.press("a")
        page.get_by_role("menuitem", name="Top edges").click()
        self.until(SETTLED)
        self.assertEqual(self.rests("position"), [[640, 360], [664, 360], [688, 360]])
        # Steps by held keys are one, and none is lost.
        page.keyboard.down("Alt")
        for _ in range(10):
            page.keyboard.press("Shift+ArrowDown")
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.up("Alt")
        expect(page.locator("[data-do=undo]")).to_have_attribute("title", "Undo: 3 layers moved (Ctrl+Z)")
        self.until(SETTLED)
        self.assertEqual(self.rests("position"), [[643, 460], [667, 460], [691, 460]])
        self.undo()
        self.assertEqual(self.rests("position"), [[640, 360], [664, 360], [688, 360]])
        page.locator("[data-do=align]").click()
        page.get_by_role("menuitem", name="Centre on the stage").click()
        self.until(SETTLED)
        self.assertEqual(self.rests("position"), [[616, 360], [640, 360], [664, 360]])


class Keys(BrowserTest):
    def test_keys_are_nudged_without_losing_steps_and_typed_together(self) -> None:
        self.new_scene("Nudged")
        layer = self.add_layer("Ellipse")
        for frame, value in ((10, 20), (30, 60), (60, 40)):
            self.make(kind="set value", parameter=f"{layer}.rotation", value=value, frame=frame, key=True)
        path = self.page.evaluate("location.pathname.replace('/bench', '/curves')")
        page = self.open(path)
        keys = "curves.lanes()[0].keys.map((key) => [key.frame, key.values[0]])"
        kept = "curves.scene.shown === curves.scene.revision"
        page.locator("#lanes").focus()
        page.keyboard.press("Control+a")
        page.keyboard.down("Alt")
        for _ in range(10):
            page.keyboard.press("ArrowRight")
        page.keyboard.up("Alt")
        undo = page.locator("[data-do=undo]")
        expect(undo).to_have_attribute("title", "Undo: 3 keys moved (Ctrl+Z)")
        self.until(kept)
        self.assertEqual(page.evaluate(keys), [[20, 20], [40, 60], [70, 40]])
        self.undo()
        self.until(f"JSON.stringify({keys}) === '[[10,20],[30,60],[60,40]]'")
        page.locator("#lanes").focus()
        page.keyboard.press("Control+a")
        value = page.locator("#key-value")
        expect(value).to_have_attribute("placeholder", "several")
        for typed, then in (("+5", [25, 65, 45]), ("*2", [50, 130, 90]), ("7", [7, 7, 7])):
            value.fill(typed)
            with page.expect_response(lambda r: r.url.endswith("/edits")):
                value.press("Enter")
            self.until(f"{kept} && JSON.stringify({keys}.map((key) => key[1])) === '{str(then).replace(' ', '')}'")
        page.locator("#key-frame").fill("*2")
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("#key-frame").press("Enter")
        self.until(f"{kept} && JSON.stringify({keys}.map((key) => key[0])) === '[10,50,110]'")
        page.locator("#key-frame").fill("*-1")
        page.locator("#key-frame").press("Enter")
        expect(page.locator(".complaint")).to_contain_text("above 0")
