"""Filters and blend modes of an SVG as those of layers."""

import re
from collections.abc import Callable
from typing import Any
from xml.etree.ElementTree import Element

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.compositing import BLENDS
from jaunty_lever.core.document.ids import new_id

from .affine import numbers
from .made import tag
from .styles import Style, colour, length, share

_URL = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)", re.IGNORECASE)
_CALL = re.compile(r"([a-z-]+)\(((?:[^()]|\([^()]*\))*)\)", re.IGNORECASE)
_AMOUNTS = ("brightness", "contrast", "saturate", "grayscale", "sepia", "invert")
_SILENT = {"feMergeNode", "feFuncR", "feFuncG", "feFuncB", "feFuncA", "title", "desc", ""}
_ALPHA, _GRAPHIC = "SourceAlpha", "SourceGraphic"


class NotRead(Exception):
    """A filter of a kind that layers do not have; the message says what in it."""


def blend_of(style: Style, remark: Callable[[str], None]) -> str:
    """How an element is laid down."""
    told = style.get("mix-blend-mode", "normal").strip()
    if told in BLENDS:
        return told
    remark(f"The blend mode {told[:30]}: layers simply cover one another")
    return "normal"


def filters_of(
    style: Style, by_id: dict[str, Element], styled: Callable[[Element], Style], grown: float, em: float
) -> list[dict[str, Any]]:
    """The filters of an element; lengths times `grown`. Raises NotRead."""
    text = style.get("filter", "none").strip()
    if text in ("none", ""):
        return []
    made: list[dict[str, Any]] = []
    for match in re.finditer(rf"{_URL.pattern}|{_CALL.pattern}", text, re.IGNORECASE):
        if match[1]:
            node = by_id.get(match[1])
            if node is not None and tag(node) == "filter":
                made += _read(node, styled, grown)
        else:
            made.append(_called(match[2].lower(), match[3].strip(), style, grown, em))
    return [{**one, "id": new_id("filter")} for one in made]


def _called(name: str, told: str, style: Style, grown: float, em: float) -> dict[str, Any]:
    """A filter function of CSS."""
    if name in _AMOUNTS:
        high = 1.0 if name in ("grayscale", "sepia", "invert") else 10.0
        given = (
            float(told[:-1]) / 100
            if _number(told.removesuffix("%")) and told.endswith("%")
            else float(told)
            if _number(told)
            else 1.0
        )
        return {"kind": name, "amount": min(max(given, 0.0), high) * 100}
    if name == "blur":
        return {"kind": "blur", "radius": max(length(told, 0, 0, em), 0) * grown}
    if name == "hue-rotate":
        units = {"deg": 1.0, "grad": 0.9, "rad": 57.29577951308232, "turn": 360.0}
        match = re.fullmatch(r"([-+\d.e]+)(deg|grad|rad|turn)?", told)
        return {
            "kind": name,
            "angle": float(match[1]) * units[match[2] or "deg"] if match and _number(match[1]) else 0.0,
        }
    if name == "drop-shadow":
        words = re.findall(r"(?:[^\s()]|\([^()]*\))+", told)
        lengths = [one for one in words if length(one, 0, -1e9, em) != -1e9]
        colours = [one for one in words if one not in lengths]
        if len(lengths) >= 2:
            x, y, soft = (length(one, 0, 0, em) * grown for one in [*lengths, "0"][:3])
            rgba = colour(colours[0] if colours else "currentcolor", style.get("color", "black")) or (0, 0, 0, 1)
            return {"kind": name, "offset": (x, y), "radius": max(soft, 0), "colour": hex_colour(rgba)}
    raise NotRead(name[:30])


def _number(text: str) -> bool:
    return re.fullmatch(r"[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?", text) is not None


def _read(node: Element, styled: Callable[[Element], Style], grown: float) -> list[dict[str, Any]]:
    """A filter element whose steps come one after the other, or that lays a shadow under what it is of."""
    steps = [one for one in node if tag(one) not in _SILENT]
    unknown = next((one for one in steps if not tag(one).startswith("fe")), None)
    if unknown is not None:
        raise NotRead(f"<{tag(unknown)[:30]}>")
    if node.get("primitiveUnits") == "objectBoundingBox":
        raise NotRead("told in shares of the box")
    if (shadow := _shadow(steps, styled, grown)) is not None:
        return [shadow]
    made, last = [], _GRAPHIC
    for one in steps:
        if one.get("in", last) != last:
            raise NotRead(f"<{tag(one)[:30]}>")
        made += _step(one, styled, grown)
        last = one.get("result") or f"#{len(made)}"
    return made


