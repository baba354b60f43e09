"""The base of every edit: a small model that makes a new project from an old one."""

from collections.abc import Callable, Iterable, Sequence
from typing import Any, ClassVar, Self

from pydantic import ValidationError, model_validator

from ..document.base_layer import BaseLayer
from ..document.difference import difference
from ..document.followed import followed
from ..document.index import SceneIndex
from ..document.layers import ClipLayer, PictureLayer
from ..document.lever import Lever
from ..document.model import Model, with_route
from ..document.nodes import ModifierNode, ParameterNode
from ..document.progress import part
from ..document.references import bare
from ..document.refused import Gone as Gone
from ..document.refused import Refused as Refused
from ..document.scene import Project, Scene
from ..document.tables import Table, picture_key
from ..evaluation.graph import circle, out_of_reach
from ..evaluation.listening import listening
from ..evaluation.structure import placing_parameters
from ..formula.names import bind, spelled
from ..motion import Gear
from ..motion.formula import Formula
from ..soundness import added_problems
from .meshing import gear_fields


def misfit_of(errors: Sequence[Any], whole: str = "The edit") -> Refused:
    """What does not fit a model, by Pydantic's errors, in a sentence, at its field; `whole` is what to call all of
    it."""
    first = errors[0]
    where = ".".join(str(step) for step in first["loc"] if step not in ("body", "query"))
    message = str(first["msg"]).removeprefix("Value error, ")
    return Refused(f"{where or whole}: {message}.", where)


class Edit(Model):
    """A change an artist can make. `apply` returns a new project; the old one stays as it was."""

    title: ClassVar[str] = ""

    kind: str

    @model_validator(mode="after")
    def _of_letters(self) -> Self:
        for name in type(self).model_fields:
            value = getattr(self, name)
            if isinstance(value, str) and not value.isascii():
                try:
                    value.encode()
                except UnicodeEncodeError:
                    raise ValueError(f"{name} is not text: it holds half of a letter") from None
        return self

    def apply(self, project: Project) -> Project:
        """The project after the edit. Raises Refused, in the artist's words, when it cannot be made or would leave
        behind what cannot be kept: one gate for every edit."""
        try:
            with part(0.0, 0.5):
                made = self.made_of(project)
        except ValidationError as error:
            # Numbers and names that each are sound may be too many together.
            raise misfit_of(error.errors()) from None
        with part(0.5, 1.0):
            wrong = next(iter(added_problems(project, made)), None)
        if wrong is not None:
            raise Refused(wrong.text, wrong.at)
        return made

    def made_of(self, project: Project) -> Project:
        """The project as the edit makes it, not looked through yet."""
        raise NotImplementedError

    def lasts(self, project: Project) -> bool:
        """Whether it takes so long that nobody should wait for it."""
        return False

    def doing(self, project: Project) -> str:
        """What goes on while it is worked out, in a few words, which cost nothing."""
        return "Working it out"

    def label(self, project: Project) -> str:
        """What the edit does, in the artist's words; asked of the project before it, once it is known to apply."""
        return self.title


class SceneEdit(Edit):
    """An edit inside one scene."""

    scene: str

    def made_of(self, project: Project) -> Project:
        scene = self.found(project)
        return pruned(project.with_scene(settled(scene, self.apply_to(scene))))

    def found(self, project: Project) -> Scene:
        """The scene, or Gone."""
        scene = project.scene(self.scene)
        if scene is None:
            raise Gone("This scene has been deleted.", self.scene)
        return scene

    def label(self, project: Project) -> str:
        return self.label_in(self.found(project))

    def apply_to(self, scene: Scene) -> Scene:
        """The scene after the edit."""
        raise NotImplementedError

    def label_in(self, scene: Scene) -> str:
        """What the edit does in this scene."""
        return self.title


def pruned(project: Project) -> Project:
    """The project without pictures and clips that no layer shows and no cell names, and without followers of tables
    that are gone."""
    if project.pictures:
        shown = frozenset[str]().union(*(_shown_in(scene) for scene in project.scenes))
        named: frozenset[str] = frozenset().union(*(table.pictures for table in project.tables))
        kept = tuple(one for one in project.pictures if one.id in shown or picture_key(one.name) in named)
        project = project if len(kept) == len(project.pictures) else project.changed(pictures=kept)
    if project.clips:
        played = frozenset[str]().union(*(_shown_in(scene) for scene in project.scenes))
        if any(one.id not in played for one in project.clips):
            project = project.changed(clips=tuple(one for one in project.clips if one.id in played))
    if any(table.followers for table in project.tables):
        tables = tuple(_with_those_there(project, table) for table in project.tables)
        if any(one is not old for one, old in zip(tables, project.tables, strict=True)):
            project = project.changed(tables=tables)
    return project


def _shown_in(scene: Scene) -> frozenset[str]:
    """The ids of the pictures and clips that a scene's layers show."""
    index = scene.index

    def found() -> frozenset[str]:
        pictures = {layer.picture for layer in index.of_kind(PictureLayer)}
        return frozenset(pictures | {layer.clip for layer in index.of_kind(ClipLayer)})

    return index.carried("shown", found, _shows)


def _shows(index: SceneIndex, top: str) -> tuple[str | None, str | None]:
    layer = index.layers.get(top)
    return getattr(layer, "picture", None), getattr(layer, "clip", None)


def _with_those_there(project: Project, table: Table) -> Table:
    there = tuple(one for one in table.followers if followed(project, one) is not None)
    return table if len(there) == len(table.followers) else table.changed(followers=there)


