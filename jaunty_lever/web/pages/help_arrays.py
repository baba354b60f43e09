"""Reference pages of arrays: one for all of it, one for each arrangement and each gauge, made from their models."""

import base64
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from numpy.typing import NDArray
from starlette.responses import HTMLResponse, Response

from jaunty_lever import __version__
from jaunty_lever.core.document.arrangement import ARRANGEMENTS, MEASURES, Order
from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.compositing import FILTERS, Matte
from jaunty_lever.core.document.edge import Edge
from jaunty_lever.core.document.gauge import FIELD_CHARACTERS, GAUGES
from jaunty_lever.core.document.layers import ArrayLayer, ClipLayer, TextureLayer, TraceLayer
from jaunty_lever.core.document.limits import MOST_ARRAYS_DEEP, MOST_COPIES
from jaunty_lever.core.document.line_style import LineStyle
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.space import Ball, Block, CameraLayer, LightLayer
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.evaluation.depth import has_depth
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.formula.library import PACES, TAKINGS
from jaunty_lever.storage.store import NotThere

from ..site import site_of
from ..templating import page
from .help import purposes, setting_row

router = APIRouter(prefix="/help")

_PAPER, _SEA = (245, 241, 232), (31, 111, 120)


@dataclass(frozen=True)
class Dots:
    """Copies as dots: x, y, radius and colour of each, and what they show."""

    words: str
    dots: tuple[tuple[float, float, float, str], ...]


def _scene(arrangement: dict[str, Any], gauges: list[dict[str, Any]], order: dict[str, Any]) -> Scene:
    array = {
        "kind": "array",
        "id": "a",
        "name": "A",
        "arrangement": arrangement,
        "gauges": gauges,
        "order": order,
        "layers": [{"kind": "text", "id": "e", "name": "E", "text": "Lantern\nQuay", "font_size": 40}],
    }
    return Scene.model_validate({"id": "s", "name": "Example", "fps": 30, "length": 90, "layers": [array]})


def _dots(scene: Scene, gauge: str | None, moment: float, words: str) -> Dots:
    sampler, at = Sampler(scene), SampleTimes(np.array([moment]))
    where = inside(sampler, "a.place", at)
    place = np.broadcast_to(sampler.evaluate("a.place", where), (*where.shape, 2))[:, 0]
    if has_depth(scene.layers[0]) and not place[:, 1].any():
        # What lies on the ground is seen from above.
        place = np.stack([place[:, 0], sampler.evaluate("a.z", where)[:, 0, 0]], axis=1)
    parameter = f"{gauge}.value" if gauge else "a.u"
    read = sampler.evaluate(parameter, inside(sampler, parameter, at))
    values = np.broadcast_to(read, (len(place), 1, 1))[:, 0, 0]
    middle, size = (place.min(axis=0) + place.max(axis=0)) / 2, max(float(np.ptp(place, axis=0).max()), 1.0)
    spots = (place - middle) / size * 150
    radius = float(np.clip(60 / np.sqrt(len(place)), 2.5, 7))
    return _coloured(words, spots, values, radius)


def _coloured(words: str, spots: NDArray[np.float64], values: NDArray[np.float64], radius: float) -> Dots:
    told = zip(spots, values, strict=True)
    return Dots(words, tuple((round(x, 1), round(y, 1), radius, _colour(v)) for (x, y), v in told))


