"""The parameter, and the base of all modifiers, which are made of parameters in turn."""

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from hashlib import blake2b
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator, model_validator

from .ids import Id
from .keys import Finite, Key, Value
from .model import Model
from .periodicity import Pace, PeriodContext, Periodicity, Stretch, joined, together
from .specs import ParameterSpec, spec, specs_of

Values = NDArray[np.float64]
"""Shape (n, components), or (1, components) for a value that is the same at all times."""


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


class Window(Model):
    """A stretch of frames in which a modifier acts, both ends included, with fades inside it."""

    start: Finite
    end: Finite
    fade_in: Finite = Field(default=0.0, ge=0)
    fade_out: Finite = Field(default=0.0, ge=0)

    @model_validator(mode="after")
    def _not_empty(self) -> "Window":
        if self.end < self.start:
            raise ValueError("an active window must end after it starts")
        return self


class SignalLike(Protocol):
    """What comes in from the left of a chain, at the asked moments and at any others."""

    parameter: "Parameter"

    @property
    def values(self) -> Values: ...
    def at(self, times: NDArray[np.float64]) -> Values: ...
    def once(self, times: NDArray[np.float64]) -> Values: ...
    def passed(self, times: NDArray[np.float64]) -> NDArray[np.int64]: ...
    def breaks(self, low: int, high: int) -> NDArray[np.float64]: ...
    @property
    def swings(self) -> float: ...
    @property
    def keys(self) -> "KeyedLike | None": ...


class KeyedLike(Protocol):
    """The keys of a parameter that has two or more."""

    times: NDArray[np.float64]
    values: Values

    @property
    def parts(self) -> tuple[NDArray[Any], ...]: ...
    def at(self, times: NDArray[np.float64]) -> Values: ...
    def slope(self, position: int, before: bool = True) -> NDArray[np.float64]: ...
    def slope_at(self, time: float, before: bool) -> NDArray[np.float64]: ...


class ContextLike(Protocol):
    """The moments asked for, and the modifier's settings at those moments."""

    times: NDArray[np.float64]
    fps: float
    length: float
    components: int
    spec: ParameterSpec

    def slot_of(self, reference: str) -> ParameterSpec | None: ...
    def texts(self, name: str) -> NDArray[Any]: ...

    def moves(self, name: str) -> bool: ...
    def number(self, name: str) -> Values: ...
    def choice(self, name: str) -> str: ...
    def whole(self, name: str) -> int: ...
    def most(self, name: str) -> float: ...
    def switch(self, name: str) -> bool: ...
    def phase(self, name: str) -> Values: ...
    def phase_at(self, name: str, times: NDArray[np.float64]) -> Values: ...
    def integral(self, name: str, component: int) -> Values: ...
    def driver(self, reference: str, component: int | None, times: NDArray[np.float64]) -> Values: ...
    def turned(self, reference: str) -> "tuple[Values, Fraction, float]": ...
    def passed(self, reference: str, times: NDArray[np.float64]) -> NDArray[np.int64]: ...
    def fault(self, wrong: "NDArray[np.bool_] | np.bool_", message: str) -> None: ...


class Words(Protocol):
    """Says settings in words, for the sentence above a chain."""

    spec: ParameterSpec

    def of(self, name: str) -> str: ...
    def resting(self, name: str) -> Value: ...
    def moves(self, name: str) -> bool: ...
    def named(self, reference: str, component: int | None = None) -> str: ...
    def written(self, text: str) -> str: ...


@dataclass(frozen=True)
class Mend:
    """Something that puts a puzzle right with one press: edits of the scene, as plain data."""

    label: str
    edits: tuple[dict[str, Any], ...]


@dataclass(frozen=True)
class Note:
    """What a station says about itself: a figure worth knowing or, with `warn`, why it does nothing."""

    text: str
    warn: bool = False
    mends: tuple[Mend, ...] = ()


class Seen(Protocol):
    """A modifier at work in its chain, over the frames of the whole scene."""

    spec: ParameterSpec
    parameter: str
    position: int
    fps: float
    length: int
    own: Parameter

    @property
    def keys(self) -> KeyedLike | None: ...

    @property
    def incoming(self) -> Values: ...
    def number(self, name: str) -> Values: ...
    def choice(self, name: str) -> str: ...
    def said(self, value: float) -> str: ...
    def train(self) -> tuple[str, ...]: ...


