"""Which modifiers go onto which parameters, and how many of them."""

from ..document.limits import MOST_IN_CHAIN
from ..document.modifier import Modifier
from ..document.specs import ParameterSpec


def offered(modifier: type[Modifier], spec: ParameterSpec) -> bool:
    """Whether a modifier can be put on a parameter of this kind."""
    group = spec.kind if spec.kind in ("colour", "vector", "switch", "choice", "text") else "number"
    return group in modifier.kinds and (spec.stands or not modifier.stands)


def crowded(chain: tuple[Modifier, ...]) -> str | None:
    """Why a chain holds too many modifiers; None when it does not."""
    if len(chain) > MOST_IN_CHAIN:
        return f"A chain has at most {MOST_IN_CHAIN} modifiers"
    for modifier in chain:
        if sum(other.kind == modifier.kind for other in chain) > modifier.chain_limit:
            return f"A chain has at most {modifier.chain_limit} of {modifier.title}"
    return None
