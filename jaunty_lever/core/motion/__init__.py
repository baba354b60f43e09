"""Modifiers, one file each. A new one is added here, to the union, and nowhere else."""

from typing import Annotated, Union, get_args

from pydantic import Field

from ..document.layers import ArrayLayer, Group, Layer
from ..document.modifier import Modifier
from ..document.parameter import Parameter
from ..document.recipe import Recipe
from .adjust import Adjust
from .between import Between
from .bounce import Bounce
from .cam import Cam
from .cells import Cells
from .crossing import Crossing
from .figure import Figure
from .flicker import Flicker
from .follow import Follow
from .formula import Formula
from .gear import Gear
from .hold_steps import HoldSteps
from .labels import Labels
from .limit import Limit
from .loop import Loop
from .noise import Noise
from .overshoot import Overshoot
from .push import Push
from .rate import Rate
from .readout import Readout
from .remap import Remap
from .rounded import Round
from .shift import Shift
from .smooth import Smooth
from .steer import Steer
from .stops import Stops
from .wave import Wave
from .wiggle import Wiggle

_Any = Union[
    Wiggle,
    Noise,
    Flicker,
    Wave,
    Rate,
    Loop,
    Bounce,
    Overshoot,
    Figure,
    Crossing,
    Follow,
    Gear,
    Stops,
    Steer,
    Cam,
    Between,
    Remap,
    Limit,
    Adjust,
    Round,
    HoldSteps,
    Shift,
    Smooth,
    Push,
    Readout,
    Labels,
    Cells,
    Formula,
]
AnyModifier = Annotated[_Any, Field(discriminator="kind")]

MODIFIERS: dict[str, type[Modifier]] = {cls.model_fields["kind"].default: cls for cls in get_args(_Any)}

Parameter.model_rebuild(_types_namespace={"AnyModifier": AnyModifier})
for _holder in (Group, ArrayLayer):
    _holder.model_rebuild(_types_namespace={"Layer": Layer})
Recipe.model_rebuild()

__all__ = [
    "MODIFIERS",
    "Adjust",
    "AnyModifier",
    "Between",
    "Cam",
    "Cells",
    "Figure",
    "Flicker",
    "Follow",
    "Formula",
    "Gear",
    "Labels",
    "Noise",
    "Push",
    "Rate",
    "Readout",
    "Remap",
    "Round",
    "Shift",
    "Steer",
    "Stops",
    "Wave",
    "Wiggle",
]
