"""Writes the sample project's file anew: python -m jaunty_lever.demo."""

import sys
from pathlib import Path

from jaunty_lever.formats.project_file import read, write

from . import FILE, screens
from .quay import build

if "film" in sys.argv:
    Path(__file__).with_name(screens.FILM).write_bytes(screens.film())
text = write(build())
# What cannot be read again must not replace what can.
read(text.encode())
Path(__file__).with_name(FILE).write_text(text, encoding="utf-8")
