"""The gate: whether a project holds together. Every edit, file, recipe and paste goes through it.

Documents share all that an edit does not touch, so that after an edit the gate looks at what is new, and at the links
from and to it; a file is looked at as a whole. Both ways are the same code, and tests hold the one to the other.
"""

from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Any

import orjson
from pydantic import ValidationError

from ..document.base_layer import BaseLayer
from ..document.curves import MOST_CURVES
from ..document.difference import same_but
from ..document.fonts import MOST_FONTS
from ..document.index import SceneIndex
from ..document.keys import Value
from ..document.layers import (
    LAYER_KINDS,
    ArrayLayer,
    ClipLayer,
    Group,
    Path,
    PictureLayer,
    ShapeLayer,
    Text,
    shown_by_none,
)
from ..document.limits import (
    LEAST_APART,
    MOST_CLIP_DATA,
    MOST_CLIPS,
    MOST_DEPTH,
    MOST_FRAME,
    MOST_LAYERS_IN_SCENE,
    MOST_LETTERS,
    MOST_LEVERS,
    MOST_NUMBER,
    MOST_PICTURES,
    MOST_RIGGED,
    MOST_SCENES,
    MOST_SNAPSHOTS,
    MOST_WINDOWS,
)
from ..document.model import Model, with_route
from ..document.node_tables import nodes_of
from ..document.nodes import ModifierNode, ParameterNode
from ..document.owners import owners
from ..document.palettes import MOST_PALETTES
from ..document.plain import bare, packed, same
from ..document.progress import reached
from ..document.recipe import Recipe
from ..document.scene import Project, Scene
from ..document.snapshot import Snapshot
from ..document.specs import components
from ..evaluation.listening import listening
from ..geometry.paths import path_outline
from ..motion.fits import crowded, offered
from .arrays import array_problems, copies_problems
from .compositing import compositing_problems
from .held import Touched, alone, clashes, counts, held_by, standing_twice
from .links import link_problems
from .problem import Problem
from .space import space_problems
from .tables import table_problems
from .traces import trace_problems


def problems(project: Project) -> Iterator[Problem]:
    """Everything that is wrong with a project; nothing for a sound one."""
    yield from _project(project, None)


def added_problems(before: Project, after: Project) -> Iterator[Problem]:
    """What a change made wrong: only what it touched is looked at, and what was wrong already does not stop it."""
    found = list(_project(after, before)) if after is not before else []
    if found:
        known = set(problems(before))
        yield from (one for one in found if one not in known)


def _project(project: Project, before: Project | None) -> Iterator[Problem]:
    touched = Touched(before)
    if len(project.scenes) > MOST_SCENES:
        yield Problem(f"A project has at most {MOST_SCENES} scenes.")
    if len(project.pictures) > MOST_PICTURES:
        yield Problem(f"A project keeps at most {MOST_PICTURES} pictures.")
    if len(project.clips) > MOST_CLIPS:
        yield Problem(f"A project keeps at most {MOST_CLIPS} clips.")
    if sum(len(clip.data) for clip in project.clips) > MOST_CLIP_DATA:
        yield Problem(f"The clips of a project have at most {MOST_CLIP_DATA * 3 // 4 >> 20} MB together.")
    if len(project.fonts) > MOST_FONTS:
        yield Problem(f"A project keeps at most {MOST_FONTS} fonts.")
    if len(project.palettes) > MOST_PALETTES:
        yield Problem(f"A project keeps at most {MOST_PALETTES} palettes.")
    if len(project.curves) > MOST_CURVES:
        yield Problem(f"A project keeps at most {MOST_CURVES} curves.")
    if before is None or not same_but(project, before, "scenes", "tables"):
        alone = project.changed(scenes=(), pictures=(), clips=(), fonts=(), tables=())
        yield from _whole(alone, "The project", project.id)
    fresh = [table for table in project.tables if touched.table(table)]
    for table in fresh:
        yield from _whole(table.changed(data=""), table.name, table.id)
    yield from table_problems(project, fresh, {table.data for table in before.tables} if before else set())
    held = [held_by(scene, touched) for scene in project.scenes]
    yield from counts(held)
    twice = list(clashes(held, before))
    yield from twice
    if twice:
        return
    for what, kept in _KEPT:
        for one, count in Counter(part.id for part in getattr(project, kept)).items():
            if count > 1:
                yield Problem(f"The {what} “{one}” stands {count} times.", one)
    shelved = before is not None and all(getattr(project, kept) is getattr(before, kept) for _, kept in _KEPT)
    for scene in project.scenes:
        if not touched.scene(scene):
            continue
        new = touched.difference(scene) if shelved else None
        for layer in scene.index.of_kind(BaseLayer) if new is None else new.themselves:
            yield from _kept(project, scene, layer)
        yield from (Problem(f"{scene.name}: {one.text}", one.at) for one in _scene(scene, touched))


