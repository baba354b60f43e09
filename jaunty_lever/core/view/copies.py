"""The copies of arrays as a page sees them: the one that is shown, some or all of the others, and dots on the stage."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..display.channels import channel
from ..display.laying import Lay, lay_of
from ..document.arrangement import Emitter
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.nodes import ParameterNode
from ..document.protocols import Values
from ..evaluation.depth import copy_solid, in_depth
from ..evaluation.placing import copy_placing, world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..evaluation.seen_in_depth import seen_from
from ..evaluation.sparks import is_emitter
from ..evaluation.structure import edged
from ..evaluation.taking import inside
from ..geometry.matrices import applied
from .sending import Sending

MOST_BARS = 120
"""How many copies' bars a strip has."""
MOST_OTHERS = 24
"""How many copies a fan shows besides the one that is shown."""
MOST_MAPPED, MOST_COLUMNS = 512, 480
"""How many copies, and moments, a map has."""


def evenly(count: int, most: int) -> NDArray[np.int64]:
    """So many of the numbers 0 … count − 1, or all of them, as far apart as can be."""
    return np.unique(np.linspace(0, max(count - 1, 0), min(max(count, 1), most)).round().astype(np.int64))


def whole(values: Values, samples: SampleTimes) -> Values:
    """Values with a row for each copy."""
    return np.broadcast_to(values, (samples.shape[0], *values.shape[1:])) if samples.elements is not None else values


