"""Small scenes that are taken out, and what one sees of the files."""

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from tests.core.scenes import project, scene

Pixels = NDArray[np.uint8]


def quay(**fields: Any) -> Project:
    """A buoy that swings and fades over a turning plank, on paper; 320 × 180, 64 frames."""
    swing = {"chain": [{"kind": "wave", "id": "swing", "amplitude": [90, 20], "frequency": 0.7}], "rest": (160, 90)}
    fade = {"chain": [{"kind": "wave", "id": "fade", "amplitude": 40, "frequency": 0.9}], "rest": 55}
    turn = {"chain": [{"kind": "rate", "id": "turn", "rate": 70}]}
    plank = {"kind": "rectangle", "size": [220, 34], "position": (160, 90), "rotation": turn}
    buoy = {"size": [70, 70], "position": swing, "opacity": fade, "fill": {"kind": "solid", "colour": "#a93c28"}}
    plank["fill"] = {"kind": "solid", "colour": "#1f6f78"}
    one = scene(plank, buoy).changed(**{"width": 320, "height": 180, "length": 64, **fields})
    return project(one)


def taken_out(whole: Project, name: str, **options: Any) -> bytes:
    """A project's first scene as a file of a format."""
    exporter, source = EXPORTERS[name], Source(whole, whole.scenes[0])
    given, target = read_options(exporter, options), io.BytesIO()
    exporter.plan(source, given)
    exporter.write(source, given, target, lambda count: None)
    return target.getvalue()


def drawn(whole: Project, frame: int, transparent: bool = False, even: bool = False) -> Pixels:
    """A frame as it should look, r g b a."""
    one = whole.scenes[0]
    listed = display_list(Sampler(one), SampleTimes.frames(one.fps, frame, frame + 1))
    return pixels(listed, 0, Look(transparent, pictures=whole.footage, even=even))


def psnr(a: Pixels, b: Pixels) -> float:
    """Peak signal to noise of two pictures, in dB."""
    off = float(np.mean((a.astype(np.float64) - b.astype(np.float64)) ** 2))
    return 99.0 if off == 0 else 10 * np.log10(255**2 / off)