_KEPT = (("picture", "pictures"), ("clip", "clips"), ("font", "fonts"), ("palette", "palettes"), ("curve", "curves"))


def _kept(project: Project, scene: Scene, layer: Any) -> Iterator[Problem]:
    """What is wrong with what a layer shows of what the project keeps."""
    if isinstance(layer, PictureLayer):
        yield from _picture(project, scene, layer)
    elif isinstance(layer, ClipLayer):
        yield from _clip(project, scene, layer)
    elif isinstance(layer, Text) and layer.typeface is not None and project.font(layer.typeface) is None:
        yield Problem(f"{scene.name}: {layer.name}: its font “{layer.typeface}” is not in the file.", layer.id)


def _picture(project: Project, scene: Scene, layer: PictureLayer) -> Iterator[Problem]:
    found = project.picture_table.get(layer.picture)
    if found is None:
        yield Problem(f"{scene.name}: {layer.name}: its picture “{layer.picture}” is not in the file.", layer.id)
    elif (found.width, found.height) != (layer.width, layer.height):
        yield Problem(f"{scene.name}: {layer.name}: its size is not that of its picture.", layer.id)


def _clip(project: Project, scene: Scene, layer: ClipLayer) -> Iterator[Problem]:
    found = project.clip(layer.clip)
    if found is None:
        yield Problem(f"{scene.name}: {layer.name}: its clip “{layer.clip}” is not in the file.", layer.id)
    elif any(getattr(found, name) != getattr(layer, name) for name in ("width", "height", "timing", "sound")):
        yield Problem(f"{scene.name}: {layer.name}: its size or its frames are not those of its clip.", layer.id)


def _scene(scene: Scene, touched: "Touched") -> Iterator[Problem]:
    """What is wrong inside a scene, in what is new of it."""
    index, new = scene.index, touched.difference(scene)
    if touched.frame(scene):
        yield from _whole(scene.changed(layers=(), levers=(), snapshots=()), "The scene", scene.id)
        for target in index.parameters.of(scene.id).values():
            yield from _parameter(target)
        yield from _modifiers(index, index.modifiers.of(scene.id).values())
    for some, most, what in ((scene.levers, MOST_LEVERS, "levers"), (scene.snapshots, MOST_SNAPSHOTS, "snapshots")):
        if len(some) > most:
            yield Problem(f"A scene has at most {most} {what}.")
    if new is None:
        yield from _standing(index)
    # What a trace follows may have gone with a part of another layer.
    yield from trace_problems(index)
    layers = index.layers.values() if new is None else [one for one in new.themselves if isinstance(one, BaseLayer)]
    if any(isinstance(layer, ArrayLayer | Text) for layer in layers):
        yield from copies_problems(scene)
    yield from compositing_problems(index, layers)
    yield from space_problems(index, layers)
    nodes = touched.nodes(scene)
    for k, node in enumerate(nodes):
        reached(k / len(nodes))
        yield from _node_problems(index, node)
    if new is None:
        # What an array stands along may have gone, or moved, without the array.
        for array in index.of_kind(ArrayLayer):
            if not touched.node(scene, array):
                yield from array_problems(index, array)
    old = touched.old(scene)
    if new is None or old is None or any(listening(old.index, top) != listening(index, top) for top in new.tops):
        tops = {node.id for node in nodes} | ({scene.id} if touched.frame(scene) else set())
        yield from link_problems(scene, tops)


