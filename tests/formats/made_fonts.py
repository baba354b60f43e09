"""Small fonts made for tests: squares for letters, in every form that comes in."""

import io
import struct

import brotli
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.pens.ttGlyphPen import TTGlyphPen

HIGH = {"A": 700, "B": 350}
"""How high the square of each letter is, in a thousandth of the size; its width is 500."""


def squares(name: str = "Quay Squares", form: str = "ttf") -> bytes:
    """A font of two letters, the same bytes whenever it is made: `form` is ttf, otf or woff2."""
    plain = form != "otf"
    made = FontBuilder(1000, isTTF=plain)
    made.updateHead(created=3_800_000_000, modified=3_800_000_000)
    made.setupGlyphOrder([".notdef", *HIGH])
    made.setupCharacterMap({ord(letter): letter for letter in HIGH})
    pens = {letter: TTGlyphPen(None) if plain else T2CharStringPen(600, None) for letter in (".notdef", *HIGH)}
    for letter, pen in pens.items():
        high = HIGH.get(letter, 500)
        pen.moveTo((50, 0))
        for point in ((550, 0), (550, high), (50, high)):
            pen.lineTo(point)
        pen.closePath()
    if plain:
        made.setupGlyf({letter: pen.glyph() for letter, pen in pens.items()})
    else:
        made.setupCFF("QuaySquares", {}, {letter: pen.getCharString() for letter, pen in pens.items()}, {})
    made.setupHorizontalMetrics(dict.fromkeys(pens, (600, 50)))
    made.setupHorizontalHeader(ascent=800, descent=-200)
    made.setupNameTable({"familyName": name, "styleName": "Regular", "fullName": name})
    made.setupOS2()
    made.setupPost()
    if form == "woff2":
        made.font.flavor = "woff2"
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


def bomb(megabytes: int) -> bytes:
    """A WOFF2 of a few hundred bytes that says little of itself and unfolds to so much."""
    packed = brotli.compress(bytes(megabytes << 20), quality=9)
    entry = bytes([0x3F & 1]) + bytes([100])
    head = struct.pack(
        ">4s4sIHHIIHHIIIII",
        b"wOF2",
        b"\0\1\0\0",
        48 + len(entry) + len(packed),
        1,
        0,
        1000,
        len(packed),
        1,
        0,
        0,
        0,
        0,
        0,
        0,
    )
    return head + entry + packed
