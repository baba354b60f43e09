"""Where the copies of an array stand at some samples, and how they are counted."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrangements import places
from ..arrangements.order import Measure, Order, order_of
from ..arrangements.places import Places
from ..document.arrangement import MEASURES, AlongPath, Letters, Rails, Scatter
from ..document.arrangement import Order as OrderSettings
from ..document.layers import ArrayLayer, ShapeLayer
from ..document.limits import MOST_COPIES
from ..document.model import Model
from ..document.protocols import Values
from ..document.specs import specs_of
from ..geometry.along import Track, track_of
from ..geometry.matrices import applied, inverted, product
from .cache import Fault
from .edges import Edges
from .elements import Elements
from .lettering import Lettering
from .ordering import along_line, by_gauge
from .outlines import outlines_of
from .placing import world_matrix
from .readings import array_of, order_by, order_parameters, order_written
from .sample_times import SampleTimes
from .sampling import Sampling
from .sparks import Sparks, is_emitter
from .structure import edged

Whole = NDArray[np.int64]


@dataclass(frozen=True)
class Layout:
    """The places of an array's copies in some states, and which state holds for each copy of the array around it and
    each moment: `state` (outer copies or 1, times or 1)."""

    places: Places
    state: Whole

    def gathered(self, table: NDArray[Any], elements: Elements, samples: SampleTimes) -> NDArray[Any]:
        """What copies find in a table (states or 1, n): (elements, times or 1)."""
        if not table.shape[1]:
            return np.zeros((len(elements), 1), dtype=table.dtype)
        numbers = np.minimum(elements.numbers[:, None], table.shape[1] - 1)
        if self.state.size == 1:
            return np.asarray(table[0][numbers])
        if samples.times.ndim == 2:
            # Each copy has moments of its own, for which there is a state each.
            state = self.state.reshape(len(elements), -1) if self.state.shape[0] == 1 else self.state
        else:
            parents = elements.parents
            state = self.state if self.state.shape[0] == 1 or parents is None else self.state[parents]
        return np.asarray(table[np.minimum(state, len(table) - 1), numbers])


def is_lettered(sampler: Sampling, array: str) -> bool:
    """Whether an array's copies are the parts of a text."""
    layer = sampler.index.layers[array]
    return isinstance(layer, ArrayLayer) and isinstance(layer.arrangement, Letters)


