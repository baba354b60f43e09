"""How elements of an SVG are dressed: attributes, style attributes and style sheets, and what is handed down."""

import math
import re
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2
from tinycss2.color3 import RGBA
from tinycss2.color4 import parse_color

HANDED_DOWN = {
    "fill",
    "fill-opacity",
    "fill-rule",
    "stroke",
    "stroke-opacity",
    "stroke-width",
    "stroke-linecap",
    "stroke-linejoin",
    "stroke-dasharray",
    "stroke-dashoffset",
    "color",
    "visibility",
    "font-family",
    "font-size",
    "font-weight",
    "font-style",
    "text-anchor",
    "letter-spacing",
    "word-spacing",
    "stroke-miterlimit",
    "paint-order",
    "clip-rule",
    "writing-mode",
    "direction",
    "font-variant",
    "font-stretch",
    "text-decoration",
    "white-space",
}
OWN = {"opacity", "display", "transform", "stop-color", "stop-opacity", "clip-path", "mask", "filter", "mix-blend-mode"}
OWN |= {
    "marker-start",
    "marker-mid",
    "marker-end",
    "overflow",
    "dominant-baseline",
    "alignment-baseline",
    "baseline-shift",
}
OWN |= {"flood-color", "flood-opacity", "color-interpolation-filters"}
GEOMETRY = {"x", "y", "width", "height", "rx", "ry", "cx", "cy", "r", "d"}
"""What sheets may tell as attributes do. Where an element has the attribute alone, it is asked for that."""
_SHORT = {"text-decoration-line": "text-decoration", "font-variant-caps": "font-variant", "marker": "marker-end"}
"""What comes to the same as something else here."""
_KNOWN = HANDED_DOWN | OWN | GEOMETRY | set(_SHORT)
_VARIABLE = re.compile(r"var\(\s*(--[\w-]+)\s*(?:,((?:[^()]|\([^()]*\))*))?\)")

MOST_SELECTORS = 2000
_DEEPEST, _LONGEST = 8, 10_000
"""Variables in variables, and letters of a value with variables: what goes further is not told."""

_LENGTH = re.compile(
    r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(px|pt|pc|mm|cm|in|em|ex|rem|q|%)?\s*$", re.IGNORECASE
)
_PIXELS = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "q": 96 / 101.6}

_REFERRED = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)\s*(.*)$", re.IGNORECASE)

Style = dict[str, str]
Colour = tuple[float, float, float, float]


def across(wide: float, high: float) -> float:
    """What shares of lengths in no direction are taken of, in a viewport of that size."""
    return math.hypot(wide, high) / math.sqrt(2)


def referred(text: str) -> tuple[str, str] | None:
    """The id of what a value refers to in its own file, and what stands behind that; None for a value that refers to
    nothing."""
    match = _REFERRED.match(text.strip())
    return (match[1], match[2]) if match else None


def length(text: str | None, whole: float = 0.0, default: float = 0.0, em: float = 16.0) -> float:
    """A length in px; a share is taken of `whole`. The default where there is none, or one that makes no sense."""
    match = _LENGTH.match(text or "")
    if not match:
        return default
    value, unit = float(match[1]), (match[2] or "").lower()
    factor = whole / 100 if unit == "%" else em if unit in ("em", "rem") else em / 2 if unit == "ex" else _PIXELS[unit]
    made = value * factor
    return made if math.isfinite(made) and abs(made) < 1e7 else default


def colour(text: str, current: str = "black") -> Colour | None:
    """r, g, b, a in 0..1 of a CSS colour; None for what is none."""
    plain = text.strip()
    if plain.lower() == "currentcolor":
        plain = current
    if plain.lower() in ("transparent", "none"):
        return (0.0, 0.0, 0.0, 0.0)
    try:
        found: Any = parse_color(plain)
    except Exception:  # whatever a colour of the future brings
        return None
    if found is None or isinstance(found, str):
        return None
    try:
        red, green, blue, alpha = found if isinstance(found, RGBA) else (*found.to("srgb").coordinates, found.alpha)
    except Exception:
        return None
    told = [float(v or 0) for v in (red, green, blue, alpha)]
    if not all(map(math.isfinite, told)):
        return None
    r, g, b, a = (min(max(v, 0.0), 1.0) for v in told)
    return r, g, b, a


def share(text: str | None, default: float = 1.0) -> float:
    """A number from 0 to 1, or a percentage."""
    if text is None:
        return default
    plain = text.strip()
    try:
        value = float(plain[:-1]) / 100 if plain.endswith("%") else float(plain)
    except ValueError:
        return default
    return min(max(value, 0.0), 1.0) if math.isfinite(value) else default


