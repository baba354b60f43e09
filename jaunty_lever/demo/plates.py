"""Name plates: a plate of enamel that swings in on its chain, and a table of the crew that it is made for, five
rows."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, BRASS = "#22303c", "#fbf4e4", "#b98a35"
COLUMNS = (
    {"id": "crew-name", "name": "Name"},
    {"id": "crew-duty", "name": "Duty"},
    {"id": "crew-enamel", "name": "Enamel", "kind": "colour"},
    {"id": "crew-swing", "name": "Swing", "kind": "number"},
    {"id": "crew-since", "name": "Since", "kind": "date"},
)
ROWS = (
    "Mira Holm,Harbour pilot,#1f6f78,9,2019-03-12\r\n"
    "Tove Brandt,Lamp keeper,#a93c28,14,2021-06-01\r\n"
    "Jonas Aker,Winch hand,#8a5a1f,6,2020-11-30\r\n"
    "Ebba Lind,Sail maker,#3b5b4a,11,2018-02-14\r\n"
    "Ossian Vik,Ferry master,#33415c,4,2022-09-09\r\n"
)


def build(project: Project) -> Project:
    """The project with this scene at its end, and its table."""
    project = AddScene(
        id="name-plate", name="Name plate", width=960, height=540, fps=30, length=120, background="#e7dcc4"
    ).apply(project)
    made = Maker(project, "name-plate")
    made.lever("plate-swing", "Swing", "number", 0, 20, 9, "Plate", "How far the plate swings, in degrees.")
    for row in range(6):
        made.layer(
            "rectangle", f"plate-board{row}", f"Board {row + 1}", (480, 90 * row + 88), size=(960, 2), fill="#d6c8a8"
        )
    made.layer("group", "plate-whole", "Plate", (480, 0))
    inner = {"parent": "plate-whole"}
    for side, x in (("left", -190), ("right", 190)):
        made.layer("rectangle", f"plate-chain-{side}", f"Chain {side}", (x, 76), size=(6, 152), fill=BRASS, **inner)
    made.layer(
        "rectangle",
        "plate",
        "Enamel",
        (0, 240),
        size=(560, 200),
        corner=22,
        fill="#1f6f78",
        stroke=SHEET,
        stroke_width=8.0,
        **inner,
    )
    made.layer(
        "text", "plate-name", "Name", (0, 214), text="Mira Holm", weight=700.0, font_size=72.0, fill=SHEET, **inner
    )
    made.layer(
        "text",
        "plate-duty",
        "Duty",
        (0, 286),
        text="Harbour pilot",
        font="Instrument Sans",
        font_size=34.0,
        fill=SHEET,
        **inner,
    )
    for number, (x, y) in enumerate(((-252, 168), (252, 168), (-252, 312), (252, 312)), 1):
        made.layer("ellipse", f"plate-screw{number}", f"Screw {number}", (x, y), size=(16, 16), fill=BRASS, **inner)
    made.layer("ellipse", "plate-hook", "Hook", (480, 6), size=(44, 44), fill=INK)
    made.modifier("plate-whole.rotation", "wave", "plate-swings", frequency=0.5)
    made.link("plate-swings.amplitude", "plate-swing.value", "plate-swing-follows")
    _crew(made)
    return made.project


def _crew(made: Maker) -> None:
    made.whole("add table", id="crew", name="Crew", columns=COLUMNS, data=ROWS)
    for column, parameter in (
        ("crew-name", "plate-name.text"),
        ("crew-duty", "plate-duty.text"),
        ("crew-enamel", "plate.fill.colour"),
        ("crew-swing", "plate-swing.value"),
    ):
        made.whole("follow column", table="crew", column=column, scene="name-plate", parameter=parameter)
