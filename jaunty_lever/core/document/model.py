"""The base of every document model: frozen, strict about its fields, cheap to change by copy."""

from functools import cached_property
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Model(BaseModel):
    """An immutable document node. Changes make a copy that shares everything else."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, ignored_types=(cached_property,))

    def __eq__(self, other: object) -> bool:
        """Whether all fields are equal. What has been derived from them, and is kept beside them, may hold arrays,
        which have no say."""
        if self is other:
            return True
        if type(self) is not type(other):
            return NotImplemented
        mine, theirs = self.__dict__, other.__dict__
        return all(mine[n] is theirs[n] or mine[n] == theirs[n] for n in type(self).model_fields)

    def __hash__(self) -> int:
        own = self.__dict__
        return hash((type(self), *(own[name] for name in type(self).model_fields)))

    @classmethod
    def of_fields(cls, **fields: Any) -> Self:
        """One of fields that are known to fit, all of them; nothing is looked at, of which there may be 100,000."""
        made = cls.__new__(cls)
        object.__setattr__(made, "__dict__", fields)
        object.__setattr__(made, "__pydantic_fields_set__", set(fields))
        object.__setattr__(made, "__pydantic_extra__", None)
        object.__setattr__(made, "__pydantic_private__", None)
        return made

    def changed(self, **updates: Any) -> Self:
        """A copy with some fields replaced; values derived from the old fields are forgotten."""
        # What model_copy does, without looking for parts that no document node has: edits make thousands of copies.
        cls, own = type(self), self.__dict__
        copy = cls.__new__(cls)
        kept = {name: own[name] for name in cls.model_fields}
        object.__setattr__(copy, "__dict__", kept | updates)
        object.__setattr__(copy, "__pydantic_fields_set__", self.__pydantic_fields_set__ | updates.keys())
        object.__setattr__(copy, "__pydantic_extra__", None)
        object.__setattr__(copy, "__pydantic_private__", None)
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
