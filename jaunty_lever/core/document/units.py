"""Units: what each kind of value is shown in, and what may be typed for it (CSS's units, turns and frames besides)."""

import math

#: Kind of value → the unit that it is kept and shown in.
SYMBOLS: dict[str, str] = {"angle": "°", "percentage": "%", "length": "px", "time": "s", "frequency": "Hz"}

#: What may be typed, in small letters → the kind of value it makes, and its factor into the unit it is kept in.
TYPED: dict[str, tuple[str, float]] = {
    "deg": ("angle", 1.0),
    "°": ("angle", 1.0),
    "turn": ("angle", 360.0),
    "turns": ("angle", 360.0),
    "rad": ("angle", 180 / math.pi),
    "s": ("time", 1.0),
    "ms": ("time", 0.001),
    "px": ("length", 1.0),
    "hz": ("frequency", 1.0),
    "%": ("percentage", 1.0),
}

#: Factors of the units that are words: those that formulas know. (% and f have a meaning of their own there.)
WORDS: dict[str, float] = {unit: factor for unit, (_, factor) in TYPED.items() if unit.isalpha()}

#: Kinds of values in words, for messages.
NAMES: dict[str, str] = {
    "angle": "an angle",
    "time": "a time",
    "length": "pixels",
    "frequency": "a frequency",
    "percentage": "a percentage",
}


def kind_of_unit(unit: str) -> str:
    """The kind of value that is shown in a unit, or in so many of it a second (`px/s`); "" for none."""
    return next((kind for kind, symbol in SYMBOLS.items() if symbol == unit.partition("/")[0]), "")
