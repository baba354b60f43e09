"""Processes that work for this one and go with it."""

from .beside import Beside, Ended
from .with_parent import leave_with

__all__ = ["Beside", "Ended", "leave_with"]
