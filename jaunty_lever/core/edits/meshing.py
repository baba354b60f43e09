"""Gear layers that mesh: their links keep to the layers' teeth, and teeth meet gaps wherever the wheels stand."""

from math import atan2, degrees, sqrt
from typing import Any

import numpy as np

from ..document.layers import GearLayer
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.specs import components, specs_of
from ..evaluation.placing import world_matrix
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..geometry.mesh import RACK, RING, Standing, phase, snapped
from ..motion import Gear

FORMS = ("wheel", "ring", "rack")


def gear_layer(scene: Scene, parameter: str) -> GearLayer | None:
    """The gear layer whose rotation (of a rack: position) a parameter is."""
    owner, _, field = parameter.partition(".")
    layer = scene.index.layers.get(owner)
    if not isinstance(layer, GearLayer):
        return None
    return layer if field == ("position" if layer.form.rest == "rack" else "rotation") else None


def standing(scene: Scene, layer: GearLayer) -> Standing:
    """Where a gear stands on the stage when nothing moves it, its groups as at frame 0."""

    def rest(name: str) -> tuple[float, ...]:
        own: Parameter = getattr(layer, name)
        return components(own.keys[0].value if own.keys else own.rest, specs_of(GearLayer)[name])

    a, b, c, d, e, f = 1.0, 0.0, 0.0, 1.0, 0.0, 0.0
    parent = scene.index.parents[layer.id]
    if parent is not None:
        a, b, c, d, e, f = (float(v) for v in world_matrix(Sampler(scene), parent, SampleTimes(np.zeros(1)))[0, 0])
    (x, y), (sx, sy), (px, py) = rest("position"), rest("scale"), rest("pivot")
    x, y = x - px * sx / 100, y - py * sy / 100
    module = rest("module")[0] * sx / 100 * sqrt(abs(a * d - b * c))
    return Standing(
        FORMS.index(str(layer.form.rest)),
        int(rest("teeth")[0]),
        module,
        a * x + c * y + e,
        b * x + d * y + f,
        degrees(atan2(b, a)),
        rest("rotation")[0],
    )


def gear_fields(scene: Scene, link: Gear, follower: str) -> dict[str, Any]:
    """The settings that a link between two gear layers has from them: teeth, module, phase; none where it has none."""
    first, second = gear_layer(scene, link.driver), gear_layer(scene, follower)
    if link.meshed.rest is not True or link.meshed.moves or first is None or second is None or link.mesh.moves:
        return {}
    mesh = link.mesh.rest
    one, two = standing(scene, first), standing(scene, second)
    # A screw's starts are its own: its layer, whatever it is, does not show them.
    wanted: dict[str, float] = {} if mesh == "screw" else {"driver_teeth": one.teeth}
    if mesh == "rack":
        wanted["module"] = round(one.module, 6)
    else:
        wanted["driven_teeth"] = two.teeth
    if mesh in ("external", "internal", "rack") and one.form != RACK:
        start = 0.0
        if mesh != "rack":
            place = scene.index.parameters[follower].parameter
            start = components(
                place.keys[0].value if place.keys else place.rest, scene.index.parameters[follower].spec
            )[0]
        way = link.direction.rest
        wanted["phase"] = round(phase(one, two, start, float(way) if isinstance(way, float | int) else 0.0), 6)
    changed = {}
    for name, value in wanted.items():
        own: Parameter = getattr(link, name)
        if not own.moves and own.rest != value:
            changed[name] = own.changed(rest=float(value), typed=())
    return changed


def mesh_between(one: GearLayer, two: GearLayer) -> str:
    """How two gear layers mesh."""
    forms = (one.form.rest, two.form.rest)
    return "rack" if forms[1] == "rack" else "internal" if "ring" in forms else "external"


def rack_direction(scene: Scene, wheel: GearLayer, rack: GearLayer) -> float:
    """Along which way a rack runs when its wheel turns clockwise, in degrees of what the rack lies in."""
    one, two = standing(scene, wheel), standing(scene, rack)
    return round((two.own + 180 + 180) % 360 - 180, 6) if one.form != RACK else 0.0


def snap(scene: Scene, layer: str, reach: float) -> tuple[tuple[float, float], GearLayer] | None:
    """How far on the stage a gear layer has to go to mesh with the one that needs least, and which that is."""
    moved = scene.index.layers.get(layer)
    if not isinstance(moved, GearLayer):
        return None
    mine, found = standing(scene, moved), []
    for other in scene.index.layers.values():
        if isinstance(other, GearLayer) and other.id != layer and not other.hidden:
            step = snapped(mine, standing(scene, other), reach)
            if step is not None:
                found.append((abs(step[0]) + abs(step[1]), step, other))
    return min(found, key=lambda one: one[0])[1:] if found else None


def turn_into_mesh(scene: Scene, moved: GearLayer, other: GearLayer, frame: float) -> float | None:
    """The rotation at which a gear's teeth stand in another's gaps now; None where something else decides it."""
    if moved.rotation.chain or moved.rotation.keys or "rack" in (moved.form.rest, other.form.rest):
        return None
    one, two = standing(scene, other), standing(scene, moved)
    turned = float(Sampler(scene).sample(f"{other.id}.rotation", frame / scene.fps)[0])
    share = turned * one.teeth / two.teeth * (1 if mesh_between(other, moved) == "internal" else -1)
    return two.own + phase(one, two, two.own - share)


__all__ = ["RING", "gear_fields", "gear_layer", "mesh_between", "rack_direction", "snap", "standing", "turn_into_mesh"]
