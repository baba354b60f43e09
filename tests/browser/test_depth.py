"""Depth by hand: a perspective, a row of cards that flop in turn, what is nearer in front, and hands that move what
lies in space."""

from playwright.sync_api import Locator, expect

from tests.browser.harness import SETTLED, BrowserTest

PICTURE = "bench.scenePixels(Math.floor(bench.clock.frame)).reduce((whole, v, k) => (whole * 31 + v) % 1000003, 7)"
#: What Chromium itself makes of the same transforms in CSS: where the corners of an element are seen.
CSS = """([p, transform, wide, high]) => {
  const whole = new DOMMatrix().multiply(new DOMMatrix([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, -1 / p, 0, 0, 0, 1]))
  .multiply(new DOMMatrix(transform));
  return [[-1, -1], [1, -1], [1, 1], [-1, 1]].map(([x, y]) => {
    const at = whole.transformPoint(new DOMPoint((x * wide) / 2, (y * high) / 2));
    return [at.x / at.w, at.y / at.w];
  });
}"""
SEEN = """(id) => import(document.querySelector('script[type=module]').src.replace('pages/bench.js',
    'display/list.js')).then(({ nodesOf, pointsOf }) => {
  for (const { node, matrix, index, element } of nodesOf(bench.answers.last, Math.floor(bench.clock.frame))) {
    if (node.id !== id) continue;
    const p = pointsOf(node, index, element), found = [];
    for (let k = 0; k + 1 < p.length; k += 2) { const at = matrix.transformPoint({ x: p[k], y: p[k + 1] });
    found.push([at.x - bench.scene.width / 2, at.y - bench.scene.height / 2]); }
    return found;
  }
  return null;
})"""


class Depth(BrowserTest):
    def box(self, parameter: str, number: int = 0) -> Locator:
        return self.page.locator(f'#layers [data-parameter="{parameter}"] [data-input]').nth(number)

    def set(self, parameter: str, value: str, number: int = 0) -> None:
        self.box(parameter, number).fill(value)
        self.box(parameter, number).press("Enter")
        expect(self.page.locator("#saved")).to_have_text("saved")

    def perspective(self, value: str) -> None:
        self.page.locator("[data-do=scene-settings]").click()
        self.page.get_by_label("Perspective").fill(value)
        self.page.get_by_role("button", name="Keep").click()
        expect(self.page.locator("#sheet")).to_be_hidden()
        self.until("document.getElementById('saved').textContent === 'saved'")

    def test_a_card_is_tilted_as_css_tilts_and_the_hand_moves_it(self) -> None:
        page = self.new_scene("Depth of mine")
        card = self.add_layer("Rectangle")
        expect(self.box(f"{card}.tilt")).to_have_count(0)
        self.perspective("700")
        expect(self.box(f"{card}.tilt")).to_be_visible()
        for parameter, value, number in (
            ("size", "300", 0),
            ("size", "200", 1),
            ("rotation", "20", 0),
            ("depth", "120", 0),
            ("tilt", "35", 0),
            ("tilt", "-50", 1),
        ):
            self.set(f"{card}.{parameter}", value, number)
        meant = page.evaluate(CSS, [700, "translateZ(120px) rotateZ(20deg) rotateX(35deg) rotateY(-50deg)", 300, 200])
        self.until(f"({SEEN})('{card}').then((all) => Math.abs(all[0][0] - {meant[0][0]}) < 0.05)")
        for seen, told in zip(page.evaluate(SEEN, card), meant, strict=True):
            self.assertAlmostEqual(seen[0], told[0], delta=0.05)
            self.assertAlmostEqual(seen[1], told[1], delta=0.05)
        # It is taken hold of where it is seen, and stays under the hand.
        x, y = page.evaluate("bench.rim().centre")
        page.mouse.move(x + 10, y + 4)
        page.mouse.down()
        page.mouse.move(x + 90, y + 34, steps=5)
        page.mouse.up()
        self.until(f"Math.abs(bench.rim().centre[0] - {x + 80}) < 2 && Math.abs(bench.rim().centre[1] - {y + 30}) < 2")

    def test_a_row_of_cards_flops_in_turn_by_a_sweep(self) -> None:
        page = self.new_scene("Flop of mine")
        card = self.add_layer("Rectangle")
        self.perspective("900")
        page.keyboard.press("c")
        array = page.locator('.layer[data-kind="array"]').first
        array.wait_for()
        id = str(array.get_attribute("data-layer"))
        page.locator(f'[data-choose-layer="{id}"]').click()
        page.get_by_role("button", name="Add a gauge").first.click()
        page.locator("[data-new-gauge=sweep]").click()
        page.locator(f'#sheet [name=value][value="{id}.copy_tilt"]').check()
        page.get_by_role("button", name="Let them follow").click()
        expect(page.locator("#sheet")).to_be_hidden()
        self.until(f"bench.answers.last.nodes.some((node) => node.id === '{id}')")
        self.until(f"({SEEN})('{card}').then((all) => all !== null)")
        first = page.evaluate(PICTURE)
        page.locator("#frame").fill("150")
        page.locator("#frame").press("Enter")
        self.until(f"{PICTURE} !== {first}")

    def test_a_carousel_draws_the_nearer_in_front_where_it_is_told_to(self) -> None:
        page = self.new_scene("Carousel of mine")
        page.keyboard.press("r")
        page.locator("[data-recipe=carousel]").first.click()
        page.get_by_role("button", name="Put it on").click()
        self.until("bench.answers.last.nodes.some(({ channels }) => channels.order)")
        self.until(SETTLED)
        before = page.evaluate(PICTURE)
        page.get_by_role("button", name="More for Carousel").click()
        page.get_by_role("menuitem", name="Draw what is in it in its order").click()
        self.until("bench.answers.last.nodes.every(({ channels }) => !channels.order)")
        self.until(f"{PICTURE} !== {before}")
        page.get_by_role("button", name="Undo").first.click()
        self.until(f"{PICTURE} === {before}")
