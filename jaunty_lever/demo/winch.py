"""Winch house: a crank turns a train of wheels that raises a hoist, floats move against each other, a furnace glows."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, RED, GOLD, SEA, IRON, OAK = "#22303c", "#fbf4e4", "#b5482f", "#e3a93b", "#3f7f88", "#59656c", "#8a6a49"
MODULE = 6.0


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="winch-house", name="Winch house", width=1280, height=720, fps=30, length=300, background="#e7dcc6"
    ).apply(project)
    made = Maker(project, "winch-house")
    made.do("change scene", loops=False)
    _levers(made)
    _house(made)
    _furnace(made)
    _sluice(made)
    _wheels(made)
    _crank(made)
    return made.project


def _levers(made: Maker) -> None:
    made.lever("cranking", "Cranking", "number", 0, 120, 0, "Winch", "How fast the crank is turned, in turns a minute.")
    made.keys(
        "cranking.value",
        (0, 0, "ease-in-out"),
        (40, 90, "ease-in-out"),
        (140, 90, "ease-in-out"),
        (190, 24, "ease-in-out"),
        (240, 60, "ease-in-out"),
        (285, 0, "linear"),
    )
    made.lever("embers", "Embers", "percentage", 0, 100, 18, "Furnace", "What still glows when nobody cranks.")


def _house(made: Maker) -> None:
    made.layer("rectangle", "wall", "Wall", (640, 300), size=(1280, 600), fill="#efe6d3")
    for number in range(7):
        made.layer(
            "rectangle",
            f"board{number + 1}",
            f"Board {number + 1}",
            (640, 78 + number * 86),
            size=(1280, 3),
            fill="#e0d4bb",
        )
    made.layer(
        "rectangle",
        "window",
        "Window",
        (640, 128),
        size=(250, 150),
        corner=8.0,
        fill="#bcd5d3",
        stroke=OAK,
        stroke_width=12.0,
    )
    made.layer(
        "path",
        "winch-sea",
        "Sea behind",
        (640, 168),
        data="M-118 -8C-70 -16 -30 0 20 -8S90 -14 118 -8V30H-118Z",
        fill="#6ba1a3",
    )
    made.layer("line", "window-bar", "Bar", (640, 128), start=(0, -72), end=(0, 72), stroke=OAK, stroke_width=8.0)
    made.layer("rectangle", "floor", "Floor", (640, 660), size=(1280, 130), fill="#7b6047")
    made.layer("rectangle", "floor-edge", "Floor edge", (640, 600), size=(1280, 12), fill="#5f4933")


def _furnace(made: Maker) -> None:
    made.layer("path", "furnace", "Furnace", (132, 594), data="M-96 0V-150C-96 -214 96 -214 96 -150V0Z", fill="#4b4440")
    made.layer("rectangle", "flue", "Flue", (132, 180), size=(54, 440), fill="#5b534e")
    made.layer("path", "mouth", "Mouth", (132, 572), data="M-56 0V-66C-56 -112 56 -112 56 -66V0Z", fill="#1f1a18")
    glow = {
        "kind": "radial",
        "centre": (0.0, -46.0),
        "radius": 78.0,
        "stops": [
            {"id": "glow-hot", "offset": 0, "colour": "#ffe9a3"},
            {"id": "glow-warm", "offset": 45, "colour": "#f0913a"},
            {"id": "glow-out", "offset": 100, "colour": "#b5342400"},
        ],
    }
    made.layer("path", "glow", "Glow", (132, 572), data="M-56 0V-66C-56 -112 56 -112 56 -66V0Z", fill=glow)
    made.link(
        "glow.opacity",
        "cranking.value",
        "glow-follows",
        way="remap",
        source=("0", "90"),
        target=("0", "80"),
        ends="stop",
    )
    made.modifier("glow.opacity", "wiggle", "glow-flickers", seed=12, amplitude=9.0, frequency=6.0)
    made.modifier("glow.opacity", "limit", "glow-stays", low=0.0, high=100.0)
    made.follow("glow-stays.low", "embers", "embers-stay")
    made.layer("rectangle", "grate", "Grate", (132, 574), size=(128, 8), fill="#2d2724")


def _sluice(made: Maker) -> None:
    made.layer("rectangle", "pit", "Pit", (1108, 560), size=(260, 190), fill="#2f4c53")
    made.layer("rectangle", "pit-water", "Water", (1108, 588), size=(252, 126), fill="#4d8a92")
    made.layer("line", "slot", "Slot", (1108, 330), start=(0, -62), end=(0, 62), stroke=INK, stroke_width=6.0)
    paddle = made.layer("group", "paddle", "Paddle", (1108, 330))
    made.layer(
        "rectangle",
        "paddle-bar",
        "Paddle bar",
        (0, 0),
        paddle,
        size=(96, 22),
        corner=11.0,
        fill=GOLD,
        stroke=INK,
        stroke_width=4.0,
    )
    made.layer("ellipse", "paddle-grip", "Grip", (0, 0), paddle, size=(38, 38), fill=RED, stroke=INK, stroke_width=4.0)
    made.modifier("paddle.position", "limit", "paddle-ends", low=(1108.0, 282.0), high=(1108.0, 378.0))
    made.keys(
        "paddle.position",
        (0, (1108.0, 330.0), "ease-in-out"),
        (60, (1108.0, 286.0), "ease-in-out"),
        (120, (1108.0, 286.0), "ease-in-out"),
        (200, (1108.0, 374.0), "ease-in-out"),
        (280, (1108.0, 330.0), "linear"),
    )
    for name, x, way in (("Left", 1046, "1"), ("Right", 1170, "-1")):
        id = f"float-{name.lower()}"
        made.layer("group", id, f"{name} float", (x, 548))
        made.layer(
            "line", f"{id}-rod", f"{name} rod", (0, 0), id, start=(0, -20), end=(0, -190), stroke=IRON, stroke_width=5.0
        )
        made.layer(
            "ellipse", f"{id}-ball", f"{name} ball", (0, 0), id, size=(76, 50), fill=RED, stroke=INK, stroke_width=4.0
        )
        made.do(
            "link to",
            parameter=f"{id}.position",
            driver="paddle.position",
            component=1,
            way="ratio",
            ratio=way,
            axis=1,
            plus=218.0 if way == "1" else 878.0,
            position=0,
            id=f"{id}-follows",
        )
    made.layer("rectangle", "pit-lip", "Pit lip", (1108, 470), size=(276, 14), corner=4.0, fill="#5f4933")


def _wheels(made: Maker) -> None:
    made.layer("rectangle", "winch-beam", "Beam", (540, 560), size=(560, 18), corner=4.0, fill=OAK)
    for number, x in enumerate((300, 447, 720), 1):
        made.layer("rectangle", f"stand{number}", f"Stand {number}", (x, 500), size=(22, 200), fill=OAK)
    for number, x in enumerate((432, 462), 1):
        made.layer(
            "line",
            f"belt{number}",
            f"Belt {number}",
            (x, 400),
            start=(0, 0),
            end=(0, -146),
            stroke=INK,
            stroke_width=3.0,
        )
    made.layer("rectangle", "shaft", "Shaft", (620, 254), size=(390, 12), corner=6.0, fill=IRON)
    made.layer("ellipse", "pulley", "Pulley", (447, 254), size=(36, 36), fill=IRON, stroke=INK, stroke_width=3.0)
    made.layer("rectangle", "guide", "Hoist guide", (884, 380), size=(14, 420), fill="#a08c6c")
    made.layer(
        "gear",
        "hoist-wheel",
        "Hoist wheel",
        (720, 400),
        teeth=44.0,
        module=MODULE,
        bore=34.0,
        fill="#c9a253",
        stroke=INK,
        stroke_width=2.5,
    )
    made.layer(
        "gear",
        "hoist",
        "Hoist rack",
        (852, 470),
        form="rack",
        teeth=15.0,
        module=MODULE,
        rotation=-90.0,
        fill=IRON,
        stroke=INK,
        stroke_width=2.5,
    )
    made.layer(
        "gear",
        "drum",
        "Drum",
        (447, 400),
        teeth=35.0,
        module=MODULE,
        bore=0.0,
        fill="#8fa7a4",
        stroke=INK,
        stroke_width=2.5,
    )
    spokes = made.layer("group", "drum-face", "Drum face", (447, 400))
    for number in range(5):
        made.layer(
            "rectangle",
            f"spoke{number + 1}",
            f"Spoke {number + 1}",
            (0, 0),
            spokes,
            size=(62, 9),
            corner=4.0,
            fill="#6f8886",
            rotation=number * 72.0,
            pivot=(-46.0, 0.0),
        )
    made.layer("ellipse", "drum-hub", "Drum hub", (447, 400), size=(44, 44), fill=INK)
    made.layer(
        "gear",
        "pinion",
        "Pinion",
        (300, 400),
        teeth=14.0,
        module=MODULE,
        bore=10.0,
        fill=GOLD,
        stroke=INK,
        stroke_width=2.5,
    )
    made.layer(
        "rectangle",
        "screw",
        "Screw",
        (720, 254),
        size=(150, 34),
        corner=6.0,
        fill="#b9c2bf",
        stroke=INK,
        stroke_width=2.5,
    )
    for number in range(7):
        made.layer(
            "line",
            f"thread{number + 1}",
            f"Thread {number + 1}",
            (660 + number * 20, 254),
            start=(-6, 15),
            end=(6, -15),
            stroke=INK,
            stroke_width=3.0,
        )
    made.link("drum.rotation", "pinion.rotation", "drum-meshes", way="gears")
    made.link("drum-face.rotation", "drum.rotation", "face-follows")
    made.link(
        "hoist-wheel.rotation",
        "drum.rotation",
        "screw-turns",
        way="gears",
        mesh="screw",
        driver_teeth=1,
        driven_teeth=44,
    )
    made.link("hoist.position", "hoist-wheel.rotation", "hoist-rises", way="gears")
    load = made.layer("group", "load", "Load", (852, 470))
    made.layer("rectangle", "load-arm", "Arm of the hoist", (74, -96), load, size=(130, 14), corner=3.0, fill=INK)
    made.layer(
        "rectangle",
        "crate",
        "Crate",
        (96, -146),
        load,
        size=(86, 84),
        corner=4.0,
        fill="#c08a4e",
        stroke=INK,
        stroke_width=4.0,
    )
    made.layer(
        "path",
        "crate-slats",
        "Slats",
        (96, -146),
        load,
        data="M-40 -39L40 39M-40 39L40 -39",
        fill={"kind": "none"},
        stroke=INK,
        stroke_width=3.0,
    )
    made.link("load.position", "hoist.position", "load-follows")


def _crank(made: Maker) -> None:
    crank = made.layer("group", "crank", "Crank", (300, 400))
    made.layer("rectangle", "crank-arm", "Arm", (48, 0), crank, size=(126, 20), corner=10.0, fill=INK)
    made.layer("ellipse", "crank-hub", "Hub", (0, 0), crank, size=(34, 34), fill=INK)
    made.layer("ellipse", "crank-knob", "Knob", (100, 0), crank, size=(34, 34), fill=RED, stroke=INK, stroke_width=4.0)
    made.modifier("crank.rotation", "rate", "crank-turns", rate=0.0)
    made.link("crank-turns.rate", "cranking.value", "crank-follows", way="ratio", ratio="6")
    made.link("pinion.rotation", "crank.rotation", "pinion-follows")
    made.layer("text", "winch-words", "Words", (540, 640), text="Winch house", font_size=30.0, weight=700.0, fill=SHEET)
