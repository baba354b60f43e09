"""What people write in a formula who come from programming, or from the names of modifiers, and how it is said here."""

import re
from difflib import get_close_matches

from ..document.units import NAMES
from .library import FUNCTIONS, VALUES
from .nodes import Chain, Mistake, Node, Number, Single

_SIGNS = (
    ("&&", "Two conditions are joined by “and”."),
    ("&", "Two conditions are joined by “and”; texts by +."),
    ("||", "Of two conditions either is told by “or”."),
    ("|", "Of two conditions either is told by “or”."),
    ("**", "A power is written with ^, such as t ^ 2."),
    ("===", "Two values are compared with ==."),
    ("!==", "Two values are told apart with !=."),
    ("<>", "Two values are told apart with !=."),
    ("=<", "At most is written <=."),
    ("=>", "At least is written >=."),
    ("//", "For a remark, write a # and a space."),
    ("?", "A choice is written: if condition then value else other."),
    ("!", "The opposite of a condition is told by “not”."),
    ("[", "Components stand in round brackets: (x, y)."),
    ("]", "Components stand in round brackets: (x, y)."),
    ("{", "Round brackets hold things together: ( )."),
    ("}", "Round brackets hold things together: ( )."),
    ("'", 'A text stands in double quotation marks: "text".'),
    ("`", 'A text stands in double quotation marks: "text".'),
    ("×", "Times is written *."),
    ("·", "Times is written *."),
    ("÷", "A division is written /."),
    ("−", "Minus is written -."),
    ("≤", "At most is written <=."),
    ("≥", "At least is written >=."),
    ("≠", "Two values are told apart with !=."),
)
"""Signs that mean something in programming or on paper; a longer one before those that it begins with."""

LIBRARIES = ("Math", "math", "np", "numpy")
_LIBRARY = re.compile(rf"\b(?:{'|'.join(LIBRARIES)})\s*\.\s*([^\W\d]\w*)")

_VALUES = {
    "time": "t, in seconds",
    "seconds": "t",
    "second": "t",
    "sec": "t",
    "now": "t",
    "clock": "t",
    "frame": "f",
    "frames": "f",
    "framenumber": "f",
    "rate": "fps",
    "framerate": "fps",
    "value": "base, what the chain gave so far",
    "input": "base, what the chain gave so far",
    "in": "base, what the chain gave so far",
    "this": "base, what the chain gave so far",
    "self": "base, what the chain gave so far",
    "duration": "length, in seconds",
    "index": "i",
    "idx": "i",
    "number": "i, the number of a copy",
    "count": "n",
    "column": "col",
    "π": "pi",
    "tau": "2 * pi",
    "yes": "true",
    "on": "true",
    "no": "false",
    "off": "false",
    "none": "0",
    "null": "0",
}
"""Names for what stands in every formula under another."""

_CALLS = {
    "lerp": "mix",
    "blend": "mix",
    "interpolate": "mix",
    "map": "remap",
    "linear": "remap",
    "fit": "remap",
    "rescale": "remap",
    "constrain": "clamp",
    "saturate": "clamp",
    "clip": "clamp",
    "rand": "random",
    "rnd": "random",
    "hash": "random",
    "mod": "wrap",
    "fmod": "wrap",
    "repeat": "wrap",
    "pingpong": "fold",
    "mirror": "fold",
    "atan2": "atan",
    "hypot": "length",
    "magnitude": "length",
    "norm": "length",
    "int": "floor",
    "trunc": "floor",
    "fract": "frac",
    "ceiling": "ceil",
    "sgn": "sign",
    "str": "text",
    "string": "text",
    "perlin": "noise",
    "simplex": "noise",
    "turbulence": "fbm",
    "sine": "osc",
    "oscillate": "osc",
    "triangle": "tri",
    "sawtooth": "saw",
    "pulse": "square",
    "ease": "smoothstep",
    "color": "rgb",
    "colour": "rgb",
    "vector": "length",
    "ln": "log",
    "power": "pow",
}
"""Names for functions that have another here."""
_ALREADY = {"degrees": "Angles are in degrees already.", "radians": "Angles are in degrees already: sin(90) is 1."}

