"""A scene with every blend and every filter, and mattes of every kind: on the stage, in groups, in copies."""

from typing import Any

from jaunty_lever.core.document.compositing import BLENDS, FILTERS
from jaunty_lever.core.document.scene import Project

STOPS = [("#204060", 0), ("#f0c060", 100)]


def _pair(id: str, place: tuple[float, float], **fields: Any) -> dict[str, Any]:
    """Two shapes in a group that is turned, one over the other."""
    inner = [
        {
            "kind": "ellipse",
            "id": f"{id}-e",
            "name": "Disc",
            "position": [-14, 0],
            "size": [56, 56],
            "fill": {"kind": "solid", "colour": "#c04030"},
        },
        {
            "kind": "star",
            "id": f"{id}-s",
            "name": "Star",
            "position": [14, 6],
            "outer": 30,
            "fill": {"kind": "solid", "colour": "#40a0c0d0"},
        },
    ]
    return {"kind": "group", "id": id, "name": id, "position": place, "rotation": 15, "layers": inner, **fields}


def composited() -> Project:
    """The project with that scene."""
    stops = [{"id": f"back{k}", "offset": at, "colour": colour} for k, (colour, at) in enumerate(STOPS)]
    fill = {"kind": "linear", "start": [-320, 0], "end": [320, 0], "stops": stops}
    layers: list[dict[str, Any]] = [
        {"kind": "rectangle", "id": "back", "name": "Back", "position": [320, 240], "size": [640, 480], "fill": fill}
    ]
    some: list[dict[str, Any]] = [{"blend": blend, "opacity": 100 if k % 2 else 70} for k, blend in enumerate(BLENDS)]
    for kind, cls in FILTERS.items():
        begins = {name: list(v) if isinstance(v, tuple) else v for name, v in cls.begins.items()}
        some.append({"filters": [{"id": f"filter-{kind}", "kind": kind, **begins}], "scale": [110, 80]})
    several = [
        {"id": "many0", "kind": "sepia", "amount": 80},
        {"id": "many1", "kind": "blur", "radius": 3},
        {"id": "many2", "kind": "drop-shadow", "offset": [5, 5], "radius": 2},
        {"id": "many3", "kind": "invert", "bypassed": True},
    ]
    some.append({"filters": several, "opacity": 80, "blend": "multiply"})
    for k, (by, backwards) in enumerate((("alpha", False), ("alpha", True), ("luminance", False), ("luminance", True))):
        some.append({"matte": {"layer": f"word{k}", "by": by, "backwards": backwards}})
    for k, fields in enumerate(some):
        place = (50 + k % 8 * 76, 50 + k // 8 * 76)
        if "matte" in fields:
            # In a group that is turned: it lies there, wherever what it shows is.
            word = {
                "kind": "text",
                "id": fields["matte"]["layer"],
                "name": "Word",
                "text": "SEA",
                "font_size": 40,
                "opacity": 80,
                "fill": {"kind": "solid", "colour": "#c8c8c8"},
            }
            layers.append(
                {
                    "kind": "group",
                    "id": f"words{k}",
                    "name": "Words",
                    "hidden": True,
                    "position": place,
                    "rotation": -20,
                    "layers": [word],
                }
            )
        layers.append(_pair(f"pair{k}", place, **fields))
    # In an array that fades as a whole, each copy by the dot in it, and by a layer of the stage.
    dot = {
        "kind": "ellipse",
        "id": "dot",
        "name": "Dot",
        "hidden": True,
        "size": [36, 36],
        "position": {"rest": [0, 0], "chain": [{"kind": "formula", "id": "roams", "text": "(20 * i - 30, 0)"}]},
    }
    pattern = [
        dot,
        _pair("own", (0, 0), matte={"layer": "dot"}),
        _pair("stage", (0, 70), matte={"layer": "bar"}, blend="screen"),
    ]
    array = {
        "kind": "array",
        "id": "row",
        "name": "Row",
        "position": [320, 350],
        "opacity": 85,
        "layers": pattern,
        "arrangement": {"kind": "row", "count": 4, "gap": [110, 0]},
    }
    bar = {
        "kind": "rectangle",
        "id": "bar",
        "name": "Bar",
        "hidden": True,
        "position": [320, 415],
        "size": [330, 26],
        "rotation": 3,
    }
    scene = {"id": "mixed", "name": "Mixed", "width": 640, "height": 480, "length": 30, "layers": [*layers, bar, array]}
    return Project.model_validate({"id": "mixed", "name": "Mixed", "scenes": [scene]})


def at_the_edges() -> Project:
    """A small stage over whose edges things reach that are blurred, shaded, faded as one, pointed; some lie quite
    beside it."""

    def dot(id: str, at: tuple[float, float], **fields: Any) -> dict[str, Any]:
        fill = {"kind": "solid", "colour": "#a93c28"}
        return {"kind": "ellipse", "id": id, "name": id, "position": at, "size": [40, 40], "fill": fill, **fields}

    def blur(id: str, radius: float) -> dict[str, Any]:
        return {"id": id, "kind": "blur", "radius": radius}

    shade = {"id": "shade", "kind": "drop-shadow", "offset": [46, 30], "radius": 5, "colour": "#1f6f78"}
    pair = [dot("p1", (0, 0)), dot("p2", (18, 0), fill={"kind": "solid", "colour": "#1f6f78"}, filters=[blur("pb", 5)])]
    spike = {
        "kind": "star",
        "id": "spike",
        "name": "Spike",
        "points": 4,
        "outer": 34,
        "inner": 7,
        "position": [150, 40],
        "rotation": 10,
        "opacity": 55,
        "stroke_width": 7,
        "line": {"join": "miter"},
        "fill": {"kind": "solid", "colour": "#e0b050"},
    }
    straight = {
        "rest": [0, 0],
        "keys": [{"frame": 19, "value": [20, 110], "ease": "linear"}, {"frame": 20, "value": [180, 70]}],
    }
    copies = {
        "kind": "array",
        "id": "row",
        "name": "Row",
        "position": [100, 140],
        "arrangement": {"kind": "row", "count": 7, "gap": [34, 0]},
        "copy_opacity": 70,
        "layers": [dot("r", (0, 0), size=[20, 20], filters=[blur("rb", 3)]), dot("q", (6, 4), size=[10, 10])],
    }
    layers = [
        dot("left", (0, 60), filters=[blur("b1", 8)]),
        dot("beside", (-24, 20), filters=[blur("b2", 9)]),
        dot("throws", (-30, 84), filters=[shade]),
        {"kind": "group", "id": "pair", "name": "Pair", "position": [185, 95], "opacity": 60, "layers": pair},
        {
            "kind": "group",
            "id": "soft",
            "name": "Soft",
            "position": [90, 4],
            "filters": [blur("b3", 4)],
            "blend": "multiply",
            "layers": [dot("s", (0, 0))],
        },
        spike,
        copies,
        # So quick that all that is seen of its way lies between two vertices.
        dot("runs", (0, 0), size=[6, 6], position=straight),
        {
            "kind": "trace",
            "id": "tail",
            "name": "Tail",
            "follows": "runs",
            "seconds": 0.014,
            "fade": 40,
            "stroke_width": 16,
        },
        {
            "kind": "trace",
            "id": "glow",
            "name": "Glow",
            "follows": "runs",
            "seconds": 0.014,
            "stroke_width": 5,
            "stroke": "#1f6f78",
            "filters": [blur("gb", 2)],
            "opacity": 80,
        },
    ]
    scene = {"id": "edges", "name": "Edges", "width": 200, "height": 150, "length": 30, "layers": layers}
    return Project.model_validate({"id": "edges", "name": "Edges", "scenes": [scene]})
