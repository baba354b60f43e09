"""Arrays: a thousand copies against what must be written at the least, their growth, and from the hand to the
canvas."""

import tracemalloc
from math import log10
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.kernels.field import noise_field
from jaunty_lever.core.kernels.parallel import over
from jaunty_lever.formats.project_file import write
from tests.browser.harness import Server

from .measure import best, line, middle
from .pages import brought_in, middles, opened

FRAMES = 240


def flock(count: int, length: int = FRAMES) -> Project:
    """Copies of a shape of twelve segments whose position comes from two waves, a coherent wiggle and a push."""
    chain: list[dict[str, Any]] = [
        {"kind": "wave", "id": "w1", "amplitude": [20, 12], "along": 1.5, "frequency": 0.5},
        {"kind": "wave", "id": "w2", "amplitude": [6, 24], "along": -2, "frequency": 0.8},
        {"kind": "wiggle", "id": "w3", "amplitude": [14, 14], "over": "along", "along": 9},
        {"kind": "push", "id": "p", "zone": "z", "force": 60},
    ]
    lift = {"rest": 100, "chain": [{"kind": "follow", "id": "lf", "driver": "lever.value", "times": 0.5, "plus": 50}]}
    columns = round(count**0.5 * 1.4) or 1
    gap = 1100 / columns
    array = {
        "kind": "array",
        "id": "flock",
        "name": "Flock",
        "position": [640, 360],
        "arrangement": {"kind": "grid", "columns": columns, "rows": -(-count // columns), "gap": [gap, gap * 0.8]},
        "copy_position": {"rest": [0, 0], "chain": chain},
        "copy_scale": {
            "rest": [100, 100],
            "chain": [
                {
                    "kind": "adjust",
                    "id": "a",
                    "times": {
                        "rest": 1,
                        "chain": [{"kind": "follow", "id": "af", "driver": "lever.value", "times": 0.01}],
                    },
                }
            ],
        },
        "copy_opacity": lift,
        "gauges": [{"kind": "zone", "id": "z", "name": "Zone", "centre": [640, 360], "size": [200, 160]}],
        "layers": [{"kind": "polygon", "id": "dot", "name": "Dot", "sides": 12, "radius": max(3, gap / 3)}],
    }
    lever = {"kind": "percentage", "id": "lever", "name": "Lever", "low": 0, "high": 100, "value": 60}
    scene = {"id": "flock-scene", "name": "Flock", "length": length, "layers": [array], "levers": [lever]}
    return Project(id=f"flock-{count}", name="Flock", scenes=(Scene.model_validate(scene),))


def evaluation() -> None:
    """A thousand copies over 240 frames, what does not differ, and how the cost grows."""
    _position()
    _still()
    _led()
    _field()
    _drawn_zone()
    times = [_time_of(count) for count in (100, 1_000, 10_000)]
    exponents = [log10(b / a) for a, b in zip(times, times[1:], strict=False)]
    shown = ", ".join(f"{t * 1000:.1f} ms" for t in times)
    line(
        "Copies 100, 1,000, 10,000: exponents of growth",
        " ".join(f"{e:.2f}" for e in exponents),
        f"at most 1.05 ({shown})",
        max(exponents) <= 1.05,
    )


def _samples(scene: Scene) -> tuple[Sampler, SampleTimes]:
    sampler = Sampler(scene, Cache())
    return sampler, inside(sampler, "flock.copy_position", SampleTimes.frames(30, 0, FRAMES))


def _time_of(count: int) -> float:
    scene = flock(count).scenes[0]

    def work() -> None:
        sampler, where = _samples(scene)
        sampler.evaluate("flock.copy_position", where)

    return best(work, 5)


def _position() -> None:
    scene = flock(1_000).scenes[0]
    sampler, where = _samples(scene)
    result = sampler.evaluate("flock.copy_position", where)
    # As an array of numbers side by side, whichever way the result itself lies.
    result = np.ascontiguousarray(result)
    into = np.empty(result.shape)
    ratios = []
    for _ in range(5):
        copied = best(lambda: np.copyto(into, result), 9)
        ratios.append(_time_of(1_000) / copied)
    ratio = middle(ratios)
    many = result.shape[0]
    line(
        f"{many:,} copies, {FRAMES} frames: two Waves, a coherent Wiggle, a Push",
        f"{ratio:.1f} ×",
        "at most 12 × numpy.copyto",
        ratio <= 12,
    )
    tracemalloc.start()
    sampler, where = _samples(scene)
    made = sampler.evaluate("flock.copy_position", where)
    peak = tracemalloc.get_traced_memory()[1] / made.nbytes
    tracemalloc.stop()
    line("  memory at its highest", f"{peak:.1f} ×", "at most 4 × the result", peak <= 4)


def _still() -> None:
    chain = [{"kind": "wave", "id": "w"}, {"kind": "remap", "id": "r", "from_low": -10, "from_high": 10}]
    one = {"kind": "ellipse", "id": "e", "name": "E", "rotation": {"rest": 5, "chain": chain}}
    array = {"kind": "array", "id": "a", "name": "A", "arrangement": {"kind": "row", "count": 1_000}, "layers": [one]}
    frames = SampleTimes.frames(30, 0, 30_000)
    single, many = (Scene.model_validate({"id": "s", "name": "S", "layers": [layer]}) for layer in (one, array))

    def alone() -> None:
        Sampler(single, Cache()).evaluate("e.rotation", frames)

    # Which copies there are, and which moments they show, is found once for all values of an array.
    where = inside(Sampler(many, Cache()), "e.rotation", frames)

    def copies() -> None:
        Sampler(many, Cache()).evaluate("e.rotation", where)

    ratio = middle([best(copies, 5) / best(alone, 5) for _ in range(5)])
    line("A value that does not differ between 1,000 copies", f"{ratio:.2f} ×", "at most 1.1 × one layer", ratio <= 1.1)


def _led() -> None:
    """Five gauges on the position and the rotation of a thousand copies, against these gauges by themselves."""
    kinds = ("sweep", "sweep", "sweep", "sweep", "noise")
    gauges: list[dict[str, Any]] = [{"kind": kind, "id": f"g{k}", "name": f"G{k}"} for k, kind in enumerate(kinds)]
    for gauge in gauges[:4]:
        gauge["travel"] = {"keys": [{"frame": 0, "value": 0}, {"frame": FRAMES, "value": 100}]}

    def led(name: str, amount: Any) -> dict[str, Any]:
        steers = [
            {"kind": "steer", "id": f"{name}{k}", "driver": f"g{k}.value", "way": "by", "amount": amount}
            for k in range(len(kinds))
        ]
        return {"chain": steers}

    array = {
        **{"kind": "array", "id": "a", "name": "A", "arrangement": {"kind": "row", "count": 1_000}, "gauges": gauges},
        **{"copy_position": led("p", [4, 9]), "copy_rotation": led("r", 7)},
        "layers": [{"kind": "ellipse", "id": "e", "name": "E"}],
    }
    scene = Scene.model_validate({"id": "s", "name": "S", "length": FRAMES, "layers": [array]})
    where = inside(Sampler(scene, Cache()), "a.copy_position", SampleTimes.frames(30, 0, FRAMES))

    def of(*parameters: str) -> float:
        def work() -> None:
            sampler = Sampler(scene, Cache())
            for parameter in parameters:
                sampler.evaluate(parameter, where)

        return best(work, 5)

    # Each by itself: of gauges that are set alike one is worked out for all.
    alone = [f"g{k}.value" for k in range(len(kinds))]
    ratio = middle([of("a.copy_position", "a.copy_rotation") / sum(map(of, alone)) for _ in range(5)])
    shown = f"{ratio:.2f} ×"
    line("Five gauges lead place and rotation of 1,000 copies", shown, "at most 2 × these gauges", ratio <= 2)


def _field() -> None:
    """The gauge Noise, and the modifier, over a thousand copies, against the kernel by itself."""
    count, span = 1_000, 240
    array: dict[str, Any] = {
        **{"kind": "array", "id": "a", "name": "A", "arrangement": {"kind": "row", "count": count}},
        "gauges": [{"kind": "noise", "id": "g", "name": "G", "frequency": 0.7}],
        "copy_rotation": {"chain": [{"kind": "noise", "id": "n", "frequency": 0.7}]},
        "layers": [{"kind": "ellipse", "id": "e", "name": "E"}],
    }
    scene = Scene.model_validate({"id": "s", "name": "S", "length": span, "layers": [array]})
    where = inside(Sampler(scene, Cache()), "a.copy_rotation", SampleTimes.frames(30, 0, span))
    one, none = np.ones(1), np.zeros(1)
    x, z = np.repeat(np.arange(count) * 0.3, span), np.tile(np.arange(span) * 0.7 / 30, count)
    out = np.empty(count * span)

    def kernel() -> None:
        over(out.size, noise_field, x, none, z, none, one, one, none, one, 0, 0, out)

    def of(parameter: str) -> float:
        return best(lambda: Sampler(scene, Cache()).evaluate(parameter, where), 5)

    for name, parameter in (("gauge", "g.value"), ("modifier", "a.copy_rotation")):
        ratio = middle([of(parameter) / best(kernel, 5) for _ in range(5)])
        line(f"Noise of 1,000 copies, as a {name}", f"{ratio:.2f} ×", "at most 1.3 × its kernel", ratio <= 1.3)


def _drawn_zone() -> None:
    """A zone with the outline of a disc that moves, in 64 pieces, against a disc by itself, for a thousand copies."""
    span = 240
    keys = {"keys": [{"frame": 0, "value": [300, 180]}, {"frame": span, "value": [500, 180]}]}
    plain = {"kind": "zone", "id": "g", "name": "G", "centre": keys, "size": [150, 150]}
    drawn = {"kind": "zone", "id": "g", "name": "G", "shape": "outline", "outline": "disc", "size": [80, 80]}
    grid = {"kind": "grid", "columns": 40, "rows": 25, "gap": [20, 14]}

    def of(zone: dict[str, Any]) -> float:
        array = {"kind": "array", "id": "a", "name": "A", "arrangement": grid, "gauges": [zone], "position": [400, 180]}
        disc = {"kind": "ellipse", "id": "disc", "name": "Disc", "size": [300, 300], "position": keys}
        inner = {"layers": [{"kind": "ellipse", "id": "e", "name": "E"}]}
        scene = Scene.model_validate({"id": "s", "name": "S", "length": span, "layers": [array | inner, disc]})
        where = inside(Sampler(scene, Cache()), "g.value", SampleTimes.frames(30, 0, span))
        return best(lambda: Sampler(scene, Cache()).evaluate("g.value", where), 5)

    ratio = middle([of(drawn) / of(plain) for _ in range(5)])
    line("A zone of an outline of 64 pieces, 1,000 copies", f"{ratio:.1f} ×", "at most 12 × a disc", ratio <= 12)


PAINT = """async () => {
  const base = document.querySelector('script[type=module]').src;
  const { drawScene } = await import(base.replace('pages/bench.js', 'display/list.js'));
  const { row } = await import(base.replace('pages/bench.js', 'lib/channels.js'));
  const answer = bench.answers.last, node = answer.nodes[0], inner = node.nodes[0];
  const sheet = Object.assign(document.createElement('canvas'), { width: 1280, height: 720 }),
  context = sheet.getContext('2d', { willReadFrequently: true });
  const points = row(inner.channels['points.0'], 0), path = new Path2D();
  for (let k = 0; k < points.length; k += 2) k ? path.lineTo(points[k], points[k + 1]) : path.moveTo(points[k],
  points[k + 1]);
  path.closePath();
  const outer = new DOMMatrix([...row(node.channels.matrix, 0)]),
  place = new DOMMatrix([...row(inner.channels.matrix, 0)]), matrices = [];
  for (let k = 0; k < node.copies; k += 1) matrices.push(outer.multiply(new DOMMatrix([...row(node.channels.turned,
  0, k), ...row(node.channels.moved, 0, k)])).multiply(place));
  const numbers = matrices.map(({ a, b, c, d, e, f }) => [a, b, c, d, e, f]);
  const done = () => context.getImageData(0, 0, 1, 1);
  const bare = () => {
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.fillStyle = '#fffdf8';
    context.fillRect(0, 0, 1280, 720);
    context.fillStyle = '#3f7f88';
    context.globalAlpha = 0.8;
    for (const [a, b, c, d, e, f] of numbers) { context.setTransform(a, b, c, d, e, f); context.fill(path); }
    context.globalAlpha = 1;
    done();
  };
  const ours = () => { context.setTransform(1, 0, 0, 1, 0, 0); drawScene(context, answer, answer.start); done(); };
  const ratios = [];
  for (let round = 0; round < 15; round += 1) {
    const time = (work) => { const start = performance.now(); for (let k = 0; k < 8; k += 1) work();
    return performance.now() - start; };
    time(bare); time(ours);
    const one = time(bare);
    ratios.push([time(ours) / one, one / 8]);
  }
  return ratios;
}"""

#: Moves something on the stage or a lever by pointer events; milliseconds from each to the painted canvas.
DRAG = """async ([zone, moves]) => {
  const painted = () => new Promise((done) => document.addEventListener("painted", done, { once: true }));
  const target = zone ? document.getElementById("handles") : document.querySelector('[data-slide="lever.value"]');
  const box = target.getBoundingClientRect();
  target.setPointerCapture = () => {};
  const at = zone ? bench.handlesOnPage().find((one) => one.words.endsWith('centre')).at : [box.left + 20,
  box.top + 10];
  const fire = (type, x) => target.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x,
  clientY: at[1], button: 0, buttons: 1, pointerId: 1 }));
  fire("pointerdown", at[0]);
  const times = [];
  for (let k = 0; k < moves; k += 1) {
    const wait = painted(), start = performance.now();
    fire("pointermove", at[0] + 8 + ((k * 37) % 90));
    await wait;
    times.push(performance.now() - start);
    await new Promise((done) => setTimeout(done, 20));
  }
  fire("pointerup", at[0] + 8);
  return times;
}"""


def hand(server: Server) -> None:
    """From the pointer to the painted canvas with a thousand copies, the painting itself, and twenty thousand."""
    brought_in(server, write(flock(1_000)).encode())
    with opened(
        server, "/projects/flock-1000/scenes/flock-scene/bench?layer=flock&parameter=flock.copy_position"
    ) as page:
        ratio, bare = middles(page.evaluate(PAINT))
        line("1,000 copies painted", f"{ratio:.2f} ×", f"at most 1.3 × a bare loop ({bare:.1f} ms)", ratio <= 1.3)
        for zone, words in ((False, "a lever"), (True, "a zone")):
            took = middle(page.evaluate(DRAG, [zone, 25]))
            line(
                f"1,000 copies: {words} moved → canvas painted, median of 25",
                f"{took:.0f} ms",
                "under 100 ms",
                took < 100,
            )
    _crowd(server)


def _crowd(server: Server) -> None:
    brought_in(server, write(flock(19_600)).encode())
    path = "/projects/flock-19600/scenes/flock-scene/bench?layer=flock&parameter=flock.copy_position"
    with opened(server, path) as page:
        took = middle(page.evaluate(DRAG, [False, 9]))
        line("20,000 copies: a lever moved → canvas painted", f"{took:.0f} ms", "under 1 s", took < 1000)
        heap = page.evaluate("performance.memory.usedJSHeapSize") / 1e6
        with open(f"/proc/{server.process.pid}/status", encoding="ascii") as status:
            held = next(int(row.split()[1]) / 1000 for row in status if row.startswith("VmRSS"))
        line("  memory of the server, and of the page's scripts", f"{held:.0f} MB", f"{heap:.0f} MB")
