"""CSV: parameters by frame."""

import csv
import io
from collections.abc import Iterator

import numpy as np

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.moments import Moments
from jaunty_lever.core.evaluation.sampler import Sampler


def write(
    scene: Scene, columns: list[tuple[str, int | None]], start: float, stop: float, step: float = 1.0
) -> Iterator[str]:
    """Lines of CSV: frame, seconds, then every asked component, for the frames start … before stop.

    `columns` names parameters by id, with a component or None for all. Values keep their full precision.
    """
    sampler = Sampler(scene)
    moments = Moments.frames(scene.fps, start, stop, step)
    count = len(moments.times)
    head, values = ["frame", "seconds"], []
    for parameter, component in columns:
        place = scene.index.places[parameter]
        name = place.label.replace(" / ", "/")
        if place.slot.kind in ("text", "choice"):
            head.append(name)
            values.append(_words(sampler, parameter, moments, count))
            continue
        array = np.broadcast_to(sampler.evaluate(parameter, moments), (count, place.slot.components))
        names = place.slot.component_names or ("",)
        for k in range(array.shape[1]) if component is None else [component]:
            head.append(f"{name}.{names[k]}" if names[k] else name)
            values.append([_figure(v) for v in array[:, k].tolist()])
    yield _line(head)
    for k, time in enumerate(moments.times.tolist()):
        yield _line([_figure(start + k * step), _figure(time), *(column[k] for column in values)])


def _words(sampler: Sampler, parameter: str, moments: Moments, count: int) -> list[str]:
    slot = sampler.index.places[parameter].slot
    if slot.kind == "text":
        texts, which = sampler.texts(parameter, moments)
    else:
        texts = slot.options
        which = np.clip(np.rint(sampler.evaluate(parameter, moments)[:, 0]), 0, len(texts) - 1).astype(np.int64)
    return [texts[k] for k in np.broadcast_to(which, (count,)).tolist()]


def _figure(value: float) -> str:
    return repr(int(value)) if float(value).is_integer() and abs(value) < 1e15 else repr(float(value))


def _line(cells: list[str]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerow(cells)
    return out.getvalue()
