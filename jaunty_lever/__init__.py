"""Jaunty Lever: procedural motion that is steered, not keyed frame by frame."""

__version__ = "0.1.0"