@dataclass(frozen=True)
class Copies:
    """Which copy of each array is shown, by the array's id; the first, unless told."""

    chosen: Mapping[str, int]

    def _shown(self, sampler: Sampler, arrays: tuple[str, ...], samples: SampleTimes) -> dict[str, Any]:
        """The copies shown of some arrays, one inside the other, each within its count."""
        found: dict[str, Any] = {}
        for array in arrays:
            around = inside(sampler, sampler.index.around(array), samples, found)
            found[array] = max(0, min(self.chosen.get(array, 0), sampler.layouts.copies(array, around) - 1))
        return found

    def of(self, sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> SampleTimes:
        """The samples of a parameter for the copies that are shown; those of the scene where it stands in no array."""
        arrays = sampler.index.arrays_of(node)
        return inside(sampler, node.id, samples, self._shown(sampler, arrays, samples)) if arrays else samples

    def some(self, sampler: Sampler, node: ParameterNode, samples: SampleTimes, most: int) -> SampleTimes:
        """The samples of a parameter for several copies of its innermost array, evenly chosen."""
        arrays = sampler.index.arrays_of(node)
        shown = self._shown(sampler, arrays[:-1], samples)
        shown[arrays[-1]] = evenly(self.count(sampler, node, samples), most)
        return inside(sampler, node.id, samples, shown)

    def numbered(
        self, sampler: Sampler, node: ParameterNode, samples: SampleTimes, numbers: NDArray[np.int64]
    ) -> SampleTimes:
        """The samples of a parameter for copies of its innermost array by number."""
        arrays = sampler.index.arrays_of(node)
        return inside(sampler, node.id, samples, {**self._shown(sampler, arrays[:-1], samples), arrays[-1]: numbers})

    def alive(self, sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> SampleTimes:
        """The samples of a parameter for all sparks of its innermost array that are alive at some moments."""
        arrays = sampler.index.arrays_of(node)
        return inside(sampler, node.id, samples, self._shown(sampler, arrays[:-1], samples))

    def around(self, sampler: Sampler, array: str, samples: SampleTimes) -> SampleTimes:
        """The samples of what stands around an array, for the copies that are shown."""
        shown = self._shown(sampler, sampler.index.arrays.get(array, ()), samples)
        return inside(sampler, sampler.index.around(array), samples, shown)

    def count(self, sampler: Sampler, node: ParameterNode, samples: SampleTimes) -> int:
        """How many copies the innermost array of a parameter has."""
        array = sampler.index.arrays_of(node)[-1]
        return sampler.layouts.copies(array, self.around(sampler, array, samples))


def word_for(index: SceneIndex, array: str) -> str:
    """What one of them is called."""
    layer = index.layers[array]
    if not isinstance(layer, ArrayLayer):
        return "point"
    return "spark" if isinstance(layer.arrangement, Emitter) else "copy"


def spread_of(
    sampler: Sampler, node: ParameterNode, samples: SampleTimes, shown: Copies, spread: str, sent: Sending
) -> dict[str, Any] | None:
    """What the other copies of the chosen parameter give, at each station: some of them as a fan, or all as a map."""
    arrays = sampler.index.arrays_of(node)
    if not arrays or node.spec.kind == "text":
        return None
    count = shown.count(sampler, node, samples)
    here = max(0, min(shown.chosen.get(arrays[-1], 0), count - 1))
    told: dict[str, Any] = {
        "array": arrays[-1],
        "name": sampler.index.layers[arrays[-1]].name,
        "word": word_for(sampler.index, arrays[-1]),
        "count": count,
        "shown": here,
        "spread": spread,
        "numbers": [],
        "step": 1,
        "outputs": [],
    }
    if count < 2:
        return told
    if spread == "map":
        numbers = _in_order(sampler, arrays[-1], evenly(count, MOST_MAPPED), shown, samples)
        step = -(-samples.shape[1] // MOST_COLUMNS)
        frames = SampleTimes.frames(sampler.scene.fps, 0, sampler.scene.length, step)
    else:
        others = evenly(count, MOST_OTHERS + 1)
        numbers, step, frames = others[others != here][:MOST_OTHERS], 1, samples
    where = shown.numbered(sampler, node, frames, numbers)
    outputs = [sent.put(channel(whole(values, where))) for values in sampler.chain_of_copies(node.id, where)]
    return told | {"numbers": numbers.tolist(), "step": step, "outputs": outputs}


def _in_order(
    sampler: Sampler, array: str, numbers: NDArray[np.int64], shown: Copies, samples: SampleTimes
) -> NDArray[np.int64]:
    """Copies in the order of their array at the scene's first frame, those of one rank by number."""
    node = sampler.index.known[f"{array}.rank"]
    first = SampleTimes.frames(sampler.scene.fps, 0, 1)
    rank = sampler.evaluate(node.id, shown.numbered(sampler, node, first, numbers))
    return numbers[np.argsort(np.broadcast_to(rank, (len(numbers), 1, 1))[:, 0, 0], kind="stable")]


def flight_of(
    sampler: Sampler, array: str | None, samples: SampleTimes, shown: Copies, sent: Sending
) -> dict[str, Any] | None:
    """The way of one spark of an emitter, thrown at each of the frames: x y of its points, in the emitter's
    coordinates."""
    if array is None or array not in sampler.index.layers or not is_emitter(sampler, array):
        return None
    around = shown.of(sampler, sampler.index.parameters[f"{array}.arrangement.rate"], samples)
    points = sampler.sparks.flight(array, around)
    return {"array": array, "points": sent.put(channel(points.reshape(len(points), -1)))}


def stage_of(
    sampler: Sampler, dots: str | None, samples: SampleTimes, shown: Copies, sent: Sending
) -> dict[str, Any] | None:
    """A value of all copies, and where these stand on the stage, at the frames of a display list."""
    node = sampler.index.target(dots) if dots else None
    arrays = sampler.index.arrays_of(node) if node else ()
    if node is None or not arrays or node.spec.components != 1:
        return None
    array = arrays[-1]
    place = sampler.index.known[f"{array}.place"]
    lay: Lay | None = None
    around = shown.around(sampler, array, samples)
    counts = sampler.layouts.count(array, around)
    many = int(counts.max(initial=0))
    if is_emitter(sampler, array):
        # As many stand side by side as are alive at once.
        where, beside = (shown.alive(sampler, one, samples) for one in (node, place))
        lay = lay_of(around, None, beside, many)
    else:
        where, beside = (shown.numbered(sampler, one, samples, np.arange(many)) for one in (node, place))
    if not many:
        return None
    if array in in_depth(sampler.scene):
        placed = copy_solid(sampler, array, beside)
        spots = seen_from(sampler, array, beside, samples, np.zeros((1, 1, 2)), placed)[..., :2]
    elif edged(sampler.index, array) is None:
        copies = copy_placing(sampler, array, beside)
        spots = copies[..., 4:]
    else:
        spots = sampler.evaluate(f"{array}.place", beside)
    if array not in in_depth(sampler.scene):
        x, y = applied(world_matrix(sampler, array, beside), spots[..., 0], spots[..., 1])
        spots = np.stack(np.broadcast_arrays(x, y), axis=-1)
    values = whole(sampler.evaluate(node.id, where), where)
    return {
        "array": array,
        "values": sent.put(channel(values) if lay is None else lay.channel(values)),
        "places": sent.put(channel(whole(spots, beside)) if lay is None else lay.channel(whole(spots, beside))),
        "counts": sent.put(channel(counts[..., None].astype(np.float64))),
        "count": many,
    }
