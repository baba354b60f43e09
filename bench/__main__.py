"""Runs all benchmarks: python -m bench."""

from . import core, web

core.wiggle()
core.scene()
core.lever()
core.start_up()
web.everything()