_MODIFIERS = {
    "wiggle": "noise",
    "shake": "noise",
    "field": "noise",
    "displace": "noise",
    "jitter": "noise",
    "flicker": "noise",
    "wave": "osc",
    "swing": "osc",
    "loop": "wrap",
    "cycle": "wrap",
    "limit": "clamp",
    "round": "round",
    "remap": "remap",
    "between": "mix",
    "adjust": "",
    "bounce": "",
    "overshoot": "",
    "spring": "",
    "smooth": "",
    "shift": "",
    "delay": "",
    "hold": "",
    "rate": "",
    "figure": "",
    "follow": "",
    "steer": "",
    "cam": "",
    "cells": "",
    "gear": "",
    "stops": "",
    "readout": "text",
    "push": "",
    "crossing": "",
    "formula": "",
    "labels": "",
}
"""Names of modifiers, and of what people call them, with the function that does most like it, if any."""


def of_signs(text: str, at: int) -> Mistake | None:
    """What to write instead of a sign, or of a library's name, at or just before a place that cannot be read."""
    for found in _LIBRARY.finditer(text):
        if found.start() <= at <= found.end():
            return of_library(found[1], found.start(), found.end())
    for sign, told in _SIGNS:
        for start in range(max(at - len(sign) + 1, 0), at + 1):
            if text.startswith(sign, start):
                return Mistake(told, start, start + len(sign))
    return None


def of_library(name: str, start: int, end: int) -> Mistake:
    """Functions of programming libraries stand by themselves here."""
    known = name.casefold()
    if known in VALUES:
        return Mistake(f"It stands by itself here: {known}.", start, end)
    function = FUNCTIONS.get(_CALLS.get(known, known))
    own = function.signature if function is not None else "sin(degrees)"
    return Mistake(f"Functions stand by themselves here: {own}.", start, end)


def unknown_name(name: str, near: list[str]) -> str:
    """What is said of a name that means nothing; `near` is what stands here and is written nearly so."""
    known, hint = name.casefold(), f" Did you mean {near[0]}?" if near else ""
    if known in _VALUES and not (near and near[0].strip('$"').casefold() == known):
        hint = f" Here it is {_VALUES[known]}."
    if not near and known in FUNCTIONS:
        hint = f" It is a function: {FUNCTIONS[known].signature}."
    return f"“{name}” is not known here.{hint}"


def unknown_call(name: str) -> str:
    """What is said of a function that there is not: what it is called here, that it is a modifier, or what is written
    nearly so."""
    known = name.casefold()
    if known in _ALREADY:
        return _ALREADY[known]
    like = FUNCTIONS.get(_CALLS.get(known, _MODIFIERS.get(known, "")))
    if known in _MODIFIERS:
        instead = f", or write {like.signature} here" if like is not None else ""
        return f"“{name}” is the work of a modifier: add it to the chain (m){instead}."
    if like is not None:
        return f"“{name}” is {like.signature} here."
    near = get_close_matches(known, FUNCTIONS, n=1, cutoff=0.5)
    return f"There is no function “{name}”.{f' Did you mean {near[0]}?' if near else ''}"


def of_unit(digits: str, unit: str) -> str:
    """What was meant by letters behind a number that are no unit, as the end of a message."""
    return f" To multiply, write {digits} * {unit}."


def unit_of(node: Node) -> str:
    """The kind of value that units make of a part of a formula; empty where none stands in it, or where that cannot be
    told."""
    if isinstance(node, Number):
        return node.kind
    if isinstance(node, Single):
        return unit_of(node.part)
    if isinstance(node, Chain) and set(node.operators) <= {"+", "-"}:
        return next(filter(None, map(unit_of, node.parts)), "")
    return ""


def misfit(operator: str, left: Node, right: Node) -> Mistake | None:
    """Why two parts of a formula cannot be worked on together, by their units or because one is nothing to divide
    by."""
    if operator in ("/", "%") and isinstance(right, Number) and right.value == 0:
        return Mistake("Nothing can be divided by 0.", right.start, right.end)
    one, other = unit_of(left), unit_of(right)
    if operator in ("+", "-", "<", "<=", ">", ">=", "==", "!=") and one and other and one != other:
        done = "added" if operator in ("+", "-") else "compared"
        return Mistake(f"{NAMES[one].capitalize()} and {NAMES[other]} cannot be {done}.", right.start, right.end)
    return None
