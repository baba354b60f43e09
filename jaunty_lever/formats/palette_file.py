"""Palettes from files: the text form .gpl (a line for each colour: red, green, blue, name) and JSON lists of
colours."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from jaunty_lever.core.document.colours import hex_colour, parse_colour
from jaunty_lever.core.document.ids import one_line
from jaunty_lever.core.document.palettes import MOST_COLOURS, Swatch

from .open_json import BadFile, load

MOST_BYTES = 4 << 20
_HEAD = re.compile(rb"\A(?:\xef\xbb\xbf)?\s*[A-Za-z]+ Palette\s*\r?\n")
_LINE = re.compile(r"(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s+(.*))?")
_COLOUR_NAMES = ("colour", "color", "hex", "value")


@dataclass
class PaletteRead:
    """What a file held: its own name, if it tells one, its colours, and what was not read, a sentence for each kind."""

    name: str
    colours: tuple[Swatch, ...]
    remarks: list[str] = field(default_factory=list)


def recognised(content: bytes, name: str = "") -> bool:
    """Whether a file's content looks like a palette."""
    if _HEAD.match(content[:400]) or name.lower().endswith(".gpl"):
        return True
    start = content[:4000].lstrip(b"\xef\xbb\xbf \r\n\t")
    if not start.startswith((b"[", b"{")) or len(content) > MOST_BYTES:
        return False
    try:
        data = load(content, MOST_BYTES)
    except BadFile:
        return False
    listed = _listed(data)
    return bool(listed) and _colour(listed[0]) is not None


def read(content: bytes) -> PaletteRead:
    """The palette in a file's content. Raises BadFile."""
    if len(content) > MOST_BYTES:
        raise BadFile(f"The file has {len(content) / 1e6:.0f} MB; palettes of up to {MOST_BYTES >> 20} MB come in.")
    if not content.strip():
        raise BadFile("The file is empty.")
    start = content.lstrip(b"\xef\xbb\xbf \r\n\t")
    made = _from_json(content) if start.startswith((b"[", b"{")) else _from_lines(content)
    if not made.colours:
        raise BadFile("There is no colour in the file.")
    if len(made.colours) > MOST_COLOURS:
        made.remarks.append(f"Of its {len(made.colours):,} colours the first {MOST_COLOURS:,} are in")
        made.colours = made.colours[:MOST_COLOURS]
    return made


def _from_lines(content: bytes) -> PaletteRead:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    if "\0" in text:
        raise BadFile("This is no palette: .gpl and JSON lists of colours come in.")
    name, colours, odd = "", [], 0
    for number, line in enumerate(text.splitlines()):
        line = line.strip()
        if not line or line.startswith("#") or (number == 0 and line.endswith("Palette")):
            continue
        label, colon, rest = line.partition(":")
        found = _LINE.fullmatch(line)
        if found and all(int(part) <= 255 for part in found.groups()[:3]):
            told = one_line(found[4] or "")[:120].strip()
            plain = "" if told.lower() == "untitled" else told
            rgba = (*(int(part) / 255 for part in found.groups()[:3]), 1.0)
            colours.append(Swatch(colour=hex_colour(rgba), name=plain))
        elif colon and label.isalpha():
            name = one_line(rest).strip() if label == "Name" else name
        else:
            odd += 1
    made = PaletteRead(name[:120], tuple(colours))
    if odd:
        made.remarks.append(
            f"{odd} line{'s' if odd != 1 else ''} that tell{'s' if odd == 1 else ''} no colour left out"
        )
    return made


def _listed(data: Any) -> list[Any]:
    found = (
        next((data[n] for n in ("colours", "colors") if isinstance(data.get(n), list)), None)
        if isinstance(data, dict)
        else data
    )
    return found if isinstance(found, list) else []


def _colour(entry: Any) -> Swatch | None:
    """The colour that an entry of a list tells; None for what is none."""
    name = ""
    if isinstance(entry, Mapping):
        name = one_line(str(entry.get("name", "")))[:120].strip()
        entry = next((entry[n] for n in _COLOUR_NAMES if n in entry), None)
    if isinstance(entry, list) and len(entry) in (3, 4) and all(type(one) in (int, float) for one in entry):
        over = 255 if any(one > 1 for one in entry[:3]) else 1
        rgba = [one / over for one in entry[:3]] + [entry[3] if len(entry) == 4 else 1.0]
        return Swatch(colour=hex_colour(rgba), name=name)
    if not isinstance(entry, str):
        return None
    try:
        return Swatch(
            colour=hex_colour(parse_colour(entry.strip() if entry.strip().startswith("#") else f"#{entry.strip()}")),
            name=name,
        )
    except ValueError:
        return None


def _from_json(content: bytes) -> PaletteRead:
    data = load(content, MOST_BYTES)
    entries = _listed(data)
    if not entries:
        raise BadFile('There is no list of colours in the file: ["#1f6f78", …], or “colours” with such a list.')
    name = one_line(str(data.get("name", "")))[:120].strip() if isinstance(data, dict) else ""
    found = [_colour(one) for one in entries]
    made = PaletteRead(name, tuple(one for one in found if one is not None))
    odd = sum(one is None for one in found)
    if odd:
        made.remarks.append(
            f"{odd} entr{'ies' if odd != 1 else 'y'} that {'are' if odd != 1 else 'is'} no colour left out"
        )
    return made
