"""Finding things in a scene: by id for the program, by name for people."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from functools import cached_property
from typing import Any, TypeVar

from .base_layer import BaseLayer
from .brought import Brought
from .difference import Difference, difference
from .layers import ArrayLayer, Group, ShapeLayer
from .lever import Lever
from .model import Model, Route, at_route
from .modifier import Modifier
from .node_tables import Found, add_own, known_of, nodes_of
from .nodes import ModifierNode, ParameterNode
from .parameter import stands_out
from .places import Places
from .references import bare, known_name
from .scene_content import SceneContent
from .specs import specs_of

Kind = TypeVar("Kind", bound=BaseLayer)
Result = TypeVar("Result")
Part = Callable[["SceneIndex", str], object]
"""What something known of a whole scene goes by in one of its layers or levers, or in what is the scene's own, by
id."""


def _own(scene: SceneContent) -> Found:
    """What belongs to a scene itself."""
    found: Found = ({}, {})
    add_own(found, scene, scene.id, (), ((scene.id, "Scene"),), scene.id)
    return found


def _has_copies(layer: BaseLayer) -> bool:
    """Whether a layer is an array, or has an edge with points."""
    return isinstance(layer, ArrayLayer) or (isinstance(layer, ShapeLayer) and layer.edge is not None)


def _kinds(index: "SceneIndex", top: str) -> list[tuple[str, type[Modifier]]]:
    """Which modifiers a layer or lever holds."""
    return [(name, type(entry.modifier)) for name, entry in index.modifiers.of(top).items()]


def _steps_in(index: "SceneIndex") -> dict[type[Modifier], list[str]]:
    """The modifiers of each kind, by id."""
    found: dict[type[Modifier], list[str]] = {}
    for name, entry in index.modifiers.items():
        found.setdefault(type(entry.modifier), []).append(name)
    return found


def _otherwise(before: BaseLayer | None, now: Any) -> bool:
    """Whether a layer has got or lost the points of its edge."""
    return before is not None and _has_copies(before) != _has_copies(now)


class SceneIndex:
    """Every parameter and modifier of one scene, with its place."""

    def __init__(self, scene: SceneContent) -> None:
        self.scene = scene
        self.lineage: dict[str, Any] = {}
        """What all states share that a scene has been brought to by edits, one after the other or instead of one
        another."""
        self._carried: dict[str, tuple[Any, Part]] = {}
        self.layers: dict[str, BaseLayer] = {}
        self.layer_routes: dict[str, Route] = {}
        self.parents: dict[str, str | None] = {}
        self.levers: dict[str, Lever] = {lever.id: lever for lever in scene.levers}
        self.arrays: dict[str, tuple[str, ...]] = {}
        """The arrays around each layer that stands in one, from the outermost in."""
        self.known: dict[str, ParameterNode] = {}
        """What copies, and points of edges, know of themselves, by id such as `pennants.rank`."""
        self.kinds: dict[type[BaseLayer], list[str]] = {}
        """The layers of each kind, by id."""
        self._routes: dict[str, Route] = {scene.id: ()}
        found = {scene.id: _own(scene)}
        for layer, route, parent in walk(scene.layers, ("layers",), None):
            self.layers[layer.id] = layer
            self.layer_routes[layer.id] = self._routes[layer.id] = route
            self.parents[layer.id] = parent
            self.kinds.setdefault(type(layer), []).append(layer.id)
            found[layer.id] = nodes_of(layer)
            if parent is not None:
                around = self.arrays.get(parent, ())
                if isinstance(self.layers[parent], ArrayLayer):
                    around = (*around, parent)
                if around:
                    self.arrays[layer.id] = around
            if _has_copies(layer):
                self.known.update(known_of(layer))
        for k, lever in enumerate(scene.levers):
            self._routes[lever.id] = ("levers", k)
            found[lever.id] = nodes_of(lever)
        self.parameters: Places[ParameterNode] = Places({top: one[0] for top, one in found.items()})
        """Every parameter by id, in the order of the document."""
        self.modifiers: Places[ModifierNode] = Places({top: one[1] for top, one in found.items()})
        self._steps = _steps_in(self)
        self.own_depths: dict[str, ParameterNode] = {}
        """The copy depths of arrays whose positions are pushed in depth too, as they are before that, by id."""
        self._bring_nearer()

    @classmethod
    def of(cls, scene: SceneContent, before: "SceneIndex | None" = None) -> "SceneIndex":
        """That of a scene, made from that of an earlier state of it where not much has changed: at the cost of what
        has."""
        if before is None or before.scene.id != scene.id:
            return cls(scene)
        new = difference(before.scene, scene)
        if new is not None and not any(_otherwise(before.layers.get(name), one) for name, one in new.nodes.items()):
            return before._after(scene, new)
        made = cls(scene)
        made.lineage = before.lineage
        return made

    def carried(self, name: str, make: Callable[[], Result], part: "Part") -> Result:
        """What is known of the scene as a whole: worked out once, and carried over to the states that edits bring it
        to, as long as `part(index, top)`, all that it goes by in each layer and lever and the scene's own, stays what
        it was."""
        if name not in self._carried:
            self._carried[name] = (make(), part)
        known: Result = self._carried[name][0]
        return known

    def _after(self, scene: SceneContent, new: Difference) -> "SceneIndex":
        made = object.__new__(type(self))
        made.scene = scene
        for shared in ("lineage", "layer_routes", "parents", "arrays", "kinds", "_routes", "known", "own_depths"):
            setattr(made, shared, getattr(self, shared))
        made.layers = self.layers | {name: one for name, one in new.nodes.items() if name in self.layers}
        made.levers = self.levers | {name: one for name, one in new.nodes.items() if name in self.levers}
        found = {name: _own(scene) if name == scene.id else nodes_of(new.nodes[name]) for name in new.tops}
        made.parameters = self.parameters.replaced({top: one[0] for top, one in found.items()})
        made.modifiers = self.modifiers.replaced({top: one[1] for top, one in found.items()})
        if all(_kinds(self, top) == _kinds(made, top) for top in new.tops):
            made._steps = self._steps
        else:
            made._steps = _steps_in(made)
        copied = [layer for name in new.tops if (layer := made.layers.get(name)) is not None and _has_copies(layer)]
        if copied:
            made.known = self.known | {name: node for layer in copied for name, node in known_of(layer).items()}
        if any(isinstance(layer, ArrayLayer) for layer in copied):
            made.own_depths = {}
            made._bring_nearer()
        # Others may add to it meanwhile.
        carried = dict(self._carried)
        same = {
            part: all(part(self, top) == part(made, top) for top in new.tops)
            for part in {part for _, part in carried.values()}
        }
        made._carried = {name: (known, part) for name, (known, part) in carried.items() if same[part]}
        return made

    def of_kind(self, kind: type[Kind]) -> list[Kind]:
        """The layers of a kind, those of each that it comprises in the order of the document."""
        names = [name for each, some in self.kinds.items() if issubclass(each, kind) for name in some]
        return [self.layers[name] for name in names]  # type: ignore[misc]

    def steps_of(self, kind: type[Modifier]) -> Iterator[ModifierNode]:
        """The modifiers of a kind, those of each that it comprises in the order of the document."""
        return (self.modifiers[name] for each, some in self._steps.items() if issubclass(each, kind) for name in some)

    def _pushes_in_depth(self, array: ArrayLayer) -> bool:
        own = array.copy_position
        return not own.bypassed and any(
            step.stands and not step.bypassed and self.solid_zone(getattr(step, "zone", "")) for step in own.chain
        )

    def _bring_nearer(self) -> None:
        """Lets pushes of copies' positions act on their depth, too, where zones have an end in depth."""
        brought: dict[str, dict[str, ParameterNode]] = {}
        for array in self.of_kind(ArrayLayer):
            depth, own = f"{array.id}.copy_depth", nodes_of(array)[0]
            if self._pushes_in_depth(array):
                before = replace(own[depth], id=f"{array.id}.own_depth")
                self.own_depths[before.id] = before
                brought[array.id] = own | {depth: replace(own[depth], brought=(Brought.of(array.id),))}
            elif self.parameters[depth].brought:
                brought[array.id] = own
        if brought:
            self.parameters = self.parameters.replaced(brought)

    def solid_zone(self, zone: str) -> bool:
        """Whether a zone has an end in depth, so that what it pushes goes nearer or further away too."""
        size = self.parameters.get(f"{zone}.size_depth")
        return size is not None and stands_out(size.parameter)

    def own_depth(self, array: str) -> str:
        """The id of the depth that an array's copies have of their own, before their position is pushed."""
        own = f"{array}.own_depth"
        return own if own in self.own_depths else f"{array}.copy_depth"

    def target(self, parameter: str) -> ParameterNode | None:
        """A parameter, or something that copies know of themselves, by id."""
        return self.parameters.get(parameter) or self.known.get(parameter) or self.own_depths.get(parameter)

    def with_settings(self, parameters: Iterable[str]) -> set[str]:
        """Parameters, by id, with the settings of all modifiers in their chains, and of those in the chains of
        these."""
        found = set(parameters)
        for node in self.parameters.values():
            # A setting comes after what it is a setting of.
            if node.within in found:
                found.add(node.id)
        return found

    def arrays_of(self, node: ParameterNode) -> tuple[str, ...]:
        """The arrays for whose copies a value may differ, from the outermost in."""
        if not self.known:
            return ()
        around = self.arrays.get(node.top, ())
        return (*around, node.top) if node.each else around

    def around(self, array: str) -> str:
        """Some parameter of an array, or of a shape whose edge is moved, that has no value for each copy or point."""
        layer = self.layers[array]
        part = "arrangement" if isinstance(layer, ArrayLayer) else "edge"
        owner: Model = getattr(layer, part)
        return next(f"{array}.{part}.{name}" for name, spec in specs_of(type(owner)).items() if not spec.each)

    def heard(self, node: ParameterNode, reference: str) -> str:
        """The id of what a parameter means by a reference; what stands in no array keeps the reference."""
        asked = known_name(reference)
        if asked is None:
            return bare(reference)
        name, outwards = asked
        arrays = self.arrays_of(node)
        return f"{arrays[-1 - outwards]}.{name}" if outwards < len(arrays) else reference

    def route(self, node: ParameterNode) -> Route:
        """The route from the scene to a parameter."""
        return self._routes[node.top] + node.route

    def node_route(self, top: str) -> Route:
        """The route from the scene to a layer or lever."""
        return self._routes[top]

    def node(self, route: Route) -> Any:
        """What stands at a route."""
        return at_route(self.scene, route)

    @cached_property
    def followers(self) -> dict[str, list[ModifierNode]]:
        """Which modifiers listen to each parameter."""
        found: dict[str, list[ModifierNode]] = {}
        for entry in self.modifiers.values():
            node = self.parameters[entry.parameter]
            for reference in entry.modifier.references():
                found.setdefault(self.heard(node, reference), []).append(entry)
        return found

    @cached_property
    def by_trail(self) -> dict[tuple[str, ...], ParameterNode]:
        """Parameters by the plain names that lead to them."""
        nodes = [*self.known.values(), *self.parameters.values()]
        return {tuple(plain_name(label) for _, label in node.trail): node for node in nodes}

    def by_name(self, text: str) -> tuple[ParameterNode, int | None]:
        """The parameter called `Lantern 3/opacity`, `Wind` or `Boat/position.x`, and its component.

        Letter case does not matter, and spaces may be written `_`. Raises LookupError, in the
        artist's words, when there is none.
        """
        wanted, component = _name(text), None
        table = {"/".join(trail): node for trail, node in self.by_trail.items()}
        node = table.get(wanted)
        if node is None and "." in wanted:
            stem, axis = wanted.rsplit(".", 1)
            node = table.get(stem)
            if node is not None and axis in node.spec.component_names:
                component = node.spec.component_names.index(axis)
            else:
                node = None
        if node is None:
            from difflib import get_close_matches

            near = get_close_matches(wanted, table, n=1, cutoff=0.5)
            hint = f" Did you mean “{table[near[0]].label.replace(' / ', '/')}”?" if near else ""
            raise LookupError(f"There is no parameter “{text}” in {self.scene.name}.{hint}")
        return node, component


def plain_name(name: str) -> str:
    """A name without what does not matter: letter case, and spaces written as _."""
    return name.strip().replace("_", " ").casefold()


def _name(text: str) -> str:
    return "/".join(plain_name(part) for part in text.split("/"))


def walk(
    layers: tuple[Any, ...], route: Route = (), parent: str | None = None
) -> Iterator[tuple[BaseLayer, Route, str | None]]:
    """Layers with their groups' before their own, each with its route and its group's id."""
    for k, layer in enumerate(layers):
        here = (*route, k)
        yield layer, here, parent
        if isinstance(layer, Group):
            yield from walk(layer.layers, (*here, "layers"), layer.id)
