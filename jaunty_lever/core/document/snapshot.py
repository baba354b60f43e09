"""Snapshots: named sets of lever values."""

from pydantic import Field

from .ids import Id, OneLine
from .keys import Value
from .model import Model


class Snapshot(Model):
    """What levers stood at, by lever id. A lever that has gone since is passed over; undo may bring it back."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=80)
    values: dict[str, Value] = Field(default_factory=dict, max_length=500)
