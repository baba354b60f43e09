"""The same mathematics frame by frame in plain Python: an oracle for the arrays, and what their speed is measured by.

It covers what Evening quay uses: resting values, keys with eases, Wiggle with constant frequency, Follow.
"""

import math
from typing import Any

from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.keys import control_points
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import components

_MASK = (1 << 64) - 1
_GOLDEN = 0x9E3779B97F4A7C15
_M1, _M2 = 0xBF58476D1CE4E5B9, 0x94D049BB133111EB


def _mix(z: int) -> int:
    z = ((z ^ (z >> 30)) * _M1) & _MASK
    z = ((z ^ (z >> 27)) * _M2) & _MASK
    return z ^ (z >> 31)


def _even(stream: int, k: int) -> float:
    return (_mix((stream + k * _GOLDEN) & _MASK) >> 11) / 9007199254740992.0 * 2.0 - 1.0


def _spread(x: float) -> float:
    return x * (1.5 - 0.5 * x * x)


def noise(phase: float, period: int, seed: int, component: int, octaves: int, persistence: float) -> float:
    """Smooth noise at one phase."""
    whole = sum(persistence**o for o in range(octaves))
    total, scale = 0.0, 1
    for o in range(octaves):
        z = _mix((seed * _GOLDEN + 0x632BE59BD9B4E019) & _MASK)
        stream = _mix((z + (component * 64 + o + 1) * _M1) & _MASK)
        x = phase * scale
        k = math.floor(x)
        f = x - k
        cells = [(k + d) % (period * scale) if period else k + d for d in (-1, 0, 1, 2)]
        near, v0, v1, far = (_spread(_even(stream, c)) for c in cells)
        other = stream ^ _MASK
        m0 = 0.5 * (v1 - near) + _even(other, cells[1])
        m1 = 0.5 * (far - v0) + _even(other, cells[2])
        a, b, c, d = v0 / 1.5, m0 / 1.5, (3 * (v1 - v0) - 2 * m0 - m1) / 1.5, (2 * (v0 - v1) + m0 + m1) / 1.5
        total += (a + f * (b + f * (c + f * d))) * (persistence**o / whole)
        scale *= 2
    total = _spread(total)
    return _spread(total) if octaves > 1 else total


def _ease(s: float, points: tuple[float, float, float, float]) -> float:
    low, high = 0.0, 1.0
    for _ in range(40):
        u = (low + high) / 2
        if 3 * u * (1 - u) ** 2 * points[0] + 3 * u * u * (1 - u) * points[2] + u**3 < s:
            low = u
        else:
            high = u
    return 3 * u * (1 - u) ** 2 * points[1] + 3 * u * u * (1 - u) * points[3] + u**3


class PlainSampler:
    """Values at one time after the other, remembered for nobody."""

    def __init__(self, scene: Scene) -> None:
        self.index: SceneIndex = scene.index
        self.fps = scene.fps

    def value(self, parameter: str, t: float) -> list[float]:
        """The parameter's components at one time."""
        node = self.index.parameters[parameter]
        own, spec = node.parameter, node.spec
        out = self._source(own, spec, t)
        for modifier in own.chain:
            before = out
            if modifier.kind == "wiggle":
                out = self._wiggle(modifier, before, t)
            else:
                given = self.value(modifier.driver, t)
                times, plus = self.value(f"{modifier.id}.times", t)[0], self.value(f"{modifier.id}.plus", t)
                out = [given[0] * times + plus[min(k, len(plus) - 1)] for k in range(len(before))]
            weights, strength = (
                self.value(f"{modifier.id}.weights", t),
                self.value(f"{modifier.id}.strength", t)[0] / 100,
            )
            out = [b + strength * weights[k] * (o - b) for k, (b, o) in enumerate(zip(before, out, strict=True))]
        return out

    def _source(self, own: Any, spec: Any, t: float) -> list[float]:
        if not own.keys:
            return list(components(own.rest, spec))
        keys = own.keys
        for one, two in zip(keys, keys[1:], strict=False):
            if one.frame / self.fps <= t < two.frame / self.fps:
                s = (t * self.fps - one.frame) / (two.frame - one.frame)
                points = control_points(one.ease)
                weight = _ease(s, points) if points else s if one.ease == "linear" else 0.0
                a, b = components(one.value, spec), components(two.value, spec)
                return [x + (y - x) * weight for x, y in zip(a, b, strict=True)]
        return list(components((keys[0] if t < keys[0].frame / self.fps else keys[-1]).value, spec))

    def _wiggle(self, modifier: Any, before: list[float], t: float) -> list[float]:
        at = lambda name: self.value(f"{modifier.id}.{name}", t)  # noqa: E731
        frequency, amplitude, repeat = at("frequency")[0], at("amplitude"), at("repeat")[0]
        period = max(1, round(frequency * repeat)) if repeat else 0
        phase = (t % repeat) * period / repeat if repeat else t * frequency
        out = []
        for k, value in enumerate(before):
            n = noise(phase, period, round(at("seed")[0]), k, round(at("octaves")[0]), at("persistence")[0])
            if round(at("direction")[0]) == 2:
                n = -abs(n)
            out.append(value + amplitude[min(k, len(amplitude) - 1)] * n)
        return out
