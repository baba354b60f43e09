"""Scenes for the pictures of the reference pages about depth."""

from typing import Any

_BRICK, _SEA, _BRASS, _PAPER = "#a93c28", "#1f6f78", "#c99a3f", "#d8d0ba"


def _town(id: str) -> list[dict[str, Any]]:
    """A little town on a plate, and a ball."""
    tall = {"rest": 20, "chain": [{"kind": "formula", "id": f"{id}-t", "text": "18 + 62 * random(i, 3)"}]}
    block = {
        "kind": "block",
        "id": f"{id}-b",
        "name": "B",
        "width": 22,
        "thickness": 22,
        "height": tall,
        "stands": "on its base",
        "colour": _BRICK,
    }
    ground = {"kind": "ground", "columns": 5, "rows": 4, "gap": [40, 44]}
    floor = {"kind": "solid", "colour": _PAPER}
    return [
        {
            "kind": "rectangle",
            "id": f"{id}-f",
            "name": "F",
            "size": [230, 210],
            "position": [320, 130],
            "tilt": [90, 0],
            "fill": floor,
        },
        {
            "kind": "array",
            "id": f"{id}-a",
            "name": "A",
            "position": [320, 130],
            "by_depth": True,
            "arrangement": ground,
            "layers": [block],
        },
        {
            "kind": "ball",
            "id": f"{id}-s",
            "name": "S",
            "position": [320, 118],
            "depth": 96,
            "radius": 12,
            "colour": _SEA,
        },
    ]


def _camera(**fields: Any) -> dict[str, Any]:
    return {
        "kind": "camera",
        "id": "c",
        "name": "C",
        "position": [320, 118],
        "depth": 560,
        "aim": [320, 118],
        "perspective": 430,
        "around": [34, 24],
        **fields,
    }


def space(name: str) -> list[dict[str, Any]]:
    """The layers of a page's picture."""
    if name == "block":
        turns = [(0, 0), (-20, 24), (-34, -38), (-60, 20)]
        return [
            {
                "kind": "block",
                "id": f"b{k}",
                "name": f"B{k}",
                "position": [95 + 150 * k, 92],
                "width": 74,
                "height": 62,
                "thickness": 48,
                "tilt": turn,
                "colour": _BRICK,
            }
            for k, turn in enumerate(turns)
        ]
    if name in ("ball", "light"):
        lamp = {
            "kind": "light",
            "id": "l",
            "name": "L",
            "position": [320, 10],
            "depth": 120,
            "shade": 26,
            "strength": 110,
        }
        spots = [
            {
                "kind": "ball",
                "id": f"s{k}",
                "name": f"S{k}",
                "position": [70 + 125 * k, 100],
                "radius": 44,
                "colour": _SEA,
            }
            for k in range(5)
        ]
        if name == "ball":
            return [*spots, lamp]
        mark = {
            "kind": "ellipse",
            "id": "m",
            "name": "M",
            "position": [320, 14],
            "size": [14, 14],
            "fill": {"kind": "solid", "colour": _BRASS},
        }
        blocks = [
            {
                "kind": "block",
                "id": f"k{k}",
                "name": f"K{k}",
                "position": [70 + 125 * k, 106],
                "width": 56,
                "height": 50,
                "thickness": 50,
                "tilt": [-24, 32],
                "colour": _BRICK,
            }
            for k in range(5)
        ]
        return [*blocks, mark, lamp]
    if name == "camera":
        return [*_town("t"), _camera()]
    cards = [
        {
            "kind": "rectangle",
            "id": f"r{k}",
            "name": f"R{k}",
            "size": [76, 104],
            "corner": 8,
            "position": [70 + 100 * k, 90],
            "depth": depth,
            "tilt": [0, 36 * k],
            "fill": {"kind": "solid", "colour": _SEA if k % 2 else _BRICK},
        }
        for k, depth in enumerate((0, 60, 0, -60, -120, 30))
    ]
    return cards
