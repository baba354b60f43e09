"""The base of all modifiers, which are made of parameters in turn."""

from fractions import Fraction
from functools import cached_property
from hashlib import blake2b
from typing import Any, ClassVar

from numpy.typing import NDArray
from pydantic import Field, model_validator

from .axes import CONSTANT, OVER_TIME, Axes
from .ids import Id
from .keys import Finite
from .model import Model
from .notes import Note
from .parameter import Parameter, spec
from .periodicity import Pace, PeriodContext, Periodicity, Stretch, joined, together
from .protocols import Context, Seen, Signal, Values, Words
from .specs import ParameterSpec, specs_of


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


class Modifier(Model):
    """One step of a chain. Every number in it is a parameter itself.

    The class variables feed its entry in the adding sheet and its reference page: `formula` is its
    mathematics in one or two lines, `decisive` those of its lesser settings that are always in sight, since they decide
    what goes to which component or how it ends, `called` everyday words that it is looked for by, `linked` says that it
    needs a driver and is made by linking, `takes_any` that this may be any number, switch or choice, `chain_limit` how
    many of it a chain may hold, `minds_length` that the scene's length matters to it, `timely` that its result moves
    although nothing that it takes in does, `mixes_elements` that its rows may belong to different elements: each row of
    its result depends on that row alone (else it is applied to one element after the other; see `mixes`), `stands` that
    it goes by where its value lies on the stage, and so only onto positions of copies, `faults` what can make no sense
    in it, `example` the fields of a parameter (keys or resting value) and the settings with which its page plots it,
    `compared` the choice whose options its page shows side by side.
    """

    title: ClassVar[str] = ""
    called: ClassVar[str] = ""
    purpose: ClassVar[str] = ""
    does: ClassVar[str] = ""
    kinds: ClassVar[tuple[str, ...]] = ()
    decisive: ClassVar[tuple[str, ...]] = ()
    linked: ClassVar[bool] = False
    takes_any: ClassVar[bool] = False
    chain_limit: ClassVar[int] = 32
    minds_length: ClassVar[bool] = False
    timely: ClassVar[bool] = False
    mixes_elements: ClassVar[bool] = False
    stands: ClassVar[bool] = False
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
        1.0,
        label="Share",
        help="How much of it each component takes; 0 locks an axis.",
        low=0,
        high=1,
        step=0.05,
        owner="weights",
    )

    def mixes(self, at: Context) -> bool:
        """Whether rows of different elements may be handed to `apply` together."""
        return self.mixes_elements

    def apply(self, incoming: Signal, at: Context) -> Values:
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
        specs = specs_of(type(self))
        return tuple(name for name in self.moving if specs[name].stepped)

    @cached_property
    def moving(self) -> tuple[str, ...]:
        """Names of the settings that may change."""
        return tuple(name for name in specs_of(type(self)) if getattr(self, name).moves)

    @cached_property
    def driven(self) -> tuple[str, ...]:
        """Names of the settings that have a chain of their own."""
        return tuple(name for name in specs_of(type(self)) if getattr(self, name).chain)

    @cached_property
    def full_strength(self) -> bool:
        """Whether all of its effect is passed on at all times, to all components."""
        steady = not self.windows and not any(own.keys or own.chain for own in (self.strength, self.weights))
        return steady and self.strength.rest == 100 and all(share == 1 for share in self._shares)

    def reaches(self, component: int) -> bool:
        """Whether its effect ever reaches a component of the value: where its share of it rests at 0 it does not."""
        if self.weights.moves or self.weights.keys:
            return True
        shares = self._shares
        return bool(shares[min(component, len(shares) - 1)] != 0)

    @property
    def _shares(self) -> tuple[Any, ...]:
        """How much of its effect goes to each component where nothing moves that; one for all of them."""
        return self.weights.rest if isinstance(self.weights.rest, tuple) else (self.weights.rest,)

    def write(self, incoming: NDArray[Any], at: Context) -> NDArray[Any]:
        """What the modifier makes of texts, an array of str of the shape (n,) or (1,)."""
        return incoming

    def references(self) -> tuple[str, ...]:
        """Ids of the parameters that this modifier listens to."""
        return ()

    def retargeted(self, table: dict[str, str]) -> "Modifier":
        """This modifier listening to the copies of what it listened to; `table` leads from old owners' ids to new."""
        return self

    def pieces(self, incoming: Signal, at: Context) -> tuple[NDArray[Any], ...]:
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

    def moves_by_itself(self) -> bool:
        """Whether its result, as it is set, moves although nothing that it takes in does."""
        return self.timely

    def axes(self, incoming: Axes, taken: Axes) -> Axes:
        """Along which axes its result varies; `taken` are those of its settings, drivers and windows."""
        return incoming | taken | (OVER_TIME if self.moves_by_itself() else CONSTANT)

    def swings(self, incoming: float, at: Pace) -> float:
        """How often in a second its result may swing, when what comes in may `incoming` times; inf: not known."""
        settings = [at.swings_of_setting(name) for name in specs_of(type(self)) if getattr(self, name).moves]
        return max(incoming, 0.0, *settings, *(at.swings_of_driver(reference) for reference in self.references()))

    def lasts(self, incoming: Stretch | None, at: Pace) -> Stretch | None:
        """Between which seconds its result may change, when what comes in may within `incoming`; None: always."""
        if self.moves_by_itself():
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
        """This new modifier with settings that suit a parameter with this spec and value (one number a component)."""
        return self

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        """Settings that mean nothing as things stand, so that a form need not show them."""
        return frozenset() if spec.components > 1 else frozenset({"weights"})

    def called_here(self) -> dict[str, str]:
        """Settings, by name, that are called otherwise as things stand."""
        return {}

    def periodicity(self, incoming: Periodicity | None, at: PeriodContext) -> Periodicity | None:
        """How the result repeats; `incoming` says how what comes in does. None when it never does.

        This serves modifiers that work out each moment from that moment alone.
        """
        parts = [at.setting(name) for name in specs_of(type(self)) if name not in ("strength", "weights")]
        listened = [at.driver(reference) for reference in self.references()]
        return together(*([] if self.decides() else [incoming]), *parts, *listened)

    def loop_fit(self, spec: ParameterSpec, seconds: Fraction, turn: Fraction) -> dict[str, Fraction]:
        """Settings, by name, with which a whole number of its rounds fits into so many seconds; of an angle, rounds are
        `turn`s in degrees, after which what it turns looks the same."""
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
