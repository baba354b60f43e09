"""CSV: parameters by frame."""

import csv
import io
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

AT_ONCE = 4096
_FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")


def write(
    scene: Scene, columns: list[tuple[str, int | None]], start: float, stop: float, step: float = 1.0
) -> Iterator[str]:
    """CSV in pieces of many lines: frame, seconds, then every asked component, for the frames start … before stop.

    `columns` names parameters by id, with a component or None for all. Values keep their full precision.
    """
    sampler = Sampler(scene)
    samples = SampleTimes.frames(scene.fps, start, stop, step)
    count = len(samples.times)
    head = ["frame", "seconds"]
    values: list[NDArray[np.float64] | list[str]] = []
    for parameter, component in columns:
        node = scene.index.parameters[parameter]
        name = node.label.replace(" / ", "/")
        if node.spec.kind in ("text", "choice"):
            head.append(name)
            values.append(_words(sampler, parameter, samples, count))
            continue
        array = np.broadcast_to(sampler.track(parameter, samples), (count, node.spec.components))
        names = node.spec.component_names or ("",)
        for k in range(array.shape[1]) if component is None else [component]:
            head.append(f"{name}.{names[k]}" if names[k] else name)
            values.append(array[:, k])
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([as_text(cell) for cell in head])
    places, seconds = start + step * np.arange(count), samples.times
    for first in range(0, count, AT_ONCE):
        part = slice(first, first + AT_ONCE)
        columns = [
            _figures(one[part]) if isinstance(one, np.ndarray) else one[part] for one in (places, seconds, *values)
        ]
        writer.writerows(zip(*columns, strict=True))
        yield out.getvalue()
        out.seek(0)
        out.truncate()
    if not count:
        yield out.getvalue()


def _words(sampler: Sampler, parameter: str, samples: SampleTimes, count: int) -> list[str]:
    spec = sampler.index.parameters[parameter].spec
    if spec.kind == "text":
        texts, which = sampler.texts(parameter, samples)
    else:
        texts = spec.options
        which = np.clip(np.rint(sampler.track(parameter, samples)[:, 0]), 0, len(texts) - 1).astype(np.int64)
    texts = tuple(as_text(one) for one in texts)
    return [texts[k] for k in np.broadcast_to(which, (count,)).tolist()]


def as_text(cell: str) -> str:
    """A text that a spreadsheet takes for a text: one that begins like a formula gets an apostrophe before it."""
    return f"'{cell}" if cell[:1] in _FORMULA_SIGNS else cell


def _figures(column: NDArray[np.float64]) -> list[float | int]:
    """Numbers at full precision, whole ones without a point."""
    return [int(v) if v.is_integer() and abs(v) < 1e15 else v for v in column.tolist()]
