"""The core: Wiggle over long arrays, a whole scene against plain Python, and what a lever recomputes."""

import subprocess
import sys
import time

import numpy as np

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from tests.core.plain import PlainSampler

from .measure import best, line

SAMPLES = 3_000_000


def wiggle() -> None:
    """One octave and three, against copying the result."""
    times = np.arange(SAMPLES) / 1000
    source, target = np.random.default_rng(1).random(SAMPLES), np.empty(SAMPLES)
    for octaves, most in ((1, 3.0), (3, 7.0)):
        chain = [{"kind": "wiggle", "id": "w", "octaves": octaves, "amplitude": 20}]
        layer = {"kind": "ellipse", "id": "e", "name": "E", "rotation": {"rest": 5, "chain": chain}}
        sampler = Sampler(Scene.model_validate({"id": "s", "name": "S", "layers": [layer]}))
        # Taken in turns, so that both feel the same machine.
        ratios = []
        for _ in range(5):
            copy = best(lambda: np.copyto(target, source), 3)
            ratios.append(best(lambda s=sampler: s.sample("e.rotation", times), 3) / copy)
        ratio = sorted(ratios)[2]
        line(
            f"Wiggle, {octaves} octave(s), {SAMPLES:,} samples, against numpy.copyto",
            f"{ratio:.2f} ×",
            f"at most {most:g} ×",
            ratio <= most,
        )


def scene() -> None:
    """Evening quay, all parameters, 300 frames: arrays against frame by frame."""
    one = demo_project().scenes[0]
    samples = SampleTimes.frames(one.fps, 0, 300)

    def arrays() -> None:
        sampler = Sampler(one, Cache())
        for parameter in one.index.parameters:
            sampler.track(parameter, samples)

    fast = best(arrays, 5)
    plain = PlainSampler(one)
    numeric = [p.id for p in one.index.parameters.values() if p.spec.kind != "text"]
    start = time.perf_counter()
    for frame in range(0, 300, 10):
        for parameter in numeric:
            plain.value(parameter, frame / one.fps)
    slow = (time.perf_counter() - start) * 10
    check, frame = Sampler(one), 137
    worst = max(
        float(np.abs(check.sample(p, frame / one.fps) - plain.value(p, frame / one.fps)).max()) for p in numeric
    )
    line(
        "Evening quay, 300 frames, all parameters, against plain Python",
        f"{slow / fast:.0f} ×",
        "at least 100 ×",
        slow / fast >= 100,
    )
    line("  largest difference between the two", f"{worst:.1e}")


def lever() -> None:
    """What moves when a lever moves."""
    project = demo_project()
    one = project.scenes[0]
    samples, cache = SampleTimes.frames(one.fps, 0, 300), Cache()
    first = Sampler(one, cache)
    for parameter in one.index.parameters:
        first.track(parameter, samples)
    for name in ("dusk", "swell", "wind"):
        edit = EDIT.validate_python(
            {"kind": "set value", "scene": one.id, "parameter": f"{name}.value", "value": 7.5, "frame": 85}
        )
        again = Sampler(edit.apply(project).scenes[0], cache)
        for parameter in one.index.parameters:
            again.track(parameter, samples)
        line(
            f"  moving {name} recomputes, of the parameters that move",
            f"{len(again.computed)} of {len(first.computed)}",
        )


def start_up() -> None:
    """Importing the core and the first sample, with kernels already compiled."""
    code = (
        "import time; t = time.perf_counter(); import jaunty_lever.core; a = time.perf_counter();"
        "from jaunty_lever.demo import demo_project; from jaunty_lever.core.evaluation.sampler import Sampler;"
        "Sampler(demo_project().scenes[0]).sample('lantern3.opacity', [0.0]); print(a - t, time.perf_counter() - a)"
    )
    base = best(lambda: subprocess.run([sys.executable, "-c", "import numpy, numba, pydantic, lark"], check=True), 3)
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split()
    line("import jaunty_lever.core, against importing its libraries alone", f"{float(out[0]) / base:.2f} ×")
    line("first sample after that", f"{float(out[1]) * 1000:.0f} ms")
