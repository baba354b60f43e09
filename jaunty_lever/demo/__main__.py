"""Writes the sample project's file anew: python -m jaunty_lever.demo."""

from pathlib import Path

from jaunty_lever.formats.project_file import write

from . import FILE
from .quay import build

Path(__file__).with_name(FILE).write_text(write(build()), encoding="utf-8")
