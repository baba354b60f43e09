"""A thousand elements at three hundred moments, against one thing at as many moments."""

from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.elements import Elements
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .measure import best, line, middle

MANY, FRAMES = 1000, 300

Chain = list[dict[str, Any]]


def _over(times: float, plus: float = 0.0) -> dict[str, Any]:
    return {"chain": [{"kind": "follow", "id": "by", "driver": "element.u", "times": times, "plus": plus}]}


def _nested(differs: bool) -> Chain:
    return [
        {"kind": "wiggle", "id": "a", "octaves": 2},
        {"kind": "wave", "id": "b", "amplitude": 4, "phase": _over(1.0) if differs else 0.3},
        {"kind": "remap", "id": "c", "from_low": -20, "from_high": 20, "to_low": 0, "to_high": 80, "ends": "fold"},
        {"kind": "limit", "id": "d", "low": 5, "high": 75},
        {"kind": "round", "id": "e", "step": 0.5},
    ]


def _cases() -> list[tuple[str, Chain, Chain]]:
    """What is measured: with elements that differ, and the same for one thing."""
    wave, wiggle = {"kind": "wave", "id": "a"}, {"kind": "wiggle", "id": "a"}
    follow = {"kind": "follow", "id": "f", "driver": "x.opacity", "times": 2}
    return [
        ("a Wave whose phase follows the element", [{**wave, "phase": _over(1.0)}], [{**wave, "phase": 0.3}]),
        ("a Wiggle with a stream for each", [wiggle], [wiggle]),
        ("a Follow from element to element", [follow], [follow]),
        (
            "a Shift for each",
            [wave, {"kind": "shift", "id": "s", "delay": _over(2.0)}],
            [wave, {"kind": "shift", "id": "s", "delay": 0.7}],
        ),
        ("a chain of five", _nested(True), _nested(False)),
    ]


def _scene(chain: Chain) -> Scene:
    lead = {
        "kind": "ellipse",
        "id": "x",
        "name": "X",
        "opacity": {"rest": 50, "chain": [{"kind": "wiggle", "id": "v"}]},
    }
    own = {"kind": "ellipse", "id": "e", "name": "E", "rotation": {"rest": 5, "chain": chain}}
    row = {"kind": "row", "count": MANY}
    array = {"kind": "array", "id": "many", "name": "Many", "arrangement": row, "layers": [lead, own]}
    return Scene.model_validate({"id": "s", "name": "S", "length": FRAMES, "layers": [array]})


def many() -> None:
    """A thousand elements at once."""
    elements = Elements.of("many", MANY)
    together = SampleTimes.frames(30, 0, FRAMES, elements=elements)
    alone = SampleTimes.frames(30, 0, MANY * FRAMES)
    for name, differs, same in _cases():
        over, single = _scene(differs), _scene(same)
        ratios = []
        for _ in range(7):
            one = best(lambda scene=single: Sampler(scene, Cache()).evaluate("e.rotation", alone), 3)  # type: ignore[misc]
            ratios.append(best(lambda scene=over: Sampler(scene, Cache()).evaluate("e.rotation", together), 3) / one)  # type: ignore[misc]
        ratio = middle(ratios)
        line(f"{MANY:,} elements, {FRAMES} moments: {name}", f"{ratio:.2f} ×", "at most 1.3 × one thing", ratio <= 1.3)
    _smoothed()


def _smoothed() -> None:
    """A Smooth over 100 and 1,000 copies, against one of them: at once, and no dearer for more."""
    smooth = {"kind": "smooth", "id": "z", "length": 0.4}
    for name, first in (
        ("a Wiggle, smoothed", {"kind": "wiggle", "id": "a"}),
        ("a Wave along the copies, smoothed", {"kind": "wave", "id": "a", "along": 2}),
        ("a square Wave along the copies, smoothed", {"kind": "wave", "id": "a", "along": 2, "shape": "square"}),
    ):
        scene = _scene([first, smooth])

        def asked(count: int, scene: Scene = scene) -> float:
            samples = SampleTimes.frames(30, 0, FRAMES, elements=Elements.of("many", MANY).part(np.arange(count)))
            return best(lambda: Sampler(scene, Cache()).evaluate("e.rotation", samples), 3)

        one, some, all_of_them = asked(1), asked(100), asked(MANY)
        ratio = all_of_them / one
        told = f"at most 20 × one copy (100: {some / one:.1f} ×, one: {one * 1000:.0f} ms)"
        line(f"{MANY:,} copies, {FRAMES} frames: {name}", f"{ratio:.1f} ×", told, ratio <= 20)
