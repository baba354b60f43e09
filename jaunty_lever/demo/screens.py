"""Harbour screens: the harbour's watch room, where sixty-four screens show one clip, each four frames later.

The clip is a day at the quay, drawn here as well; `python -m jaunty_lever.demo film` draws it anew.
"""

from importlib.resources import files
from io import BytesIO

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene
from jaunty_lever.exporters import EXPORTERS, Source
from jaunty_lever.formats import clips

from .maker import Maker

FILM = "harbour.mp4"
WALL, DESK, BEZEL, BRASS = "#2a3138", "#46372c", "#11161b", "#c99a3f"


def film() -> bytes:
    """The clip, drawn anew."""
    project = AddScene(
        id="day", name="A day at the quay", width=320, height=180, fps=30, length=300, background="#000000"
    ).apply(Project(id="film", name="Film"))
    made = Maker(project, "day")
    _day(made)
    out, exporter = BytesIO(), EXPORTERS["mp4"]
    exporter.write(Source(made.project, made.project.scenes[0]), exporter.options(), out, lambda done: None)
    return out.getvalue()


def _day(made: Maker) -> None:
    """From one dawn to the next: the sun goes over, a ferry goes by, lamps are lit."""

    def hours(parameter: str, dawn: object, noon: object, dusk: object, night: object) -> None:
        made.keys(
            parameter,
            (0, dawn, "ease-in-out"),
            (75, noon, "ease-in-out"),
            (150, dusk, "ease-in-out"),
            (225, night, "ease-in-out"),
            (299, dawn, "linear"),
        )

    sky = made.layer("rectangle", "sky", "Sky", (160, 60), size=(320, 130), fill="#f2b49a")
    hours(f"{sky}.fill.colour", "#f2b49a", "#9fd0e6", "#f0774e", "#122036")
    sun = made.layer("ellipse", "sun", "Sun", (40, 120), size=(34, 34), fill="#ffe9a8")
    made.keys(f"{sun}.position", (0, (30, 130), "ease-out"), (75, (120, 34), "ease-in"), (150, (210, 132), "linear"))
    moon = made.layer("ellipse", "moon", "Moon", (40, 120), size=(22, 22), fill="#eef1e4")
    made.keys(
        f"{moon}.position", (150, (80, 140), "ease-out"), (225, (190, 36), "ease-in"), (299, (290, 140), "linear")
    )
    sea = made.layer("rectangle", "sea", "Sea", (160, 150), size=(320, 64), fill="#5d8f9c")
    hours(f"{sea}.fill.colour", "#7f8f9c", "#3f8fa6", "#8c5560", "#0d1828")
    ferry = made.layer("group", "ferry", "Ferry", (-60, 122))
    made.layer("path", "hull", "Hull", (0, 0), ferry, data="M-44 0H44L36 18H-36Z", fill="#8d2f26")
    made.layer("rectangle", "deck", "Deck", (-4, -9), ferry, size=(58, 18), fill="#f4ecd8")
    made.layer("rectangle", "funnel", "Funnel", (10, -26), ferry, size=(12, 18), fill="#22303c")
    panes = made.layer("rectangle", "panes", "Panes", (-4, -9), ferry, size=(46, 7), fill="#35506a")
    hours(f"{panes}.fill.colour", "#35506a", "#35506a", "#ffd978", "#ffd978")
    made.keys(f"{ferry}.position", (20, (-60, 122), "ease-in-out"), (270, (380, 122), "linear"))
    made.modifier(f"{ferry}.rotation", "wave", "rolls", frequency=0.4, amplitude=2.0)
    tower = made.layer("group", "tower", "Lighthouse", (272, 86))
    made.layer("path", "shaft", "Shaft", (0, 0), tower, data="M-13 60L-9 -30H9L13 60Z", fill="#f4ecd8")
    made.layer("rectangle", "band", "Band", (0, 14), tower, size=(24, 18), fill="#b8402f")
    made.layer("rectangle", "lantern", "Lantern", (0, -37), tower, size=(14, 14), fill="#22303c")
    lamp = made.layer("ellipse", "lamp", "Lamp", (0, -37), tower, size=(9, 9), fill="#ffe27a")
    hours(f"{lamp}.opacity", 0, 0, 100, 100)
    quay = made.layer("rectangle", "quay", "Quay", (160, 172), size=(320, 24), fill="#4d4640")
    hours(f"{quay}.fill.colour", "#6a5a50", "#6d675e", "#5a3c38", "#151a22")


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="harbour-screens", name="Harbour screens", width=1280, height=720, fps=30, length=300, background=WALL
    ).apply(project)
    made = Maker(project, "harbour-screens")
    made.lever("screens-later", "Each later", "time", -0.4, 0.4, 0.1333, "Screens", "How much later each screen is.")
    made.lever("screens-chance", "Out of order", "time", 0, 8, 0, "Screens", "How much later each may be by chance.")
    made.lever(
        "screens-pace", "Pace", "percentage", -200, 200, 100, "Screens", "How fast the clip plays; below 0 back."
    )
    _wall(made)
    _desk(made)
    return made.project


