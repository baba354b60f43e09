"""The gate: whether a project holds together. Every edit, file, recipe and paste goes through it."""

from .gate import added_problems, problems, recipe_problems, stand_ins
from .problem import Problem

__all__ = ["Problem", "added_problems", "problems", "recipe_problems", "stand_ins"]
