"""SVG files as layers. Nothing is run and nothing is fetched; what is not read is named."""

from .drawing import MOST_BYTES, SvgDrawing, read

__all__ = ["MOST_BYTES", "SvgDrawing", "read"]
