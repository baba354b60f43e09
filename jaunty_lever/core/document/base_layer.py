"""What every layer has."""

from typing import ClassVar

from pydantic import Field

from .compositing import BLENDS, AnyFilter, Matte
from .ids import Id, OneLine
from .model import Model
from .parameter import Parameter, spec


class BaseLayer(Model):
    """What every layer has. It turns and scales about its pivot, which `position` places in its parent."""

    title: ClassVar[str] = ""
    idle: ClassVar[frozenset[str]] = frozenset()
    """Parameters that mean nothing to a kind of layer; they are not shown."""
    drawn: ClassVar[bool] = True
    """Whether it is something to look at."""

    id: Id
    kind: str
    name: OneLine = Field(min_length=1, max_length=120)
    hidden: bool = False
    position: Parameter = spec((0.0, 0.0), "vector", unit="px", label="Position", step=1)
    rotation: Parameter = spec(0.0, "angle", label="Rotation", step=1)
    scale: Parameter = spec((100.0, 100.0), "vector", unit="%", label="Scale", step=1)
    pivot: Parameter = spec((0.0, 0.0), "vector", unit="px", label="Pivot", step=1)
    depth: Parameter = spec(
        0.0,
        "length",
        label="Depth",
        help="How much nearer to the viewer, or further away.",
        low=-800,
        high=800,
        step=1,
        deep=True,
    )
    tilt: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="°",
        label="Tilt",
        help="Turned about its own x axis, and about its y axis.",
        step=1,
        deep=True,
    )
    opacity: Parameter = spec(100.0, "percentage", label="Opacity", low=0, high=100, step=1, ends=(0, 100))
    blend: Parameter = spec(
        "normal", "choice", label="Blend", help="How it is laid over what is below it.", options=BLENDS
    )
    stays: bool = Field(default=False, description="Whether it stays on the stage, where the scene has a camera.")
    blurs: bool = Field(default=True, description="Whether its motion blurs, where the scene's does.")
    filters: tuple[AnyFilter, ...] = ()
    matte: Matte | None = Field(default=None, description="Where the layer shows, if not everywhere.")

    @property
    def shown(self) -> bool:
        """Whether it is drawn."""
        return self.drawn and not self.hidden
