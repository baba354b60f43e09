"""Colours as CSS hexadecimal text and as four numbers r, g, b, a in 0..1 (sRGB)."""

import re
from collections.abc import Sequence

_HEX = re.compile(r"^#(?:[0-9a-fA-F]{3,4}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})$")


def parse_colour(text: str) -> tuple[float, float, float, float]:
    """r, g, b, a of `#rgb`, `#rgba`, `#rrggbb` or `#rrggbbaa`.

    Raises ValueError with a sentence for the artist when the text is no such colour.
    """
    if not _HEX.match(text):
        raise ValueError(f"“{text[:40]}” is not a colour. Write it like #e0b050.")
    digits = text[1:]
    if len(digits) <= 4:
        digits = "".join(d * 2 for d in digits)
    if len(digits) == 6:
        digits += "ff"
    r, g, b, a = (int(digits[k : k + 2], 16) / 255 for k in (0, 2, 4, 6))
    return r, g, b, a


def hex_colour(rgba: Sequence[float]) -> str:
    """The nearest `#rrggbb` (or `#rrggbbaa` when not opaque) of r, g, b, a; clamped to 0..1."""
    parts = [round(min(max(float(v), 0.0), 1.0) * 255) for v in rgba]
    text = "".join(f"{v:02x}" for v in parts)
    return "#" + (text[:6] if parts[3] == 255 else text)
