"""What is read off the copies of an array: what each knows of itself, and what gauges tell."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..arrangements.order import shares_of
from ..arrangements.places import Places
from ..document.arrangement import Ground
from ..document.gauge import (
    WAYS,
    ColumnGauge,
    Gauge,
    LifeGauge,
    NoiseGauge,
    OrderGauge,
    PictureGauge,
    RandomGauge,
    Sweep,
    Zone,
)
from ..document.nodes import Reading
from ..document.protocols import Values
from ..document.references import ALL_TOLD, CIRCLE, LENGTH, PLAN
from ..document.specs import specs_of
from ..gauges.column import column_of
from ..gauges.picture import brightness, brightness_at
from ..gauges.sweep import played, swept
from ..kernels import noise
from ..motion.easing import profile_of
from .edges import Edges
from .elements import Elements
from .layouts import Layouts
from .noising import noise_of
from .readings import array_of
from .sample_times import SampleTimes
from .sampling import Sampling
from .sparks import Sparks, is_emitter
from .structure import edged
from .zoning import Setting, edge_of, parted, setting_of, zone_reading

Floats = NDArray[np.float64]

_RESTS = {**ALL_TOLD, "place": (0.0, 0.0), "facing": (0.0,)}


def reading(sampler: Sampling, reads: Reading, samples: SampleTimes) -> Values:
    """What copies read: (elements or 1, times or 1, components). Without copies: what stands for it outside an
    array."""
    elements = samples.elements
    depth = len(sampler.index.arrays.get(reads.array, ())) + 1
    if isinstance(reads.what, str):
        if elements is None or elements.depth < depth:
            return np.array([[_RESTS[reads.what]]])
        return _known(sampler, reads.array, reads.what, elements, samples)
    own = elements if elements and elements.depth == depth else None
    return _gauge(sampler, reads.array, reads.what, reads.part, own, samples)


def _known(sampler: Sampling, array: str, what: str, elements: Elements, samples: SampleTimes) -> Values:
    if edged(sampler.index, array) is not None:
        return Edges(sampler).known(array, what, samples)
    if is_emitter(sampler, array):
        return Sparks(sampler).known(array, what, samples)
    if what in ("age", "life"):
        return np.zeros((1, 1, 1))
    if what == "i":
        return elements.numbers.astype(np.float64)[:, None, None]
    if what in ("u", "rank", CIRCLE, LENGTH):
        layout, order = Layouts(sampler).order(array, None, elements, samples)
        if what == CIRCLE:
            share = np.where(order.closed, order.u * (order.most / (order.most + 1.0))[:, None], -1.0)
            return _on_circle(layout.gathered(share, elements, samples))
        if what == LENGTH:
            steps = np.broadcast_to(order.most[:, None] + order.closed, order.u.shape)
            return layout.gathered(steps, elements, samples)[..., None].astype(np.float64)
        table = order.u if what == "u" else order.rank
        return layout.gathered(table, elements, samples)[..., None].astype(np.float64)
    layout = Layouts(sampler).at(array, elements, samples)
    places = layout.places
    if what == PLAN:
        on_ground = isinstance(array_of(sampler.index, array).arrangement, Ground)
        across = (places.x, places.z, places.y) if on_ground else (places.x, places.y, places.z)
        told = [layout.gathered(part, elements, samples) for part in across]
        return np.stack(np.broadcast_arrays(*told), axis=-1).astype(np.float64)
    if what == "height":
        return 1 - layout.gathered(_shares(places)[1], elements, samples)[..., None]
    tables = {
        "place": (places.x, places.y),
        "across": places.across,
        "facing": (places.angle,),
        "n": (places.count[:, None],),
    }.get(what)
    if tables is None:
        tables = (getattr(places, what),)
    parts = [layout.gathered(table, elements, samples) for table in tables]
    return np.stack(np.broadcast_arrays(*parts), axis=-1).astype(np.float64)


def _on_circle(share: Floats) -> Values:
    """What those know of a circle that stand on one and the same, by how far round it (…), −1 for none; (…, 3)."""
    return np.stack([share, np.ones(share.shape), np.zeros(share.shape)], axis=-1)


def _gauge(
    sampler: Sampling, array: str, gauge: Gauge, part: int, elements: Elements | None, samples: SampleTimes
) -> Values:
    setting = setting_of(sampler, gauge.id, samples)
    if isinstance(gauge, RandomGauge):
        numbers = np.zeros(1, dtype=np.int64) if elements is None else elements.streams
        return random_of(numbers, setting("seed"))[..., None]
    if isinstance(gauge, OrderGauge | Sweep):
        u, most = _order(sampler, array, gauge, elements, samples)
        if isinstance(gauge, OrderGauge):
            return u[..., None]
        return _sweep(sampler, gauge, u, most, setting, samples)[..., None]
    if isinstance(gauge, LifeGauge):
        return _life(sampler, array, gauge, elements, samples)[..., None]
    if isinstance(gauge, PictureGauge):
        seen = _picture(sampler, array, gauge, elements, samples)
        return np.where(setting("backwards") >= 0.5, 1 - seen, seen)[..., None]
    if isinstance(gauge, ColumnGauge):
        return _column(sampler, array, gauge, elements, setting, samples)[..., None]
    if isinstance(gauge, Zone):
        # What a pattern shows may be of another moment: where its copies stand is asked now.
        return zone_reading(sampler, array, gauge, samples.outside(array))[..., None]
    assert isinstance(gauge, NoiseGauge)
    return noise_of(sampler, array, gauge, part, samples)[..., None]


def _order(
    sampler: Sampling, array: str, gauge: Gauge, elements: Elements | None, samples: SampleTimes
) -> tuple[Floats, Floats]:
    """u and the greatest rank, (elements or 1, times or 1) each."""
    if elements is None:
        return np.zeros((1, 1)), np.zeros((1, 1))
    if is_emitter(sampler, array):
        return Sparks(sampler).known(array, "life", samples)[..., 0], np.zeros((1, 1))
    own = gauge.id if getattr(gauge, "order", None) is not None else None
    layout, order = Layouts(sampler).order(array, own, elements, samples)
    most = (
        np.broadcast_to(order.most[:, None], order.u.shape) if len(order.most) == len(order.u) else order.most[:, None]
    )
    return layout.gathered(order.u, elements, samples), layout.gathered(most, elements, samples)


def _column(
    sampler: Sampling,
    array: str,
    gauge: ColumnGauge,
    elements: Elements | None,
    setting: Setting,
    samples: SampleTimes,
) -> Floats:
    cells = np.array(gauge.cells, dtype=np.float64)
    greatest = np.abs(cells).max(initial=0.0)
    numbers = np.zeros((1, 1)) if elements is None else elements.numbers.astype(np.float64)[:, None]

    def work(state: tuple[int, ...]) -> Floats:
        by, scale, beyond = state
        row = numbers
        if by % 2 and elements is not None and not is_emitter(sampler, array):
            layout, order = Layouts(sampler).order(array, gauge.id if gauge.order else None, elements, samples)
            row = layout.gathered(order.rank, elements, samples)
        return column_of(cells if scale % 2 or not greatest else cells / greatest, row, beyond)

    return parted([setting("by"), setting("scale"), setting("beyond")], work)


def _picture(
    sampler: Sampling, array: str, gauge: PictureGauge, elements: Elements | None, samples: SampleTimes
) -> Floats:
    if elements is None:
        return np.zeros((1, 1))
    place = sampler.evaluate(f"{array}.place", samples)
    scene = sampler.scene
    # Sparks fly anywhere: over them it lies as over the stage.
    left, top, wide, high = -scene.width / 2, -scene.height / 2, float(scene.width), float(scene.height)
    if is_emitter(sampler, array):
        u, v = (place[..., 0] - left) / wide, (place[..., 1] - top) / high
    else:
        layout = Layouts(sampler).at(array, elements, samples)
        u, v = (layout.gathered(part, elements, samples) for part in _shares(layout.places))
    return brightness_at(brightness(gauge.data, gauge.wide, gauge.high), *np.broadcast_arrays(u, v))


def _shares(places: Places) -> tuple[Floats, Floats]:
    """Places as shares of what those that are there cover, (states or 1, n) each; the middle where that has no
    extent."""
    there = np.arange(len(places))[None, :] < places.count[:, None]
    (x, wide), (y, high) = shares_of(places.plan, there)
    return np.where(wide, x, 0.5), np.where(high, y, 0.5)


def _sweep(sampler: Sampling, gauge: Sweep, u: Floats, most: Floats, setting: Setting, samples: SampleTimes) -> Floats:
    travel, soft, width = (setting(name) / 100 for name in ("travel", "soft", "width"))
    soft, width = np.clip(soft, 0, 1e6), np.clip(width, 0, 1e6)
    if gauge.profile.keys:
        return played(u, travel, soft, _profile(gauge))

    def work(state: tuple[int, ...]) -> Floats:
        way, kind, circle = state
        round_it = most if circle else None
        return swept(u, travel, WAYS[way % len(WAYS)], width, soft, edge_of(setting, kind), round_it)  # type: ignore[arg-type]

    return parted([setting("way"), setting("edge"), setting("circle")], work)


def _profile(gauge: Sweep | LifeGauge) -> Callable[[Floats], Floats]:
    return profile_of(gauge.profile, specs_of(type(gauge))["profile"])


def _life(sampler: Sampling, array: str, gauge: LifeGauge, elements: Elements | None, samples: SampleTimes) -> Floats:
    life = np.zeros((1, 1)) if elements is None else sampler.evaluate(f"{array}.life", samples)[..., 0]
    return _profile(gauge)(life) if gauge.profile.keys else life


def random_of(numbers: NDArray[np.int64], seed: Floats) -> Floats:
    """Even in 0..1 by number and seed: (elements, times or 1)."""
    number, seeds = np.broadcast_arrays(numbers[:, None].astype(np.float64), np.rint(seed))
    out = np.empty(number.size)
    noise.even_at(number.ravel(), np.zeros(1), seeds.ravel(), out)
    return out.reshape(number.shape)
