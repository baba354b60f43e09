"""Harbour board: soundings of the day as bars that grow one by one, with their names and figures that count, from a
table."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, SEA, PALE, BRASS = "#22303c", "#f4efe2", "#1f6f78", "#8fbdbb", "#e3a93b"
COLUMNS = (
    {"id": "sounding-place", "name": "Place"},
    {"id": "sounding-depth", "name": "Depth", "kind": "number"},
)
ROWS = (
    "Mole head,9.4\r\nNorth quay,6.2\r\nFish steps,3.1\r\nLantern quay,7.5\r\n"
    "Old slip,2.3\r\nTurning basin,11.8\r\nSouth lock,5.6\r\nReed channel,4.0\r\n"
)
WIDEST = 720


def build(project: Project) -> Project:
    """The project with this scene at its end, and its table."""
    project = AddScene(
        id="harbour-board", name="Harbour board", width=1280, height=720, fps=30, length=180, background=INK
    ).apply(project)
    made = Maker(project, "harbour-board")
    made.whole("add table", id="soundings", name="Soundings", columns=COLUMNS, data=ROWS)
    made.layer(
        "text",
        "board-title",
        "Title",
        (96, 92),
        text="Soundings of the day",
        align="start",
        weight=700.0,
        font_size=50.0,
        fill=SHEET,
    )
    made.layer(
        "text",
        "board-unit",
        "Unit",
        (1184, 96),
        text="metres below low water",
        font="Instrument Sans",
        align="end",
        weight=400.0,
        font_size=24.0,
        fill=PALE,
    )
    made.layer("line", "board-rule", "Rule", (0, 0), start=(96, 140), end=(1184, 140), stroke=PALE, stroke_width=2.0)
    _bars(made)
    return made.project


def _bars(made: Maker) -> None:
    row = made.layer("group", "sounding", "Sounding", (0, 0))
    made.layer("rectangle", "sounding-bar", "Bar", (220, 0), row, size=(100, 36), corner=4, fill=SEA)
    made.layer(
        "text",
        "sounding-name",
        "Place",
        (200, 0),
        row,
        text="Place",
        font="Instrument Sans",
        align="end",
        weight=500.0,
        font_size=25.0,
        fill=SHEET,
    )
    made.layer(
        "text",
        "sounding-figure",
        "Figure",
        (236, 0),
        row,
        text="0.0",
        font="Martian Mono",
        align="start",
        weight=500.0,
        font_size=22.0,
        fill=SHEET,
    )
    made.do("repeat layers", layers=["sounding"], id="soundings-shown", count=8)
    made.do("change layer", layer="soundings-shown", name="Soundings")
    made.do("set value", parameter="soundings-shown.arrangement.gap", value=(0, 62))
    made.do("set value", parameter="soundings-shown.position", value=(96, 414))
    # As many bars as the table has rows, each with the name, the length and the figure of its row.
    follows = {"table": "soundings", "scene": "harbour-board"}
    made.whole(
        "follow column", **follows, column="sounding-place", parameter="soundings-shown.arrangement.count", takes="rows"
    )
    made.whole(
        "follow column",
        **follows,
        column="sounding-place",
        parameter="sounding-name.text",
        takes="column",
        id="place-of-row",
    )
    for id, name, read in (("depth-share", "Depth", "share of the greatest"), ("depth-metres", "Metres", "as written")):
        made.do("add gauge", array="soundings-shown", gauge="column", id=id, name=name)
        made.do("set value", parameter=f"{id}.scale", value=read)
        made.whole("follow column", **follows, column="sounding-depth", parameter=f"{id}.value", takes="column")
    made.do("add gauge", array="soundings-shown", gauge="sweep", id="growth", name="Growth")
    made.do("set value", parameter="growth.soft", value=45)
    made.do("remove key", parameter="growth.travel", frame=179)
    made.keys("growth.travel", (6, 0, "linear"), (100, 100, "hold"), (146, 100, "ease-in-out"), (174, 0, "hold"))
    made.do(
        "write formula",
        parameter="sounding-bar.size",
        text=f"({WIDEST} * Soundings.Depth * Soundings.Growth, 36)",
        id="bar-grows",
    )
    made.do(
        "write formula",
        parameter="sounding-bar.position",
        text=f"(220 + {WIDEST} / 2 * Soundings.Depth * Soundings.Growth, 0)",
        id="bar-stays",
    )
    made.do(
        "write formula",
        parameter="sounding-figure.position",
        text=f"(236 + {WIDEST} * Soundings.Depth * Soundings.Growth, 0)",
        id="figure-rides",
    )
    made.do("link to", parameter="sounding-figure.text", driver="depth-metres.value", id="figure-counts")
    made.do("set value", parameter="figure-counts.decimals", value=1)
    made.link("figure-counts.times", "growth.value", "figure-grows")
    # The deepest one is brass.
    made.do(
        "write formula",
        parameter="sounding-bar.fill.colour",
        text=f"if Soundings.Depth > 0.999 then {BRASS} else {SEA}",
        id="deepest",
    )
