"""Lantern Quay: the sample project, scene by scene."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from . import board, buoys, forge, gulls, kelp, pennants, plates, posts, regatta, screens, swings, tracer, winch
from .maker import Maker

INK, SHEET, GOLD = "#22303c", "#f7f0df", "#f4c35a"


def build() -> Project:
    """The whole sample project."""
    project = Project(id="lantern-quay", name="Lantern Quay")
    project = AddScene(
        id="evening-quay", name="Evening quay", width=1280, height=720, fps=30, length=300, background="#31566a"
    ).apply(project)
    made = Maker(project, "evening-quay")
    _levers(made)
    _sky(made)
    _lighthouse(made)
    _sea(made)
    for number, (x, y, hull, size) in enumerate(
        [(330, 505, "#a5492f", 92), (610, 528, "#4f6f52", 108), (905, 512, "#c98d3c", 96)], 1
    ):
        _boat(made, number, (x, y), hull, size)
    _quay(made)
    _fog(made)
    _string(made)
    _sign(made)
    made.layer("rectangle", "night", "Night", (640, 360), size=(1280, 720), fill="#10202e", opacity=0.0)
    made.follow("night.opacity", "dusk", "night-follows", times=0.62)
    # The night lies over the scenery and under everything that gives light.
    order = [layer.id for layer in made.project.scenes[0].layers]
    made.do("arrange layer", layer="night", position=order.index("string"))
    project = winch.build(regatta.build(made.project))
    for scene in (pennants, buoys, gulls, plates, board, forge, kelp, tracer, screens, posts, swings):
        project = scene.build(project)
    return project


def _levers(made: Maker) -> None:
    made.lever("wind", "Wind", "number", 0, 10, 2, "Weather", "Gusts: how far the lanterns flicker and sway.")
    made.keys(
        "wind.value",
        (0, 1, "ease-in-out"),
        (45, 1.5, "ease-in"),
        (85, 9, "ease-in-out"),
        (140, 7, "ease-out"),
        (190, 1, "ease-in-out"),
        (240, 4.5, "ease-in-out"),
        (299, 1, "linear"),
    )
    made.lever("swell", "Swell", "length", 0, 24, 9, "Weather", "How far the boats bob, in pixels.")
    made.lever("dusk", "Dusk", "percentage", 0, 100, 40, "Light", "How far the evening has come.")


def _sky(made: Maker) -> None:
    sky = {
        "kind": "linear",
        "start": (0, -235),
        "end": (0, 235),
        "stops": [
            {"id": "sky-high", "offset": 0, "colour": "#35617a"},
            {"id": "sky-mid", "offset": 62, "colour": "#d9a27e"},
            {"id": "sky-low", "offset": 100, "colour": "#f3d3a0"},
        ],
    }
    made.layer("rectangle", "sky", "Sky", (640, 225), size=(1280, 470), fill=sky)
    for number, (x, y) in enumerate([(140, 60), (470, 42), (742, 84), (1010, 48), (1190, 118)], 1):
        star = made.layer(
            "star",
            f"star{number}",
            f"Star {number}",
            (x, y),
            points=4.0,
            outer=7.0,
            inner=1.8,
            fill="#fdf3d6",
            opacity=70.0,
        )
        made.wiggle(
            f"{star}.opacity",
            f"twinkle{number}",
            310 + number,
            frequency=1.2,
            amplitude=45.0,
            direction="only below",
            repeat=10.0,
        )
    made.layer(
        "path",
        "hills",
        "Hills",
        (0, 0),
        data="M0 452V404C120 372 190 398 300 402S520 436 700 424 1010 398 1280 412V452Z",
        fill="#567380",
    )


def _fog(made: Maker) -> None:
    stops = [
        {"id": "fog-clear", "offset": 15, "colour": "#b9c6c400"},
        {"id": "fog-white", "offset": 100, "colour": "#e9ece4ff"},
    ]
    fog = made.layer(
        "texture",
        "fog",
        "Fog",
        (640, 420),
        size=(1280, 340),
        zoom=280,
        contrast=160,
        opacity=30,
        blend="screen",
        stops=stops,
    )
    # It thins out upwards and downwards: it shows as far as this band is there.
    ends = ((0, "#ffffff00"), (45, "#ffffff"), (75, "#ffffff"), (100, "#ffffff00"))
    band = {
        "kind": "linear",
        "start": (0, -170),
        "end": (0, 170),
        "stops": [{"id": f"fog-band{k}", "offset": at, "colour": colour} for k, (at, colour) in enumerate(ends)],
    }
    made.layer("rectangle", "fog-band", "Fog band", (640, 420), size=(1280, 340), fill=band)
    made.do("set matte", layer=fog, matte="fog-band")
    made.wiggle(f"{fog}.evolution", "fog-turns", 44, frequency=0.3, amplitude=0.8, repeat=10.0)


def _lighthouse(made: Maker) -> None:
    made.layer(
        "path",
        "rock",
        "Rock",
        (0, 0),
        data="M40 456C60 424 96 414 128 408C168 400 206 412 240 434L262 456Z",
        fill="#3d4c55",
    )
    beam = {
        "kind": "linear",
        "start": (0, 0),
        "end": (760, 0),
        "stops": [
            {"id": "beam-near", "offset": 0, "colour": "#fff0c2c8"},
            {"id": "beam-far", "offset": 100, "colour": "#fff0c200"},
        ],
    }
    made.layer("path", "beam", "Beam", (150, 268), data="M0 -5L760 -86V86L0 5Z", fill=beam)
    made.keys("beam.rotation", (0, -20, "linear"), (299, 338.8, "linear"))
    tower = made.layer("group", "lighthouse", "Lighthouse", (0, 0))
    made.layer("path", "tower", "Tower", (0, 0), tower, data="M132 284H168L180 416H120Z", fill=SHEET)
    made.layer(
        "path",
        "bands",
        "Bands",
        (0, 0),
        tower,
        data="M129.300 314H170.700L173.900 346H126.400ZM123.300 380H176.700L179.700 412H120.300Z",
        fill="#a5492f",
    )
    made.layer(
        "rectangle", "lamp-room", "Lamp room", (150, 269), tower, size=(30, 30), fill=GOLD, stroke=INK, stroke_width=3.0
    )
    made.layer("path", "roof", "Roof", (0, 0), tower, data="M128 254L150 232L172 254ZM124 284H176V289H124Z", fill=INK)


def _sea(made: Maker) -> None:
    sea = {
        "kind": "linear",
        "start": (0, -140),
        "end": (0, 140),
        "stops": [
            {"id": "sea-far", "offset": 0, "colour": "#6c8f93"},
            {"id": "sea-near", "offset": 100, "colour": "#1f4a56"},
        ],
    }
    made.layer("rectangle", "sea", "Sea", (640, 585), size=(1280, 280), fill=sea)
    rows = [
        (470, 120, "#a9c3bd"),
        (492, 420, "#9fbdb8"),
        (520, 760, "#8fb1b0"),
        (556, 240, "#7ea5a6"),
        (574, 980, "#7ea5a6"),
    ]
    for number, (y, x, colour) in enumerate(rows, 1):
        wave = made.layer(
            "path",
            f"wave{number}",
            f"Wave {number}",
            (x, y),
            data="M-120 0Q-90 -7 -60 0T0 0T60 0T120 0",
            fill={"kind": "none"},
            stroke=colour,
            stroke_width=2.5,
            opacity=70.0,
        )
        made.wiggle(
            f"{wave}.position", f"drift{number}", 40 + number, frequency=0.4, amplitude=(26.0, 4.0), repeat=10.0
        )


def _boat(made: Maker, number: int, at: tuple[float, float], hull: str, size: float) -> None:
    boat = made.layer("group", f"boat{number}", f"Boat {number}", at)
    s = size / 100
    made.layer(
        "line",
        f"mast{number}",
        "Mast",
        (0, 0),
        boat,
        start=(6 * s, -20 * s),
        end=(6 * s, -168 * s),
        stroke="#4b3a2c",
        stroke_width=4.0,
    )
    made.layer(
        "path",
        f"sail{number}",
        "Furled sail",
        (0, 0),
        boat,
        data=f"M{10 * s} {-40 * s}C{40 * s} {-54 * s} {70 * s} {-50 * s} {92 * s} {-36 * s}L{90 * s} "
        f"{-30 * s}C{60 * s} {-36 * s} {34 * s} {-34 * s} {10 * s} {-30 * s}Z",
        fill=SHEET,
    )
    made.layer(
        "path",
        f"pennant{number}",
        "Pennant",
        (0, 0),
        boat,
        data=f"M{6 * s} {-168 * s}L{34 * s} {-160 * s}L{6 * s} {-151 * s}Z",
        fill=hull,
    )
    made.layer(
        "path",
        f"hull{number}",
        "Hull",
        (0, 0),
        boat,
        data=f"M{-104 * s} {-26 * s}C{-60 * s} {-14 * s} {70 * s} {-14 * s} {112 * s} {-30 * s}C{106 * s} "
        f"{4 * s} {82 * s} {22 * s} {48 * s} {24 * s}H{-56 * s}C{-82 * s} {22 * s} {-98 * s} {2 * s} "
        f"{-104 * s} {-26 * s}Z",
        fill=hull,
    )
    made.layer(
        "path",
        f"line{number}",
        "Water line",
        (0, 0),
        boat,
        data=f"M{-92 * s} {4 * s}C{-40 * s} {12 * s} {60 * s} {12 * s} {100 * s} {2 * s}",
        fill={"kind": "none"},
        stroke=SHEET,
        stroke_width=3.0,
    )
    bob = made.wiggle(f"{boat}.position", f"bob{number}", 60 + number, frequency=0.6, repeat=10.0)
    made.do("set value", parameter=f"{bob}.weights", value=(0.25, 1.0))
    made.follow(f"{bob}.amplitude", "swell", f"bob-follows{number}")
    roll = made.wiggle(f"{boat}.rotation", f"roll{number}", 70 + number, frequency=0.5, repeat=10.0)
    made.follow(f"{roll}.amplitude", "swell", f"roll-follows{number}", times=0.55)


def _quay(made: Maker) -> None:
    made.layer("rectangle", "quay", "Quay wall", (640, 672), size=(1280, 110), fill="#39424a")
    made.layer("rectangle", "coping", "Coping stones", (640, 614), size=(1280, 16), fill="#7b7a72")
    made.layer(
        "path",
        "joints",
        "Joints",
        (0, 0),
        data="M0 650H1280M0 688H1280M90 622V650M270 622V650M450 622V650M630 622V650M810 622V650M990 "
        "622V650M1170 622V650M180 650V688M360 650V688M540 650V688M720 650V688M900 650V688M1080 650V688",
        fill={"kind": "none"},
        stroke="#2b333a",
        stroke_width=2.0,
    )
    for number, x in enumerate([230, 520, 800], 1):
        made.layer(
            "path",
            f"bollard{number}",
            f"Bollard {number}",
            (x, 606),
            data="M-12 8V-14C-22 -16 -22 -30 0 -30S22 -16 12 -14V8Z",
            fill=INK,
        )
    made.layer("line", "post-left", "Left post", (0, 0), start=(58, 616), end=(58, 150), stroke=INK, stroke_width=9.0)
    made.layer(
        "line", "post-right", "Right post", (0, 0), start=(1222, 616), end=(1222, 120), stroke=INK, stroke_width=9.0
    )


def _string(made: Maker) -> None:
    string = made.layer("group", "string", "String of lanterns", (0, 0))
    made.layer(
        "path",
        "rope",
        "Rope",
        (0, 0),
        string,
        data="M58 160Q640 372 1222 132",
        fill={"kind": "none"},
        stroke="#1b2731",
        stroke_width=2.5,
    )
    glow = {
        "kind": "radial",
        "centre": (0, 0),
        "radius": 92,
    }
    for number in range(1, 8):
        t = number / 8
        x = (1 - t) ** 2 * 58 + 2 * t * (1 - t) * 640 + t * t * 1222
        y = (1 - t) ** 2 * 160 + 2 * t * (1 - t) * 372 + t * t * 132
        hook = made.layer("group", f"hook{number}", f"Hook {number}", (round(x, 1), round(y, 1)), string)
        lantern = made.layer("group", f"lantern{number}", f"Lantern {number}", (0, 44), hook, opacity=96.0)
        stops = [
            {"id": f"glow{number}-{k}", "offset": o, "colour": c}
            for k, (o, c) in enumerate([(0, "#ffd97ad0"), (38, "#ffc75a55"), (100, "#ffb84a00")])
        ]
        made.layer("ellipse", f"glow{number}", "Glow", (0, 0), lantern, size=(184, 184), fill={**glow, "stops": stops})
        made.layer("rectangle", f"pane{number}", "Pane", (0, 0), lantern, size=(26, 38), corner=7.0, fill="#ffe6a3")
        made.layer(
            "path",
            f"cage{number}",
            "Cage",
            (0, 0),
            hook,
            data="M0 0V18M-9 18H9L15 25H-15ZM-14 63H14V68H-14ZM-13 25V63M13 25V63M0 25V63",
            fill="#1b2731",
            stroke="#1b2731",
            stroke_width=2.5,
        )
        flicker = made.wiggle(
            f"{lantern}.opacity",
            f"flicker{number}",
            100 + 7 * number,
            frequency=5.0,
            direction="only below",
            octaves=2.0,
            repeat=10.0,
        )
        made.follow(f"{flicker}.amplitude", "wind", f"flicker-follows{number}", times=7.0, plus=6.0)
        sway = made.wiggle(f"{hook}.rotation", f"sway{number}", 200 + 7 * number, frequency=0.9, repeat=10.0)
        made.follow(f"{sway}.amplitude", "wind", f"sway-follows{number}", times=1.6)


def _sign(made: Maker) -> None:
    made.layer(
        "path",
        "bracket",
        "Bracket",
        (0, 0),
        data="M1222 330H1086M1222 376L1150 330",
        fill={"kind": "none"},
        stroke=INK,
        stroke_width=6.0,
    )
    sign = made.layer("group", "sign", "Shop sign", (1128, 333))
    made.layer(
        "path",
        "chains",
        "Chains",
        (0, 0),
        sign,
        data="M-36 0V26M36 0V26",
        fill={"kind": "none"},
        stroke=INK,
        stroke_width=2.5,
    )
    made.layer(
        "rectangle",
        "board",
        "Board",
        (0, 56),
        sign,
        size=(128, 62),
        corner=6.0,
        fill=SHEET,
        stroke="#8f5f12",
        stroke_width=4.0,
    )
    made.layer(
        "text",
        "words",
        "Words",
        (0, 48),
        sign,
        text="Rope & Twine\nLantern Quay",
        font_size=16.0,
        weight=700.0,
        fill=INK,
        leading=125.0,
    )
    made.keys(
        "sign.rotation",
        (0, 0, "hold"),
        (78, 0, "ease-out"),
        (94, 15, "ease-in-out"),
        (116, -11, "ease-in-out"),
        (138, 7.5, "ease-in-out"),
        (160, -4.5, "ease-in-out"),
        (182, 2.4, "ease-in-out"),
        (204, -1, "ease-in-out"),
        (224, 0, "hold"),
    )