class Modifier(Model):
    """One step of a chain. Every number in it is a parameter itself.

    The class variables feed its entry in the adding sheet and its reference page: `formula` is its
    mathematics in one or two lines, `linked` says that it needs a driver and is made by linking, `takes_any` that this may be any number, switch or choice, `chain_limit` how many of it a chain may hold,
    `minds_length` that the scene's length matters to it, `timely` that its result moves although nothing that it takes in does, `faults` what can make no sense in it, `example` the fields of a
    parameter (keys or resting value) and the settings with which its page plots it, `compared` the choice whose options its
    page shows side by side.
    """

    title: ClassVar[str] = ""
    purpose: ClassVar[str] = ""
    does: ClassVar[str] = ""
    kinds: ClassVar[tuple[str, ...]] = ()
    linked: ClassVar[bool] = False
    takes_any: ClassVar[bool] = False
    chain_limit: ClassVar[int] = 32
    minds_length: ClassVar[bool] = False
    timely: ClassVar[bool] = False
    formula: ClassVar[tuple[str, ...]] = ()
    faults: ClassVar[tuple[str, ...]] = ()
    example: ClassVar[dict[str, Any]] = {}
    compared: ClassVar[str] = ""

    id: Id
    kind: str
    bypassed: bool = False
    windows: tuple[Window, ...] = ()
    strength: Parameter = spec(
        100.0, "percentage", label="Strength", help="How much of the effect is passed on.", low=0, high=100, step=1
    )
    weights: Parameter = spec(
        1.0, label="Share", help="How much of it each component takes; 0 locks an axis.", low=0, high=1,
        step=0.05, owner="weights",
    )  # fmt: skip

    def apply(self, incoming: SignalLike, at: ContextLike) -> Values:
        """What the modifier gives, shape (n, components) or (1, components); never changes its input."""
        raise NotImplementedError

    @cached_property
    def digest(self) -> bytes:
        """A hash of everything that decides what this modifier gives."""
        whole = blake2b(digest_size=16)
        for name in type(self).model_fields:
            value = getattr(self, name)
            whole.update(value.digest if isinstance(value, Parameter) else repr(value).encode())
        return whole.digest()

    @cached_property
    def animated_discrete(self) -> tuple[str, ...]:
        """Names of the stepped settings that may change over time."""
        return tuple(name for name, one in specs_of(type(self)).items() if one.stepped and getattr(self, name).moves)

    @cached_property
    def driven(self) -> tuple[str, ...]:
        """Names of the settings that have a chain of their own."""
        return tuple(name for name in specs_of(type(self)) if getattr(self, name).chain)

    @cached_property
    def full_strength(self) -> bool:
        """Whether all of its effect is passed on at all times, to all components."""
        steady = not self.windows and not any(own.keys or own.chain for own in (self.strength, self.weights))
        return steady and self.strength.rest == 100 and self.weights.rest == 1

    def write(self, incoming: NDArray[Any], at: ContextLike) -> NDArray[Any]:
        """What the modifier makes of texts, an array of str of the shape (n,) or (1,)."""
        return incoming

    def references(self) -> tuple[str, ...]:
        """Ids of the parameters that this modifier listens to."""
        return ()

    def retargeted(self, table: dict[str, str]) -> "Modifier":
        """This modifier listening to the copies of what it listened to; `table` leads from old owners' ids to new."""
        return self

    def pieces(self, incoming: SignalLike, at: ContextLike) -> tuple[NDArray[Any], ...]:
        """Whole numbers, (n,) or (n, components) each, that tell on which piece of its result each moment lies.

        Where one of them changes from a moment to the next, the result may jump or bend though nothing that the
        modifier takes in at that moment does. It need not tell where the result is smooth.
        """
        return ()

    def takes_at_once(self) -> bool:
        """Whether what comes in makes itself felt at the same moment; else `pieces` tells when."""
        return True

    def heard_at_once(self) -> tuple[str, ...]:
        """The drivers that make themselves felt at the same moment; `pieces` tells when the others do."""
        return self.references()

    def swings(self, incoming: float, at: Pace) -> float:
        """How often in a second its result may swing, when what comes in may `incoming` times; inf: not known."""
        settings = [at.swings_of_setting(name) for name in specs_of(type(self)) if getattr(self, name).moves]
        return max(incoming, 0.0, *settings, *(at.swings_of_driver(reference) for reference in self.references()))

    def lasts(self, incoming: Stretch | None, at: Pace) -> Stretch | None:
        """Between which seconds its result may change, when what comes in may within `incoming`; None: always."""
        if self.timely:
            return None
        settings = [at.stretch_of_setting(name) for name in specs_of(type(self))]
        return joined(incoming, *settings, *(at.stretch_of_driver(reference) for reference in self.references()))

    def clause(self, words: Words) -> str:
        """What the modifier does, as part of a sentence: "wiggles by up to 12 %"."""
        return self.title.lower()

    def tie(self, words: Words) -> str:
        """What the modifier does, as short as a label: "Crank × −14/35", "0–15 → 0–80 %"."""
        return self.clause(words)

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Modifier":
        """This new modifier with settings that suit a parameter with this slot and value (one number a component)."""
        return self

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        """Settings that mean nothing as things stand, so that a form need not show them."""
        return frozenset() if spec.components > 1 else frozenset({"weights"})

    def periodicity(self, incoming: Periodicity | None, at: PeriodContext) -> Periodicity | None:
        """How the result repeats; `incoming` says how what comes in does. None when it never does.

        This serves modifiers that work out each moment from that moment alone.
        """
        parts = [at.setting(name) for name in specs_of(type(self)) if name not in ("strength", "weights")]
        listened = [at.driver(reference) for reference in self.references()]
        return together(*([] if self.decides() else [incoming]), *parts, *listened)

    def loop_fit(self, spec: ParameterSpec, seconds: Fraction) -> dict[str, Fraction]:
        """Settings, by name, with which a whole number of its rounds fits into so many seconds."""
        return {}

    def decides(self) -> bool:
        """Whether what comes in makes no difference to what goes out, at full strength."""
        return False

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        """What its station tells about it besides its settings."""
        return ()

    def fresh(self, new_id: str, seed: int) -> "Modifier":
        """A copy for another parameter, with an id (and, where it is random, a seed) of its own."""
        return self.changed(id=new_id)


if TYPE_CHECKING:
    # At run time the union of all modifiers, which `core.motion` puts in.
    AnyModifier = Modifier
