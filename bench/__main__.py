"""Runs all benchmarks: python -m bench."""

from . import arrays, core, elements, large, linkage, motion, ways, web

core.wiggle()
core.scene()
core.lever()
motion.modifiers()
motion.chain()
motion.formulas()
motion.large()
elements.many()
arrays.evaluation()
linkage.train()
linkage.loops()
large.everything()
ways.everything()
core.start_up()
web.everything()
