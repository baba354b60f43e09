"""An edit of one layer, made of all that are chosen."""

from collections.abc import Sequence
from typing import Any

from ..document.counterparts import counterpart, counterpart_modifier
from ..document.ids import drawn_id
from ..document.index import SceneIndex
from ..document.model import at_route, with_route
from ..document.scene import Project, Scene
from .base import Edit, Refused, SceneEdit
from .layers import outermost


def made_on_each(scene: Scene, layers: Sequence[str], edits: Sequence[Edit]) -> tuple[Scene, dict[str, str]]:
    """The scene after edits of one layer on each of some, and why layers were left out: reasons by their ids."""
    left: dict[str, str] = {}
    for edit in edits:
        if not isinstance(edit, SceneEdit):
            raise Refused("Only an edit of one scene can be made on each of its layers.")
        if edit.scene != scene.id:
            raise Refused("An edit on each of some layers is one of their own scene.")
        scene = _each(scene, layers, edit, left)
    return scene, left


def _each(scene: Scene, layers: Sequence[str], edit: SceneEdit, left: dict[str, str]) -> Scene:
    own = top_of(scene.index, edit)
    if own is None or own not in layers:
        return edit.apply_to(scene)
    # What corresponds is sought in the scene as it was: an edit of the first may take it away.
    was, index, refusals, done = scene, scene.index, list[Refused](), False
    there = tuple(layer for layer in dict.fromkeys((own, *layers)) if layer in index.layers)
    # What changes its own layer alone is worked out on that too, and no index is made for what stands between; where
    # one lies in another, that would be taken for a change of both.
    apart = edit.kind in _ALONE and len(outermost(scene, there)) == len(there)
    for number, layer in enumerate(there):
        aimed = edit if layer == own else aimed_at(index, edit, layer, number)
        if aimed is None:
            left.setdefault(layer, "has no such value")
            continue
        try:
            if apart:
                route = index.node_route(layer)
                scene, done = with_route(scene, route, at_route(aimed.apply_to(was), route)), True
            else:
                scene, done = aimed.apply_to(scene), True
        except Refused as error:
            refusals.append(error)
            left.setdefault(layer, str(error).rstrip("."))
    if not done and refusals:
        raise refusals[0]
    return scene


_ALONE = frozenset(
    {
        "set value",
        "set key",
        "remove key",
        "set ease",
        "clear keys",
        "draw curve",
        "reset value",
        "bypass",
        "set windows",
        "move modifier",
        "write formula",
    }
)
"""Edits that change nothing but the layer that they are of."""


def label_on_each(project: Project, scene: Scene, layers: Sequence[str], edits: Sequence[Edit]) -> str:
    """What is done, on how many others, and who is left out."""
    said = edits[0].label(project)
    own = top_of(scene.index, edits[0])
    there = [layer for layer in dict.fromkeys(layers) if layer in scene.index.layers]
    if own is None or own not in there:
        return said
    left = made_on_each(scene, layers, edits)[1]
    others = len([layer for layer in there if layer != own and layer not in left])
    if others:
        said += f", and on {others} {'other' if others == 1 else 'others'}"
    if left:
        first, why = next(iter(left.items()))
        more = f" (and {len(left) - 1} more)" if left.keys() - {first} else ""
        said += f"; left out: {scene.index.layers[first].name}, {why[:1].lower()}{why[1:]}{more}"
    return said


def top_of(index: SceneIndex, edit: Edit) -> str | None:
    """The layer or lever that an edit of one value, modifier or layer is about."""
    parameter, modifier = getattr(edit, "parameter", None), _modifier_of(edit)
    if modifier is not None:
        entry = index.modifiers.get(modifier)
        parameter = entry.parameter if entry is not None else None
    if parameter is not None:
        node = index.parameters.get(parameter)
        return node.top if node is not None else None
    layer = getattr(edit, "layer", None)
    return layer if isinstance(layer, str) and layer in index.layers else None


def _modifier_of(edit: Edit) -> str | None:
    """The modifier that is there already and that an edit is about; what is added is named by its kind."""
    modifier = getattr(edit, "modifier", None)
    return modifier if isinstance(modifier, str) and edit.kind != "add modifier" else None


def aimed_at(index: SceneIndex, edit: SceneEdit, layer: str, number: int) -> SceneEdit | None:
    """An edit of one layer as one of another; None when that has nothing of the kind. What is made by it gets an id and
    a seed of its own, the same at each try."""
    updates: dict[str, Any] = {}
    if (modifier := _modifier_of(edit)) is not None:
        updates["modifier"] = counterpart_modifier(index, modifier, layer)
    if (parameter := getattr(edit, "parameter", None)) is not None:
        updates["parameter"] = counterpart(index, parameter, layer)
    if not updates and getattr(edit, "layer", None) is not None:
        updates["layer"] = layer
    if not updates or None in updates.values():
        return None
    if isinstance(new := getattr(edit, "id", None), str):
        updates["id"] = drawn_id(f"{new} {layer}")
    if isinstance(seed := getattr(edit, "seed", None), int):
        updates["seed"] = (seed + 7919 * number) % 99_999 + 1
    changed: SceneEdit = edit.changed(**updates)
    return changed
