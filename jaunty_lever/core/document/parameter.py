"""The parameter: one value that can change over time."""

from collections.abc import Callable
from functools import cached_property
from hashlib import blake2b
from typing import TYPE_CHECKING, Any

from pydantic import Field, field_validator, model_validator
from pydantic.fields import FieldInfo

from .keys import Key, Value
from .model import Model
from .specs import Kind, ParameterSpec
from .units import SYMBOLS

if TYPE_CHECKING:
    # At run time the union of all modifiers, which `core.motion` puts in.
    from .modifier import Modifier as AnyModifier


class Parameter(Model):
    """One value that can change over time: a resting value or keys, and a chain of modifiers.

    In a file, a parameter with nothing but a resting value is written as that value alone.
    """

    rest: Value = 0.0
    typed: tuple[str, ...] = ()
    keys: tuple[Key, ...] = ()
    chain: tuple["AnyModifier", ...] = ()
    bypassed: bool = False

    @model_validator(mode="before")
    @classmethod
    def _bare_value(cls, data: Any) -> Any:
        return data if isinstance(data, dict | Parameter) else {"rest": data}

    @field_validator("keys")
    @classmethod
    def _in_order(cls, keys: tuple[Key, ...]) -> tuple[Key, ...]:
        ordered = tuple(sorted(keys, key=lambda key: key.frame))
        for one, two in zip(ordered, ordered[1:], strict=False):
            if one.frame == two.frame:
                raise ValueError(f"two keys stand at frame {one.frame:g}")
        return ordered

    @cached_property
    def digest(self) -> bytes:
        """A hash of everything written in this parameter, its chain and their settings included."""
        parts = (self.rest, self.bypassed, [(key.frame, key.value, key.ease) for key in self.keys])
        whole = blake2b(repr(parts).encode(), digest_size=16)
        for modifier in self.chain:
            whole.update(modifier.digest)
        return whole.digest()

    @cached_property
    def alone(self) -> bool:
        """Whether nothing outside it, the scene's length included, has a say in its values."""
        return not any(
            modifier.references()
            or modifier.minds_length
            or not all(getattr(modifier, n).alone for n in modifier.driven)
            for modifier in self.chain
        )

    @property
    def constant_value(self) -> Value:
        """Its one value while nothing moves it: that of a single key, else the resting value."""
        return self.keys[0].value if self.keys else self.rest

    @property
    def moves(self) -> bool:
        """Whether keys or a chain may make it change over time."""
        return len(self.keys) > 1 or bool(self.chain)


def spec(
    default: Value, kind: Kind = "number", *, label: str, unit: str | None = None, help: str = "", **rest: Any
) -> Any:
    """A model field that holds a parameter. The field's default is a parameter resting at `default`."""
    if unit is None:
        unit = SYMBOLS.get(kind, "")
    if isinstance(default, tuple):
        rest.setdefault("components", len(default))
    if kind == "colour":
        rest["components"] = 4
    meaning = ParameterSpec(kind=kind, default=default, label=label, unit=unit, help=help, **rest)

    # What nobody has set is one and the same wherever it stands: what is known of it is found out once.
    made: list[Parameter] = []

    def resting() -> Any:
        if not made:
            made.append(Parameter(rest=default))
        return made[0]

    shown: dict[str, Any] = {"kind": kind, "unit": unit, "label": label}
    field: FieldInfo = Field(default_factory=resting, description=help or label, json_schema_extra={"x-slot": shown})
    field.metadata.append(meaning)
    return field


def mapped(own: Parameter, to: Callable[[Value], Value]) -> Parameter:
    """A parameter with its resting value and all its keys led over, and nothing of how they were typed."""
    keys = tuple(key.changed(value=to(key.value)) for key in own.keys)
    return own.changed(rest=to(own.rest), keys=keys, typed=())


def stands_out(own: Parameter) -> bool:
    """Whether a parameter moves, or stands at anything but 0: where it rests, or at its single key."""
    still = own.constant_value if isinstance(own.constant_value, tuple) else (own.constant_value,)
    return own.moves or any(isinstance(one, int | float) and one for one in still)
