"""Emitters and letters: two thousand sparks against what must be written at the least, a frame alone, a frame of
letters."""

from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats.project_file import write
from tests.browser.harness import Server

from .measure import best, line, middle
from .pages import MEASURE, MOVES, brought_in, opened

FRAMES = 300


def _curve(id: str, *values: float) -> dict[str, Any]:
    keys = [{"frame": 100 * k / (len(values) - 1), "value": v, "ease": "linear"} for k, v in enumerate(values)]
    return {"kind": "life", "id": id, "name": id, "profile": {"rest": 0, "keys": keys}}


def forge(alive: int) -> Scene:
    """So many sparks alive at once; how large, how turned and how clear each is comes from a curve over its life."""
    between = {"kind": "between", "weights": [1, 1]}

    def by(gauge: str, low: Any, high: Any) -> dict[str, Any]:
        follow = {"kind": "follow", "id": f"{gauge}-f", "driver": f"{gauge}.value", "times": 100}
        return {**between, "id": f"{gauge}-b", "a": low, "b": high, "amount": {"rest": 0, "chain": [follow]}}

    array = {
        "kind": "array",
        "id": "forge",
        "name": "Forge",
        "position": [640, 600],
        "arrangement": {
            "kind": "emitter",
            "rate": alive / 2,
            "lifetime": 2,
            "pre_roll": 2,
            "speed": 500,
            "drag": 0.6,
            "facing": True,
        },
        "copy_scale": {"rest": [100, 100], "chain": [by("size", 20, 100)]},
        "copy_rotation": {"rest": 0, "chain": [{**by("turn", 0, 90), "weights": [1]}]},
        "copy_opacity": {"rest": 100, "chain": [{**by("glow", 0, 100), "weights": [1]}]},
        "gauges": [_curve("size", 0.2, 1, 0.3), _curve("turn", 0, 1), _curve("glow", 1, 0.9, 0)],
        "layers": [{"kind": "ellipse", "id": "dot", "name": "Dot", "size": [8, 8]}],
    }
    return Scene.model_validate({"id": "forge-scene", "name": "Forge", "length": FRAMES, "layers": [array]})


def everything() -> None:
    """What the sparks and letters of a usual scene cost."""
    scene = forge(2_000)
    frames = SampleTimes.frames(30, 0, FRAMES)
    whole = best(lambda: display_list(Sampler(scene, Cache()), frames), 5)
    # Matrices and opacity of what is drawn.
    drawn = np.random.default_rng(1).random((FRAMES, 2_000, 7))
    into = np.empty_like(drawn)
    bare = best(lambda: np.copyto(into, drawn), 15)
    line("2,000 sparks, 300 frames, three curves / copyto", f"{whole / bare:.1f} ×", "at most 15 ×", whole / bare <= 15)
    last = SampleTimes(np.array([(FRAMES - 1) / 30]))
    alone = best(lambda: display_list(Sampler(scene, Cache()), last), 15)
    first = best(lambda: display_list(Sampler(scene, Cache()), SampleTimes(np.zeros(1))), 15)
    line("Frame 299 alone / frame 0 alone, with as many sparks", f"{alone / first:.2f} ×", "told: no step before it")
    share = alone / (whole / FRAMES)
    line(
        "Frame 299 alone / a frame of the whole table",
        f"{share:.1f} ×",
        f"at most 3 × ({alone * 1e3:.1f} ms)",
        share <= 3,
    )
    times = [best(lambda n=n: display_list(Sampler(forge(n), Cache()), frames), 3) for n in (200, 2_000)]  # type: ignore[misc]
    line("200 to 2,000 sparks", f"{times[1] / times[0]:.1f} ×", "at most 10 ×", times[1] / times[0] <= 10)
    _letters()


def headline() -> Project:
    """Nine lines of letters that a sweep brings in, each with an overshoot after the keys of its place."""
    said = "\n".join(["the ferry leaves at nine from the fish steps of the old lantern quay"] * 9)[:620]
    text = {"kind": "text", "id": "head", "name": "Head", "text": said, "font_size": 30, "position": [640, 80]}
    lever = {"kind": "percentage", "id": "come", "name": "Come", "low": 0, "high": 100, "value": 40}
    now = Project(
        id="headline",
        name="Headline",
        scenes=(Scene.model_validate({"id": "s", "name": "S", "length": 240, "layers": [text], "levers": [lever]}),),
    )
    for edit in (
        {"kind": "into letters", "layer": "head", "id": "letters"},
        {"kind": "add gauge", "array": "letters", "gauge": "sweep", "id": "sweep"},
        {"kind": "clear keys", "parameter": "sweep.travel", "frame": 0},
        {"kind": "link to", "parameter": "sweep.travel", "driver": "come.value", "id": "f"},
        {
            "kind": "paste keys",
            "frame": 0,
            "keys": {
                "letters.copy_position": [
                    {"frame": 0, "value": [0, 60], "ease": "ease-in"},
                    {"frame": 15, "value": [0, 0]},
                ]
            },
        },
        {
            "kind": "tie to gauge",
            "gauge": "sweep",
            "values": {"letters.copy_position": "0, 60"},
            "id": "t",
        },
        {"kind": "add modifier", "parameter": "letters.copy_position", "modifier": "overshoot", "id": "o"},
    ):
        now = EDIT.validate_python({"scene": "s", **edit}).apply(now)
    return now


def _letters() -> None:
    now = headline()
    cache = Cache()
    frames = SampleTimes.frames(30, 0, 240)
    display_list(Sampler(now.scenes[0], cache), frames)
    value = [40.0]

    def pulled() -> None:
        value[0] += 0.01
        there = EDIT.validate_python(
            {"kind": "set value", "scene": "s", "parameter": "come.value", "value": value[0]}
        ).apply(now)
        display_list(Sampler(there.scenes[0], cache), SampleTimes.frames(30, 0, 60))

    count = int(Sampler(now.scenes[0]).layouts.count("letters", SampleTimes(np.zeros(1)))[0, 0])
    spent = best(pulled, 7)
    line(
        f"{count} letters with a sweep and an overshoot: a pull, 60 frames",
        f"{spent * 1e3:.1f} ms",
        "on the server alone",
    )


def hand(server: Server) -> None:
    """From the pointer to the painted canvas with nine lines of letters."""
    brought_in(server, write(headline()).encode())
    with opened(server, "/projects/headline/scenes/s/bench?layer=letters&parameter=letters.copy_position") as page:
        times, _, _ = page.evaluate(MEASURE, ["come", MOVES])
    took = middle(times)
    line("9 lines of letters: a lever moved → canvas painted, median", f"{took:.0f} ms", "under 60 ms", took < 60)