class Layouts:
    """The layouts of one scene's arrays."""

    def __init__(self, sampler: Sampling) -> None:
        self._sampler = sampler

    def copies(self, array: str, samples: SampleTimes) -> int:
        """The greatest number of copies at samples of what stands around the array, within the limit; of an emitter,
        how many sparks it has thrown."""
        if is_emitter(self._sampler, array):
            return Sparks(self._sampler).born(array, samples)
        if edged(self._sampler.index, array) is not None:
            return Edges(self._sampler).points(array, samples).most
        counts = self.count(array, samples)
        return int(counts.max(initial=0))

    def count(self, array: str, samples: SampleTimes) -> Whole:
        """How many copies there are: (outer copies or 1, times or 1)."""
        if is_emitter(self._sampler, array):
            return Sparks(self._sampler).count(array, samples)
        if edged(self._sampler.index, array) is not None:
            return Edges(self._sampler).points(array, samples).counts
        if is_lettered(self._sampler, array):
            return Lettering(self._sampler, array, samples).counts()
        settings = self._settings(array, "arrangement", samples)
        if "columns" in settings:
            made = np.rint(settings["columns"]) * np.rint(settings["rows"])
            if "levels" in settings:
                made = made * np.rint(settings["levels"])
        else:
            made = np.rint(settings["count"])
        most, around = self._most(array, samples)
        wrong = (made < 0) | (made > most)
        if wrong.any():
            first = samples.rows[np.flatnonzero(np.broadcast_to(wrong[..., 0], samples.shape))].min()
            if around > 1:
                limit = (
                    f"A scene has at most {MOST_COPIES:,} copies; here each of up to {around:,} around it would have"
                )
            else:
                limit = f"An array has 0 to {MOST_COPIES:,} copies; here it would have"
            message = f"{limit} {_worst(np.broadcast_to(made, wrong.shape)[wrong]):,.0f}"
            self._sampler.note(Fault(f"{array}.arrangement.count", "", message, float(first)))
        return np.asarray(np.clip(np.nan_to_num(made), 0, most)[..., 0], dtype=np.int64)

    def _most(self, array: str, samples: SampleTimes) -> tuple[int, int]:
        """How many copies an array may have in each copy of what stands around it: so many that all of them together
        are no more than a scene may have. And how many copies there are around at the most, in any frame of the scene.

        It goes by the whole scene, so that a copy or a moment alone has what it has among all.
        """
        index = self._sampler.index
        arrays = index.arrays.get(array, ())
        if not arrays or samples.elements is None or all(self._counts_rest(one) for one in (*arrays, array)):
            # What rests is held to the limit where it is set.
            return MOST_COPIES, 1
        many = 1
        for outer in arrays:
            many *= max(self._greatest(outer), 1)
        return max(MOST_COPIES // many, 1), many

    def _counts_rest(self, array: str) -> bool:
        kind: Model = array_of(self._sampler.index, array).arrangement
        # Sparks and letters have limits of their own.
        names = [name for name in ("count", "columns", "rows", "levels") if name in specs_of(type(kind))]
        return not any(getattr(kind, name).moves for name in names)

    def _greatest(self, array: str) -> int:
        """The greatest number of copies that an array has at any frame of the scene, in each copy of what stands
        around."""
        sampler, scene = self._sampler, self._sampler.scene

        def work() -> int:
            samples = SampleTimes.frames(scene.fps, 0, scene.length)
            for outer in sampler.index.arrays.get(array, ()):
                # Their pattern may show other moments; counts are looked for at all frames.
                elements = Elements.of(outer, self.copies(outer, samples), samples.elements)
                samples = SampleTimes(samples.times, samples.grid, elements)
            return int(self.count(array, samples).max(initial=0))

        key = ("greatest", array, scene.length, sampler.key(f"{array}.n"))
        return sampler.remembered(key, work, lambda _: 100)

    def there(self, array: str, samples: SampleTimes) -> NDArray[np.bool_]:
        """Which copies there are at samples of them: (elements, times or 1)."""
        if is_emitter(self._sampler, array):
            return Sparks(self._sampler).there(array, samples)
        assert samples.elements is not None
        return np.asarray(samples.elements.numbers[:, None] < self._sampler.evaluate(f"{array}.n", samples)[..., 0])

    def at(self, array: str, elements: Elements, samples: SampleTimes) -> Layout:
        """The layout of an array for samples of its copies."""
        return self._laid(array, self._outside(array, elements, samples))

    def _laid(self, array: str, outer: SampleTimes) -> Layout:
        key = ("layout", self._sampler.key(f"{array}.place"), outer.key)
        return self._sampler.remembered(key, lambda: self._made(array, outer), _size)

    def order(self, array: str, gauge: str | None, elements: Elements, samples: SampleTimes) -> tuple[Layout, Order]:
        """The order of an array, or that of one of its gauges, over the states of a layout."""
        owner = f"{gauge or array}.order"
        needed = self._needed(array, owner)
        outer = self._outside(array, elements, samples, *needed)
        whole = self._sampler.key(f"{array}.place"), self._sampler.joined(needed)
        key = ("order", *whole, order_written(self._sampler.index, order_by(self._sampler.index, owner)), outer.key)
        return self._sampler.remembered(
            key, lambda: self._counted(array, owner, outer), lambda made: _size(made[0]) * 2
        )

    def _needed(self, array: str, owner: str) -> list[str]:
        return list(order_parameters(self._sampler.index, array, owner))

    def _outside(self, array: str, elements: Elements, samples: SampleTimes, *others: str) -> SampleTimes:
        """Samples of what stands around an array, of those of its copies; a single moment, where its arrangement and
        `others` rest."""
        if samples.times.ndim == 1:
            outer = SampleTimes(samples.times, samples.grid, elements.outer)
        elif elements.outer is None or elements.parents is None:
            outer = SampleTimes(samples.rows)
        else:
            outer = SampleTimes(samples.times, None, elements.outer.part(elements.parents))
        # What rests is worked out once.
        moves = any(self._sampler.axes.of(name).times for name in (f"{array}.place", *others))
        depth = 0 if elements.outer is None else elements.outer.depth
        return outer if moves else SampleTimes(outer.times.ravel()[:1], None, outer.elements if depth else None)

    def _settings(self, array: str, part: str, samples: SampleTimes) -> dict[str, Values]:
        layer = self._sampler.index.layers[array]
        model: Model = getattr(layer, part)
        return {n: self._sampler.evaluate(f"{array}.{part}.{n}", samples) for n in specs_of(type(model))}

    def _made(self, array: str, outer: SampleTimes) -> Layout:
        layer = self._sampler.index.layers[array]
        assert isinstance(layer, ArrayLayer)
        if isinstance(layer.arrangement, Letters):
            lettering = Lettering(self._sampler, array, outer)
            state = np.arange(lettering.shape[0] * lettering.shape[1]).reshape(lettering.shape)
            return Layout(lettering.places(), state)
        settings = self._settings(array, "arrangement", outer)
        told, which = self._track(layer, outer)
        beside, whose = self._track(layer, outer, "other_") if isinstance(layer.arrangement, Rails) else ([], which)
        most = self._most(array, outer)[0]
        shape = np.broadcast_shapes((1, 1), which.shape, whose.shape, *(v.shape[:2] for v in settings.values()))
        rows = {n: _rows(values, shape) for n, values in settings.items()}
        counts = _rows(self.count(array, outer)[..., None], shape)[:, 0]
        for name in ("count", "columns", "rows", "levels"):
            if name in rows:
                rows[name] = np.clip(rows[name], 0, most)
        if "columns" in rows and (rows["columns"] * rows["rows"] > most).any():
            # The columns stay; rows that there is no room for are left out.
            rows["rows"] = np.minimum(rows["rows"], most // np.maximum(np.rint(rows["columns"]), 1))
        if "levels" in rows:
            each = np.maximum(np.rint(rows["columns"]) * np.rint(rows["rows"]), 1)
            rows["levels"] = np.minimum(rows["levels"], most // each)
        if "count" in rows:
            rows["count"] = counts[:, None].astype(np.float64)
        made = _places(layer.arrangement.kind, rows, told, _rows(which[..., None], shape)[:, 0])
        if beside:
            other = {name.removeprefix("other_"): values for name, values in rows.items() if name.startswith("other_")}
            partner = _places(
                "path", rows | other | {"facing": np.zeros((1, 1))}, beside, _rows(whose[..., None], shape)[:, 0]
            )
            made = places.rails_of(made, partner)
        whole: Whole = np.arange(shape[0] * shape[1]).reshape(shape)
        return Layout(made, whole)

    def _counted(self, array: str, owner: str, outer: SampleTimes) -> tuple[Layout, Order]:
        sampler = self._sampler
        settings = {n: sampler.evaluate(f"{owner}.{n}", outer) for n in specs_of(OrderSettings)}
        layout = self._laid(array, outer)
        own = order_by(sampler.index, owner)
        # What is drawn, or what a gauge reads, may differ wherever something does.
        led = outer.shape if own.outline or own.gauge else (1, 1)
        shape = np.broadcast_shapes(layout.state.shape, led, *(values.shape[:2] for values in settings.values()))
        rows = {n: _rows(values, shape) for n, values in settings.items()}
        places = _spread(layout.places, layout.state, shape)
        measures, seeds = np.rint(rows["measure"][:, 0]).astype(int), np.rint(rows["seed"][:, 0]).astype(int)
        kinds = np.stack(np.broadcast_arrays(measures, seeds))
        if kinds.shape[1] > 1:
            kinds = np.unique(kinds, axis=1)
        made: Order | None = None
        for measure, seed in kinds.T:
            name: Measure = MEASURES[min(max(int(measure), 0), len(MEASURES) - 1)]  # type: ignore[assignment]
            given: Values | None = None
            if name == "line":
                given = along_line(sampler, array, own, outer, places, shape)
            elif name == "gauge":
                none = np.zeros((1, len(places)))
                given = by_gauge(sampler, array, own.gauge, outer, len(places), shape) if own.gauge else none
            origin = rows["origin"][:, 0], rows["origin"][:, 1]
            one = order_of(places, name, origin, rows["backwards"][:, 0], int(seed), own.points, given)
            if made is None:
                made = one
            else:
                mine = np.broadcast_to((measures == measure) & (seeds == seed), shape[0] * shape[1])
                made = _either(mine, one, made)
        assert made is not None
        return Layout(places, np.arange(shape[0] * shape[1]).reshape(shape)), made

    def _track(self, layer: ArrayLayer, outer: SampleTimes, rail: str = "") -> tuple[list[Track], Whole]:
        """The lines along which copies stand, or inside which they are scattered, and which one holds where; `rail`:
        the beginning of the names of the fields that tell of another one."""
        still = np.zeros((1, 1), dtype=np.int64)
        kind = layer.arrangement
        if not isinstance(kind, AlongPath | Rails | Scatter) or (
            isinstance(kind, Scatter) and kind.shape.constant_value != "outline"
        ):
            return [], still
        named: str | None = getattr(kind, f"{rail}outline")
        lead = self._sampler.index.layers.get(named) if named else None
        if not isinstance(lead, ShapeLayer):
            return [track_of(getattr(kind, f"{rail}data"))], still
        found = outlines_of(self._sampler, lead, outer)
        back = inverted(world_matrix(self._sampler, layer.id, outer))
        way = product(back, world_matrix(self._sampler, lead.id, outer))
        shape = np.broadcast_shapes(found.which.shape, way.shape[:2])
        which, way = np.broadcast_to(found.which, shape), np.broadcast_to(way, (*shape, 6))
        points = [
            np.broadcast_to(found.points(k), (*shape, found.each[k].points.shape[1])) for k in range(len(found.each))
        ]
        tracks = []
        for place in np.ndindex(*shape):
            number = int(which[place])
            line = points[number][place].reshape(-1, 2)
            x, y = applied(way[place][None, :], line[:, 0], line[:, 1])
            tracks.append(Track(found.each[number].verbs, np.stack([x, y], axis=1).ravel()))
        return tracks, np.arange(len(tracks)).reshape(shape)


def _worst(numbers: Values) -> float:
    return float(numbers[np.argmax(np.abs(numbers))])


def _rows(values: NDArray[Any], shape: tuple[int, ...]) -> NDArray[Any]:
    """Values (outer or 1, times or 1, components) as rows of states, one where they never vary."""
    if values.shape[:2] == (1, 1):
        first: NDArray[Any] = values[0]
        return first
    return np.broadcast_to(values, (*shape, values.shape[2])).reshape(-1, values.shape[2])


def _spread(made: Places, state: Whole, shape: tuple[int, ...]) -> Places:
    """Places with a row for each of the states of a larger shape, unless they are the same in all."""
    if state.shape == shape or state.size == 1:
        return made
    rows = np.broadcast_to(state, shape).ravel()

    def taken(part: NDArray[Any]) -> NDArray[Any]:
        return part if part.shape[0] == 1 else part[rows]

    return Places(*(taken(getattr(made, name)) for name in Places.__dataclass_fields__))


def _either(mine: NDArray[np.bool_], one: Order, other: Order) -> Order:
    across = mine[:, None]
    return Order(
        np.where(across, one.u, other.u),
        np.where(across, one.rank, other.rank),
        np.where(mine, one.most, other.most),
        np.where(across, one.closed, other.closed),
    )


def _places(kind: str, rows: dict[str, Values], tracks: list[Track], which: Whole) -> Places:
    def of(name: str, component: int = 0) -> Values:
        column: Values = rows[name][:, component]
        return column

    if kind in ("row", "grid", "ground"):
        across, down = (of("count"), of("count")) if kind == "row" else (of("columns"), of("rows"))
        spans = of("fit") >= 0.5
        gap = (
            np.where(spans, places.gap_of_span(of("span"), across), of("gap")),
            np.where(spans, places.gap_of_span(of("span", 1), down), of("gap", 1)),
        )
        if kind == "ground":
            return places.ground_of(across, down, gap, of("brick") / 100)
        levels = of("count" if kind == "row" else "levels")
        nearer = np.where(spans, places.gap_of_span(of("span_depth"), levels), of("gap_depth"))
        if kind == "row":
            return places.row_of(across, gap, nearer)
        return places.grid_of(across, down, gap, of("brick") / 100, levels, nearer)
    if kind == "ring":
        return places.ring_of(of("count"), of("radius"), of("start"), of("arc"), of("facing"), of("rise"))
    if kind in ("path", "rails"):
        return places.path_of(of("count"), tracks, which, of("start") / 100, of("end") / 100, of("facing"))
    shape = int(np.rint(of("shape")[0]))
    polygon = tracks[0].polygon() if tracks else np.zeros((0, 2))
    area = (of("area"), of("area", 1))
    return places.scatter_of(of("count"), area, shape, polygon, of("apart"), of("seed"), of("area_depth"))


def _size(layout: Layout) -> int:
    return 500 + sum(int(getattr(layout.places, name).nbytes) for name in Places.__dataclass_fields__)
