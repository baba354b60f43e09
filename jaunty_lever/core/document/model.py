"""The base of every document model: frozen, strict about its fields, cheap to change by copy."""

from functools import cached_property
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Model(BaseModel):
    """An immutable document node. Changes make a copy that shares everything else."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, ignored_types=(cached_property,))

    def changed(self, **updates: Any) -> Self:
        """A copy with some fields replaced; values derived from the old fields are forgotten."""
        copy = self.model_copy(update=updates)
        fields = type(self).model_fields
        for name in [name for name in copy.__dict__ if name not in fields]:
            del copy.__dict__[name]
        return copy


Route = tuple[str | int, ...]


def at_route(node: Any, route: Route) -> Any:
    """The node that `route` (field names and list positions) leads to."""
    for step in route:
        node = node[step] if isinstance(step, int) else getattr(node, step)
    return node


def with_route(node: Any, route: Route, value: Any) -> Any:
    """`node` with what stands at `route` replaced; everything off the route is shared."""
    if not route:
        return value
    step, rest = route[0], route[1:]
    if isinstance(step, int):
        return (*node[:step], with_route(node[step], rest, value), *node[step + 1 :])
    return node.changed(**{step: with_route(getattr(node, step), rest, value)})
