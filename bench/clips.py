"""Clips: a wall of sixty-four, decoded once, drawn, and asked for by a page."""

import tempfile
from pathlib import Path

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing import footage
from jaunty_lever.drawing.footage import Footage, footage_of
from jaunty_lever.drawing.frames import Look, draw
from jaunty_lever.web.kept_frames import KeptFrames

from .measure import best, line


def wall() -> None:
    """Harbour screens: how often frames are decoded; drawing once they are; evaluation at ten times the frames."""
    project = demo_project()
    scene = next(one for one in project.scenes if one.id == "harbour-screens")
    clip, look = project.clips[0], Look(pictures=project.footage)
    drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, 0, 60))
    reel = footage_of(clip)
    before = reel.decoded
    for frame in range(60):
        draw(drawn, frame, look)
    shown = {int(v) for node in drawn.walk() if node.kind == "clip" for v in node.channels["frame"].rows.ravel()}
    decoded = reel.decoded - before
    line(
        "A wall of 64 over 60 frames: decoded / shown",
        f"{decoded} / {len(shown)}",
        "each once",
        decoded <= clip.timing.frames,
    )

    def again() -> None:
        for frame in range(60):
            draw(drawn, frame, look)

    took = best(again, 3) / 60
    line("A frame of the wall, all decoded", f"{took * 1000:.1f} ms", "24 a second", took < 1 / 24)
    few, many = (
        best(lambda frames=frames: display_list(Sampler(scene, Cache()), SampleTimes.frames(30, 0, frames)), 3)
        for frames in (240, 2400)
    )
    line("Its display list, ten times the frames", f"{many / few:.1f} ×", "at most 11 ×", many / few <= 11)


def alone() -> None:
    """All frames of the clip in order, against decoding it and no more; a page's frames, new and kept."""
    clip = demo_project().clips[0]
    many = clip.timing.frames

    def forwards() -> None:
        footage._room = footage._Room()
        reel = Footage(clip)
        for k in range(many):
            reel.frame(k)

    def bare() -> None:
        reel = Footage(clip)
        reel.frame(0)
        assert reel._reel is not None
        for _ in reel._reel.play():
            pass

    ratio = best(forwards, 3) / best(bare, 3)
    line("Frames in order, kept as pictures / decoded only", f"{ratio:.2f} ×", "at most 10 ×", ratio <= 10)
    with tempfile.TemporaryDirectory() as folder:
        kept = KeptFrames(Path(folder))

        def made() -> None:
            kept.clear()
            for k in range(60):
                kept.frame(clip, k, 0)

        new = best(made, 3) / 60
        old = best(lambda: [kept.frame(clip, k, 0) for k in range(60)], 3) / 60
        line("A frame for a page: made / read from disk", f"{new / old:.0f} ×", "", True)


def everything() -> None:
    """All of it."""
    wall()
    alone()
