"""The sound of clips in a film: as fast, as late and as often as their pictures, forwards and backwards."""

import base64
from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.clips import Clip
from jaunty_lever.core.document.layers import ClipLayer
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.evaluation.clips import Played, played
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.reel import BadReel, Reel

RATE = 48_000
"""Samples a second."""
MOST_SECONDS = 3600
_AT_ONCE = 240
_SLOWEST, _FASTEST = 0.02, 8.0
"""Of the clip's own speed: what is slower is not heard, and what is faster has jumped."""

Waves = NDArray[np.float32]

_FORMS = {"pcm_s16le": "s16", "libopus": "flt", "aac": "fltp"}
"""How each encoder takes samples."""


def _clip_of(project: Project | None, layer: ClipLayer) -> Clip | None:
    return project.clip(layer.clip) if project else None


def _seen(scene: Scene) -> Iterator[tuple[ClipLayer, bool]]:
    """The clip layers that are not hidden, and whether each stands in an array."""

    def within(layer: BaseLayer) -> Iterator[BaseLayer]:
        at: str | None = layer.id
        while at is not None:
            yield scene.index.layers[at]
            at = scene.index.parents[at]

    for layer in scene.index.layers.values():
        if isinstance(layer, ClipLayer) and layer.sounds and not any(one.hidden for one in within(layer)):
            yield layer, any(one.kind == "array" for one in within(layer))


def heard(project: Project | None, scene: Scene) -> list[tuple[ClipLayer, Clip]]:
    """The clip layers whose sound goes into films."""
    pairs = ((layer, _clip_of(project, layer)) for layer, many in _seen(scene) if not many)
    return [(layer, clip) for layer, clip in pairs if clip is not None and clip.sound]


def left_out(project: Project | None, scene: Scene, carried: bool) -> Iterator[str]:
    """What is not heard, each in a sentence; `carried`: whether the file has any sound."""
    several = [layer.name for layer, many in _seen(scene) if many and (c := _clip_of(project, layer)) and c.sound]
    alone = [layer.name for layer, _ in heard(project, scene)]
    if several:
        yield f"The copies of a clip are silent: the sound of {', '.join(several[:3])} is left out."
    if alone and not carried:
        yield f"It has no sound: that of {', '.join(alone[:3])} is left out."


def mixed(project: Project | None, scene: Scene, first: int, end: int) -> Waves | None:
    """All that is heard during the frames first … before end, (samples, 2) in −1 … 1; None where nothing is."""
    layers = heard(project, scene)
    if not layers:
        return None
    sampler = Sampler(scene)
    out = np.zeros((round((end - first) / scene.fps * RATE), 2), dtype=np.float32)
    for layer, clip in layers:
        waves = waves_of(clip)
        if waves is None:
            continue
        for start in range(first, end, _AT_ONCE):
            stop = min(start + _AT_ONCE, end)
            a, b = (round((frame - first) / scene.fps * RATE) for frame in (start, stop))
            out[a:b] += _heard(sampler, layer, waves, start, stop, b - a)
    return np.clip(out, -1, 1)


def _heard(sampler: Sampler, layer: ClipLayer, waves: Waves, start: int, stop: int, many: int) -> Waves:
    """What a layer is heard as, (many, 2)."""
    fps = sampler.scene.fps
    # Between frames it plays on evenly.
    at = SampleTimes(np.arange(start, stop + 1) / fps)
    way = played(sampler, layer, at)
    whole = (1, stop - start + 1)
    moments, back, first, last, ends = (
        np.broadcast_to(part, whole)[0] for part in (way.moments, way.backwards, way.first, way.last, way.ends)
    )
    places = np.arange(many) / many * (stop - start)
    frame = np.minimum(places.astype(int), stop - start - 1)
    passed = np.interp(places, np.arange(stop - start + 1), moments)
    speed = np.abs(np.diff(moments)) * fps
    audible = ((speed >= _SLOWEST) & (speed <= _FASTEST))[frame]
    some = Played(passed[None], back[frame][None], first[frame][None], last[frame][None], ends[frame][None])
    shown = some.shown()[0]
    # What is held at an end stands still there.
    audible &= ~np.isnan(shown) & ((ends[frame] != 0) | ((passed >= first[frame]) & (passed <= last[frame])))
    where = np.nan_to_num(shown) * RATE
    steps = np.arange(len(waves))
    made = np.stack([np.interp(where, steps, waves[:, k], right=0.0) for k in (0, 1)], axis=1)
    return np.where(audible[:, None], made, 0.0).astype(np.float32)


def waves_of(clip: Clip) -> Waves | None:
    """The sound of a clip from its first frame on, (samples, 2); None where it has none that can be read."""
    try:
        reel = Reel(base64.b64decode(clip.data), clip.media)
    except BadReel:
        return None
    if reel.sound is None:
        return None
    times, _ = reel.packets()
    begin = times[0] * reel.tick if times else 0.0
    resampler = av.AudioResampler(format="fltp", layout="stereo", rate=RATE)
    parts: list[Any] = []
    late, total = None, 0
    with suppress(av.error.FFmpegError):
        for frame in reel.sounds():
            if late is None:
                late = float(frame.pts * frame.time_base) - begin if frame.pts is not None else 0.0
            for made in resampler.resample(frame):
                parts.append(made.to_ndarray())
                total += parts[-1].shape[1]
            if total > MOST_SECONDS * RATE:
                break
        parts.extend(made.to_ndarray() for made in resampler.resample(None))
    reel.close()
    if not parts:
        return None
    waves = np.concatenate(parts, axis=1).T.astype(np.float32)
    shift = round((late or 0.0) * RATE)
    return np.concatenate([np.zeros((shift, 2), np.float32), waves]) if shift > 0 else waves[-shift:]


class Along:
    """Sound that is put into a file beside pictures, always up to where they are."""

    def __init__(self, container: Any, encoder: str, waves: Waves) -> None:
        self._container, self._encoder = container, encoder
        self._stream = container.add_stream(encoder, rate=RATE, layout="stereo")
        if encoder != "pcm_s16le":
            self._stream.bit_rate = 192_000
        self._stream.codec_context.thread_count = 1
        self._waves = waves
        self._packets: list[Any] | None = None

    def until(self, seconds: float | None) -> None:
        """Put in what is heard before a moment; None: the rest."""
        if self._packets is None:
            self._packets = list(self._encoded())
        while self._packets:
            packet = self._packets[0]
            if seconds is not None and packet.pts is not None and packet.pts * packet.time_base > seconds:
                return
            self._container.mux(self._packets.pop(0))

    def _encoded(self) -> Iterator[Any]:
        form = _FORMS[self._encoder]
        size = 960
        for at in range(0, len(self._waves), size):
            part = self._waves[at : at + size]
            laid = np.ascontiguousarray(part.T if form == "fltp" else part.reshape(1, -1))
            if form == "s16":
                laid = np.round(laid * 32767).astype(np.int16)
            frame = av.AudioFrame.from_ndarray(laid, format=form, layout="stereo")
            frame.sample_rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
            yield from self._stream.encode(frame)
        yield from self._stream.encode(None)
