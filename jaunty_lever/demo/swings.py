"""Swing row: sixteen lanterns on strings of many lengths that swing out of step, and a ring of light that passes
through them."""

from typing import Any

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, WOOD, GLASS, LIT = "#1d2b38", "#7a5b42", "#a8563c", "#ffe6a0"
SECONDS, LANTERNS = 20, 16
LONG, SHORT = 470, 110
"""How long the first string and the last are, px."""


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="swing-row", name="Swing row", width=1280, height=720, fps=30, length=SECONDS * 30, background="#3c5468"
    ).apply(project)
    made = Maker(project, "swing-row")
    made.lever("row-swing", "Swing", "angle", 0, 45, 22, "Lanterns", "How far the lanterns swing.")
    made.lever("row-glow", "Glow", "percentage", 0, 100, 80, "Lanterns", "How bright the ring lights them.")
    _quay(made)
    _lanterns(made)
    _ring(made)
    return made.project


def _quay(made: Maker) -> None:
    made.layer(
        "path",
        "row-hills",
        "Hills",
        (0, 0),
        fill="#344a5d",
        data="M0 520C170 452 320 500 470 470S790 430 960 480 1190 470 1280 446V720H0Z",
    )
    made.layer("rectangle", "row-water", "Water", (640, 672), size=(1280, 110), fill="#2a4456")
    for post, x in enumerate((46, 1234), 1):
        made.layer("rectangle", f"row-post{post}", f"Post {post}", (x, 372), size=(18, 520), corner=3, fill=INK)
    made.layer("rectangle", "row-beam", "Beam", (640, 100), size=(1240, 20), corner=4, fill=WOOD)


def _lanterns(made: Maker) -> None:
    hung: Any = made.layer("group", "swing-lantern", "Lantern", (0, 0))
    string = {"start": (0, 0), "end": (0, LONG), "stroke": "#c9b99a", "stroke_width": 1.6}
    made.layer("line", "swing-string", "String", (0, 0), hung, **string)
    lamp = made.layer("group", "swing-lamp", "Lamp", (0, LONG), hung)
    made.layer("ellipse", "swing-glow", "Glow", (0, 16), lamp, size=(96, 96), fill=LIT, opacity=0.0)
    made.layer("rectangle", "swing-cap", "Cap", (0, -3), lamp, size=(20, 9), corner=2, fill=INK)
    made.layer("ellipse", "swing-glass", "Glass", (0, 17), lamp, size=(32, 40), fill=GLASS)
    made.do("repeat layers", layers=["swing-lantern"], id="swing-row-of", count=LANTERNS)
    made.do("change layer", layer="swing-row-of", name="Lanterns")
    made.do("set value", parameter="swing-row-of.position", value=(640, 106))
    made.do("set value", parameter="swing-row-of.arrangement.gap", value=(74, 0))
    # The strings grow shorter along the row.
    made.do("add gauge", array="swing-row-of", gauge="order", id="row-place", name="Along the row")
    shorter = {"swing-string.end": f"0, {SHORT}", "swing-lamp.position": f"0, {SHORT}"}
    made.do("tie to gauge", gauge="row-place", values=shorter, id="row-shorter")
    # The first swings twelve times while the scene lasts, the last twenty-seven: together again at its end.
    made.modifier("swing-lantern.rotation", "wave", "row-sways", amplitude=22.0, phase=0.25)
    made.link("row-sways.amplitude", "row-swing.value", "row-swing-follows")
    made.do("swing out of step", modifier="row-sways", least=12, most=27, id="row-paces")


def _ring(made: Maker) -> None:
    # A hollow zone that grows from the middle of the quay and comes back, again and again, and lights what it passes.
    fields = {"centre": (640, 420), "hollow": 82, "inner": 30}
    made.do("add gauge", array="swing-row-of", gauge="zone", id="light-ring", name="Ring of light", fields=fields)
    made.keys("light-ring.size", (0, (40, 40), "ease-in-out"), (150, (900, 900), "ease-in-out"))
    made.modifier("light-ring.size", "loop", "row-ring-returns", after="alternate")
    lit = {"swing-glass.fill.colour": LIT, "swing-glow.opacity": "60"}
    made.do("tie to gauge", gauge="light-ring", values=lit, id="row-lit")
    made.link("row-lit-1.target", "row-glow.value", "row-glow-follows", times=0.5)