def _wall(made: Maker) -> None:
    made.layer("rectangle", "screen-frame", "Screen", (640, 318), size=(144, 75), corner=5, fill=BEZEL)
    made.do("repeat layers", layers=["screen-frame"], id="screens", count=64)
    made.do("change layer", layer="screens", name="Screens")
    made.do("set arrangement", array="screens", arrangement="grid")
    for name, value in (("columns", 8), ("rows", 8), ("gap", (152, 76))):
        made.do("set value", parameter=f"screens.arrangement.{name}", value=value)
    clip = clips.take_in((files("jaunty_lever.demo") / FILM).read_bytes(), "A day at the quay.mp4").clip
    made.do("add clip", clip=clip, id="screen-clip", position=(0, 0))
    made.do("arrange layer", layer="screen-clip", parent="screens", position=1)
    made.do("set value", parameter="screen-clip.position", value=(0, 0))
    made.do("set value", parameter="screen-clip.scale", value=(40, 40))
    made.do("set value", parameter="screen-clip.ends", value="again")
    made.follow("screens.later", "screens-later", "screens-late")
    made.follow("screens.random_later", "screens-chance", "screens-by-chance")
    made.follow("screen-clip.speed", "screens-pace", "screens-pace-plays")
    # A test runs over them, there and back: each frame lights up as it passes.
    made.do("add gauge", array="screens", gauge="sweep", id="screens-test", name="Test")
    made.do("change gauge", gauge="screens-test", own_order=True)
    made.do("set value", parameter="screens-test.order.measure", value="columns")
    made.do("set value", parameter="screens-test.way", value="pulse")
    made.do("set value", parameter="screens-test.width", value=4)
    made.do("set value", parameter="screens-test.soft", value=10)
    made.do("remove key", parameter="screens-test.travel", frame=299)
    made.keys("screens-test.travel", (0, 0, "ease-in-out"), (150, 100, "ease-in-out"))
    made.modifier("screens-test.travel", "loop", "screens-again", before="alternate", after="alternate")
    made.do("tie to gauge", gauge="screens-test", values={"screen-frame.fill.colour": BRASS}, id="screens-lit")


def _desk(made: Maker) -> None:
    made.layer("rectangle", "watch-desk", "Desk", (640, 690), size=(1280, 76), fill=DESK)
    made.layer("rectangle", "watch-edge", "Edge of the desk", (640, 654), size=(1280, 8), fill="#5f4b3b")
    made.layer("rectangle", "watch-log", "Log", (250, 668), size=(150, 30), corner=3, fill="#e9dfc8")
    made.layer("ellipse", "watch-mug", "Mug", (1010, 664), size=(40, 40), fill="#7c2f22")
    lamp = made.layer("ellipse", "watch-lamp", "Lamp", (640, 676), size=(22, 22), fill="#f4c35a")
    made.modifier(f"{lamp}.opacity", "wave", "watch-blinks", shape="square", frequency=1.0, amplitude=40.0)
