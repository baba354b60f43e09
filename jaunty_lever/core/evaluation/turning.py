"""Trains of wheels as one exact fraction each: multiplied once, so that whole turns stay whole."""

from dataclasses import dataclass
from fractions import Fraction

from ..document.index import SceneIndex
from ..document.nodes import ParameterNode
from ..document.specs import components
from ..motion import Follow, Gear

_EXACT = 1 << 53
"""Whole numbers below this are exact as floating-point numbers; a longer fraction begins anew at its wheel."""


@dataclass(frozen=True)
class Turned:
    """A wheel's value: `first`'s value × ratio + offset."""

    first: str
    ratio: Fraction = Fraction(1)
    offset: float = 0.0


class Turning:
    """What turns the wheels of one scene, each found once."""

    def __init__(self, index: SceneIndex) -> None:
        self._index = index
        self._known: dict[str, Turned] = {}

    @classmethod
    def known(cls, index: SceneIndex) -> "Turning":
        """That of a scene; remembered on its index, which never changes."""
        made: Turning | None = index.__dict__.get("_turning")
        if made is None:
            made = index.__dict__["_turning"] = cls(index)
        return made

    def of(self, parameter: str) -> Turned:
        """What turns a parameter; itself where nothing but a steady ratio decides it is not so."""
        way: list[tuple[str, Fraction, float]] = []
        here, seen = parameter, {parameter}
        while here not in self._known:
            node = self._index.parameters.get(here)
            link = _link(node) if node else None
            if link is not None and self._index.heard(node, link[0]) != link[0]:  # type: ignore[arg-type]
                # What is heard as one of many, or by where it stands, begins a train of its own.
                link = None
            if link is None or link[0] in seen:
                self._known[here] = Turned(here)
                break
            way.append((here, link[1], link[2]))
            here = link[0]
            seen.add(here)
        known = self._known[here]
        for wheel, ratio, offset in reversed(way):
            whole = known.ratio * ratio
            if max(abs(whole.numerator), whole.denominator) < _EXACT:
                known = Turned(known.first, whole, known.offset * ratio.numerator / ratio.denominator + offset)
            else:
                known = Turned(wheel)
            self._known[wheel] = known
        return known


def _link(node: ParameterNode) -> tuple[str, Fraction, float] | None:
    """The driver, the ratio and what is added, where a link alone decides a single number at all times."""
    own = node.parameter
    active = [modifier for modifier in own.chain if not modifier.bypassed]
    if own.keys or own.bypassed or node.brought or node.spec.components != 1 or node.spec.stepped or len(active) != 1:
        return None
    (link,) = active
    if not link.full_strength or getattr(link, "component", None) is not None:
        return None
    try:
        if isinstance(link, Gear) and link.ratio is not None and not link.phase.moves:
            rest = components(own.rest, node.spec)[0]
            return link.driver, link.ratio, rest + float(link.phase.constant_value)  # type: ignore[arg-type]
        if (
            isinstance(link, Follow)
            and link.ratio is not None
            and not link.plus.moves
            and link.blend.constant_value == "replace"
        ):
            return link.driver, link.ratio, float(link.plus.constant_value)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        pass
    return None
