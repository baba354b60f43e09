"""Pictures for the reference pages of what is drawn: with it, and beside that without."""

from functools import cache
from typing import Any

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.compositing import FILTERS
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.drawing.frames import Look, draw, png

from .space_plots import space

_WIDE, _HIGH = 640, 180
SPACE = ("depth", "block", "ball", "camera", "light")
"""The pages that are about space."""


def _boat(id: str, x: float, **fields: Any) -> dict[str, Any]:
    """A little boat."""
    hull = {
        "kind": "path",
        "id": f"{id}-hull",
        "name": "Hull",
        "data": "M-70 20H78C68 56 40 64 4 64C-36 64 -60 50 -70 20Z",
        "fill": {"kind": "solid", "colour": "#a93c28"},
    }
    sail = {
        "kind": "path",
        "id": f"{id}-sail",
        "name": "Sail",
        "data": "M4 -66C48 -30 60 -10 60 8H4Z",
        "fill": {"kind": "solid", "colour": "#e0b050"},
    }
    jib = {
        "kind": "path",
        "id": f"{id}-jib",
        "name": "Jib",
        "data": "M-6 -52C-30 -20 -42 -6 -46 8H-6Z",
        "fill": {"kind": "solid", "colour": "#1f6f78"},
    }
    return {
        "kind": "group",
        "id": id,
        "name": id,
        "position": [x, _HIGH / 2 - 2],
        "layers": [hull, sail, jib],
        **fields,
    }


def _pair(**fields: Any) -> list[dict[str, Any]]:
    return [_boat("bare", 160), _boat("dressed", 480, **fields)]


def _layers(name: str) -> list[dict[str, Any]]:
    if name.startswith("filters-"):
        kind = name.removeprefix("filters-")
        begins = {n: list(v) if isinstance(v, tuple) else v for n, v in FILTERS[kind].begins.items()}
        return _pair(filters=[{"id": "f", "kind": kind, **begins}])
    if name == "matte":
        word = {
            "kind": "text",
            "id": "word",
            "name": "Word",
            "text": "BOAT",
            "font_size": 64,
            "position": [480, 90],
            "hidden": True,
        }
        return [*_pair(matte={"layer": "word"}), word]
    if name == "line":
        common = {
            "kind": "star",
            "outer": 70,
            "inner": 34,
            "fill": {"kind": "none"},
            "stroke": "#1f6f78",
            "stroke_width": 7,
        }
        styles: list[dict[str, Any]] = [{}, {"end": 62}, {"dash": 16, "gap": 12}, {"dash": 0.5, "gap": 13, "start": 20}]
        return [
            {**common, "id": f"s{k}", "name": f"S{k}", "position": [90 + 155 * k, 96], "line": style}
            for k, style in enumerate(styles)
        ]
    if name == "clip":
        return _clips()
    if name in SPACE:
        return space(name)
    if name == "texture":
        ink = [{"id": "p", "offset": 0, "colour": "#22303c"}, {"id": "q", "offset": 100, "colour": "#f5f1e8"}]
        return [
            {
                "kind": "texture",
                "id": f"t{k}",
                "name": f"T{k}",
                "size": [200, 160],
                "position": [110 + 210 * k, 90],
                "zoom": 60,
                "octaves": 4,
                "character": character,
                "stops": [{**one, "id": f"{one['id']}{k}"} for one in ink],
            }
            for k, character in enumerate(("smooth", "billow", "ridged"))
        ]
    way = "(320 + 280 * sin(360 * 1.5 * t), 90 + 70 * sin(360 * 2.5 * t))"
    moves = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "moves", "text": way}]}
    return [
        {
            "kind": "trace",
            "id": "t",
            "name": "T",
            "follows": "dot",
            "stroke": "#1f6f78",
            "stroke_width": 10,
            "seconds": 1.4,
            "taper": 100,
            "fade": 60,
        },
        {
            "kind": "ellipse",
            "id": "dot",
            "name": "Dot",
            "size": [22, 22],
            "position": moves,
            "fill": {"kind": "solid", "colour": "#8f5f12"},
        },
    ]


def _clips() -> list[dict[str, Any]]:
    """A clip nine times over, row by row: held, again, and there and back, when it has been cut."""
    film = demo_project().clips[0]
    common = {
        "kind": "clip",
        "clip": film.id,
        "width": film.width,
        "height": film.height,
        "timing": film.timing.model_dump(),
        "scale": [20, 20],
        "speed": 0,
        "start": 2,
        "stop": 6,
    }
    return [
        {
            **common,
            "id": f"c{row}{k}",
            "name": f"C{row}{k}",
            "position": [44 + 69 * k, 32 + 58 * row],
            "moment": -1 + 1.1 * k,
            "ends": ends,
        }
        for row, ends in enumerate(("held", "again", "there and back"))
        for k in range(9)
    ]


@cache
def shown(name: str) -> bytes:
    """The picture of a page, PNG."""
    scene = Scene.model_validate(
        {"id": "s", "name": "Shown", "width": _WIDE, "height": _HIGH, "length": 60, "layers": _layers(name)}
        | ({"perspective": 420} if name in SPACE else {})
    )
    drawn = display_list(Sampler(scene), SampleTimes.frames(30, 52, 53))
    footage = demo_project().footage if name == "clip" else {}
    return png(draw(drawn, 0, Look(scale=2, pictures=footage)))
