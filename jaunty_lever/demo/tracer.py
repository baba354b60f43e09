"""Sand tracer: two turning discs, the arms that follow their pins, and the figure drawn in sand where the arms
cross."""

from typing import Any

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

SAND, GROOVE, BRASS, IRON, WOOD = "#e4d3ae", "#a9865a", "#8f5f12", "#4a4f55", "#6d4a2f"
DISCS = (
    ("tracer-left", "Left disc", (226, 640), 168, "First", 5),
    ("tracer-right", "Right disc", (1054, 640), 138, "Second", 4),
)
#: Where each arm is held besides by its pin.
HELD = ((1190, -270), (90, -270))


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="sand-tracer", name="Sand tracer", width=1280, height=720, fps=30, length=300, background=WOOD
    ).apply(project)
    made = Maker(project, "sand-tracer")
    made.lever("tracer-pace", "Pace", "number", 0, 0.4, 0.1, "Tracer", "How many figures are drawn in a second.")
    made.lever("tracer-first", "First", "number", 1, 12, 5, "Tracer", "Turns of the left disc in one figure.")
    made.lever("tracer-second", "Second", "number", 1, 12, 4, "Tracer", "Turns of the right disc in one figure.")
    made.layer("rectangle", "tracer-tray", "Tray", (640, 264), size=(860, 440), corner=26, fill=SAND)
    made.do("set value", parameter="tracer-tray.stroke", value="#c7b083")
    made.do("set value", parameter="tracer-tray.stroke_width", value=10)
    made.layer("trace", "tracer-line", "Figure in sand", (0, 0), stroke=GROOVE, stroke_width=4)
    for disc, held, size in zip(DISCS, HELD, (210, 178), strict=True):
        _disc(made, disc, held, size)
    point = made.layer("ellipse", "tracer-point", "Point", (640, 250), size=(18, 18), fill=BRASS)
    made.modifier(f"{point}.position", "crossing", "tracer-crosses")
    for setting, value in (("a", HELD[0]), ("b", HELD[1])):
        made.do("set value", parameter=f"tracer-crosses.{setting}", value=value)
    for setting, (id, *_) in zip(("a2", "b2"), DISCS, strict=True):
        made.do("link to", parameter=f"tracer-crosses.{setting}", driver=f"{id}-pin.position", id=f"{id}-crossed")
    made.do("follow point", layer="tracer-line", follows=point)
    return made.project


def _disc(made: Maker, disc: tuple[Any, ...], held: tuple[float, float], size: float) -> None:
    id, name, at, reach, lever, turns = disc
    gear = made.layer("gear", id, name, at, teeth=36, module=2 * size / 36, bore=0, fill=IRON)
    made.modifier(f"{gear}.rotation", "rate", f"{id}-turns")
    made.do("write formula", parameter=f"{id}-turns.rate", text=f"360 * $Pace * ${lever}", id=f"{id}-paced")
    pin = f"{id}-pin"
    arm = made.layer("line", f"{id}-arm", f"{name.split()[0]} arm", (0, 0), stroke=BRASS, stroke_width=7)
    made.do("set value", parameter=f"{arm}.end", value=held)
    made.layer("ellipse", pin, f"{name.split()[0]} pin", at, size=(26, 26), fill=BRASS)
    made.modifier(f"{pin}.position", "figure", f"{id}-round")
    made.do("set value", parameter=f"{id}-round.size", value=(reach, reach))
    made.do("write formula", parameter=f"{id}-round.speed", text=f"$Pace * ${lever}", id=f"{id}-rounds")
    made.do("link to", parameter=f"{arm}.start", driver=f"{pin}.position", id=f"{id}-led")
    made.layer("ellipse", f"{id}-peg", f"{name.split()[0]} peg", held, size=(22, 22), fill=IRON)
