"""Processes that work for this one and go with it."""

from .beside import Beside, Ended
from .memory import hold_to
from .with_parent import leave_with
from .worker import Worker

__all__ = ["Beside", "Ended", "Worker", "hold_to", "leave_with"]
