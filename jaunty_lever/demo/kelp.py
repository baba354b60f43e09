"""Kelp: blades on the sea floor whose outlines are moved by a noise that grows with height, paler where they move
more."""

from typing import Any

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits.scenes import AddScene

from .maker import Maker

DEEP, WATER, LIGHT, FLOOR, BLADE = "#0f3b46", "#1c5a63", "#3c8a86", "#12282c", "#2c5a33"
PALE = ("#4f7d3c", "#86a750", "#c9cf86")
_BLADE = "M-9 0C-22 -70 -46 -170 -40 -270C-34 -350 -12 -400 0 -430C12 -400 34 -350 40 -270C46 -170 22 -70 9 0Z"


def build(project: Project) -> Project:
    """The project with this scene at its end."""
    project = AddScene(id="kelp", name="Kelp", width=1280, height=720, fps=30, length=240, background=DEEP).apply(
        project
    )
    made = Maker(project, "kelp")
    made.do("change scene", loops=False)
    made.lever("current", "Current", "number", 0, 3, 0.5, "Kelp", "How fast the swell comes through the blades.")
    made.lever("ruffle", "Ruffle", "number", 0, 60, 26, "Kelp", "How far their edges are moved at the top, in pixels.")
    _water(made)
    _blades(made, "kelp-far", "Far blades", 11, (640, 694), (118, 0), (86, 74), "#1f4d45", 3)
    _blades(made, "kelp-near", "Near blades", 7, (640, 712), (190, 0), (100, 118), BLADE, 11)
    made.layer(
        "path",
        "kelp-floor",
        "Sea floor",
        (640, 700),
        fill=FLOOR,
        data="M-660 60V-18C-520 -44 -420 -20 -300 -26C-160 -34 -60 -6 90 -20C240 -34 330 -8 460 -26C550 -38 610 "
        "-24 660 -34V60Z",
    )
    return made.project


def _water(made: Maker) -> None:
    fill: dict[str, Any] = {
        "kind": "linear",
        "start": (0, -360),
        "end": (0, 360),
        "stops": [
            {"id": "kelp-above", "offset": 0, "colour": LIGHT},
            {"id": "kelp-half", "offset": 45, "colour": WATER},
            {"id": "kelp-below", "offset": 100, "colour": DEEP},
        ],
    }
    made.layer("rectangle", "kelp-water", "Water", (640, 360), size=(1280, 720), fill=fill)


def _blades(
    made: Maker,
    id: str,
    name: str,
    count: int,
    at: tuple[float, float],
    gap: tuple[float, float],
    scale: tuple[float, float],
    colour: str,
    seed: int,
) -> None:
    blade = made.layer("path", f"{id}-blade", name.removesuffix("s"), (0, 0), fill=colour, data=_BLADE)
    made.do("set value", parameter=f"{blade}.scale", value=scale)
    made.do("set edge", layer=blade, stops=(f"{id}-pale", f"{id}-palest"))
    for setting, value in (("detail", 9), ("shells", 2), ("innermost", 40), ("share", 60), ("about", (0, -40))):
        made.do("set value", parameter=f"{blade}.edge.{setting}", value=value)
    made.do("set value", parameter=f"{id}-pale.colour", value=PALE[0] if id == "kelp-near" else "#2b6350")
    made.do("set value", parameter=f"{id}-palest.colour", value=PALE[1] if id == "kelp-near" else "#3f7d61")
    text = f"$Ruffle * height ^ 1.3 * noise(x / 46 + 3 * outer.i, y / 110 + $Current * t, 0, {seed})"
    made.do("write formula", parameter=f"{blade}.edge.out", text=text, id=f"{id}-ruffled")
    sway = f"16 * noise(0.4 * $Current * t + 0.23 * i, 0, 0, {seed + 1})"
    made.do("write formula", parameter=f"{blade}.rotation", text=sway, id=f"{id}-sways")
    made.do("repeat layers", layers=[blade], id=id, count=count)
    made.do("change layer", layer=id, name=name)
    made.do("set value", parameter=f"{id}.position", value=at)
    made.do("set value", parameter=f"{id}.arrangement.gap", value=gap)
    made.do("write formula", parameter=f"{id}.copy_scale", text=f"(100, 82 + 24 * random(i, {seed}))", id=f"{id}-grown")
    spread = f"(60 * (random(i, {seed + 5}) - 0.5), 0)"
    made.do("write formula", parameter=f"{id}.copy_position", text=spread, id=f"{id}-strewn")
