"""Each modifier, a chain of six, formulas, and one lever in a large scene."""

import time
from typing import Any

import msgpack
import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.compile import compiled
from jaunty_lever.core.formula.names import Names
from jaunty_lever.core.formula.parse import parse

from .measure import best, line, middle

SAMPLES = 3_000_000
TIMES = np.arange(SAMPLES) / 1000
KEYS = [{"frame": 25 * k, "value": (k * 37) % 100, "ease": "linear"} for k in range(20)]
CURVED = [{"frame": 4500 * k, "value": (k * 37) % 100, "ease": "ease-in-out"} for k in range(20)]
FAST = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 3, "value": 900}]
SWING: Any = {"kind": "wave", "id": "w", "amplitude": 40, "frequency": 1.3}


def _scene(own: Any, field: str = "rotation") -> Scene:
    layer = {"kind": "ellipse", "id": "e", "name": "E", field: own}
    lever = {"id": "w", "name": "w", "value": 3}
    return Scene.model_validate({"id": "s", "name": "S", "layers": [layer], "levers": [lever], "length": 36_000})


def _ratios(*works: Any) -> list[float]:
    """Median times as multiples of copying the result, all taken in turns so that they feel the same machine."""
    source, target = np.random.default_rng(1).random(SAMPLES), np.empty(SAMPLES)
    rounds = []
    for _ in range(5):
        copy = best(lambda: np.copyto(target, source), 3)
        rounds.append([best(work, 2) / copy for work in works])
    return [middle([row[k] for row in rounds]) for k in range(len(works))]


def modifiers() -> None:
    """Each over 3,000,000 samples: what it adds to the input that it is given, which is worked out beforehand."""
    cases: list[tuple[str, float, Any, Any]] = [
        ("Limit", 4, {"kind": "limit", "low": -20, "high": 20}, None),
        ("Remap", 4, {"kind": "remap", "from_low": -40, "from_high": 40, "to_low": 0, "to_high": 80}, None),
        ("Adjust", 4, {"kind": "adjust", "times": 2, "plus": 3}, None),
        ("Round", 4, {"kind": "round", "step": 5}, None),
        ("Rate, constant", 4, {"kind": "rate", "rate": 90}, ()),
        ("Loop over 20 keys", 4, {"kind": "loop", "after": "repeat"}, KEYS),
        ("Wave", 10, {"kind": "wave"}, ()),
        ("Bounce", 10, {"kind": "bounce", "gravity": 1, "rebound": 0.999}, FAST),
        ("Overshoot, after its last key", 10, {"kind": "overshoot", "decay": 0.01}, FAST),
        ("Figure", 10, {"kind": "figure", "p": 3, "q": 2}, "vector"),
        ("Smooth over 0.1 s", 12, {"kind": "smooth", "length": 0.1}, None),
        ("Smooth over 1 s", 12, {"kind": "smooth", "length": 1}, None),
        ("Smooth over 60 s", 12, {"kind": "smooth", "length": 60}, None),
    ]
    for name, most, settings, keys in cases:
        made = {"id": "m", **settings}
        if keys == "vector":
            sampler = Sampler(_scene({"rest": [0, 0], "chain": [made]}, "position"))
            before = 0.0
            (whole,) = _ratios(lambda s=sampler: s.sample("e.position", TIMES))
            # Two components are twice the samples.
            whole /= 2
        else:
            own = {
                "rest": 5,
                "keys": [] if keys is None else list(keys),
                "chain": [SWING, made] if keys is None else [made],
            }
            bare = {**own, "chain": own["chain"][:-1]}
            sampler, base = Sampler(_scene(own)), Sampler(_scene(bare))
            takes_in = keys is None or name.startswith(("Bounce", "Overshoot"))
            whole, before = _ratios(
                lambda s=sampler: s.sample("e.rotation", TIMES), lambda s=base: s.sample("e.rotation", TIMES)
            )
            before = before if takes_in else 0.0
        ratio = whole - before
        line(
            f"{name}, {SAMPLES:,} samples, against numpy.copyto", f"{ratio:.2f} ×", f"at most {most:g} ×", ratio <= most
        )
    curved = Sampler(_scene({"keys": CURVED}))
    (ratio,) = _ratios(lambda: curved.sample("e.rotation", TIMES))
    line(f"Keys with cubic-bezier eases, {SAMPLES:,} samples", f"{ratio:.2f} ×", "at most 10 ×", ratio <= 10)


