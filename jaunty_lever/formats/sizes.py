"""How large what comes in may be."""

MOST_PROJECT = 256 << 20
"""Bytes of a project file."""
