"""Lottie animations that come in, as layers with keys."""

from .animation import MOST_BYTES, LottieDrawing, read

__all__ = ["MOST_BYTES", "LottieDrawing", "read"]
