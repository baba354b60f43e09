"""Gull flock: two hundred gulls along coherent noise, pushed apart by a kite, coloured by place."""

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

INK, SHEET, RED = "#22303c", "#fdf8ec", "#c2452d"
GULL = "M-17 6C-11 -8 -4 -8 0 1 4 -8 11 -8 17 6 11 -1 5 -1 0 6 -5 -1 -11 -1 -17 6Z"
KITE = "M0 -46L30 0L0 58L-30 0Z"


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(
        id="gull-flock", name="Gull flock", width=1280, height=720, fps=30, length=360, background="#a9cfd6"
    ).apply(project)
    made = Maker(project, "gull-flock")
    made.lever("unrest", "Unrest", "percentage", 0, 100, 55, "Gulls", "How far the gulls wander.")
    made.lever("shyness", "Shyness", "length", -120, 260, 130, "Gulls", "How far they go out of the kite's way.")
    made.layer("ellipse", "gull-haze", "Haze", (640, 690), size=(2100, 420), fill="#c6dedb")
    made.layer(
        "path",
        "gull-shore",
        "Shore",
        (0, 0),
        fill="#6f9a93",
        data="M0 690C240 640 520 670 760 660S1140 640 1280 668V720H0Z",
    )
    _kite(made)
    _gulls(made)
    return made.project


def _kite(made: Maker) -> None:
    kite = made.layer("group", "kite", "Kite", (640, 360))
    made.layer(
        "path",
        "kite-tail",
        "Tail",
        (0, 56),
        kite,
        fill={"kind": "none"},
        data="M0 0C22 22 -22 44 0 66 18 84 -14 100 4 120",
        stroke=RED,
        stroke_width=3.0,
    )
    made.layer("path", "kite-sail", "Sail", (0, 0), kite, data=KITE, fill=RED, stroke=SHEET, stroke_width=3.0)
    made.layer(
        "path",
        "spars",
        "Spars",
        (0, 0),
        kite,
        fill={"kind": "none"},
        data="M0 -46V58M-30 0H30",
        stroke=SHEET,
        stroke_width=2.0,
    )
    # It flies a figure of its own, round and round.
    made.modifier("kite.position", "wave", "kite-across", frequency=1 / 12, amplitude=(380.0, 0.0))
    made.modifier("kite.position", "wave", "kite-down", frequency=1 / 6, amplitude=(0.0, 150.0), phase=0.1)
    made.modifier("kite.rotation", "wave", "kite-leans", frequency=1 / 12, amplitude=26.0, phase=0.25)


def _gulls(made: Maker) -> None:
    made.layer("path", "gull", "Gull", (640, 360), data=GULL, fill=SHEET)
    made.do("repeat layers", layers=["gull"], id="gulls", count=200)
    made.do("change layer", layer="gulls", name="Gulls")
    made.do("set arrangement", array="gulls", arrangement="scatter")
    for name, value in (("area", (1240, 620)), ("apart", 50), ("seed", 12)):
        made.do("set value", parameter=f"gulls.arrangement.{name}", value=value)
    made.do("set value", parameter="gulls.order.measure", value="columns")
    # They drift as a flock does: neighbours nearly alike.
    made.wiggle(
        "gulls.copy_position",
        "gull-drift",
        21,
        frequency=0.5,
        amplitude=(60.0, 44.0),
        over="along",
        along=6.0,
        repeat=12.0,
    )
    made.link("gull-drift.strength", "unrest.value", "unrest-drifts")
    made.wiggle("gulls.copy_position", "gull-flutter", 5, frequency=1.5, amplitude=(9.0, 9.0), repeat=12.0)
    # Each beats its wings in its own time.
    made.modifier("gull.scale", "wave", "gull-beat", frequency=1.25, amplitude=(6.0, 34.0))
    made.do("set value", parameter="gulls.random_later", value=2.4)
    made.wiggle(
        "gulls.copy_rotation", "gull-bank", 8, frequency=0.5, amplitude=22.0, over="along", along=6.0, repeat=12.0
    )
    # The kite pushes them apart.
    made.do("add gauge", array="gulls", gauge="zone", id="near", name="Near the kite")
    for name, value in (("size", (230, 230)), ("inner", 8)):
        made.do("set value", parameter=f"near.{name}", value=value)
    made.link("near.centre", "kite.position", "near-follows")
    made.do("add modifier", parameter="gulls.copy_position", modifier="push", id="shy", zone="near", seed=7)
    made.link("shy.force", "shyness.value", "shyness-pushes")
    # Coloured by place, and startled where the kite is near.
    made.do(
        "add gauge", array="gulls", gauge="noise", id="flocks", name="Flocks", fields={"zoom": [320, 320], "seed": 4}
    )
    made.do("tie to gauge", gauge="flocks", values={"gull.fill.colour": "#5d7f88"}, id="tinted")
    grown = {"gulls.copy_scale": "1.5"}
    made.do("tie to gauge", gauge="near", values=grown, ways=dict.fromkeys(grown, "times"), id="startled")
