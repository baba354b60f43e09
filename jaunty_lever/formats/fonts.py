"""Font files brought in: TrueType, OpenType and WOFF2, looked into before they are kept."""

import base64
import io
import logging

import brotli
import uharfbuzz as hb
from fontTools.ttLib import TTFont, woff2
from fontTools.ttLib.woff2 import WOFF2DirectoryEntry

from jaunty_lever.core.document.fonts import Font, font_id
from jaunty_lever.core.document.ids import one_line
from jaunty_lever.core.geometry.faces import unpacked

from .open_json import BadFile

MOST_BYTES = 24 << 20
MOST_UNPACKED = 64 << 20
ENDINGS = (".ttf", ".otf", ".woff2")
_PLAIN = (b"\0\1\0\0", b"OTTO", b"true")
_PACKED = b"wOF2"
_OUTLINES = ("glyf", "CFF ", "CFF2")
_TRIED = "Aa0."

# What it finds odd in a font is told as a sentence, or does not matter.
logging.getLogger("fontTools").setLevel(logging.CRITICAL)

_sound: dict[str, None] = {}


def recognised(content: bytes) -> bool:
    """Whether a file's content looks like a font."""
    return content[:4] in (*_PLAIN, _PACKED, b"ttcf", b"wOFF")


def take_in(content: bytes, name: str = "") -> Font:
    """The font in a file's content, called as it calls itself, else by `name`. Raises BadFile."""
    own = _looked_into(content)
    stem = name.replace("\\", "/").rpartition("/")[2].rpartition(".")[0]
    called = one_line(own or stem or name or "Font")[:120].strip() or "Font"
    return Font(id=font_id(content), name=called, data=base64.b64encode(content).decode())


def problem(font: Font) -> str | None:
    """What is wrong with a font that came in a project file or from a program; None when it is sound."""
    try:
        content = base64.b64decode(font.data, validate=True)
    except ValueError:
        return "its data is damaged."
    if font.id != font_id(content):
        return "its id is not that of its data."
    if font.id in _sound:
        return None
    try:
        _looked_into(content)
    except BadFile as error:
        return str(error)
    _sound[font.id] = None
    while len(_sound) > 500:
        del _sound[next(iter(_sound))]
    return None


def _looked_into(content: bytes) -> str:
    """The name that a sound font calls itself. Raises BadFile."""
    if len(content) > MOST_BYTES:
        raise BadFile(f"The font has {len(content) / 1e6:.0f} MB; fonts of up to {MOST_BYTES >> 20} MB come in.")
    if not content:
        raise BadFile("The file is empty.")
    if content[:4] == b"ttcf":
        raise BadFile("This is a collection of several fonts. Take one out of it and bring that in.")
    if content[:4] == b"wOFF":
        raise BadFile("This is a WOFF font; TTF, OTF and WOFF2 come in. Bring in the TTF or OTF that it was made of.")
    if content[:4] not in (*_PLAIN, _PACKED):
        raise BadFile("This is no font: TTF, OTF and WOFF2 come in.")
    try:
        if content[:4] == _PACKED:
            _weigh(content)
        plain = unpacked(content)
        font = TTFont(io.BytesIO(plain), lazy=True)
        if not any(table in font for table in _OUTLINES):
            raise BadFile("This font has no outlines: it holds pictures, which texts cannot be made of.")
        name = str(font["name"].getBestFullName() or "") if "name" in font else ""
        _try(plain)
    except BadFile:
        raise
    except MemoryError:
        raise BadFile("The font is too large for this machine.") from None
    except Exception:  # readers of fonts raise whatever they like on what is broken
        raise BadFile("The font is damaged or breaks off.") from None
    return name


def _try(plain: bytes) -> None:
    """Set a few letters. Raises BadFile when the font gives none."""
    face = hb.Face(plain)
    if not face.glyph_count or not face.unicodes:
        raise BadFile("The font is damaged: it has no letters.")
    font, drawn = hb.Font(face), 0
    for letter in (*map(ord, _TRIED), *list(face.unicodes)[:8]):
        glyph = font.get_nominal_glyph(letter)
        if glyph is not None:
            funcs = hb.DrawFuncs()
            font.draw_glyph(glyph, funcs)
            drawn += 1
    if not drawn:
        raise BadFile("The font is damaged: it has no letters.")


def _weigh(content: bytes) -> None:
    """Raises BadFile when a WOFF2 unfolds to more than it should."""
    file = io.BytesIO(content)
    head: dict[str, int] = {}
    woff2.sstruct.unpack(woff2.woff2DirectoryFormat, file.read(woff2.woff2DirectorySize), head)
    told = head["totalSfntSize"]
    for _ in range(head["numTables"]):
        entry = WOFF2DirectoryEntry()
        entry.fromFile(file)
        told = max(told, entry.origLength)
    too_much = BadFile(f"The font unfolds to more than {MOST_UNPACKED >> 20} MB, the most that is taken in.")
    if told > MOST_UNPACKED:
        raise too_much
    unpacker, held = brotli.Decompressor(), 0
    waiting = file.read(head["totalCompressedSize"])
    while not unpacker.is_finished():
        part = unpacker.process(waiting, output_buffer_limit=1 << 20)
        held += len(part)
        if held > MOST_UNPACKED:
            raise too_much
        if not part and unpacker.can_accept_more_data():
            break
        waiting = b""