def _edge_plots() -> list[Dots]:
    """The points of a star by what they know, and moved outwards by waves along them."""
    text = "16 * sin(360 * 18 * u)"
    edge = {"out": {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": text}]}}
    star = {"kind": "star", "id": "a", "name": "A", "outer": 150, "inner": 82, "edge": edge}
    scene = Scene.model_validate({"id": "s", "name": "Example", "layers": [star]})
    sampler, at = Sampler(scene), SampleTimes(np.zeros(1))
    where = inside(sampler, "a.edge.out", at)
    place, u, height, facing, out = (
        sampler.evaluate(f"a.{name}", where)[:, 0] for name in ("place", "u", "height", "facing", "edge.out")
    )
    turn = np.deg2rad(facing)
    moved = place + out * np.concatenate([np.cos(turn), np.sin(turn)], axis=1)
    parts = (("coloured by u", place, u), ("coloured by height", place, height), (text, moved, out / 32 + 0.5))
    return [_coloured(words, spots / 2.7, values[:, 0], 2.2) for words, spots, values in parts]


def _colour(value: float) -> str:
    share: NDArray[np.float64] = np.clip(np.array(value), 0, 1)
    return "rgb({} {} {})".format(*(round(a + (b - a) * float(share)) for a, b in zip(_PAPER, _SEA, strict=True)))


_GRID = {"kind": "grid", "columns": 13, "rows": 7, "gap": [30, 30]}
_SETTINGS: dict[str, dict[str, Any]] = {
    "path": {"count": 24},
    "scatter": {"count": 90, "apart": 30},
    "row": {"count": 13, "gap": [40, 0]},
    "grid": {"brick": 0},
    "ground": {},
    "ring": {"count": 18},
    "rails": {"count": 15},
    "letters": {},
    "emitter": {"rate": 40, "pre_roll": 3, "spread": 40, "lifetime": 1.6, "births": "at random"},
}
_THROWN = {"kind": "emitter", "rate": 60, "pre_roll": 3, "spread": 40, "lifetime": 1.6, "births": "at random"}
_SEEN = bytes(255 if (x - 6) ** 2 + (y - 4) ** 2 < 14 else 40 for y in range(9) for x in range(13))
_GAUGE_SETTINGS: dict[str, dict[str, Any]] = {
    "zone": {"size": [130, 90], "centre": [40, -20]},
    "noise": {"zoom": [90, 90], "frequency": 0.5},
    "column": {"cells": [3, 9, 6, 1, 12, 7, 4], "beyond": "from the first on"},
    "picture": {"wide": 13, "high": 9, "data": base64.b64encode(_SEEN).decode()},
}


def _arrangement_plots(kind: str) -> list[Dots]:
    sparks, words = kind == "emitter", {"emitter": "coloured by how far each has lived"}
    moment = 1.0 if sparks else 0.0
    whole = _scene({"kind": kind, **_SETTINGS[kind]}, [], {})
    made = [_dots(whole, None, moment, words.get(kind, "coloured along the order"))]
    if sparks:
        made.append(_dots(whole, None, 1.5, "half a second later"))
    if kind == "letters":
        made.append(_dots(_scene({"kind": kind, "by": "word"}, [], {}), None, 0, "by words"))
    if kind == "grid":
        made.append(_dots(_scene({"kind": kind, "brick": 50}, [], {}), None, 0, "brick 50 %"))
    if kind == "ring":
        made.append(
            _dots(_scene({"kind": kind, "count": 13, "arc": 200, "start": -100}, [], {}), None, 0, "an arc of 200°")
        )
    return made


def _gauge_plots(kind: str) -> list[Dots]:
    given = {"kind": kind, "id": "g", "name": "G", **_GAUGE_SETTINGS.get(kind, {})}
    order = {"measure": "columns"}
    if kind == "sweep":
        ways: list[tuple[str, dict[str, Any]]] = [
            ("enter, half way", {"travel": 50}),
            ("pulse, half way", {"way": "pulse", "travel": 50}),
        ]
        plots = [_dots(_scene(_GRID, [given | more], order), "g", 0, words) for words, more in ways]
        middle = {"measure": "round", "origin": [50, 50]}
        return [*plots, _dots(_scene(_GRID, [{**given, "travel": 45}], middle), "g", 0, "from the middle, round")]
    if kind == "order":
        rope: dict[str, Any] = {
            "data": "M-160 40C-60 -130 60 130 160 -40",
            "points": [[20, 90], [85, 70]],
            "gauge": "n",
        }
        field = {"kind": "noise", "id": "n", "name": "N", "zoom": [120, 120]}

        def counted(measure: str) -> dict[str, Any]:
            return {**rope, "measure": measure, "origin": [0, 0] if measure == "number" else [50, 50]}

        return [_dots(_scene(_GRID, [given, field], counted(one)), "g", 0, one) for one in MEASURES]
    if kind == "zone":
        rope = {"shape": "line", "data": "M-160 40C-60 -130 60 130 160 -40", "size": [50, 50]}
        zones: list[tuple[str, dict[str, Any]]] = [(one, {"shape": one}) for one in ("disc", "box", "bar")]
        zones += [("a disc, hollow 70 %", {"hollow": 70}), ("a line, as drawn", rope)]
        return [_dots(_scene(_GRID, [given | more], order), "g", 0, words) for words, more in zones]
    if kind == "noise":
        zooms = [("zoomed in", [240, 240]), ("half way", [90, 90]), ("zoomed out", [6, 6])]
        plots = [_dots(_scene(_GRID, [{**given, "zoom": zoom}], order), "g", 0, words) for words, zoom in zooms]
        kinds = [one for one in FIELD_CHARACTERS if one != "smooth"]
        return plots + [_dots(_scene(_GRID, [{**given, "character": one}], order), "g", 0, one) for one in kinds]
    if kind == "life":
        keys = [{"frame": at, "value": value, "ease": "linear"} for at, value in ((0, 0), (40, 1), (100, 0))]
        curve = {**given, "profile": {"rest": 0, "keys": keys}}
        return [
            _dots(_scene(_THROWN, [one], {}), "g", 1.0, words)
            for words, one in (("life by itself", given), ("a curve up and down", curve))
        ]
    if kind == "column":
        return [_dots(_scene(_GRID, [given], {}), "g", 0, "by number, from the first on")]
    if kind == "picture":
        return [
            _dots(_scene(_GRID, [{**given, "backwards": one}], {}), "g", 0, words)
            for words, one in (("a light disc", False), ("reversed", True))
        ]
    return [_dots(_scene(_GRID, [{**given, "seed": seed}], order), "g", 0, f"seed {seed}") for seed in (1, 2)]


def pages_of_parts() -> dict[str, list[tuple[str, str, str]]]:
    """The reference pages of arrays by what they are about: (address, title, what it does)."""
    return {
        "Arrangements": [
            (f"arrangements/{k}", getattr(c, "title", k), getattr(c, "does", "")) for k, c in ARRANGEMENTS.items()
        ],
        "Gauges": [(f"gauges/{k}", c.title, c.does) for k, c in GAUGES.items()],
        "Drawing": [
            ("edge", Edge.title, Edge.does),
            *((f"drawing/{name}", cls.title, getattr(cls, "does", "")) for name, cls in DRAWING.items()),
        ],
    }


@router.get("/arrays")
def arrays() -> HTMLResponse:
    """What arrays are, and what can be done to each of their copies."""
    names = (
        "later",
        "random_later",
        "lives",
        "moment",
        "copy_position",
        "copy_rotation",
        "copy_scale",
        "copy_depth",
        "copy_tilt",
        "copy_opacity",
    )
    own = specs_of(ArrayLayer)
    return page(
        "help/arrays.html",
        purposes=purposes(),
        pages=pages_of_parts(),
        here="arrays",
        order=[setting_row(name, spec) for name, spec in specs_of(Order).items()],
        settings=[setting_row(name, own[name]) for name in names],
        takings=TAKINGS | PACES,
        most=MOST_COPIES,
        deep=MOST_ARRAYS_DEEP,
    )


def _about(cls: type[Model], plots: list[Dots], here: str, eyebrow: str) -> HTMLResponse:
    return page(
        "help/array_part.html",
        part=cls,
        about=(cls.__doc__ or "").strip(),
        eyebrow=eyebrow,
        plots=plots,
        settings=[setting_row(name, spec) for name, spec in specs_of(cls).items()],
        purposes=purposes(),
        pages=pages_of_parts(),
        here=here,
    )


@router.get("/edge")
def edge() -> HTMLResponse:
    """Outlines that move point by point, and the shells inside them."""
    return _about(Edge, _edge_plots(), "edge", "outline")


class Depth:
    """Layers, groups and copies that are nearer or further away, and turned about their own axes."""

    title = "Depth"
    does = "A scene with a perspective or a camera is seen in depth."
    formula = (
        "translate(position, depth) · rotateZ(rotation) · rotateX(tilt x) · rotateY(tilt y) · scale, as CSS has them",
        "seen = origin + (place − origin) · perspective / (perspective − depth)",
    )
    settings = (
        (Scene, "perspective"),
        (Scene, "perspective_origin"),
        (BaseLayer, "depth"),
        (BaseLayer, "tilt"),
        (ArrayLayer, "copy_depth"),
        (ArrayLayer, "copy_tilt"),
    )


DRAWING: dict[str, Any] = {
    "line": LineStyle,
    "clip": ClipLayer,
    "texture": TextureLayer,
    "trace": TraceLayer,
    "matte": Matte,
    "depth": Depth,
    "block": Block,
    "ball": Ball,
    "camera": CameraLayer,
    "light": LightLayer,
    **{f"filters-{kind}": cls for kind, cls in FILTERS.items()},
}
"""What is drawn besides outlines and fills, by the end of its page's address."""


@router.get("/drawing/{name}.png")
async def drawing_picture(name: str, request: Request) -> Response:
    """How it looks, beside what it would be without."""
    if name not in DRAWING:
        raise NotThere(f"There is no page about “{name}”.")
    made = await site_of(request).drawn.picture(f"{__version__} {name}", "help", name)
    return Response(made, media_type="image/png")


@router.get("/drawing/{name}")
def drawing(name: str) -> HTMLResponse:
    """A line, a texture, a trace, a filter or a matte: what it does, its mathematics, its settings, and how it
    looks."""
    if name not in DRAWING:
        raise NotThere(f"There is no page about “{name}”.")
    cls = DRAWING[name]
    if cls is Depth:
        own = {n: specs_of(owner)[n] for owner, n in Depth.settings}
    else:
        own = {n: one for n, one in specs_of(cls).items() if n not in specs_of(BaseLayer)}
    return page(
        "help/drawing.html",
        part=cls,
        name=name,
        about=(cls.__doc__ or "").strip().split("\n\n")[0],
        settings=[setting_row(n, one) for n, one in own.items()],
        purposes=purposes(),
        pages=pages_of_parts(),
        here=f"drawing/{name}",
    )


@router.get("/arrangements/{kind}")
def arrangement(kind: str) -> HTMLResponse:
    """One arrangement: how its copies stand, its mathematics and its settings."""
    if kind not in ARRANGEMENTS:
        raise NotThere(f"There is no arrangement “{kind}”.")
    return _about(ARRANGEMENTS[kind], _arrangement_plots(kind), f"arrangements/{kind}", "arrangement")


@router.get("/gauges/{kind}")
def gauge(kind: str) -> HTMLResponse:
    """One gauge: what it reads of each copy, its mathematics and its settings."""
    if kind not in GAUGES:
        raise NotThere(f"There is no gauge “{kind}”.")
    return _about(GAUGES[kind], _gauge_plots(kind), f"gauges/{kind}", "gauge")