@lru_cache(maxsize=1024)
def declarations(text: str) -> tuple[tuple[str, str, bool], ...]:
    """Name, value and importance of the declarations of a style attribute that are known here."""
    found = []
    for one in tinycss2.parse_blocks_contents(text, skip_comments=True, skip_whitespace=True):
        if one.type == "declaration" and (one.lower_name in _KNOWN or one.name.startswith("--")):
            name = one.name if one.name.startswith("--") else _SHORT.get(one.lower_name, one.lower_name)
            found.append((name, tinycss2.serialize(one.value).strip(), one.important))
        elif one.type == "declaration" and one.lower_name == "font":
            found += [(name, value, one.important) for name, value in _font(one.value)]
    return tuple(found)


def _font(value: Any) -> list[tuple[str, str]]:
    """What the short way of telling a font tells: its size and family, how heavy it is, and whether it leans."""
    told = [one for one in value if one.type != "comment"]
    at = next((k for k, one in enumerate(told) if one.type in ("dimension", "percentage")), None)
    if at is None:
        return []
    found = [("font-size", tinycss2.serialize([told[at]])), ("font-style", "normal"), ("font-weight", "normal")]
    for one in told[:at]:
        word = tinycss2.serialize([one]).strip().lower()
        if word in ("italic", "oblique"):
            found[1] = ("font-style", word)
        elif word in ("bold", "bolder", "lighter") or one.type == "number":
            found[2] = ("font-weight", word)
        elif word == "small-caps":
            found.append(("font-variant", word))
    rest = tinycss2.serialize(told[at + 1 :]).strip()
    family = re.sub(r"^/\s*\S+\s*", "", rest)
    return [*found, ("font-family", family)] if family else found


def resolved(style: Style) -> Style:
    """A style with its variables put in; what names one that is not there, and has nothing instead, is not told."""

    def put(match: re.Match[str]) -> str:
        return style.get(match[1], match[2].strip() if match[2] is not None else "var(none)")

    made: Style = {}
    for name, value in style.items():
        for _ in range(_DEEPEST):
            if "var(" not in value or len(value) > _LONGEST or name.startswith("--"):
                break
            value = _VARIABLE.sub(put, value)
        if "var(" not in value or name.startswith("--"):
            made[name] = value
    return made


@dataclass
class Sheets:
    """All style sheets of a file."""

    matcher: cssselect2.Matcher = field(default_factory=cssselect2.Matcher)
    remarks: set[str] = field(default_factory=set)
    count: int = 0
    """How many selectors there are."""

    def add(self, text: str) -> None:
        """One more sheet. Rules that are not read are remarked on."""
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            if rule.type == "at-rule":
                self.remarks.add(f"@{rule.lower_at_keyword} in a style sheet")
            elif rule.type == "qualified-rule":
                found = declarations(tinycss2.serialize(rule.content))
                try:
                    for selector in cssselect2.compile_selector_list(rule.prelude):
                        if self.count == MOST_SELECTORS:
                            self.remarks.add(f"more than {MOST_SELECTORS:,} selectors")
                            return
                        self.matcher.add_selector(selector, found)
                        self.count += 1
                except cssselect2.SelectorError:
                    self.remarks.add("a selector in a style sheet")

    def style_of(self, element: "cssselect2.ElementWrapper", node: Element, handed: Style) -> Style:
        """How an element is dressed: what is handed down, its attributes, the sheets, its style attribute."""
        own: Style = {name: value for name, value in node.attrib.items() if name in _KNOWN and name not in GEOMETRY}
        weighty: Style = {}
        for match in sorted(self.matcher.match(element), key=lambda one: one[:2]) if self.count else ():
            for name, value, important in match[3]:
                (weighty if important else own)[name] = value
        for name, value, important in declarations(node.get("style") or ""):
            if important or name not in weighty:
                own[name] = value
        own |= {name: value for name, value in weighty.items() if name not in own or name in weighty}
        made = {name: value for name, value in handed.items() if name in HANDED_DOWN or name.startswith("--")}
        for name, value in own.items():
            if value == "inherit":
                if name in handed:
                    made[name] = handed[name]
            elif value not in ("initial", "unset"):
                made[name] = value
            elif name in made and name in HANDED_DOWN and value == "initial":
                del made[name]
        return resolved(made) if any("var(" in value for value in made.values()) else made
