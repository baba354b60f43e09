"""Runs all benchmarks: python -m bench."""

from . import (
    arrays,
    clips,
    core,
    depth,
    drawing,
    edges,
    elements,
    large,
    linkage,
    motion,
    pulls,
    sparks,
    waiting,
    ways,
    web,
)

core.wiggle()
core.scene()
core.lever()
motion.modifiers()
motion.chain()
motion.formulas()
motion.large()
elements.many()
arrays.evaluation()
sparks.everything()
edges.everything()
drawing.everything()
clips.everything()
depth.everything()
linkage.train()
linkage.loops()
large.everything()
pulls.everything()
ways.everything()
core.start_up()
waiting.looks()
web.everything()
