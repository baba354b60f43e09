"""Identifiers: short, random, readable in a diff."""

import re
import secrets
from hashlib import blake2b
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

_ALPHABET = "abcdefghjkmnpqrstuvwxyz23456789"

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,39}$")]
"""An owner's id. A parameter's id is its owner's id, a dot and the field: `lantern3.opacity`."""


_BREAKS = re.compile("[\x00-\x1f\x7f\u0085\u2028\u2029]+")


def one_line(text: str) -> str:
    """A name as one line: line ends, tabs and other control characters become a space."""
    return " ".join(_BREAKS.split(text)).strip() if _BREAKS.search(text) else text


OneLine = Annotated[str, AfterValidator(one_line)]
"""A name: text without line ends and control characters."""


def new_id(prefix: str) -> str:
    """A new id such as `wiggle-k3v9x2pd`; about 39 bits, so that no two meet in a project."""
    return f"{prefix}-" + "".join(secrets.choice(_ALPHABET) for _ in range(8))


def drawn_id(told: str) -> str:
    """A modifier's id drawn from what it is made of, the same at each try."""
    return f"m-{blake2b(told.encode(), digest_size=6).hexdigest()}"


Seed = Annotated[int, Field(ge=0, le=2**31)]
"""Where random numbers begin."""


def new_seed() -> int:
    """A seed of its own for a random motion: a whole number from 1 to 99,999."""
    return secrets.randbelow(99_999) + 1


def retargeted(parameter: str, table: dict[str, str]) -> str:
    """A parameter's id after its owner has got another id; `table` leads from old owners' ids to new ones."""
    owner, dot, field = parameter.partition(".")
    return table.get(owner, owner) + dot + field
