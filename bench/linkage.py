"""Links: a train of fifty gears, a perfect loop among five hundred parameters, pulling fifty followers, a large
drawing."""

from typing import Any

import numpy as np

from jaunty_lever.core.checks.seam import perfect
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats.project_file import write
from tests.browser.harness import Server

from .measure import best, line, middle
from .pages import MEASURE, MOVES, brought_in, opened

GEARS, FRAMES = 50, 3000


def _layer(k: int, **fields: Any) -> dict[str, Any]:
    return {
        "kind": "ellipse",
        "id": f"w{k}",
        "name": f"Wheel {k}",
        "size": [40, 40],
        "position": [60 + k % 10 * 120, 60 + k // 10 * 120],
        **fields,
    }


def _train(count: int, first: Any) -> list[dict[str, Any]]:
    def gear(k: int) -> dict[str, Any]:
        settings = {
            "driver": f"w{k - 1}.rotation",
            "meshed": False,
            "driver_teeth": 12 + k % 7,
            "driven_teeth": 20 + k % 11,
        }
        return {"rotation": {"rest": 0, "chain": [{"kind": "gear", "id": f"g{k}", **settings}]}}

    return [_layer(0, rotation=first), *(_layer(k, **gear(k)) for k in range(1, count))]


def train() -> None:
    """A train of fifty gears over 3,000 frames, against copying its results."""
    spin = {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": 40}]}
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": _train(GEARS, spin), "length": FRAMES})
    samples = SampleTimes.frames(scene.fps, 0, FRAMES)
    source, target = np.random.default_rng(1).random((GEARS, FRAMES)), np.empty((GEARS, FRAMES))

    def evaluate() -> None:
        sampler = Sampler(scene, Cache())
        for k in range(GEARS):
            sampler.track(f"w{k}.rotation", samples)

    evaluate()
    ratios = []
    for _ in range(9):
        copy = best(lambda: np.copyto(target, source), 20)
        ratios.append(best(evaluate, 3) / copy)
    ratio = middle(ratios)
    line(
        f"A train of {GEARS} gears, {FRAMES:,} frames, against numpy.copyto of its results",
        f"{ratio:.0f} ×",
        "at most 60 ×",
        ratio <= 60,
    )


def loops() -> None:
    """The shortest common length of five hundred periodic parameters."""
    layers = []
    for k in range(250):
        swing = {
            "chain": [{"kind": "wave", "id": f"a{k}", "frequency": {"rest": 0, "typed": [f"1/{1 + k % 6}"]}}],
            "rest": 0,
        }
        swing["chain"][0]["frequency"]["rest"] = 1 / (1 + k % 6)  # type: ignore[index]
        wander = {"chain": [{"kind": "wiggle", "id": f"b{k}", "repeat": 2 + k % 4}], "rest": 100}
        layers.append(_layer(k, rotation=swing, opacity=wander))
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": layers, "length": 1800})

    def check() -> None:
        assert perfect(scene.changed(name="S")).frames == 1800

    took = best(check, 5) * 1000
    line("Perfect-loop check of 500 periodic parameters", f"{took:.0f} ms", "under 200 ms", took < 200)


def pulled_project() -> Project:
    """Fifty wheels tied one to another, the first to a lever."""
    hand = {"rest": 0, "chain": [{"kind": "follow", "id": "hand-follows", "driver": "hand.value"}]}
    lever = {"id": "hand", "name": "Hand", "kind": "angle", "low": -720, "high": 720}
    scene = {"id": "pulled-scene", "name": "Pulled", "layers": _train(GEARS, hand), "levers": [lever]}
    return Project.model_validate({"id": "pulled", "name": "Pulled", "scenes": [scene]})


def pulled(server: Server) -> None:
    """The first of fifty linked parameters moved by the pointer, to the painted canvas."""
    brought_in(server, write(pulled_project()).encode())
    with opened(server, "/projects/pulled/scenes/pulled-scene/bench") as page:
        times, empty, _ = page.evaluate(MEASURE, ["hand", MOVES])
        took = middle(times)
        line(
            f"The first of {GEARS} linked wheels pulled → canvas painted, median of {MOVES}",
            f"{took:.1f} ms",
            "under 50 ms",
            took < 50,
        )
        line("  as a multiple of an empty request", f"{took / middle(empty):.1f} ×")


def woven_project() -> Project:
    """Forty layers with five linked parameters each, 300 links."""
    random = np.random.default_rng(7)
    names = ("rotation", "opacity", "stroke_width")
    layers: list[dict[str, Any]] = []
    for k in range(40):
        fields: dict[str, Any] = {}
        for number, name in enumerate(names):
            chain = (
                [
                    {
                        "kind": "follow",
                        "id": f"f{k}-{number}-{j}",
                        "driver": f"w{int(random.integers(max(0, k - 9), k))}.{names[int(random.integers(3))]}",
                        "blend": "add",
                    }
                    for j in range(3 if (k + number) % 2 else 2)
                ]
                if k
                else []
            )
            fields[name] = {"rest": 1, "chain": chain}
        layers.append(_layer(k, **fields))
    levers = [{"id": f"l{k}", "name": f"Lever {k}", "value": 3} for k in range(20)]
    for k, layer in enumerate(layers):
        layer["fill"] = {"kind": "solid", "colour": "#3f7f88"}
        layer["scale"] = {
            "rest": [100, 100],
            "chain": [{"kind": "follow", "id": f"s{k}", "driver": f"l{k % 20}.value", "blend": "add"}],
        }
        layer["pivot"] = {
            "rest": [0, 0],
            "chain": [{"kind": "follow", "id": f"p{k}", "driver": f"l{(k * 7) % 20}.value", "blend": "add"}],
        }
    scene = {"id": "woven-scene", "name": "Woven", "layers": layers, "levers": levers}
    return Project.model_validate({"id": "woven", "name": "Woven", "scenes": [scene]})


def woven(server: Server) -> None:
    """A large linkage laid out and drawn, and panned."""
    brought_in(server, write(woven_project()).encode())
    with opened(server, "/projects/woven/scenes/woven-scene/linkage") as page:
        took = float(page.locator("#linkage").get_attribute("data-laid-out") or 0)
        count = page.evaluate(
            "(() => { const d = JSON.parse(document.getElementById('linkage-data').textContent); "
            "return [d.boxes.length, d.ties.length]; })()"
        )
        line(
            f"Linkage of {count[0]} parameters and {count[1]} links laid out and drawn",
            f"{took:.0f} ms",
            "under 1,000 ms",
            took < 1000,
        )
        frames = page.evaluate(
            """async () => {
              const place = document.getElementById("linkage"), box = place.getBoundingClientRect();
              const fire = (target, type, x) => target.dispatchEvent(new PointerEvent(type, { bubbles: true,
              clientX: x, clientY: box.top + 5, button: 0 }));
              fire(place, "pointerdown", 600);
              const times = [];
              for (let k = 0; k < 60; k++) {
                const start = performance.now();
                fire(window, "pointermove", 600 - k * 6);
                await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
                times.push((performance.now() - start) / 2);
              }
              fire(window, "pointerup", 200);
              return times;
            }"""
        )
        line("  panned, median time of a frame", f"{middle(frames):.1f} ms", "under 34 ms", middle(frames) < 34)
