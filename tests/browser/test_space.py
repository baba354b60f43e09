"""Space by hand: blocks, a camera on the empty stage and from above, handles for depth and tilt, and what is nearest is
clicked."""

import re
from typing import Any

from playwright.sync_api import Locator, expect

from tests.browser.harness import SETTLED, BrowserTest

PICTURE = "bench.scenePixels(Math.floor(bench.clock.frame)).reduce((whole, v, k) => (whole * 31 + v) % 1000003, 7)"
SPOT = """(words) => import(document.querySelector('script[type=module]').src.replace('pages/bench.js',
    'stage/plan.js')).then(({ spotOnPage }) => spotOnPage(words))"""


class Space(BrowserTest):
    def value(self, parameter: str) -> list[float]:
        """A parameter as it is kept."""
        boxes = self.page.locator(f'#layers [data-parameter="{parameter}"] [data-input]')
        return [float(box.input_value().replace("−", "-")) for box in boxes.all()]

    def box(self, parameter: str) -> Locator:
        return self.page.locator(f'#layers [data-parameter="{parameter}"] [data-input]').first

    def kept(self) -> None:
        self.until(SETTLED)

    def drag(self, start: tuple[float, float], by: tuple[float, float], held: str = "") -> None:
        """A drag on the page, with keys held; waits until what came of it is kept."""
        mouse, revision = self.page.mouse, self.page.evaluate("bench.scene.revision")
        for key in held.split():
            self.page.keyboard.down(key)
        mouse.move(*start)
        mouse.down()
        mouse.move(start[0] + by[0] / 2, start[1] + by[1] / 2, steps=3)
        mouse.move(start[0] + by[0], start[1] + by[1], steps=3)
        mouse.up()
        for key in held.split():
            self.page.keyboard.up(key)
        self.until(f"bench.scene.revision > {revision}")
        self.kept()

    def corner(self) -> tuple[float, float]:
        """An empty place of the stage, near its upper right corner."""
        stage: Any = self.page.locator("#handles").bounding_box()
        return stage["x"] + stage["width"] * 0.8, stage["y"] + stage["height"] * 0.3

    def test_a_camera_is_turned_moved_and_brought_nearer_on_the_empty_stage(self) -> None:
        page = self.new_scene("Camera of mine")
        block = self.add_layer("Block")
        expect(page.locator("#plan")).to_be_visible()
        camera = self.add_layer("Camera")
        self.assertEqual(self.value(f"{camera}.depth"), [1000])
        before = self.value(f"{camera}.around")
        self.drag(self.corner(), (-100, 40), "Control")
        turned = self.value(f"{camera}.around")
        self.assertEqual([a - b for a, b in zip(turned, before, strict=True)], [30, 12])
        # Undone in one step, as everything is.
        page.keyboard.press("Control+z")
        expect(self.box(f"{camera}.around")).to_have_value("0")
        self.kept()
        # With Shift it moves along with its aim: what is under the pointer stays under it.
        place, aim = self.value(f"{camera}.position"), self.value(f"{camera}.aim")
        self.drag(self.corner(), (-60, 0), "Control Shift")
        moved, aimed = self.value(f"{camera}.position"), self.value(f"{camera}.aim")
        zoom = page.evaluate("Number.parseFloat(document.getElementById('zoom').textContent) / 100")
        self.assertAlmostEqual(moved[0] - place[0], 60 / zoom, delta=1.5)
        self.assertAlmostEqual(moved[0] - place[0], aimed[0] - aim[0], places=1)
        self.assertEqual(moved[1], place[1])
        revision = page.evaluate("bench.scene.revision")
        page.keyboard.down("Control")
        page.mouse.move(*self.corner())
        page.mouse.wheel(0, -200)
        page.keyboard.up("Control")
        self.until(f"bench.scene.revision > {revision}")
        self.kept()
        self.assertAlmostEqual(self.value(f"{camera}.depth")[0], 1000 * 0.8187, delta=0.2)
        # Without Ctrl an empty place lets go of what was chosen, as ever.
        page.mouse.click(*self.corner())
        expect(page.locator(".layer.is-chosen")).to_have_count(0)
        expect(page.locator(f'[data-layer="{block}"]')).to_be_attached()

    def test_things_are_dragged_over_the_ground_in_the_view_from_above(self) -> None:
        page = self.new_scene("From above of mine")
        block = self.add_layer("Block")
        camera = self.add_layer("Camera")
        self.kept()
        # The camera's aim lies over it: it is what is taken hold of.
        page.locator(f'[data-choose-layer="{block}"]').click()
        expect(page.locator(f'[data-layer="{block}"].is-chosen')).to_be_attached()
        x, y = page.evaluate(SPOT, "Block")
        page.mouse.click(x, y)
        expect(page.locator(f'[data-layer="{camera}"].is-chosen')).to_be_attached()
        self.drag((x, y), (30, 0))
        self.assertGreater(self.value(f"{camera}.aim")[0], 700)
        page.mouse.click(*page.evaluate(SPOT, "Block"))
        expect(page.locator(f'[data-layer="{block}"].is-chosen .layer-fields')).to_be_visible()
        before = self.value(f"{block}.position")
        self.drag(tuple(page.evaluate(SPOT, "Block")), (-15, 20))
        self.assertGreater(self.value(f"{block}.depth")[0], 50)
        self.assertLess(self.value(f"{block}.position")[0], before[0] - 30)
        self.assertEqual(self.value(f"{block}.position")[1], before[1])
        # The camera itself goes round its aim.
        page.locator(f'[data-choose-layer="{camera}"]').click()
        expect(page.locator(f'[data-layer="{camera}"] .by-hand')).to_be_visible()
        self.drag(tuple(page.evaluate(SPOT, "round its aim")), (-40, -10))
        self.assertLess(self.value(f"{camera}.around")[0], -5)
        page.locator("#plan [data-do=plan]").click()
        expect(page.locator("#plan")).to_be_hidden()
        page.locator(".stage-tools [data-do=plan]").click()
        expect(page.locator("#plan")).to_be_visible()

    def test_a_zone_is_dragged_where_the_camera_sees_it_and_from_above(self) -> None:
        page = self.new_scene("Zones in depth")
        self.add_layer("Block")
        page.locator("#handles").focus()
        page.keyboard.press("c")
        chosen = page.locator('.layer.is-chosen[data-kind="array"]')
        expect(chosen).to_be_visible()
        array = chosen.get_attribute("data-layer")
        camera = self.add_layer("Camera")
        self.drag(self.corner(), (-120, 60), "Control")
        self.assertNotEqual(self.value(f"{camera}.around"), [0, 0])
        page.locator(f'[data-choose-layer="{array}"]').click()
        page.locator("[data-add-gauge]").first.click()
        page.locator("#sheet .gauge-entry").filter(has_text="What is near").click()
        expect(page.locator("#sheet [data-tie-form]")).to_be_visible()
        page.keyboard.press("Escape")
        start = self.handle("Zone: centre")
        self.drag(start, (50, 24))
        # What is taken hold of stays under the pointer, though the camera sees it from aside.
        self.until(
            f"Math.hypot(bench.handlesOnPage().find((one) => one.words === 'Zone: centre').at[0] - {start[0] + 50}, "
            f"bench.handlesOnPage().find((one) => one.words === 'Zone: centre').at[1] - {start[1] + 24}) < 1.5"
        )
        zone = page.locator("[data-gauge]").first.get_attribute("data-gauge")
        centre = "bench.answers.last.plan.zones[0].spots"
        told = (
            f"import(document.querySelector('script[type=module]').src.replace('pages/bench.js', "
            f"'stage/camera_hand.js')).then(({{ spotOf }}) => spotOf({centre}))"
        )
        before = page.evaluate(told)
        self.drag(tuple(page.evaluate(SPOT, "its centre")), (12, 0))
        after = page.evaluate(told)
        self.assertGreater(after["x"], before["x"] + 20, zone)
        self.assertAlmostEqual(after["y"], before["y"])
        # With an end in depth it is sized and turned from above as well.
        self.make(kind="set value", parameter=f"{zone}.size_depth", value=60, frame=0)
        self.make(kind="set value", parameter=f"{zone}.size", value=[160, 90], frame=0)
        page.locator(f'[data-choose="{zone}.value"]').first.click()
        self.until("bench.answers.last.plan.zones[0].lined === false")

        def told_now() -> list[float]:
            boxes = page.locator(
                ", ".join(f"#chain [data-parameter='{zone}.{n}'] [data-input]" for n in ("size", "size_depth", "turn"))
            )
            return [float(box.input_value().replace("−", "-")) for box in boxes.all()]

        self.kept()
        self.drag(tuple(page.evaluate(SPOT, "how wide")), (10, 0))
        wide, *others = told_now()
        self.assertGreater(wide, 170)
        self.assertEqual(others, [90, 60, 0])
        x, y = page.evaluate(SPOT, "how it is turned")
        middle = page.evaluate(SPOT, "its centre")
        self.drag((x, y), (middle[0] - x, x - middle[0]))
        self.assertAlmostEqual(told_now()[3], 90, delta=2)
        # Turned by a quarter, its depth lies to the left.
        x, y = page.evaluate(SPOT, "how deep")
        self.assertLess(x, middle[0] - 5)
        self.drag((x, y), (-10, 0))
        self.assertGreater(told_now()[2], 70)

    def test_what_stands_on_the_ground_is_spaced_by_its_handle_there(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/mooring-posts/bench")
        self.to_frame(40)
        page.locator('[data-choose-layer="posts"]').click()
        self.handle("Gap")
        # The order begins at the first copy, far and to the left: higher and further left than the near right corner.
        first, last = self.handle("Where the order begins"), self.handle("Gap")
        self.assertLess(first[0], last[0] - 200)
        before = self.value("posts.arrangement.gap")
        self.drag(last, (-60, -15))
        x, y = self.handle("Gap")
        self.assertAlmostEqual(x, last[0] - 60, delta=2)
        self.assertAlmostEqual(y, last[1] - 15, delta=2)
        after = self.value("posts.arrangement.gap")
        self.assertNotEqual(after[0], before[0])
        self.assertLess(after[1], before[1])

    def test_depth_and_tilt_have_handles_and_what_is_nearest_is_clicked(self) -> None:
        page = self.new_scene("Handles of mine")
        block = self.add_layer("Block")
        self.drag(self.handle("Depth"), (0, 30))
        deep = self.value(f"{block}.depth")[0]
        self.assertGreater(deep, 30)
        self.drag(self.handle("Tilt"), (20, -10))
        self.assertEqual(self.value(f"{block}.tilt"), [-24 + 5, 32 + 10])
        # A group drawn by depth: of two balls on one spot the one behind, though it lies higher in the list, is not
        # hit.
        page.keyboard.press("Delete")
        expect(page.locator("[data-layer]")).to_have_count(0)
        group = self.add_layer("Group")
        near = self.add_layer("Ball")
        page.locator(f'[data-choose-layer="{group}"]').click()
        expect(page.locator(f'[data-layer="{group}"].is-chosen')).to_be_attached()
        far = self.add_layer("Ball")
        self.type_into(f"{far}.depth", "-200")
        self.kept()
        page.locator(f'[data-layer-menu="{group}"]').click()
        page.get_by_role("menuitem", name="Draw what is nearer in front").click()
        self.kept()
        stage: Any = page.locator("#handles").bounding_box()
        page.mouse.click(*self.corner())
        expect(page.locator(".layer.is-chosen")).to_have_count(0)
        at = page.evaluate("bench.copyOnPage ? [...document.querySelectorAll('[data-layer]')].length : 0")
        self.assertEqual(at, 3)
        page.mouse.dblclick(stage["x"] + stage["width"] / 2, self.middle())
        expect(page.locator(f'[data-layer="{near}"].is-chosen')).to_be_attached()

    def middle(self) -> float:
        """Half-way down the stage on the page."""
        return float(
            self.page.evaluate("""() => {
          const box = document.getElementById('handles').getBoundingClientRect();
          const pad = 26, top = 34, zoom = Math.min((box.width - 2 * pad) / bench.scene.width,
          (box.height - pad - top) / bench.scene.height);
          const high = bench.scene.height * zoom;
          return box.top + top + (box.height - top - pad - high) / 2 + high / 2;
        }""")
        )

    def test_a_town_is_zoomed_kept_three_times_blended_and_looked_at_by_hand(self) -> None:
        page = self.new_scene("Town of mine")
        page.keyboard.press("r")
        page.locator("[data-recipe=town]").first.click()
        page.get_by_role("button", name="Put it on").click()
        self.until("bench.answers.last.nodes.some((one) => one.kind === 'array' && one.copies === 200)")
        expect(page.locator("#sheet")).to_be_hidden()
        self.kept()
        lever = {
            name: page.locator(f"[data-lever][data-name='{name}']").get_attribute("data-lever")
            for name in ("Zoom", "Scroll", "Round")
        }
        sights = []
        for name, zoom, scroll in (("Old quarter", "90", "40"), ("Harbour", "420", "300"), ("Hills", "1100", "-700")):
            for which, value in (("Zoom", zoom), ("Scroll", scroll)):
                self.type_into(f"{lever[which]}.value", value)
            self.kept()
            sights.append(page.evaluate(PICTURE))
            page.locator("[data-store-snapshot]").click()
            page.locator("#menu input").fill(name)
            with page.expect_response(lambda r: r.url.endswith("/edits")):
                page.locator("#menu input").press("Enter")
            expect(page.locator("[data-snapshot]", has_text=name)).to_be_visible()
        self.assertEqual(len(set(sights)), 3)
        for box in page.locator("[data-blend-tick]").all():
            box.check()
        page.locator("[data-blend-slide]").fill("50")
        expect(self.field(f"{lever['Zoom']}.value").locator("input")).to_have_value("420")
        page.locator("[data-blend-slide]").fill("75")
        expect(self.field(f"{lever['Zoom']}.value").locator("input")).to_have_value("760")
        # The camera about the town by its lever, then held by hand.
        self.kept()
        before = page.evaluate(PICTURE)
        self.type_into(f"{lever['Round']}.value", "120")
        self.kept()
        self.assertNotEqual(page.evaluate(PICTURE), before)
        page.keyboard.press("Escape")
        page.locator("[data-choose-layer]", has_text="Camera").first.click()
        page.locator("#handles").focus()
        page.keyboard.press("r")
        page.locator("[data-recipe=hand-held-camera]").first.click()
        page.get_by_role("button", name="Put it on").click()
        expect(page.locator("#sheet")).to_be_hidden()
        self.kept()
        first = page.evaluate(PICTURE)
        page.locator("#frame").fill("40")
        page.locator("#frame").press("Enter")
        self.until(f"{PICTURE} !== {first}")

    def test_balls_in_three_axes_are_pushed_apart_by_a_zone_whose_force_is_waved(self) -> None:
        page = self.new_scene("Balls of mine")
        ball = self.add_layer("Ball")
        self.type_into(f"{ball}.radius", "14")
        page.locator("#handles").focus()
        page.keyboard.press("c")
        row = page.locator('.layer.is-chosen[data-kind="array"]')
        expect(row).to_be_visible()
        array = row.get_attribute("data-layer") or ""
        page.locator("[data-arrangement]").select_option("scatter")
        self.type_into(f"{array}.arrangement.count", "100")
        self.type_into(f"{array}.arrangement.area_depth", "400")
        for parameter in ("copy_position", "copy_depth"):
            self.choose(f"{array}.{parameter}")
            for kind in ("Wave", "Wave", "Wiggle"):
                made = self.add_modifier(kind)
                self.type_into(f"{made}.amplitude", "30")
        self.add_layer("Camera")
        page.locator(f'[data-choose-layer="{array}"]').click()
        self.choose(f"{array}.copy_position")
        page.locator("[data-add-gauge]").first.click()
        page.locator("#sheet .gauge-entry").filter(has_text="What is near").click()
        expect(page.locator("#sheet [data-tie-form]")).to_be_visible()
        page.keyboard.press("Escape")
        zone = page.locator("[data-gauge]").first.get_attribute("data-gauge") or ""
        before = page.evaluate(PICTURE)
        page.locator(f'[data-gauge-menu="{zone}"]').click()
        with page.expect_response(lambda r: r.url.endswith("/edits")):
            page.locator("#menu").get_by_role("menuitem", name="Push the copies by it").click()
        self.kept()
        self.until(f"{PICTURE} !== {before}")
        # With an end in depth it pushes towards the viewer and away: how large balls are seen changes.
        size = """() => import(document.querySelector('script[type=module]').src.replace('pages/bench.js',
            'lib/channels.js')).then(({ row }) => {
          const node = bench.answers.last.nodes.find((one) => one.kind === 'array');
          return Array.from({ length: 100 }, (_, k) => row(node.channels.turned, Math.floor(bench.clock.frame), k)[0]);
        })"""
        flat = page.evaluate(size)
        page.locator(f'.lever-name[data-choose="{zone}.value"]').click()
        self.type_into(f"{zone}.size_depth", "300")
        self.kept()
        pushed = page.evaluate(size)
        self.assertGreater(max(abs(a - b) for a, b in zip(flat, pushed, strict=True)), 0.005)
        self.choose(f"{array}.copy_position")
        push = page.locator(".station[data-modifier]").last.get_attribute("data-modifier") or ""
        # What is drawn is shown: the copy depth tells of it, and leads to what brings it.
        self.choose(f"{array}.copy_depth")
        told = page.get_by_role("article", name="Pushed")
        expect(told.locator("output")).to_have_text(re.compile(r"\d"))
        told.get_by_role("button", name="Copy position").click()
        expect(page.locator(".chain-head")).to_have_attribute("data-chain", f"{array}.copy_position")
        self.choose(f"{push}.force")
        wave = self.add_modifier("Wave")
        self.type_into(f"{wave}.amplitude", "60")
        self.shown(f"{push}.force")
        forces = self.curve()
        self.assertGreater(max(forces) - min(forces), 100)

    def test_what_stays_on_the_stage_is_told_in_its_menu(self) -> None:
        page = self.new_scene("Title of mine")
        title = self.add_layer("Text")
        page.locator(f'[data-layer-menu="{title}"]').click()
        expect(page.get_by_role("menuitem", name="Keep it on the stage")).to_have_count(0)
        page.keyboard.press("Escape")
        camera = self.add_layer("Camera")
        page.locator(f'[data-layer-menu="{title}"]').click()
        page.get_by_role("menuitem", name="Keep it on the stage").click()
        expect(page.locator(f'[data-layer="{title}"][data-viewed=stays]')).to_be_attached()
        self.kept()
        before = page.evaluate("[...bench.scenePixels(0)].reduce((sum, v, k) => (sum * 31 + v) % 1000003, 7)")
        self.type_into(f"{camera}.depth", "300")
        self.kept()
        self.assertEqual(
            page.evaluate("[...bench.scenePixels(0)].reduce((sum, v, k) => (sum * 31 + v) % 1000003, 7)"), before
        )
