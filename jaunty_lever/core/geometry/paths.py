"""SVG path data as outlines."""

from functools import lru_cache

from fontTools.svgLib.path import parse_path

from .outline import Outline, OutlinePen


@lru_cache(maxsize=512)
def path_outline(data: str) -> Outline:
    """The outline of SVG path data (arcs become cubics).

    Raises ValueError with a sentence for the artist when the data cannot be read.
    """
    pen = OutlinePen()
    try:
        parse_path(data, pen)
    except Exception as error:
        raise ValueError(
            f"This is not SVG path data: {error or 'it breaks off'}. It begins like M 0 0 L 40 20."
        ) from None
    outline = pen.outline()
    if not outline.verbs.startswith("M") or abs(outline.points).max() > 1e6:
        raise ValueError("SVG path data begins with a move, such as M 0 0, and stays within a million pixels.")
    return outline
