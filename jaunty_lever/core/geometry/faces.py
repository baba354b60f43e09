"""Faces of fonts, ready to be shaped: those that ship with the program, and those that projects keep."""

import io
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from unicodedata import combining

import uharfbuzz as hb
from fontTools.ttLib import TTFont

from ..document.fonts import bytes_of

SHIPPED = {
    "Bricolage Grotesque": "bricolage-grotesque",
    "Instrument Sans": "instrument-sans",
    "Martian Mono": "martian-mono",
}
_STANDING_IN = "Instrument Sans"
_PARTS = ("latin", "latin-ext")


@dataclass(frozen=True)
class FaceName:
    """Where a face is found: a shipped family's part, or a font that a project keeps (its id)."""

    family: str
    part: str = ""


@lru_cache(maxsize=32)
def face_of(name: FaceName) -> "hb.Face | None":
    """A face by name; None for a font that no open project keeps."""
    if name.part:
        whole = (
            files("jaunty_lever").joinpath(f"web/static/fonts/{SHIPPED[name.family]}-{name.part}.woff2").read_bytes()
        )
    else:
        found = bytes_of(name.family)
        if found is None:
            return None
        whole = found
    return hb.Face(unpacked(whole))


def unpacked(content: bytes) -> bytes:
    """A font file's tables as they lie in TrueType and OpenType files, whatever it is packed as."""
    if content[:4] != b"wOF2":
        return content
    font = TTFont(io.BytesIO(content))
    font.flavor = None
    plain = io.BytesIO()
    font.save(plain)
    return plain.getvalue()


@lru_cache(maxsize=64)
def font_of(name: FaceName, weight: float) -> "hb.Font | None":
    """A face at a weight; one that has but one weight stays as it is."""
    face = face_of(name)
    if face is None:
        return None
    font = hb.Font(face)
    font.set_variations({"wght": weight})
    return font


def weights_of(family: str) -> tuple[float, float] | None:
    """The least and the greatest weight of a family; None when it has but one."""
    face = face_of(names_of(family)[0])
    axis = next((one for one in face.axis_infos if one.tag == "wght"), None) if face is not None else None
    return (axis.min_value, axis.max_value) if axis is not None else None


def names_of(family: str) -> tuple[FaceName, ...]:
    """The faces that letters of a family are looked for in, the first one first."""
    shipped = tuple(FaceName(family if family in SHIPPED else _STANDING_IN, part) for part in _PARTS)
    own = FaceName(family)
    return shipped if family in SHIPPED or face_of(own) is None else (own, *shipped)


def runs(family: str, text: str) -> list[tuple[FaceName, str]]:
    """A text cut where another face takes over; letters that none of them knows stay in the first one.

    A mark goes with the letter that it stands on.
    """
    names = names_of(family)
    made: list[tuple[FaceName, str]] = []
    for letter in text:
        if made and (combining(letter) or letter in _JOINERS):
            made[-1] = (made[-1][0], made[-1][1] + letter)
            continue
        name = next((one for one in names if _has(one, letter)), names[0])
        if made and made[-1][0] == name:
            made[-1] = (name, made[-1][1] + letter)
        else:
            made.append((name, letter))
    return made


_JOINERS = "\u200c\u200d\ufe0e\ufe0f"


def _has(name: FaceName, letter: str) -> bool:
    font = font_of(name, 400.0)
    return font is not None and font.get_nominal_glyph(ord(letter)) is not None


def lacking(family: str, text: str) -> str:
    """The letters of a text that no face of a family knows, each once."""
    return _lacking(names_of(family), text)


@lru_cache(maxsize=1024)
def _lacking(names: tuple[FaceName, ...], text: str) -> str:
    bare = (one for one in dict.fromkeys(text) if not one.isspace() and one not in _JOINERS and one.isprintable())
    return "".join(one for one in bare if not any(_has(name, one) for name in names))
