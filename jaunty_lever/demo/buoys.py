"""Buoy row: twenty-one buoys on lines, each a little slower than the last, that fall out of step and come together
again."""

from typing import Any

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, RED, GOLD = "#22303c", "#fbf4e4", "#b5482f", "#e3a93b"
RAIL = "M-588 0C-300 26 300 26 588 0"
LINE = "M-588 20C-420 -70 -180 -70 0 -6S420 -70 588 20"
SECONDS = 20
"""Until they swing together again: the scene's length, so that it loops."""


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="buoy-row", name="Buoy row", width=1280, height=720, fps=30, length=SECONDS * 30, background="#dfe6dd"
    ).apply(project)
    made = Maker(project, "buoy-row")
    made.lever("buoy-swing", "Swing", "angle", 0, 50, 20, "Buoys", "How far the buoys swing.")
    made.lever("buoy-sag", "Tilt", "angle", -6, 6, 1.5, "Buoys", "How far the rails tilt against each other.")
    made.layer("rectangle", "buoy-wall", "Quay wall", (640, 60), size=(1280, 150), fill="#b9a78c")
    made.layer("rectangle", "buoy-water", "Water", (640, 676), size=(1280, 130), fill="#6fa3a3")
    bare: Any = {"fill": {"kind": "none"}}
    made.layer("path", "buoy-rail", "Rail", (640, 128), data=RAIL, stroke=INK, stroke_width=10.0, **bare)
    made.layer("path", "buoy-line", "Depth line", (640, 520), data=LINE, stroke="#8fb5ae", stroke_width=1.5, **bare)
    for post, x in enumerate((52, 1228), 1):
        made.layer("rectangle", f"buoy-post{post}", f"Post {post}", (x, 110), size=(20, 92), corner=4, fill=INK)
    # The rails lean against each other, as far as the lever says.
    made.link("buoy-rail.rotation", "buoy-sag.value", "rail-leans")
    made.link("buoy-line.rotation", "buoy-sag.value", "line-leans", times=-1)
    _buoys(made)
    return made.project


def _buoys(made: Maker) -> None:
    buoy = made.layer("group", "buoy", "Buoy", (0, 0))
    made.layer(
        "line", "buoy-rope", "Rope", (0, 0), buoy, start=(0, 0), end=(0, 360), stroke="#6d5643", stroke_width=2.5
    )
    float_ = made.layer("group", "buoy-hung", "Hung", (0, 360), buoy)
    made.layer(
        "ellipse", "buoy-float", "Float", (0, 24), float_, size=(46, 54), fill=RED, stroke=SHEET, stroke_width=2.5
    )
    made.layer("rectangle", "buoy-band", "Band", (0, 24), float_, size=(46, 11), fill=SHEET)
    made.do("repeat layers", layers=["buoy"], id="buoys", count=21)
    made.do("change layer", layer="buoys", name="Buoys")
    made.do("set arrangement", array="buoys", arrangement="rails")
    made.do("set arrangement", array="buoys", outline="buoy-rail", other_outline="buoy-line")
    made.do("set value", parameter="buoys.position", value=(0, 0))
    for name, value in (("start", 4), ("end", 96), ("other_start", 4), ("other_end", 96)):
        made.do("set value", parameter=f"buoys.arrangement.{name}", value=value)
    # The rope reaches from the rail to its partner on the line below, and the float hangs at its end.
    made.do("write formula", parameter="buoy-rope.end", text="across", id="reaches")
    made.do("write formula", parameter="buoy-hung.position", text="across", id="hangs")
    # The first swings thirty times while the scene lasts, each further one once less.
    made.modifier("buoy.rotation", "wave", "swings", amplitude=24.0, phase=0.25)
    made.do("write formula", parameter="swings.frequency", text="(30 - i) / length", id="slower")
    made.link("swings.amplitude", "buoy-swing.value", "swing-follows")
    # Their colour tells how far out each has swung.
    made.do("write formula", parameter="buoy-float.fill.colour", text=_COLOUR, id="tells")


_COLOUR = """far = abs(Buoy.rotation) / max($Swing, 1)
mix(#b5482f, #e3a93b, far * far)"""
