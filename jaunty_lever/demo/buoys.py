"""Buoy row: twenty-one buoys on lines, each a little slower than the last, that fall out of step and come together again."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, RED, GOLD = "#22303c", "#fbf4e4", "#b5482f", "#e3a93b"
SECONDS = 20
"""Until they swing together again: the scene's length, so that it loops."""


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="buoy-row", name="Buoy row", width=1280, height=720, fps=30, length=SECONDS * 30, background="#dfe6dd"
    ).apply(project)
    made = Maker(project, "buoy-row")
    made.lever("buoy-swing", "Swing", "angle", 0, 50, 20, "Buoys", "How far the buoys swing.")
    made.layer("rectangle", "buoy-wall", "Quay wall", (640, 60), size=(1280, 150), fill="#b9a78c")
    made.layer("rectangle", "buoy-rail", "Rail", (640, 132), size=(1180, 12), corner=6, fill=INK)
    made.layer("rectangle", "buoy-water", "Water", (640, 676), size=(1280, 130), fill="#6fa3a3")
    _buoys(made)
    return made.project


def _buoys(made: Maker) -> None:
    buoy = made.layer("group", "buoy", "Buoy", (640, 138))
    made.layer(
        "line", "buoy-rope", "Rope", (0, 0), buoy, start=(0, 0), end=(0, 360), stroke="#6d5643", stroke_width=2.5
    )
    made.layer(
        "ellipse", "buoy-float", "Float", (0, 384), buoy, size=(46, 54), fill=RED, stroke=SHEET, stroke_width=2.5
    )
    made.layer("rectangle", "buoy-band", "Band", (0, 384), buoy, size=(46, 11), fill=SHEET)
    made.do("repeat layers", layers=["buoy"], id="buoys", count=21)
    made.do("change layer", layer="buoys", name="Buoys")
    made.do("set value", parameter="buoys.arrangement.gap", value=(49, 0))
    # The first swings thirty times while the scene lasts, each further one once less.
    made.modifier("buoy.rotation", "wave", "swings", amplitude=24.0, phase=0.25)
    made.do("write formula", parameter="swings.frequency", text="(30 - i) / length", id="slower")
    made.link("swings.amplitude", "buoy-swing.value", "swing-follows")
    # Their colour tells how far out each has swung.
    made.do("write formula", parameter="buoy-float.fill.colour", text=_COLOUR, id="tells")


_COLOUR = """far = abs(Buoy.rotation) / max($Swing, 1)
mix(#b5482f, #e3a93b, far * far)"""