def _standing(index: SceneIndex) -> Iterator[Problem]:
    """What is wrong with how many layers there are, and what stands in what."""
    if len(index.layers) > MOST_LAYERS_IN_SCENE:
        yield Problem(f"A scene has at most {MOST_LAYERS_IN_SCENE:,} layers; this would have {len(index.layers):,}.")
    for deep, route in index.layer_routes.items():
        # A route is “layers”, a position, “layers”, a position …
        if len(route) // 2 > MOST_DEPTH + 1:
            yield Problem(f"Groups nest at most {MOST_DEPTH} deep.", deep)
            break


def _node_problems(index: SceneIndex, node: Any) -> Iterator[Problem]:
    """What is wrong with a layer (without the layers of a group), lever or snapshot by itself."""
    if not isinstance(node, Snapshot):
        parameters, modifiers = nodes_of(node)
        for target in parameters.values():
            yield from _parameter(target)
        yield from _modifiers(index, modifiers.values())
    else:
        for lever, value in node.values.items():
            if any(abs(n) > MOST_NUMBER for n in _numbers_in(value)):
                yield Problem(f"{node.name}: the value of {lever} is too large.", node.id)
    if isinstance(node, Path):
        try:
            path_outline(node.data)
        except ValueError as error:
            yield Problem(f"{node.name}: {error}", node.id)
    if isinstance(node, ArrayLayer):
        yield from array_problems(index, node)
    yield from _whole(alone(node), node.name, node.id)


def _whole(node: Model, name: str, at: str) -> Iterator[Problem]:
    """Whether a node comes in again from what is written of it."""
    try:
        again = type(node).model_validate(orjson.loads(packed(node)))
    except ValidationError as error:
        first = error.errors()[0]
        where = " ".join(str(step) for step in first["loc"] if isinstance(step, str))
        yield Problem(f"{name}: {where}: {first['msg'].removeprefix('Value error, ')}.".replace("..", "."), at)
    except (ValueError, RecursionError) as error:
        yield Problem(f"{name}: {str(error) or 'it is nested too deep'}.", at)
    else:
        if again != node:
            yield Problem(f"{name}: this cannot be written to a file as it is.", at)


def _modifiers(index: SceneIndex, entries: Iterable[ModifierNode]) -> Iterator[Problem]:
    for entry in entries:
        modifier, follower = entry.modifier, index.parameters[entry.parameter]
        for window in modifier.windows:
            if max(abs(window.start), abs(window.end), window.fade_in, window.fade_out) > MOST_FRAME:
                yield Problem(f"{modifier.title}: a window lies too far from the scene.", modifier.id)
        if len(modifier.windows) > MOST_WINDOWS:
            yield Problem(f"{modifier.title} has at most {MOST_WINDOWS} active windows.", modifier.id)
        if not offered(type(modifier), follower.spec):
            yield Problem(f"{follower.label}: {modifier.title} does not work on a {follower.spec.kind}.", follower.id)


def _parameter(target: ParameterNode) -> Iterator[Problem]:
    own = target.parameter
    if bare(own) and same(own.rest, target.made):
        # What nobody has set is as sound as it was made; a setting takes on what its parameter is when it is used.
        return
    if target.spec.passage:
        if own.chain:
            yield Problem(f"{target.label}: it is drawn by keys, and takes no modifiers.", target.id)
        if any(not 0 <= key.frame <= 100 for key in own.keys):
            yield Problem(f"{target.label}: its keys stand between 0 and 100 % of the passage.", target.id)
    if (wrong := crowded(own.chain)) is not None:
        yield Problem(f"{target.label}: {wrong}.", target.id)
    if own.chain and (len(target.trail) - 2) > MOST_RIGGED * 2:
        yield Problem(f"{target.label}: settings are rigged at most {MOST_RIGGED} deep.", target.id)
    for value, where in [(own.rest, ""), *((key.value, f" at frame {key.frame:g}") for key in own.keys)]:
        try:
            numbers = components(value, target.spec)
        except ValueError as error:
            yield Problem(f"{target.label}{where}: {error}.".replace("..", "."), target.id)
            break
        if any(abs(number) > MOST_NUMBER for number in numbers):
            yield Problem(
                f"{target.label}{where}: the number is too large; it may go up to {MOST_NUMBER:,.0f}.", target.id
            )
            break
        if isinstance(value, str) and len(value) > MOST_LETTERS:
            yield Problem(f"{target.label}{where}: a text has at most {MOST_LETTERS:,} letters.", target.id)
            break
    last = None
    for key in own.keys:
        if abs(key.frame) > MOST_FRAME:
            yield Problem(f"{target.label}: a key at frame {key.frame:g} lies too far from the scene.", target.id)
            break
        if last is not None and key.frame - last < LEAST_APART:
            yield Problem(f"{target.label}: two keys stand at frame {key.frame:g}.", target.id)
            break
        last = key.frame
    if len(own.typed) > 4 or any(len(text) > 400 for text in own.typed):
        yield Problem(f"{target.label}: what was typed is too long to be kept.", target.id)


