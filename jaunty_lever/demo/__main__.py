"""Writes the sample project's file anew: python -m jaunty_lever.demo."""

from pathlib import Path

from jaunty_lever.formats.project_file import read, write

from . import FILE
from .quay import build

text = write(build())
# What cannot be read again must not replace what can.
read(text.encode())
Path(__file__).with_name(FILE).write_text(text, encoding="utf-8")
