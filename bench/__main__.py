"""Runs all benchmarks: python -m bench."""

from . import core, elements, large, linkage, motion, web

core.wiggle()
core.scene()
core.lever()
motion.modifiers()
motion.chain()
motion.formulas()
motion.large()
elements.many()
linkage.train()
linkage.loops()
large.everything()
core.start_up()
web.everything()
