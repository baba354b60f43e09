"""Whether a project that came from outside holds together: ids, kinds, references, circles."""

from collections import Counter
from collections.abc import Iterator

from ..document.index import Place
from ..document.layers import LAYER_KINDS, BaseLayer, Path, PictureLayer
from ..document.model import with_route
from ..document.recipe import Recipe
from ..document.scene import Project, Scene
from ..document.slots import components
from ..edits.chains import crowded, offered
from ..edits.renumber import owners
from ..evaluation.graph import any_misfit, circles, misfit
from ..geometry.paths import path_outline


def problems(project: Project) -> Iterator[str]:
    """Everything that is wrong, in the artist's words; nothing for a sound project."""
    counted = Counter(owner.id for owner in owners(project))
    for owner, count in counted.items():
        if count > 1:
            yield f"The id “{owner}” stands {count} times; every id must be its own."
    if any(count > 1 for count in counted.values()):
        return
    for picture, count in Counter(picture.id for picture in project.pictures).items():
        if count > 1:
            yield f"The picture “{picture}” stands {count} times."
    for scene in project.scenes:
        for layer in scene.index.layers.values():
            if isinstance(layer, PictureLayer):
                found = project.picture_table.get(layer.picture)
                if found is None:
                    yield f"{scene.name}: {layer.name}: its picture “{layer.picture}” is not in the file."
                elif (found.width, found.height) != (layer.width, layer.height):
                    yield f"{scene.name}: {layer.name}: its size is not that of its picture."
        yield from (f"{scene.name}: {text}" for text in _scene(scene))


def recipe_problems(recipe: Recipe) -> Iterator[str]:
    """Everything that is wrong with a recipe, tried on layers of the kinds that it asks for."""
    names = Counter(
        [part.id for part in recipe.parts] + [owner.id for owner in owners(recipe.levers) + owners(recipe.layers)]
    )
    names += Counter(owner.id for part in recipe.parts for owner in owners(part.fields))
    twice = [
        f"The id “{name}” stands {count} times; every id must be its own." for name, count in names.items() if count > 1
    ]
    yield from twice
    if twice:
        return
    stand_ins: list[BaseLayer] = []
    for part in recipe.parts:
        for kind in part.kinds:
            if kind not in LAYER_KINDS:
                yield f"{part.name}: there is no layer called “{kind}”."
                return
        cls = LAYER_KINDS[part.kinds[0] if part.kinds else "ellipse"]
        more = {"picture": "none", "width": 1, "height": 1} if cls is PictureLayer else {}
        layer: BaseLayer = cls.model_validate({"id": part.id, "name": part.name, **more})
        for field, entry in part.fields.items():
            place = Scene(id="stand-ins", name="Parts", layers=(layer,)).index.places.get(f"{part.id}.{field}")
            if place is None:
                yield f"{part.name}: a {cls.title.lower()} has no {field}."
                continue
            own = entry.parameter.changed(rest=place.parameter.rest if entry.rest is None else entry.rest)
            layer = with_route(layer, place.route, own)
        stand_ins.append(layer)
    made = Scene(id="stand-ins", name=recipe.name).changed(layers=(*stand_ins, *recipe.layers), levers=recipe.levers)
    yield from _scene(made)


def _scene(scene: Scene) -> Iterator[str]:
    for place in scene.index.places.values():
        yield from _parameter(place)
    for layer in scene.index.layers.values():
        if isinstance(layer, Path):
            try:
                path_outline(layer.data)
            except ValueError as error:
                yield f"{layer.name}: {error}"
    sound = True
    for entry in scene.index.modifiers.values():
        follower = scene.index.places[entry.parameter]
        if not offered(type(entry.modifier), follower.slot):
            yield f"{follower.label}: {entry.modifier.title} does not work on a {follower.slot.kind}."
        for reference in entry.modifier.references() if entry.modifier.linked else ():
            driver = scene.index.places.get(reference)
            if driver is None:
                sound = False
                yield f"{follower.label} follows “{reference}”, which is not there."
                continue
            part = getattr(entry.modifier, "component", None)
            any_fits = entry.modifier.takes_any
            wrong = any_misfit(driver.slot, part) if any_fits else misfit(follower.slot, driver.slot, part)
            if wrong:
                yield f"{follower.label} cannot follow {driver.label}: {wrong}."
    if sound:
        for said in circles(scene.index)[:3]:
            yield f"These values depend on themselves: {said}."


def _parameter(place: Place) -> Iterator[str]:
    own = place.parameter
    wrong = crowded(own.chain)
    if wrong:
        yield f"{place.label}: {wrong}."
    for value, where in [(own.rest, ""), *((key.value, f" at frame {key.frame:g}") for key in own.keys)]:
        try:
            numbers = components(value, place.slot)
        except ValueError as error:
            yield f"{place.label}{where}: {error}."
            return
        if any(abs(number) > 1e9 for number in numbers):
            yield f"{place.label}{where}: the number is too large."
