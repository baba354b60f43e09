"""Modifiers, one file each. A new one is added here, to the union, and nowhere else."""

from typing import Annotated, Union

from pydantic import Field

from ..document.layers import Group, Layer
from ..document.parameter import Modifier, Parameter
from .follow import Follow
from .wiggle import Wiggle

AnyModifier = Annotated[Union[Wiggle, Follow], Field(discriminator="kind")]

MODIFIERS: dict[str, type[Modifier]] = {cls.model_fields["kind"].default: cls for cls in (Wiggle, Follow)}

Parameter.model_rebuild(_types_namespace={"AnyModifier": AnyModifier})
Group.model_rebuild(_types_namespace={"Layer": Layer})

__all__ = ["MODIFIERS", "AnyModifier", "Follow", "Wiggle"]
