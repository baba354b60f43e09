"""Everything in a document that has an id of its own."""

from typing import Any

from .base_layer import BaseLayer
from .compositing import Filter
from .fills import Stop
from .gauge import Gauge
from .keys import Key
from .lever import Lever
from .model import Model
from .modifier import Modifier
from .parameter import Parameter
from .scene import Scene
from .snapshot import Snapshot


def owners(node: Any) -> list[Any]:
    """Everything with an id of its own inside a document node, the node itself included."""
    if isinstance(node, Parameter):
        # Of what a value is made of only its modifiers have ids, and most values have none.
        return [one for modifier in node.chain for one in owners(modifier)]
    found = [node] if isinstance(node, BaseLayer | Stop | Lever | Modifier | Scene | Snapshot | Gauge | Filter) else []
    if isinstance(node, Model):
        for name in type(node).model_fields:
            found += owners(getattr(node, name))
    elif isinstance(node, dict):
        for part in node.values():
            found += owners(part)
    elif isinstance(node, tuple) and node and not isinstance(node[0], Key | str | float | int):
        for part in node:
            found += owners(part)
    return found
