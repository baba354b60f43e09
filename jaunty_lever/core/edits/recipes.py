"""Recipes put on layers, and made from what is there."""

from collections.abc import Iterable
from hashlib import blake2b
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.base_layer import BaseLayer
from ..document.ids import new_id
from ..document.index import SceneIndex
from ..document.keys import Key, Value
from ..document.layers import ClipLayer, PictureLayer, ShapeLayer, Text
from ..document.lever import Lever
from ..document.limits import MOST_FILTERS
from ..document.modifier import Modifier
from ..document.owners import owners
from ..document.parameter import Parameter
from ..document.quantity import first_of
from ..document.recipe import Recipe, RecipeField, RecipePart
from ..document.scene import Scene
from ..document.specs import ParameterSpec, components, specs_of, value_of
from ..evaluation.extent import extent_of
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .base import Refused, SceneEdit, free_name, layer_of, place_of, with_node, with_parameter
from .edges import LINE_WIDTH
from .layers import put, renamed, taken_out
from .renumber import copied

_COMMON = {*specs_of(BaseLayer), "fill", "stroke", "stroke_width"}


class ApplyRecipe(SceneEdit):
    """Put a recipe on layers: `parts` names for each part the layers that play it.

    A recipe with one part may be put on several layers at once, each with seeds of its own; its levers are
    made once. Parts of one recipe with several parts are played by one layer each.
    """

    kind: Literal["apply recipe"] = "apply recipe"
    recipe: Recipe
    parts: dict[str, tuple[str, ...]] = Field(default_factory=dict, max_length=12)
    salt: str = Field(default_factory=lambda: new_id("recipe"), max_length=60)

    def apply_to(self, scene: Scene) -> Scene:
        recipe = self.recipe
        table = {lever.id: self._new("lever", lever.id) for lever in recipe.levers}
        playing = {part.id: self._players(scene, part) for part in recipe.parts}
        if len(recipe.parts) > 1 and any(len(layers) != 1 for layers in playing.values()):
            raise Refused(f"{recipe.name} has {len(recipe.parts)} parts: choose one layer for each.")
        chosen = [layers[0] for layers in playing.values()]
        if len(set(chosen)) < len(chosen):
            raise Refused(f"In {recipe.name} each part is played by another layer.", chosen[0])
        one = {part: layers[0] for part, layers in playing.items()}
        scene = self._levers(scene, table | one)
        scene = self._layers(scene, table, one)
        for part in recipe.parts:
            for number, layer in enumerate(playing[part.id]):
                scene = self._played(scene, part, layer, table | one | {part.id: layer}, number)
        for part in recipe.parts:
            if part.fits is not None or part.into:
                for layer in playing[part.id]:
                    scene = self._housed(scene, part, layer, table.get(part.into, ""))
        if recipe.perspective and not scene.perspective.moves and not scene.perspective.rest:
            scene = scene.changed(perspective=scene.perspective.changed(rest=recipe.perspective, typed=()))
        return scene.changed(motion_blur=True) if recipe.motion_blur else scene

    def _new(self, prefix: str, old: str, number: int = 0) -> str:
        return f"{prefix}-{blake2b(f'{self.salt} {old} {number}'.encode(), digest_size=5).hexdigest()}"

    def _seeds(self, number: int) -> np.random.Generator:
        return np.random.default_rng(
            int.from_bytes(blake2b(f"{self.salt} {number}".encode(), digest_size=8).digest(), "big")
        )

    def _copied(self, node: Any, table: dict[str, str], number: int) -> Any:
        inside = {owner.id: self._new("m", owner.id, number) for owner in owners(node) if isinstance(owner, Modifier)}
        return copied(node, table | inside, self._seeds(number))

    def _levers(self, scene: Scene, table: dict[str, str]) -> Scene:
        made, names = [], [lever.name for lever in scene.levers]
        for lever in self.recipe.levers:
            copy: Lever = self._copied(lever, table, 0)
            name = free_name(copy.name, names, 80)
            names.append(name)
            made.append(copy.changed(name=name, group=copy.group or self.recipe.name))
        return scene.changed(levers=(*scene.levers, *made))

    def _layers(self, scene: Scene, table: dict[str, str], parts: dict[str, str]) -> Scene:
        new = {owner.id: self._new(owner.id.partition("-")[0][:20], owner.id) for owner in owners(self.recipe.layers)}
        table |= new
        for layer in self.recipe.layers:
            copy = copied(layer, table | parts, self._seeds(0))
            scene = put(scene, renamed(copy, [other.name for other in scene.index.layers.values()]), None, None)
        return scene

    def _players(self, scene: Scene, part: RecipePart) -> tuple[str, ...]:
        layers = self.parts.get(part.id, ())
        if not layers:
            raise Refused(f"Choose a layer for {part.name}.", part.id)
        for layer in layers:
            found = layer_of(scene, layer)
            if part.kinds and found.kind not in part.kinds:
                raise Refused(
                    f"{part.name} has to be a {' or a '.join(part.kinds)}; {found.name} is a {found.kind}.", layer
                )
        return layers

    def _housed(self, scene: Scene, part: RecipePart, layer: str, house: str) -> Scene:
        """The scene with a layer inside one that came with the recipe, and as large as there is room for it."""
        found = layer_of(scene, layer)
        if house:
            above: str | None = house
            while above is not None:
                if above == layer:
                    raise Refused(f"{found.name} holds what it should go into.", layer)
                above = scene.index.parents[above]
            scene = put(taken_out(scene, layer), found, house, None)
            scene = with_parameter(scene, f"{layer}.position", rest=(0.0, 0.0), typed=())
        if part.fits is None:
            return scene
        plain = with_parameter(scene, f"{layer}.scale", rest=(100.0, 100.0), typed=())
        alone = Sampler(plain.changed(layers=(layer_of(plain, layer),)))
        box = extent_of(alone, [layer], SampleTimes(np.array([0.0])))
        if box is None:
            return scene
        wide, high = max(box[2] - box[0], 1e-6), max(box[3] - box[1], 1e-6)
        size = round(100 * min(part.fits[0] / wide, part.fits[1] / high), 3)
        return with_parameter(scene, f"{layer}.scale", rest=(size, size), typed=())

    def _dressed(self, scene: Scene, part: RecipePart, layer: str, table: dict[str, str], number: int) -> Scene:
        """The scene with the filters and the line of a part on a layer."""
        found = layer_of(scene, layer)
        updates: dict[str, Any] = {}
        if part.filters:
            new = {one.id: self._new("filter", f"{part.id} {one.id}", number) for one in part.filters}
            if len(found.filters) + len(part.filters) > MOST_FILTERS:
                raise Refused(f"{found.name} would have more than {MOST_FILTERS} filters.", layer)
            updates["filters"] = (*found.filters, *(self._copied(one, table | new, number) for one in part.filters))
        if part.line is not None:
            if not isinstance(found, ShapeLayer):
                raise Refused(f"{found.name} has no line, which this recipe needs.", layer)
            updates["line"] = self._copied(part.line, table, number)
            if not found.stroke_width.moves and not found.stroke_width.constant_value:
                updates["stroke_width"] = found.stroke_width.changed(rest=LINE_WIDTH, typed=())
        return with_node(scene, layer, found.changed(**updates)) if updates else scene

    def _played(self, scene: Scene, part: RecipePart, layer: str, table: dict[str, str], number: int) -> Scene:
        scene = self._dressed(scene, part, layer, table, number)
        name = layer_of(scene, layer).name
        for field, entry in part.fields.items():
            if f"{layer}.{field}" not in scene.index.parameters:
                raise Refused(
                    f"{name} has no {field.replace('_', ' ').replace('.', ' ')}, which this recipe needs.", layer
                )
            target = place_of(scene, f"{layer}.{field}")
            own, spec = target.parameter, target.spec
            given: Parameter = self._copied(entry.parameter, table, number)
            updates: dict[str, Any] = {"chain": (*own.chain, *given.chain)}
            if entry.rest is not None:
                updates["rest"] = _fitting(entry.rest, spec, target.id)
            if given.keys:
                updates["keys"] = tuple(_keyed(key, own.rest, entry.keys_are, spec, target.id) for key in given.keys)
            scene = with_parameter(scene, target.id, **updates)
        return scene

    def label_in(self, scene: Scene) -> str:
        layers = [layer_of(scene, layer).name for some in self.parts.values() for layer in some]
        return f"Recipe {self.recipe.name}" + (f" on {first_of(layers, 3)}" if layers else "")


