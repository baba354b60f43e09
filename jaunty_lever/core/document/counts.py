"""How many copies there are while nothing moves their count: known without working anything out."""

from .arrangement import Emitter, Grid, Ground, Letters
from .index import SceneIndex, walk
from .layers import ArrayLayer, Text
from .limits import MOST_DRAWN_LETTERS, MOST_SPARKS
from .parameter import Parameter


def resting_count(layer: ArrayLayer) -> int:
    """How many copies an array has while nothing moves its count, or the most that its keys make."""
    kind = layer.arrangement
    if isinstance(kind, Grid | Ground):
        return _most(kind.columns) * _most(kind.rows) * (_most(kind.levels) if isinstance(kind, Grid) else 1)
    if isinstance(kind, Emitter):
        return _alive(kind)
    if isinstance(kind, Letters):
        return _parts(layer)
    return _most(kind.count)


def _parts(layer: ArrayLayer) -> int:
    """About how many parts the text in an array has, at most."""
    text = next((one for one, _, _ in walk(layer.layers) if isinstance(one, Text)), None)
    if text is None:
        return 0
    said = max([str(key.value) for key in text.text.keys] or [str(text.text.rest)], key=len)[:MOST_DRAWN_LETTERS]
    by = layer.arrangement.by.constant_value if isinstance(layer.arrangement, Letters) else "letter"
    if by == "line":
        return said.count("\n") + 1
    return len(said.split()) if by == "word" else sum(not letter.isspace() for letter in said)


def _alive(kind: Emitter) -> int:
    """About how many sparks are alive at once while nothing moves, within the limit."""
    rate, life, differs = (_greatest(one) for one in (kind.rate, kind.lifetime, kind.lifetime_random))
    return min(max(round(rate * life * (1 + differs / 200)), 1 if rate > 0 else 0), MOST_SPARKS)


def _greatest(own: Parameter) -> float:
    values = [key.value for key in own.keys] or [own.rest]
    return max((float(v) for v in values if isinstance(v, int | float)), default=0.0)


def _most(count: Parameter) -> int:
    values = [key.value for key in count.keys] or [count.rest]
    return max((round(v) for v in values if isinstance(v, int | float) and not isinstance(v, bool)), default=0)


def resting_copies(index: SceneIndex, layer: str) -> int:
    """How often a layer is shown by the arrays around it, at rest."""
    many = 1
    for array in index.arrays.get(layer, ()):
        around = index.layers[array]
        assert isinstance(around, ArrayLayer)
        many *= resting_count(around)
    return many
