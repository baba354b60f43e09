"""Along which axes each parameter of a scene varies: known from its graph before anything is worked out."""

from ..document.axes import CONSTANT, OVER_ELEMENTS, OVER_TIME, Axes, joined_axes
from ..document.index import ParameterNode, SceneIndex
from ..document.modifier import Modifier
from ..document.specs import specs_of
from .elements import PREFIX


class AxesOfScene:
    """The axes of one scene's parameters for elements that hold the layers `inside` (None: all), each found once."""

    def __init__(self, index: SceneIndex, inside: frozenset[str] | None) -> None:
        self._index, self._inside = index, inside
        self._known: dict[tuple[str, int], Axes] = {}

    def of(self, parameter: str) -> Axes:
        """The axes of a parameter's result."""
        if parameter.startswith(PREFIX):
            return OVER_ELEMENTS
        node = self._index.parameters.get(parameter)
        return CONSTANT if node is None else self.after(node, len(node.parameter.chain))

    def after(self, node: ParameterNode, count: int) -> Axes:
        """The axes of what the first `count` modifiers of a chain give."""
        asked = (node.id, count)
        known = self._known.get(asked)
        if known is None:
            # A circle that came in by a way round the checks rests.
            self._known[asked] = CONSTANT
            known = self._found(node, count)
            if self._inside is not None and node.top not in self._inside:
                known = Axes(times=known.times)
            self._known[asked] = known
        return known

    def _found(self, node: ParameterNode, count: int) -> Axes:
        own = node.parameter
        if not count:
            return OVER_TIME if len(own.keys) > 1 else CONSTANT
        before = self.after(node, count - 1)
        modifier = own.chain[count - 1]
        return before if own.bypassed or modifier.bypassed else self._passed(modifier, before)

    def _passed(self, modifier: Modifier, before: Axes) -> Axes:
        settings = [
            self.of(f"{modifier.id}.{name}") for name in specs_of(type(modifier)) if self._moves(modifier, name)
        ]
        drivers = [self.of(reference) for reference in modifier.references()]
        windows = OVER_TIME if modifier.windows else CONSTANT
        return modifier.axes(before, joined_axes(windows, *settings, *drivers))

    @staticmethod
    def _moves(modifier: Modifier, name: str) -> bool:
        moves: bool = getattr(modifier, name).moves
        return moves
