"""While it plays: what is kept from frame to frame looks as what is drawn anew, and pages look only at what they
need."""

from tests.browser.harness import BrowserTest

#: The greatest difference of any pixel between frames drawn one after the other as they play, and each by itself.
KEPT = """async () => {
  const base = document.querySelector('script[type=module]').src;
  const { drawScene } = await import(base.replace('pages/bench.js', 'display/list.js'));
  const answer = bench.answers.last, sheet = (keeping) => ({ keeping,
  canvas: Object.assign(document.createElement('canvas'), { width: 640, height: 360 }) });
  const [playing, alone] = [sheet(true), sheet(false)];
  let most = 0;
  for (let frame = answer.start; frame < Math.min(answer.stop, answer.start + 40); frame += 1) {
    const pixels = [playing, alone].map(({ canvas, keeping }) => {
      const context = canvas.getContext('2d', { willReadFrequently: true });
      context.setTransform(1, 0, 0, 1, 0, 0);
      context.clearRect(0, 0, 640, 360);
      context.setTransform(0.5, 0, 0, 0.5, 0, 0);
      drawScene(context, answer, frame, keeping);
      return context.getImageData(0, 0, 640, 360).data;
    });
    for (let k = 0; k < pixels[0].length; k += 1) most = Math.max(most, Math.abs(pixels[0][k] - pixels[1][k]));
  }
  return most;
}"""

#: A frame of a scene that plays, as a worker paints it, against the same one at rest: the greatest difference of any
#: pixel, and how many differ by more than a little. The clock is held.
ASIDE = """async (frame) => {
  const base = document.querySelector('script[type=module]').src;
  const [{ draw }, { setFrame, play }] = await Promise.all(['stage/stage.js', 'stage/time.js'].map((name) =>
  import(base.replace('pages/bench.js', name))));
  const moving = document.getElementById('moving'), state = bench.scene, { fps } = state;
  const copy = (canvas) => {
    const sheet = Object.assign(document.createElement('canvas'), { width: canvas.width, height: canvas.height }),
    context = sheet.getContext('2d');
    context.drawImage(canvas, 0, 0);
    return context.getImageData(0, 0, sheet.width, sheet.height).data;
  };
  const painted = () => new Promise((done) => document.addEventListener('played', done, { once: true }));
  const drawn = () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  setFrame(frame);
  state.fps = 1e-9;
  play(true);
  for (let k = 0; k < 4; k += 1) {
    const wait = painted();
    draw();
    await wait;
    await drawn();
  }
  const aside = copy(moving);
  state.fps = fps;
  play(false);
  const here = copy(document.getElementById('picture'));
  let most = 0, many = 0;
  for (let k = 0; k < here.length; k += 1) {
    const apart = Math.abs(here[k] - aside[k]);
    most = Math.max(most, apart);
    many += apart > 8;
  }
  return [moving.hidden, most, many, here.length];
}"""

#: What is found of some layers by looking at these alone, and by looking at all.
FOUND = """async (layers) => {
  const base = document.querySelector('script[type=module]').src;
  const { nodesOf } = await import(base.replace('pages/bench.js', 'display/list.js'));
  const answer = bench.answers.last, told = ({ node, matrix, trail, copies }) => JSON.stringify([node.id,
  [...matrix.toFloat32Array()], trail, copies]);
  const shown = ({ copies }) => Object.entries(copies).every(([, number]) => number === 0);
  const of = ({ node, trail }) => layers.includes(node.id) || trail.some((id) => layers.includes(id));
  const holds = new Set([...nodesOf(answer, 7)].filter(of).flatMap(({ trail }) => trail));
  const all = [...nodesOf(answer, 7)].filter((one) => of(one) || holds.has(one.node.id));
  return [all, all.filter(shown)].map((some) => some.map(told)).concat([[...nodesOf(answer, 7,
  new Set(layers))].map(told), [...nodesOf(answer, 7, new Set(layers), {})].map(told)]);
}"""


class Playing(BrowserTest):
    def test_what_is_kept_looks_as_what_is_drawn_anew(self) -> None:
        for scene in ("evening-quay", "name-plate", "harbour-board", "winch-house", "pennant-line", "kelp"):
            with self.subTest(scene):
                page = self.open(f"/projects/lantern-quay/scenes/{scene}/bench")
                self.assertLessEqual(page.evaluate(KEPT), 2)

    def test_a_worker_paints_what_is_painted_at_rest(self) -> None:
        for scene in ("evening-quay", "winch-house", "name-plate", "buoy-row", "kelp", "mooring-posts", "forge-sparks"):
            with self.subTest(scene):
                page = self.open(f"/projects/lantern-quay/scenes/{scene}/bench")
                hidden, most, many, pixels = page.evaluate(ASIDE, 40)
                self.assertTrue(hidden)
                # Edges are softened a little otherwise there.
                self.assertLessEqual(many, pixels / 400, most)
                self.assertLessEqual(most, 64)

    def test_some_layers_are_found_as_among_all(self) -> None:
        for scene, layers in (
            ("gull-flock", ["wing-near"]),
            ("evening-quay", ["lantern3", "wind"]),
            ("mooring-posts", ["posts"]),
        ):
            page = self.open(f"/projects/lantern-quay/scenes/{scene}/bench")
            known = page.evaluate("[...document.querySelectorAll('[data-layer]')].map((one) => one.dataset.layer)")
            some = [one for one in layers if one in known] or known[:2]
            every, shown, found, alone = page.evaluate(FOUND, some)
            self.assertTrue(found)
            self.assertEqual(found, every)
            self.assertEqual(alone, shown)

    def test_canvases_follow_the_window_and_the_panel_answers_while_it_plays(self) -> None:
        page = self.open("/projects/lantern-quay/scenes/mooring-posts/bench")
        page.locator(".play").click()
        page.set_viewport_size({"width": 1500, "height": 860})
        self.until("document.getElementById('ruler').width === document.getElementById('ruler').clientWidth")
        self.until(
            "document.getElementById('plan-canvas').width === document.getElementById('plan-canvas').clientWidth"
        )
        row = page.locator("[data-choose-layer]").first
        row.click()
        page.locator(".layer.is-chosen .layer-fields").wait_for()
        self.assertTrue(page.evaluate("bench.clock.playing"))
        page.locator(".play").click()
        page.set_viewport_size({"width": 1280, "height": 800})