def _fitting(value: Value, spec: ParameterSpec, at: str) -> Value:
    try:
        components(value, spec)
    except ValueError as error:
        raise Refused(f"{error}.", at) from None
    return value


def _keyed(key: Key, rest: Value, keys_are: str, spec: ParameterSpec, at: str) -> Key:
    value = _fitting(key.value, spec, at)
    if keys_are != "as they are" and spec.numeric:
        own, given = components(rest, spec), components(value, spec)
        numbers = tuple(a + b if keys_are == "added" else a * b for a, b in zip(own, given, strict=True))
        value = value_of(tuple(round(number, 6) for number in numbers), spec)
    return key.changed(value=value)


def recipe_of(
    scene: Scene,
    name: str,
    does: str,
    parameter: str | None = None,
    layers: tuple[str, ...] = (),
    id: str | None = None,
) -> Recipe:
    """A recipe made of the chain of one parameter, or of layers with all that is on them.

    Levers that they listen to come along; other layers that they listen to become parts.
    """
    index = scene.index
    kept: dict[str, Any] = {"id": id or new_id("recipe"), "name": name, "does": does}
    inside: set[str] = set()
    if parameter is not None:
        target = place_of(scene, parameter)
        if target.within is not None or target.top in index.levers:
            raise Refused("Open the chain of a layer's value to save it as a recipe.", parameter)
        if not target.parameter.chain:
            raise Refused(f"{target.label} has no chain to save.", parameter)
        nodes: list[Any] = [target.parameter.changed(keys=(), typed=())]
        field = target.id.partition(".")[2]
        kinds = () if field.split(".")[0] in _COMMON else (index.layers[target.top].kind,)
        fields = {field: RecipeField(parameter=nodes[0])}
        role = RecipePart(id="part-own", name=index.layers[target.top].name[:80], kinds=kinds, fields=fields)
        parts, table = [role], {target.top: role.id}
    else:
        if not layers:
            raise Refused("Choose the layers to save first.")
        outer = [layer for layer in index.layers if layer in layers and not _inside(index, layer, set(layers))]
        nodes = [index.layers[layer] for layer in outer]
        inside = {owner.id for node in nodes for owner in owners(node) if isinstance(owner, BaseLayer)}
        if any(isinstance(index.layers[layer], PictureLayer | ClipLayer) for layer in inside):
            raise Refused("Pictures and clips stay in their project; leave them out of the recipe.", layers[0])
        if any(isinstance(layer := index.layers[one], Text) and layer.typeface for one in inside):
            said = "Fonts stay in their project: set the text in a shipped font first, or leave it out of the recipe."
            raise Refused(said, layers[0])
        for one in (index.layers[layer] for layer in inside):
            if one.matte is not None and one.matte.layer not in inside:
                there = index.layers[one.matte.layer].name
                raise Refused(f"{one.name} shows where {there} is: choose both, or let it show everywhere.", one.id)
        kept["layers"] = tuple(nodes)
        parts, table = [], {}
    levers = _levers_heard(index, nodes)
    for driver in _heard(index, [*nodes, *levers]):
        target = index.parameters[driver]
        if target.top in index.layers and target.top not in inside and target.top not in table:
            table[target.top] = f"part-{len(parts) + 1}"
            parts.append(RecipePart(id=table[target.top], name=index.layers[target.top].name[:80]))
    if len(parts) > 12:
        raise Refused(f"This listens to {len(parts)} other layers; a recipe has at most 12 parts.")
    whole = Recipe(**kept, parts=tuple(parts), levers=tuple(levers))
    same = {owner.id: owner.id for owner in owners(whole.layers) + owners(whole.levers) + owners(whole.parts)}
    made: Recipe = copied(whole, same | table, None)
    return made


def _inside(index: SceneIndex, layer: str, groups: set[str]) -> bool:
    parent = index.parents[layer]
    while parent is not None:
        if parent in groups:
            return True
        parent = index.parents[parent]
    return False


def _heard(index: SceneIndex, nodes: Iterable[Any]) -> list[str]:
    found = []
    for node in nodes:
        for owner in owners(node):
            if isinstance(owner, Modifier):
                found += [reference for reference in owner.references() if reference in index.parameters]
    return list(dict.fromkeys(found))


def _levers_heard(index: SceneIndex, nodes: list[Any]) -> list[Lever]:
    """The levers that nodes listen to, and those that these listen to."""
    found: dict[str, Lever] = {}
    waiting = list(nodes)
    while waiting:
        for driver in _heard(index, [waiting.pop()]):
            lever = index.levers.get(index.parameters[driver].top)
            if lever is not None and lever.id not in found:
                found[lever.id] = lever
                waiting.append(lever)
    return list(found.values())