def _numbers_in(value: Value) -> tuple[float, ...]:
    if isinstance(value, str | bool):
        return ()
    return tuple(value) if isinstance(value, tuple) else (float(value),)


def recipe_problems(recipe: Recipe) -> Iterator[str]:
    """Everything that is wrong with a recipe, tried on layers of the kinds that it asks for."""
    ids = [part.id for part in recipe.parts] + [owner.id for owner in owners(recipe.levers) + owners(recipe.layers)]
    ids += [owner.id for part in recipe.parts for owner in owners((part.fields, part.filters, part.line))]
    twice = list(standing_twice(ids))
    yield from (one.text for one in twice)
    if twice:
        return
    if any(isinstance(owner, PictureLayer | ClipLayer) for owner in owners(recipe.layers)):
        yield "Pictures and clips stay in their project: a recipe holds no layer of them."
        return
    if any(isinstance(owner, Text) and owner.typeface for owner in owners(recipe.layers)):
        yield "Fonts stay in their project: a recipe's texts are set in shipped ones."
        return
    houses = {one.id for one in owners(recipe.layers) if isinstance(one, Group)}
    for part in recipe.parts:
        if part.into and part.into not in houses:
            yield f"{part.name}: what should take it in, “{part.into}”, is no group or array of the recipe."
            return
        if part.fits is not None and not all(0 < side <= 100_000 for side in part.fits):
            yield f"{part.name}: what it should fit in has a width and a height above 0."
            return
    made, wrong = stand_ins(recipe)
    yield from wrong
    if made is not None:
        yield from (one.text for one in _scene(made, Touched(None)))


def stand_ins(recipe: Recipe) -> tuple[Scene | None, list[str]]:
    """A scene in which layers of the kinds that a recipe asks for play its parts; None when there are no such kinds."""
    layers: list[BaseLayer] = []
    wrong: list[str] = []
    for part in recipe.parts:
        for kind in part.kinds:
            if kind not in LAYER_KINDS:
                return None, [f"{part.name}: there is no layer called “{kind}”."]
        cls = LAYER_KINDS[part.kinds[0] if part.kinds else "ellipse"]
        more = shown_by_none(cls)
        layer: BaseLayer = cls.model_validate({"id": part.id, "name": part.name, **more})
        for field, entry in part.fields.items():
            target = Scene(id="stand-ins", name="Parts", layers=(layer,)).index.parameters.get(f"{part.id}.{field}")
            if target is None:
                wrong.append(f"{part.name}: a {cls.title.lower()} has no {field}.")
                continue
            own = entry.parameter.changed(rest=target.parameter.rest if entry.rest is None else entry.rest)
            layer = with_route(layer, target.route, own)
        if part.line is not None and not isinstance(layer, ShapeLayer):
            wrong.append(f"{part.name}: a {cls.title.lower()} has no line.")
        elif part.line is not None:
            layer = layer.changed(line=part.line)
        layers.append(layer.changed(filters=part.filters) if part.filters else layer)
    made = Scene(id="stand-ins", name=recipe.name).changed(layers=(*layers, *recipe.layers), levers=recipe.levers)
    return made, wrong
