"""Documents as plain data in a stable order: only what differs from the default is written."""

from functools import cache
from typing import Any

import orjson

from .keys import Key, Value
from .model import Model
from .parameter import Parameter
from .specs import ParameterSpec, specs_of


def _number(value: Any) -> Any:
    """Whole floats as whole numbers, so that a file reads `20`, not `20.0`."""
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return int(value)
    if isinstance(value, dict):
        return {name: _number(part) for name, part in value.items()}
    if isinstance(value, tuple):
        return [_number(part) for part in value]
    return value


def bare(parameter: Parameter) -> bool:
    """Whether a value rests, and nothing else."""
    return not (parameter.typed or parameter.keys or parameter.chain or parameter.bypassed)


def same(one: Value | None, other: Value | None) -> bool:
    """Whether two resting values are the same, and of the same kind: yes is not 1."""
    return one is other or (type(one) is type(other) and one == other)


def _parameter(parameter: Parameter) -> Any:
    if bare(parameter):
        return _number(parameter.rest)
    made: dict[str, Any] = {"rest": _number(parameter.rest)}
    if parameter.typed:
        made["typed"] = list(parameter.typed)
    if parameter.keys:
        made["keys"] = [_key(key) for key in parameter.keys]
    if parameter.chain:
        made["chain"] = [plain(modifier) for modifier in parameter.chain]
    if parameter.bypassed:
        made["bypassed"] = True
    return made


def _key(key: Key) -> dict[str, Any]:
    return {"frame": _number(key.frame), "value": _number(key.value), "ease": _number(key.ease)}


_ALWAYS = {"kind", "id", "name", "width", "height", "fps", "length", "driver", "picture", "clip", "media", "data"}


@cache
def _layout(cls: type[Model]) -> tuple[tuple[str, ParameterSpec | None, Any], ...]:
    """The fields of a kind of node in their order in a file, each with its spec and its default."""
    specs, fields = specs_of(cls), cls.model_fields
    names = [n for n in ("kind", "id") if n in fields] + [n for n in fields if n not in ("kind", "id")]
    return tuple((name, specs.get(name), fields[name].get_default(call_default_factory=True)) for name in names)


def plain(node: Model) -> dict[str, Any]:
    """A document node as dictionaries, lists, texts and numbers, in the order of its fields."""
    made: dict[str, Any] = {}
    for name, spec, default in _layout(type(node)):
        value = getattr(node, name)
        if isinstance(value, Parameter):
            if spec is not None and bare(value) and same(value.rest, spec.default):
                continue
            written = _parameter(value)
            if (
                spec is None
                or written != _number(spec.default)
                or isinstance(written, bool) != isinstance(spec.default, bool)
            ):
                made[name] = written
        elif isinstance(value, Model):
            made[name] = plain(value)
        elif isinstance(value, dict) and value and isinstance(next(iter(value.values())), Model):
            made[name] = {key: plain(part) for key, part in value.items()}
        elif isinstance(value, tuple) and value and isinstance(value[0], Model):
            made[name] = [plain(part) for part in value]
        elif name in _ALWAYS or value != default:
            made[name] = _number(value)
    return made


def packed(node: Model) -> bytes:
    """A layer, lever or scene as JSON, a group with its layers; remembered on the node, which never changes.

    Raises ValueError, in the artist's words, when something in it is no text or no number of any file.
    """
    known: bytes | None = node.__dict__.get("_packed")
    if known is None:
        try:
            known = orjson.dumps(_fragments(node))
        except (orjson.JSONEncodeError, TypeError) as error:
            said = (
                "a text holds what is no text (half of a letter)"
                if "UTF-8" in str(error)
                else f"it cannot be written ({error})"
            )
            raise ValueError(said) from None
        node.__dict__["_packed"] = known
    return known


def _fragments(node: Model) -> Any:
    """A node as plain data, its layers and levers as they were packed before."""
    inner = {name: getattr(node, name) for name in ("layers", "levers") if getattr(node, name, ())}
    made = plain(node.changed(**dict.fromkeys(inner, ())))
    return made | {name: [orjson.Fragment(packed(one)) for one in some] for name, some in inner.items()}