def _step(one: Element, styled: Callable[[Element], Style], grown: float) -> list[dict[str, Any]]:
    kind = tag(one)
    if kind == "feGaussianBlur":
        soft = _soft(one)
        return [{"kind": "blur", "radius": soft * grown}] if soft else []
    if kind == "feDropShadow":
        x, y = (_figure(one.get(name), 2.0) * grown for name in ("dx", "dy"))
        return [
            {"kind": "drop-shadow", "offset": (x, y), "radius": _soft(one, 2.0) * grown, "colour": _flood(styled(one))}
        ]
    if kind == "feColorMatrix" and one.get("type") == "saturate":
        return [{"kind": "saturate", "amount": min(max(_figure(one.get("values"), 1.0), 0), 10) * 100}]
    if kind == "feColorMatrix" and one.get("type") == "hueRotate":
        return [{"kind": "hue-rotate", "angle": _figure(one.get("values"), 0.0)}]
    if kind == "feMerge" and [child.get("in") for child in one if tag(child) == "feMergeNode"] in ([None], [_GRAPHIC]):
        return []
    raise NotRead(f"<{kind[:30]}>")


def _shadow(steps: list[Element], styled: Callable[[Element], Style], grown: float) -> dict[str, Any] | None:
    """What is written as a shape that is moved, softened and dyed, and what it is of on top of it; None for all
    else."""
    kinds = [tag(one) for one in steps]
    if len(kinds) < 2 or kinds[-1] not in ("feMerge", "feBlend", "feComposite"):
        return None
    top = steps[-1]
    over = (
        [child.get("in") for child in top if tag(child) == "feMergeNode"]
        if kinds[-1] == "feMerge"
        else [top.get("in2"), top.get("in")]
    )
    if (
        len(over) != 2
        or over[1] != _GRAPHIC
        or top.get("mode", "normal") != "normal"
        or top.get("operator", "over") != "over"
    ):
        return None
    offset, soft, rgba = (0.0, 0.0), 0.0, [0.0, 0.0, 0.0, 1.0]
    for one in steps[:-1]:
        kind = tag(one)
        if kind == "feOffset":
            offset = (_figure(one.get("dx"), 0.0) * grown, _figure(one.get("dy"), 0.0) * grown)
        elif kind == "feGaussianBlur":
            soft = _soft(one) * grown
        elif kind in ("feFlood", "feColorMatrix"):
            found = _dyed(one, styled)
            if found is None:
                return None
            rgba = found
        elif kind == "feComponentTransfer":
            alpha = next((child for child in one if tag(child) == "feFuncA"), None)
            if alpha is None or alpha.get("type") != "linear":
                return None
            rgba[3] *= min(max(_figure(alpha.get("slope"), 1.0), 0.0), 1.0)
        elif not (kind == "feComposite" and one.get("operator") == "in"):
            return None
    whole = any(one.get("in") == _ALPHA for one in steps[:-1]) or "feFlood" in kinds or "feColorMatrix" in kinds
    if not whole:
        return None
    return {"kind": "drop-shadow", "offset": offset, "radius": soft, "colour": hex_colour(tuple(rgba))}


def _dyed(one: Element, styled: Callable[[Element], Style]) -> list[float] | None:
    if tag(one) == "feFlood":
        style = styled(one)
        found = colour(style.get("flood-color", "black"), style.get("color", "black")) or (0.0, 0.0, 0.0, 1.0)
        return [*found[:3], found[3] * share(style.get("flood-opacity"))]
    try:
        rows = numbers(one.get("values", ""))
    except ValueError:
        return None
    # A shadow has one colour: what it is of does not shine through.
    if len(rows) != 20 or any(rows[5 * k + j] for k in range(3) for j in range(4)) or any(rows[15:18]):
        return None
    return [min(max(one, 0.0), 1.0) for one in (rows[4], rows[9], rows[14], rows[18])]


def _flood(style: Style) -> str:
    found = colour(style.get("flood-color", "black"), style.get("color", "black")) or (0.0, 0.0, 0.0, 1.0)
    return hex_colour((*found[:3], found[3] * share(style.get("flood-opacity"))))


def _soft(one: Element, default: float = 0.0) -> float:
    """The standard deviation of a step. Raises NotRead for one that is not the same both ways."""
    try:
        told = numbers(one.get("stdDeviation", ""))
    except ValueError:
        told = []
    if len(told) > 1 and told[0] != told[1]:
        raise NotRead("softer one way than the other")
    return max(told[0], 0.0) if told else default


def _figure(text: str | None, default: float) -> float:
    try:
        return numbers(text or "")[0]
    except (ValueError, IndexError):
        return default