def chain() -> None:
    """Six modifiers in one chain against the sum of each alone."""
    steps: list[Any] = [
        {"kind": "wave"},
        {"kind": "adjust", "times": 2},
        {"kind": "rate", "rate": 1},
        {"kind": "remap", "to_high": 80},
        {"kind": "round", "step": 0.5},
        {"kind": "limit", "low": -20, "high": 20},
    ]
    whole = Sampler(_scene({"rest": 5, "chain": [{"id": f"m{k}", **step} for k, step in enumerate(steps)]}))
    works: list[Any] = [lambda: whole.sample("e.rotation", TIMES)]
    swing = Sampler(_scene({"rest": 5, "chain": [SWING]}))
    works.append(lambda: swing.sample("e.rotation", TIMES))
    for k, step in enumerate(steps[1:]):
        one = Sampler(_scene({"rest": 5, "chain": [SWING, {"id": f"m{k}", **step}]}))
        works.append(lambda s=one: s.sample("e.rotation", TIMES))
    total, alone, *both = _ratios(*works)
    parts = alone + sum(pair - alone for pair in both)
    line("A chain of six, against the sum of its parts", f"{total / parts:.2f} ×", "at most 1 ×", total <= parts * 1.02)


def formulas() -> None:
    """A formula against the same line by hand in numpy, and how long compiling takes."""
    text = "base + clamp($<w.value> * 4, 0, 30) * osc(0.5 * t + u)"
    sampler = Sampler(_scene({"rest": 5, "chain": [{"kind": "formula", "id": "m", "text": text}]}))
    base, w, u = 5.0, 3.0, 0.0

    def by_hand() -> Any:
        return base + np.clip(w * 4, 0, 30) * np.sin(2 * np.pi * (0.5 * TIMES + u))

    ours, theirs = _ratios(lambda: sampler.sample("e.rotation", TIMES), by_hand)
    line("Formula, against the same line in numpy", f"{ours / theirs:.2f} ×", "at most 2 ×", ours / theirs <= 2)
    long = (
        "pull = clamp($w * 4, 0, 30)\nbase + pull * osc(0.5 * t + u) + mix(2, noise(t * 2, 7) * 30, 0.25)"
        " - smoothstep(0, 1, t / length) * (if $w > 2 then 4 else -3) + round(t, 0.5) + abs(sin(t * 360))"
    )[:200]
    scene = _scene(0)
    spec, scope = scene.index.parameters["e.rotation"].spec, Names(scene.index, lambda _: None)

    def compile_it() -> None:
        parse.cache_clear()
        compiled(parse(long), spec, scope)

    took = best(compile_it, 20) * 1000
    line(f"Compiling a formula of {len(long)} characters", f"{took:.2f} ms", "under 5 ms", took < 5)


def large_project() -> Project:
    """200 layers, five moving parameters each with three modifiers, 600 frames, and a lever that drives 20 of them."""
    layers = []
    for k in range(200):

        def rig(name: str, number: int = k) -> Any:
            amplitude: Any = 5
            if name == "rotation" and number < 20:
                amplitude = {"rest": 5, "chain": [{"kind": "follow", "id": f"f{number}", "driver": "lever.value"}]}
            steps = [
                {"kind": "wiggle", "id": f"{name}{number}a", "seed": number + 1, "amplitude": amplitude},
                {"kind": "wave", "id": f"{name}{number}b", "amplitude": 3},
                {"kind": "limit", "id": f"{name}{number}c", "low": -400, "high": 1400},
            ]
            node = [40 + number % 20 * 63, 40 + number // 20 * 70]
            rests = {"position": node, "scale": [45, 45], "rotation": 0, "opacity": 80, "stroke_width": 4}
            return {"rest": rests[name], "chain": steps}

        layers.append(
            {
                "kind": "ellipse",
                "id": f"l{k}",
                "name": f"L{k}",
                "position": rig("position"),
                "scale": rig("scale"),
                "rotation": rig("rotation"),
                "opacity": rig("opacity"),
                "stroke_width": rig("stroke_width"),
            }
        )
    levers = [{"id": "lever", "name": "Lever", "high": 20, "value": 5}]
    fields = {"id": "large-scene", "name": "Large", "length": 600, "layers": layers, "levers": levers}
    return Project(id="large", name="Large", scenes=(Scene.model_validate(fields),))


def large() -> None:
    """One move of the lever in the large scene, without a browser."""
    project, cache = large_project(), Cache()
    scene = project.scenes[0]
    samples = SampleTimes.frames(scene.fps, 0, 600)
    known = set(display_list(Sampler(scene, cache), samples).channels())
    evaluating, packing = [], []
    for value in range(6, 13):
        start = time.perf_counter()
        tried = EDIT.validate_python(
            {"kind": "set value", "scene": scene.id, "parameter": "lever.value", "value": value}
        ).apply(project)
        channels = display_list(Sampler(tried.scenes[0], cache), samples).channels()
        made = time.perf_counter()
        msgpack.packb({key: one.rows.tobytes() for key, one in channels.items() if key not in known})
        evaluating.append(made - start)
        packing.append(time.perf_counter() - made)
    line(
        "200 layers, 3,000 modifiers, 600 frames: a lever's move, evaluation",
        f"{middle(evaluating) * 1000:.0f} ms",
        "under 150 ms to the screen",
    )
    line("  packing what is new for the browser", f"{middle(packing) * 1000:.1f} ms")
