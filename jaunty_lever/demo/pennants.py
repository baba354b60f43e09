"""Pennant line: forty pennants on two ropes; a gust runs through them, and sweeps from the ends, the middle, and
shuffled."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, RED, GOLD, SEA = "#22303c", "#fbf4e4", "#b5482f", "#e3a93b", "#3f7f88"
ROPE = "M-620 -40C-400 70 -220 110 0 110 220 110 400 70 620 -40"


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="pennant-line", name="Pennant line", width=1280, height=720, fps=30, length=300, background="#cfe0dc"
    ).apply(project)
    made = Maker(project, "pennant-line")
    _levers(made)
    _sky(made)
    _pennants(made)
    return made.project


def _levers(made: Maker) -> None:
    made.lever("pennant-wind", "Wind", "percentage", 0, 100, 60, "Weather", "How far the pennants are blown aside.")
    made.lever(
        "pennant-later",
        "Each later",
        "time",
        0,
        0.5,
        0.1,
        "Weather",
        "How much later each pennant flutters than its neighbour.",
    )
    made.lever("dressed", "Dressed", "percentage", 0, 100, 0, "Show", "How far the gold has come, from the middle out.")
    # The last pennant lives 117 frames later: by the end it is as it began.
    made.keys("dressed.value", (20, 0, "ease-in-out"), (75, 100, "hold"), (115, 100, "ease-in-out"), (175, 0, "hold"))


def _sky(made: Maker) -> None:
    made.layer("ellipse", "morning", "Morning sun", (980, 190), size=(190, 190), fill="#f6dfa4")
    made.layer(
        "path",
        "far-hills",
        "Far hills",
        (0, 0),
        fill="#9fbcb6",
        data="M0 560C160 500 300 540 460 520S760 470 940 508 1180 520 1280 496V720H0Z",
    )
    made.layer("rectangle", "bay", "Bay", (640, 668), size=(1280, 150), fill=SEA)
    made.layer(
        "path", "dressing-line", "Rope", (640, 250), data=ROPE, fill={"kind": "none"}, stroke=INK, stroke_width=4.0
    )
    for number, x in enumerate((24, 1256), 1):
        made.layer(
            "rectangle", f"pennant-mast{number}", f"Mast {number}", (x, 430), size=(14, 470), corner=5, fill="#6d5643"
        )


def _pennants(made: Maker) -> None:
    made.layer("path", "pennant", "Pennant", (0, 0), data="M-13 0H13L0 74Z", fill=RED, stroke=SHEET, stroke_width=2.0)
    made.do("repeat layers", layers=["pennant"], id="pennants", count=40)
    made.do("change layer", layer="pennants", name="Pennants")
    made.do("set arrangement", array="pennants", arrangement="path")
    made.do("set arrangement", array="pennants", outline="dressing-line")
    made.do("set value", parameter="pennants.position", value=(640, 250))
    for name, value in (("start", 1), ("end", 99), ("facing", True)):
        made.do("set value", parameter=f"pennants.arrangement.{name}", value=value)
    made.do("set value", parameter="pennants.order.origin", value=(0, 0))
    # Each flutters by itself, a little later than its neighbour.
    made.modifier("pennant.rotation", "wave", "pennant-flutter", frequency=0.8, amplitude=9.0)
    made.link("pennants.later", "pennant-later.value", "later-follows")
    made.modifier("pennant.scale", "wave", "pennant-flap", frequency=1.6, amplitude=(0.0, 9.0))
    _sweeps(made)


def _sweeps(made: Maker) -> None:
    # A gust runs from one end to the other, blows the pennants aside, and comes back.
    made.do("add gauge", array="pennants", gauge="sweep", id="gust", name="Gust")
    for name, value in (("way", "pulse"), ("width", 10), ("soft", 34)):
        made.do("set value", parameter=f"gust.{name}", value=value)
    made.do("remove key", parameter="gust.travel", frame=299)
    made.keys("gust.travel", (0, 0, "ease-in-out"), (150, 100, "ease-in-out"))
    made.modifier("gust.travel", "loop", "gust-returns", after="alternate")
    made.do(
        "tie to gauge",
        gauge="gust",
        values={"pennants.copy_rotation": "40", "pennants.copy_scale": "100, 128"},
        id="blown",
    )
    made.link("blown-0.target", "pennant-wind.value", "wind-blows", times=0.7)
    # Gold comes from the middle outwards, by a lever.
    made.do("add gauge", array="pennants", gauge="sweep", id="gilding", name="Gilding")
    made.do("change gauge", gauge="gilding", own_order=True)
    made.do("set value", parameter="gilding.order.origin", value=(50, 50))
    made.do("set value", parameter="gilding.soft", value=12)
    made.do("clear keys", parameter="gilding.travel", frame=0)
    made.link("gilding.travel", "dressed.value", "dressed-follows")
    made.do("tie to gauge", gauge="gilding", values={"pennant.fill.colour": GOLD}, id="gilded")
    # A hop that goes through them shuffled, there and back.
    made.do("add gauge", array="pennants", gauge="sweep", id="hop", name="Hop")
    made.do("change gauge", gauge="hop", own_order=True)
    for name, value in (("order.measure", "shuffled"), ("way", "pulse"), ("width", 3), ("soft", 8)):
        made.do("set value", parameter=f"hop.{name}", value=value)
    made.do("remove key", parameter="hop.travel", frame=299)
    made.keys("hop.travel", (0, 0, "ease-in-out"), (75, 100, "ease-in-out"))
    made.modifier("hop.travel", "loop", "hop-returns", after="alternate")
    hop = {"pennants.copy_position": "0, -26"}
    made.do("tie to gauge", gauge="hop", values=hop, ways=dict.fromkeys(hop, "by"), id="hops")
