"""Arrays in words: "40 copies in a row, each 3 frames later than the one before, from the middle"."""

from .document.arrangement import Emitter, Grid, Ground, Letters, leads_out
from .document.counts import resting_count
from .document.layers import ArrayLayer
from .document.parameter import Parameter
from .document.quantity import plain_number
from .document.scene import Scene
from .document.specs import components, specs_of

_WHERE = {
    "row": "in a row",
    "grid": "in a grid",
    "ground": "on the ground in a grid",
    "ring": "in a ring",
    "path": "along a path",
    "rails": "between rails",
    "scatter": "scattered",
}
_SPOTS = {(0.0, 0.0): "", (50.0, 50.0): ", from the middle", (100.0, 100.0): ", from the end"}


def array_sentence(scene: Scene, layer: ArrayLayer) -> str:
    """An array's copies, arrangement, stagger and order in one sentence."""
    kind, many = layer.arrangement, resting_count(layer)
    if isinstance(kind, Emitter):
        return f"{_sparks(kind, many)}{_later(scene, layer)}."
    if isinstance(kind, Letters):
        what = str(kind.by.rest)
        said = f"{many:,} {what}{'' if many == 1 else 's'} of a text"
        return said + _ordered(scene, layer) + "."
    counts = [kind.columns, kind.rows] if isinstance(kind, Grid | Ground) else [kind.count]
    if isinstance(kind, Grid) and leads_out(kind):
        counts.append(kind.levels)
    moving = any(count.moves for count in counts)
    said = f"{'Up to ' if moving else ''}{many:,} {'copy' if many == 1 else 'copies'} {_WHERE[kind.kind]}"
    if len(counts) > 1:
        said += f" of {' by '.join(_number(count) for count in counts)}"
    return said + _ordered(scene, layer) + "."


def _ordered(scene: Scene, layer: ArrayLayer) -> str:
    """How copies come one after the other."""
    kind, order = layer.arrangement, layer.order
    said = _later(scene, layer)
    measure = "" if order.measure.moves else order.measure.rest
    if measure == "shuffled":
        said += ", shuffled"
    elif measure == "line":
        lead = scene.index.layers.get(order.outline or "")
        said += f", counted along {lead.name}" if lead else ", counted along a line"
    elif measure == "gauge":
        name = next((gauge.name for gauge in layer.gauges if gauge.id == order.gauge), "")
        said += f", sorted by {name}" if name else ""
    elif measure == "points" and order.points:
        said += f", from the nearest of {len(order.points) + 1} points"
    elif not order.origin.moves:
        x, y = components(order.origin.rest, specs_of(type(order))["origin"])
        if kind.kind in ("row", "path", "rails", "letters") and order.measure.rest == "number":
            y = x
        said += _SPOTS.get((x, y), f", from {plain_number(x)} %, {plain_number(y)} %")
    if order.backwards.rest is True:
        said += ", the last first"
    return said


def _sparks(kind: Emitter, many: int) -> str:
    rate = "at a rate that moves" if kind.rate.moves else f"{_number(kind.rate)} a second"
    life = "of lifetimes that move" if kind.lifetime.moves else f"each living {_number(kind.lifetime)} s"
    round_it = f", all of it again every {_number(kind.repeat)} s" if kind.repeat.rest else ""
    at_once = "" if kind.rate.moves or kind.lifetime.moves else f": about {many:,} at once"
    return f"Sparks {rate}, {life}{at_once}{round_it}"


def _later(scene: Scene, layer: ArrayLayer) -> str:
    if layer.lives.rest != "on":
        return ", each at a moment of its own" if layer.moment.chain else ", held at one moment"
    said, later = "", layer.later
    if isinstance(layer.arrangement, Emitter):
        # Sparks have no rank: each lives from its birth on.
        later = Parameter(rest=0.0)
    if later.moves:
        said = ", each later than the one before"
    elif later.rest:
        frames = components(later.rest, specs_of(ArrayLayer)["later"])[0] * scene.fps
        many = plain_number(abs(frames), 2)
        way = "later" if frames > 0 else "earlier"
        said = f", each {many} frame{'' if many == '1' else 's'} {way} than the one before"
    if layer.random_later.moves or layer.random_later.rest:
        said += ", and at random"
    return said


def _number(count: Parameter) -> str:
    value = count.keys[-1].value if count.keys else count.rest
    return plain_number(float(value)) if isinstance(value, int | float) else "?"
