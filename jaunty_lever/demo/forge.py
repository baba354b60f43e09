"""Forge sparks: a hammer that falls on an anvil, and sparks that it throws, which grow, turn, cool and fade."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

NIGHT, WALL, IRON, STEEL, WOOD, HOT, GOLD, EMBER = (
    "#1b1c22",
    "#2a2a31",
    "#3d434d",
    "#6b7480",
    "#7a5536",
    "#fff1c4",
    "#f2b33d",
    "#c2411f",
)
BEAT = 40
"""Frames from one blow to the next."""
BLOWS = 6
BLOW = 17
"""The frame of each beat at which the hammer strikes."""


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="forge-sparks", name="Forge sparks", width=1280, height=720, fps=30, length=BEAT * BLOWS, background=NIGHT
    ).apply(project)
    made = Maker(project, "forge-sparks")
    made.lever("forge-heat", "Heat", "percentage", 0, 100, 60, "Forge", "How many sparks each blow throws.")
    made.lever(
        "forge-wind",
        "Draught",
        "number",
        -300,
        300,
        60,
        "Forge",
        "How the air carries them, in pixels a second, each second.",
    )
    _smithy(made)
    _sparks(made)
    _hammer(made)
    return made.project


def _smithy(made: Maker) -> None:
    for row in range(5):
        made.layer(
            "rectangle", f"forge-stone{row}", f"Stones {row + 1}", (640, 96 + 116 * row), size=(1280, 108), fill=WALL
        )
    made.layer("rectangle", "forge-floor", "Floor", (640, 680), size=(1280, 120), fill="#15151a")
    made.layer(
        "path",
        "forge-anvil",
        "Anvil",
        (640, 566),
        fill=IRON,
        data="M-210 -60H150C190 -60 230 -78 262 -96C244 -40 190 -14 120 -8C100 24 104 44 130 74H-130C-104 44 "
        "-100 20 -118 -8H-170C-194 -14 -208 -34 -210 -60Z",
    )
    made.layer("rectangle", "forge-iron", "Iron", (600, 494), size=(240, 20), corner=4, fill="#e8632c")


def _hammer(made: Maker) -> None:
    hammer = made.layer("group", "forge-hammer", "Hammer", (640, 484))
    made.do("set value", parameter="forge-hammer.pivot", value=(330, -14))
    made.do("set value", parameter="forge-hammer.position", value=(930, 462))
    made.layer("rectangle", "forge-handle", "Handle", (190, -14), hammer, size=(320, 20), corner=8, fill=WOOD)
    made.layer("rectangle", "forge-head", "Head", (0, -36), hammer, size=(86, 112), corner=8, fill=STEEL)
    keys: list[tuple[float, float, str]] = [(0, 46, "ease-in"), (BLOW, 0, "ease-out"), (BEAT, 46, "linear")]
    made.keys("forge-hammer.rotation", *keys)
    made.modifier("forge-hammer.rotation", "loop", "blows", after="repeat")


def _sparks(made: Maker) -> None:
    spark = made.layer("group", "forge-spark", "Spark", (600, 480))
    made.layer("rectangle", "forge-streak", "Streak", (0, 0), spark, size=(30, 5), corner=2.5, fill=HOT)
    made.do("repeat layers", layers=[spark], id="forge-throw", count=9)
    made.do("change layer", layer="forge-throw", name="Sparks")
    made.do("set arrangement", array="forge-throw", arrangement="emitter", seed=7)
    made.do("set value", parameter="forge-throw.position", value=(600, 480))
    for name, value in (
        ("lifetime", 1.1),
        ("lifetime_random", 50),
        ("spread", 74),
        ("speed", 960),
        ("speed_random", 60),
        ("drag", 1.1),
        ("gravity", (60, 820)),
        ("facing", True),
        ("shape", "line"),
        ("size", (110, 0)),
        ("births", "at random"),
        ("repeat", BEAT * BLOWS / 30),
    ):
        made.do("set value", parameter=f"forge-throw.arrangement.{name}", value=value)
    # A burst with every blow, then a few stragglers.
    made.keys(
        "forge-throw.arrangement.rate",
        (0, 0, "hold"),
        (BLOW, 900, "linear"),
        (BLOW + 3, 600, "ease-out"),
        (BLOW + 9, 20, "linear"),
        (BEAT, 0, "hold"),
    )
    made.modifier("forge-throw.arrangement.rate", "loop", "bursts", after="repeat")
    made.do("write formula", parameter="forge-throw.arrangement.rate", text="base * $Heat / 60%", id="heated")
    made.do("write formula", parameter="forge-throw.arrangement.gravity", text="($Draught, 820)", id="blown-about")
    _lives(made)


def _lives(made: Maker) -> None:
    for id, name, points in (
        ("spark-size", "Size", ((0, 0.2), (12, 1.0), (100, 0.25))),
        ("spark-glow", "Glow", ((0, 1.0), (55, 0.9), (100, 0.0))),
        ("spark-cools", "Cools", ((0, 0.0), (25, 0.35), (100, 1.0))),
    ):
        made.do("add gauge", array="forge-throw", gauge="life", id=id, name=name)
        for at, value in points:
            made.do("set value", parameter=f"{id}.profile", value=value, frame=at, key=True)
            made.do("set ease", parameter=f"{id}.profile", frame=at, ease="linear")
    made.do("write formula", parameter="forge-throw.copy_scale", text="(100, 100) * Sparks.Size", id="sized")
    made.do("write formula", parameter="forge-throw.copy_opacity", text="100% * Sparks.Glow", id="glows")
    made.do("write formula", parameter="forge-streak.fill.colour", text=_COLOUR, id="cooled")


_COLOUR = f"""gold = mix({HOT}, {GOLD}, min(1, 2 * Sparks.Cools))
mix(gold, {EMBER}, max(0, 2 * Sparks.Cools - 1))"""