def free_name(name: str, taken: Iterable[str], most: int = 120) -> str:
    """The name, or with the next free number behind it when it is taken; letter case does not matter."""
    known = {other.casefold() for other in taken}
    stem, number = name, 1
    head, _, tail = name.rpartition(" ")
    if head and tail.isdigit() and len(tail) < 9:
        stem, number = head, int(tail)
    while name.casefold() in known:
        number += 1
        name = f"{stem[: most - len(str(number)) - 1]} {number}"
    return name


def settled(old: Scene, new: Scene) -> Scene:
    """The scene after an edit, its gears in mesh, its formulas told of what has gone and what has come.

    What has been deleted stands in them by its last name, which is a mistake now; a name that was a
    mistake is bound as soon as there is something of that name.
    """
    tops = _touched(old, new)
    for entry in new.index.steps_of(Gear):
        gear = entry.modifier
        assert isinstance(gear, Gear)
        if tops is None or (new is not old and _stand_by(new.index, tops, entry.parameter, gear.driver)):
            fields = gear_fields(new, gear, entry.parameter)
            if fields:
                new = with_modifier_fields(new, gear.id, **fields)
    quiet = tops is not None and all(called(old.index, top) == called(new.index, top) for top in tops)
    # Where nothing is called otherwise, all that other formulas could mean is what it was.
    for entry in _formulas(new.index, tops) if quiet and tops is not None else new.index.steps_of(Formula):
        formula, node = entry.modifier, new.index.parameters[entry.parameter]
        assert isinstance(formula, Formula)
        text = formula.text
        for reference in formula.references():
            before = old.index.target(reference)
            if before is not None and new.index.target(reference) is None:
                text = text.replace(f"$<{reference}>", spelled(before))
        if text != formula.text or not formula.whole(node.spec, new.index):
            text = bind(text, new.index, barred_to(new, entry.parameter))
        if text != formula.text:
            new = with_modifier_fields(new, formula.id, text=text)
    return new


def _formulas(index: SceneIndex, tops: Iterable[str]) -> list[ModifierNode]:
    """The formulas in some layers and levers."""
    entries = (entry for top in sorted(tops) for entry in index.modifiers.of(top).values())
    return [entry for entry in entries if isinstance(entry.modifier, Formula)]


def _touched(old: Scene, new: Scene) -> frozenset[str] | None:
    """Which layers and levers are other in themselves; None where there is something else, or it stands elsewhere."""
    found = difference(old, new)
    return None if found is None or old.fps != new.fps else found.tops


def called(index: SceneIndex, top: str) -> tuple[Any, ...]:
    """By which names things of a layer or lever are found, and who there listens to whom."""
    trails = tuple(node.trail for node in index.parameters.of(top).values())
    return trails, listening(index, top)


def _stand_by(index: SceneIndex, tops: frozenset[str], *parameters: str) -> bool:
    """Whether one of some layers, or something that they stand in, is other in itself, or may be led by what is."""
    for parameter in parameters:
        own = parameter.partition(".")[0]
        if own in tops:
            return True
        here = index.parents.get(own)
        while here is not None:
            if here in tops or any(index.parameters[name].parameter.moves for name in placing_parameters(here)):
                return True
            here = index.parents[here]
    return False


def barred_to(scene: Scene, parameter: str) -> Callable[[str], str | None]:
    """Tells why a parameter cannot listen to another: it stands out of reach, or a circle would close."""

    def why(driver: str) -> str | None:
        index = scene.index
        node, target = index.parameters[parameter], index.target(bare(driver))
        far = out_of_reach(index, node, driver)
        if far and target is not None:
            return f"{target.label} cannot be listened to from here: {far}."
        closed = circle(index, parameter, driver)
        return f"This would go round in a circle: {closed}." if closed else None

    return why


def fresh_id(scene: Scene, new: str) -> None:
    """Refuses an id that something in the scene has already."""
    index = scene.index
    if (
        new in index.layers
        or new in index.modifiers
        or new in index.levers
        or new == scene.id
        or f"{new}.value" in index.parameters
    ):
        raise Refused(f"The id “{new}” is taken already; every id must be its own.", new)


def place_of(scene: Scene, parameter: str) -> ParameterNode:
    """Where a parameter stands, or Gone."""
    target = scene.index.parameters.get(parameter)
    if target is None:
        raise Gone("This value is no longer there: what it belonged to has been deleted.", parameter)
    return target


def modifier_of(scene: Scene, modifier: str) -> ModifierNode:
    """Where a modifier stands, or Gone."""
    found = scene.index.modifiers.get(modifier)
    if found is None:
        raise Gone("This modifier has been deleted.", modifier)
    return found


def layer_of(scene: Scene, layer: str) -> BaseLayer:
    """A layer, or Gone."""
    found = scene.index.layers.get(layer)
    if found is None:
        raise Gone("This layer has been deleted.", layer)
    return found


def lever_of(scene: Scene, lever: str) -> Lever:
    """A lever, or Gone."""
    found = scene.index.levers.get(lever)
    if found is None:
        raise Gone("This lever has been deleted.", lever)
    return found


def with_parameter(scene: Scene, parameter: str, **updates: Any) -> Scene:
    """The scene with some fields of one parameter changed."""
    target = place_of(scene, parameter)
    changed: Scene = with_route(scene, scene.index.route(target), target.parameter.changed(**updates))
    return changed


def with_modifier_fields(scene: Scene, modifier: str, **updates: Any) -> Scene:
    """The scene with some fields of one modifier changed."""
    found = modifier_of(scene, modifier)
    route = (*scene.index.route(place_of(scene, found.parameter)), "chain", found.position)
    changed: Scene = with_route(scene, route, found.modifier.changed(**updates))
    return changed


def with_node(scene: Scene, top: str, node: Any) -> Scene:
    """The scene with a layer or lever replaced."""
    changed: Scene = with_route(scene, scene.index.node_route(top), node)
    return changed
