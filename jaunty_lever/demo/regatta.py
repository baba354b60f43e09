"""Regatta start: a cone that drops, a title that shoots past, a board that counts, a flag that loops, a boat on
twos."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, RED, GOLD, SEA = "#22303c", "#fbf4e4", "#b5482f", "#e3a93b", "#3f7f88"


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="regatta-start", name="Regatta start", width=1280, height=720, fps=30, length=240, background="#bfd8d6"
    ).apply(project)
    made = Maker(project, "regatta-start")
    made.do("change scene", loops=False, motion_blur=True, most_samples=16)
    _levers(made)
    _water(made)
    _dinghy(made)
    _pier(made)
    _flag(made)
    _board(made)
    _cone(made)
    _title(made)
    return made.project


def _levers(made: Maker) -> None:
    made.lever("start", "Start", "time", 1, 8, 5, "Race", "Seconds until the start: the board counts down to it.")
    made.lever("breeze", "Breeze", "percentage", 0, 100, 60, "Weather", "How far the flag and the dinghy swing.")


def _water(made: Maker) -> None:
    made.layer("ellipse", "sun", "Sun", (1128, 112), size=(128, 128), fill="#f3d48a")
    made.layer(
        "path",
        "far-shore",
        "Far shore",
        (0, 0),
        fill="#8fb3ad",
        data="M0 392C180 352 300 372 470 366S760 338 930 356 1180 366 1280 348V440H0Z",
    )
    made.layer("rectangle", "water", "Water", (640, 560), size=(1280, 340), fill="#4d8a92")
    for number, (x, y, width) in enumerate([(240, 430, 190), (760, 452, 260), (1090, 498, 170), (420, 520, 230)], 1):
        ripple = made.layer(
            "rectangle", f"ripple{number}", f"Ripple {number}", (x, y), size=(width, 5), corner=2.5, fill="#7fb0b1"
        )
        made.modifier(
            f"{ripple}.position", "wave", f"lap{number}", frequency=0.25, amplitude=(16.0, 0.0), phase=number / 4
        )


def _dinghy(made: Maker) -> None:
    boat = made.layer("group", "dinghy", "Dinghy", (80, 470))
    made.layer("path", "dinghy-sail", "Sail", (0, 0), boat, data="M6 -150C52 -110 66 -66 66 -28H6Z", fill=SHEET)
    made.layer("path", "dinghy-jib", "Jib", (0, 0), boat, data="M-4 -132C-30 -92 -44 -58 -46 -28H-4Z", fill=GOLD)
    made.layer("line", "dinghy-mast", "Mast", (0, 0), boat, start=(0, 0), end=(0, -158), stroke=INK, stroke_width=5.0)
    made.layer(
        "path", "dinghy-hull", "Hull", (0, 0), boat, data="M-74 -16H88C78 22 48 34 6 34-34 34-62 18-74 -16Z", fill=RED
    )
    # It sails across at a steady rate, rolls, and all of it is held on twos: as if moved by hand.
    made.modifier("dinghy.position", "rate", "dinghy-sails", rate=(118.0, 0.0))
    made.modifier("dinghy.position", "hold steps", "dinghy-twos", rate=15.0)
    made.modifier("dinghy.rotation", "wave", "dinghy-rolls", frequency=0.6, amplitude=6.0)
    made.follow("dinghy-rolls.amplitude", "breeze", "dinghy-breeze", times=0.12)
    made.modifier("dinghy.rotation", "hold steps", "dinghy-rolls-twos", rate=15.0)


def _pier(made: Maker) -> None:
    made.layer("rectangle", "pier", "Pier", (640, 654), size=(1280, 132), fill="#6d5643")
    for number in range(9):
        made.layer(
            "rectangle",
            f"plank{number + 1}",
            f"Plank {number + 1}",
            (76 + number * 142, 654),
            size=(3, 132),
            fill="#58452f",
        )
    made.layer("rectangle", "edge", "Edge", (640, 592), size=(1280, 12), fill="#806750")


def _flag(made: Maker) -> None:
    made.layer("line", "flagpole", "Flagpole", (1180, 590), start=(0, 0), end=(0, -300), stroke=INK, stroke_width=8.0)
    made.layer("path", "flag", "Flag", (1176, 296), data="M0 0H-132L-104 38 -132 76H0Z", fill=RED, rotation=-10.0)
    made.keys("flag.rotation", (0, -9, "ease-in-out"), (18, 8, "linear"))
    made.modifier("flag.rotation", "loop", "flag-loops", after="alternate")
    made.keys("flag.scale", (0, (100.0, 100.0), "ease-in-out"), (12, (88.0, 104.0), "linear"))
    made.modifier("flag.scale", "loop", "flag-flaps", after="alternate")


def _board(made: Maker) -> None:
    made.layer("rectangle", "race-post", "Board post", (214, 560), size=(14, 120), fill=INK)
    made.layer(
        "rectangle",
        "race-board",
        "Board",
        (214, 452),
        size=(212, 132),
        corner=10.0,
        fill=SHEET,
        stroke=INK,
        stroke_width=7.0,
    )
    made.layer(
        "text",
        "race-words",
        "Board words",
        (214, 424),
        text="Start in",
        font_size=24.0,
        weight=500.0,
        font="Instrument Sans",
        fill=INK,
    )
    made.layer("text", "race-count", "Countdown", (214, 484), text="5", font_size=60.0, weight=800.0, fill=RED)
    words = 'if $start > t then "Start in" else "They are off:"'
    made.do("write formula", parameter="race-words.text", text=words, id="words-turn")
    text = 'left = ceil($start - t)\nif left > 0 then text(left, 0) + " s" else "Go!"'
    made.do("write formula", parameter="race-count.text", text=text, id="count-down")


def _cone(made: Maker) -> None:
    cone = made.layer("group", "cone", "Starting cone", (640, 588))
    made.layer("rectangle", "cone-foot", "Foot", (0, -6), cone, size=(120, 14), corner=5.0, fill=INK)
    made.layer("path", "cone-body", "Cone", (0, 0), cone, data="M-44 -12L-13 -122H13L44 -12Z", fill="#dd7a34")
    made.layer(
        "path", "cone-band", "Band", (0, 0), cone, data="M-32.800 -52L-24.400 -82H24.400L32.800 -52Z", fill=SHEET
    )
    made.modifier(
        "cone.position", "bounce", "cone-drops", when="drop", height=520.0, gravity=2600.0, rebound=0.55, start=0.4
    )


def _title(made: Maker) -> None:
    made.layer("text", "title", "Title", (640, 176), text="Regatta start", font_size=104.0, weight=750.0, fill=INK)
    made.keys("title.scale", (30, (0.0, 0.0), "ease-in"), (48, (100.0, 100.0), "linear"))
    made.modifier("title.scale", "overshoot", "title-settles", frequency=2.2, decay=5.5)
    made.layer(
        "text",
        "subtitle",
        "Subtitle",
        (640, 246),
        text="Lantern Quay, every Sunday",
        font_size=30.0,
        weight=500.0,
        fill=SEA,
        opacity=0.0,
    )
    made.keys("subtitle.opacity", (60, 0, "ease-out"), (78, 100, "linear"))
