"""From what comes into a modifier to what it passes on: its strength, its states, its elements, its faults.

Kernels work on one row of samples. What varies from element to element is laid out element after element in that row;
a modifier that cannot take such a mixture is applied to one element after the other, here and nowhere else.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Window
from ..document.protocols import Values
from ..kernels.parallel import all_finite
from .context import Incoming, ModifierContext
from .sample_times import Times

_ALL = np.ones((1, 1))

Work = Callable[[ModifierContext, Incoming, int], Values]


def apply_modifier(context: ModifierContext, incoming: Incoming) -> Values:
    """What a modifier passes on, in rows: with its strength, windows and shares, its faults passed over."""
    if not context.count:
        # Copies of which there are none, as of an array within sparks before the first is born.
        return np.zeros((0, context.components))
    share = _ALL if context.step.full else share_of(context)
    if share is not _ALL and share.shape[0] == 1 and not share.any():
        return incoming.values
    out = by_state(context, incoming, lambda here, part, _: _sound(here, part))
    if share is _ALL or (share.shape[0] == 1 and bool(np.all(share == 1))):
        return out
    values = incoming.values
    return np.where(share == 0, values, np.where(share == 1, out, values + share * (out - values)))


def by_state(context: ModifierContext, incoming: Incoming, work: Work) -> Values:
    """`work(context, incoming, how many rows)`, done apart for the samples at which the settings that jump stand
    alike."""
    samples, names = context.samples, context.step.discrete
    jumps = [values for name in names if (values := context.number(name)).shape[0] > 1]
    count = context.count
    if not jumps:
        return work(context, incoming, count)
    states, which = np.unique(np.rint(np.hstack(jumps)), axis=0, return_inverse=True)
    out: Values | None = None
    for state in range(len(states)):
        chosen = np.flatnonzero(which.ravel() == state)
        some = samples.some(chosen)
        here = ModifierContext(context.sampler, context.line, context.step, some)
        made = work(here, incoming.some(chosen, some), len(chosen))
        if out is None:
            out = np.zeros((count, made.shape[1]))
        if made.shape[1] > out.shape[1]:
            out = np.hstack([out, np.zeros((count, made.shape[1] - out.shape[1]))])
        out[chosen, : made.shape[1]] = made
    return np.zeros((count, 0)) if out is None else out


def _sound(context: ModifierContext, incoming: Incoming) -> Values:
    """What a modifier gives; where that makes no sense, what came in."""
    elements = context.samples.elements
    if elements is not None and len(elements) > 1 and not context.modifier.mixes(context):
        return _one_by_one(context, incoming)
    out = context.modifier.apply(incoming, context)
    if out.shape[1] != context.components:
        out = np.broadcast_to(out, (out.shape[0], context.components))
    if not context.sound and not all_finite(out):
        context.fault(np.asarray(~np.isfinite(out).all(axis=1)), "The result is not a finite number")
    if context.wrong is not None:
        out = np.where(context.wrong[:, None], incoming.values, out)
    return out


def _one_by_one(context: ModifierContext, incoming: Incoming) -> Values:
    many, each = context.samples.shape
    incoming.begin()
    out = np.empty((many, each, context.components))
    for k in range(many):
        one = context.samples.one(k)
        here = ModifierContext(context.sampler, context.line, context.step, one)
        out[k] = _sound(here, incoming.some(np.arange(k * each, (k + 1) * each), one))
    return out.reshape(many * each, -1)


def write_text(context: ModifierContext, given: NDArray[np.object_]) -> NDArray[np.object_]:
    """One modifier of a text, in rows. A text is never half one thing and half another: it takes the stronger."""
    share = share_of(context)[:, 0]
    if not share.any():
        return given
    out = context.modifier.write(given, context)
    wrong = np.zeros(1, dtype=bool) if context.wrong is None else context.wrong
    return np.asarray(np.where((share >= 0.5) & ~wrong, out, given), dtype=object)


def strength_of(context: ModifierContext) -> Values:
    """How strong a modifier is: strength/100 × windows; (1 or rows, 1)."""
    strength = np.clip(context.number("strength") / 100, 0, 1)
    windows = context.modifier.windows
    return strength * envelope(windows, context.times, context.fps)[:, None] if windows else strength


def share_of(context: ModifierContext) -> Values:
    """How much of the effect is passed on: strength/100 × windows × shares; (1 or rows, 1 or components)."""
    strength = strength_of(context)
    weights = np.clip(context.number("weights"), 0, 1)
    if weights.shape[0] == 1 and bool(np.all(weights == weights[0, 0])):
        weights = weights[:, :1]
    return strength * weights


def envelope(windows: tuple[Window, ...], times: Times, fps: float) -> Times:
    """1 inside an active window, 0 outside, smoothstep over the fades, which lie inside; (n,)."""
    whole = np.zeros(len(times))
    for window in windows:
        start, end = window.start / fps, window.end / fps
        inside = ((times >= start) & (times <= end)).astype(np.float64)
        for into, fade in ((times - start, window.fade_in / fps), (end - times, window.fade_out / fps)):
            if fade > 0:
                s = np.clip(into / fade, 0, 1)
                inside = inside * (s * s * (3 - 2 * s))
        whole = np.maximum(whole, inside)
    return whole
