"""Runs all benchmarks: python -m bench."""

from . import core, motion, web

core.wiggle()
core.scene()
core.lever()
motion.modifiers()
motion.chain()
motion.formulas()
motion.large()
core.start_up()
web.everything()
