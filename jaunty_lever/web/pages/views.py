"""What the panels show, worked out from the document: fields, rows, stations, levers."""

from dataclasses import dataclass, replace
from typing import Any

from jaunty_lever.core.arrays_in_words import array_sentence
from jaunty_lever.core.document.base_layer import BaseLayer
from jaunty_lever.core.document.fills import Gradient
from jaunty_lever.core.document.gauge import Gauge
from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.layers import ArrayLayer, Group, Path, ShapeLayer, Text, TextureLayer, TraceLayer
from jaunty_lever.core.document.lever import Lever
from jaunty_lever.core.document.modifier import Modifier
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import components, specs_of
from jaunty_lever.core.edits.swinging import meetings
from jaunty_lever.core.evaluation.depth import OWN, camera_of, in_depth, uses_depth
from jaunty_lever.core.evaluation.graph import brought_along, upstream
from jaunty_lever.core.formula.names import shown as formula_shown
from jaunty_lever.core.geometry.faces import weights_of
from jaunty_lever.core.motion import Cam, Formula, Push
from jaunty_lever.core.view.copies import word_for
from jaunty_lever.core.words import SettingWords, sentence
from jaunty_lever.storage.store import NotThere, State

from .array_views import ArrayView, array_view, count_of, deep_settings, later_each
from .fields import Driven, Field, field_of, folding
from .gauge_views import GaugeView, gauge_view, shown_followers
from .layer_parts import (
    ClipView,
    CompositingView,
    PartView,
    Stops,
    clip_of,
    compositing_of,
    on_stage,
    parts_of,
    stops_of,
    traceable,
)
from .profiles import Point, points_of


def scene_on_page(state: State, scene: str) -> Scene:
    """The scene that a page is about. Raises NotThere, which is a page that says so."""
    found = state.project.scene(scene)
    if found is None:
        raise NotThere("This scene does not exist, or has been deleted.")
    return found


@dataclass(frozen=True)
class Row:
    """A layer in the list."""

    id: str
    name: str
    kind: str
    depth: int
    hidden: bool
    chosen: bool
    moves: bool
    group: bool
    sharp: bool = False
    sorting: str = ""
    viewed: str = ""
    stage: tuple[str, ...] = ()
    fields: tuple[Field, ...] = ()
    fill: str | None = None
    stops: tuple[tuple[str, Field, Field], ...] = ()
    data: str | None = None
    count: str = ""
    array: ArrayView | None = None
    typeface: str | None = None
    parts: tuple[PartView, ...] = ()
    compositing: CompositingView | None = None
    clip: ClipView | None = None
    traces: tuple[str, tuple[tuple[str, str], ...]] | None = None


def rows(scene: Scene, chosen: tuple[str, ...], parameter: str | None) -> list[Row]:
    """All layers, the topmost first, nested; the last chosen one opened."""
    found: list[Row] = []
    opened = chosen[-1] if chosen else None
    deep, seen = uses_depth(scene.index), camera_of(scene) is not None

    def walk(layers: tuple[BaseLayer, ...], depth: int) -> None:
        for layer in reversed(layers):
            closed = _closed(layer, depth, layer.id in chosen, deep, seen)
            found.append(closed if layer.id != opened else _opened(scene, layer, closed, parameter))
            if isinstance(layer, Group):
                walk(layer.layers, depth + 1)

    walk(scene.layers, 0)
    return found


def _closed(layer: BaseLayer, depth: int, chosen: bool, deep: bool, seen: bool) -> Row:
    """A layer's row while it is not open; the very same for as long as nothing that it shows has changed. `deep`:
    whether the scene goes by depth; `seen`: whether it has a camera."""
    known: dict[tuple[int, bool, bool, bool], Row] = layer.__dict__.setdefault("_rows", {})
    around = depth, chosen, deep, seen
    row = known.get(around)
    if row is None:
        row = known[around] = _closed_row(layer, *around)
    return row


def _closed_row(layer: BaseLayer, depth: int, chosen: bool, deep: bool, seen: bool) -> Row:
    moves = any(getattr(layer, name).moves for name in specs_of(type(layer)))
    return Row(
        id=layer.id,
        name=layer.name,
        kind=layer.kind,
        depth=depth,
        hidden=layer.hidden,
        sharp=not layer.blurs,
        chosen=chosen,
        moves=moves,
        group=isinstance(layer, Group),
        sorting=("sorted" if layer.by_depth else "offered") if isinstance(layer, Group) and deep else "",
        viewed=("stays" if layer.stays else "seen") if layer.drawn and depth == 0 and seen else "",
        count=count_of(layer) if isinstance(layer, ArrayLayer) else "",
    )


_LESSER_OF_TEXTURES = frozenset({"rotation", "scale", "pivot", "octaves", "persistence", "repeat", "seed"})


def _opened(scene: Scene, layer: BaseLayer, closed: Row, parameter: str | None) -> Row:
    index = scene.index
    fields, fill = [], None
    stops: Stops = ()
    paint = layer.fill if isinstance(layer, ShapeLayer) else None
    array = array_view(scene, layer, parameter) if isinstance(layer, ArrayLayer) else None
    typeface = layer.typeface if isinstance(layer, Text) else None
    # A weight means nothing to a font that has but one.
    off = {"weight"} if typeface is not None and weights_of(typeface) is None else set()
    off |= deep_settings(scene.index, layer) | layer.idle
    for name in specs_of(type(layer) if array is None else Group):
        if name in off or name == "blend":
            continue
        may = array is not None or (isinstance(layer, TextureLayer) and name in _LESSER_OF_TEXTURES)
        fields.append(folding(field_of(index, index.parameters[f"{layer.id}.{name}"], parameter), may))
    if paint is not None:
        fill = paint.kind
        inner = [
            folding(field_of(index, index.parameters[f"{layer.id}.fill.{name}"], parameter), False)
            for name in specs_of(type(paint))
        ]
        at = next((k for k, f in enumerate(fields) if f.parameter.endswith(".stroke")), len(fields))
        fields[at:at] = inner
        if isinstance(paint, Gradient):
            stops = stops_of(index, paint.stops, parameter)
    if isinstance(layer, TextureLayer):
        stops = stops_of(index, layer.stops, parameter)
    data = layer.data if isinstance(layer, Path) else None
    parts, laid = parts_of(index, layer, parameter), compositing_of(index, layer, parameter)
    return replace(
        closed,
        fields=tuple(fields),
        fill=fill,
        stops=stops,
        data=data,
        array=array,
        typeface=typeface,
        parts=parts,
        stage=(*on_stage(layer), *(f"{layer.id}.{name}" for name in OWN if layer.id in in_depth(scene))),
        traces=(layer.follows, traceable(index, layer)) if isinstance(layer, TraceLayer) else None,
        compositing=laid,
        clip=clip_of(layer),
    )


@dataclass(frozen=True)
class Station:
    """One modifier of the chosen parameter's chain."""

    id: str
    title: str
    does: str
    kind: str
    position: int
    bypassed: bool
    strength: Field
    main: tuple[Field, ...]
    more: tuple[Field, ...]
    """Lesser settings; what decides the look here does not fold."""
    windows: list[list[float]]
    driver: Driven | None
    text: str | None = None
    curve: tuple[str, list[Point], str] | None = None
    """What it plays over a passage: the parameter, its points, and their unit."""


@dataclass(frozen=True)
class ChainView:
    """The chain of the chosen parameter."""

    parameter: str
    sentence: str
    field: Field
    bypassed: bool
    stations: tuple[Station, ...]
    brought: Driven | None
    keys: list[list[Any]]
    kind: str
    unit: str
    followers: tuple[tuple[str, str], ...]
    drivers: tuple[tuple[str, str], ...]
    turns: bool
    gauge: GaugeView | None
    copies: str
    word: str
    later: str | None
    crumbs: tuple[tuple[str, str], ...]
    meets: list[float]


MOST_MEETINGS = 100
"""How many of the moments at which all copies are together are shown on the ruler."""


def chain_view(scene: Scene, parameter: str) -> ChainView | None:
    """The chain of a parameter, or None when it is not there."""
    index = scene.index
    node = index.parameters.get(parameter)
    if node is None:
        return None
    own = node.parameter
    # Whose it is stands above its field already, and there is little room beside its numbers.
    called = node.spec.label.removeprefix("Copy ")
    stations = tuple(_station(index, node, modifier, k) for k, modifier in enumerate(own.chain))
    keys = [
        [key.frame, key.ease if isinstance(key.ease, str) else list(key.ease), *components(key.value, node.spec)]
        for key in own.keys
    ]
    meets = meetings(scene, node)[:MOST_MEETINGS]
    return ChainView(
        parameter=parameter,
        sentence=sentence(index, node),
        field=field_of(index, node, parameter, called[:1].upper() + called[1:]),
        bypassed=own.bypassed,
        stations=stations,
        brought=_brought(node),
        keys=keys,
        kind=node.spec.kind,
        unit=node.spec.unit,
        followers=followers_of(index, parameter),
        drivers=drivers_of(index, node),
        turns=turns(index, node),
        gauge=gauge_view(index, node.reads.what, parameter)
        if node.reads and isinstance(node.reads.what, Gauge)
        else None,
        copies=_copies(scene, node) + _together(meets),
        word=word_for(index, index.arrays_of(node)[-1]) if index.arrays_of(node) else "",
        later=later_each(scene, parameter)
        if index.arrays_of(node) and node.within is None and node.reads is None
        else None,
        crumbs=_crumbs(index, node),
        meets=meets,
    )


def _brought(node: ParameterNode) -> Driven | None:
    """What acts behind a chain without standing in it, and the parameter that brings it."""
    if not node.brought:
        return None
    (modifier,) = node.brought
    return Driven(modifier.does, modifier.references()[0], modifier.id)


def _copies(scene: Scene, node: ParameterNode) -> str:
    """The array whose copies, or the outline whose points, each have a value of their own, in words; nothing outside
    these."""
    arrays = scene.index.arrays_of(node)
    layer = scene.index.layers[arrays[-1]] if arrays else None
    if isinstance(layer, ShapeLayer):
        return f"Each point of {layer.name}'s outline."
    return array_sentence(scene, layer) if isinstance(layer, ArrayLayer) else ""


def _together(meets: list[float]) -> str:
    """Where copies that swing out of step are together again, in words; nothing where they do not."""
    if not meets:
        return ""
    places = [f"{frame:g}" for frame in meets[:4]]
    more = " …" if len(meets) > len(places) else ""
    return f" All together again at frame{'s' if len(meets) > 1 else ''} {', '.join(places)}{more}."


def _crumbs(index: SceneIndex, node: ParameterNode) -> tuple[tuple[str, str], ...]:
    """(what to choose, words) for each step of the path; modifiers lead to their parameter."""
    made = []
    for step, label in node.trail:
        entry = index.modifiers.get(step)
        made.append((entry.parameter if entry else step, label))
    return tuple(made)


def _station(index: SceneIndex, node: ParameterNode, modifier: Modifier, position: int) -> Station:
    main: list[Any] = []
    more: list[Any] = []
    names, hidden = specs_of(type(modifier)), modifier.hidden_settings(node.spec) | {"strength"}
    if not index.arrays_of(node):
        hidden |= {name for name, spec in names.items() if spec.copies}
    if isinstance(modifier, Push) and not index.solid_zone(modifier.zone):
        hidden |= {"random_depth"}
    called = modifier.called_here()
    # What decides comes first of the lesser ones; shares, which every modifier has, last. What is set stays at its
    # place.
    for name in sorted(names, key=lambda name: 2 if name == "weights" else name not in modifier.decisive):
        if name not in hidden:
            shown = field_of(index, index.parameters[f"{modifier.id}.{name}"], None, called.get(name))
            if names[name].main:
                main.append(shown)
            else:
                more.append(folding(shown, name not in modifier.decisive))
    driver = None
    if isinstance(modifier, Push):
        zone = index.parameters.get(f"{modifier.zone}.value")
        driver = Driven(zone.spec.label if zone else "a zone that is gone", f"{modifier.zone}.value", modifier.id)
    elif modifier.linked and modifier.references():
        words = SettingWords(index, modifier, node.spec).named(
            modifier.references()[0], getattr(modifier, "component", None)
        )
        driver = Driven(words, index.heard(node, modifier.references()[0]), modifier.id)
    return Station(
        id=modifier.id,
        title=modifier.title,
        does=modifier.does,
        kind=modifier.kind,
        position=position,
        bypassed=modifier.bypassed,
        strength=field_of(index, index.parameters[f"{modifier.id}.strength"], None),
        main=tuple(main),
        more=tuple(more),
        driver=driver,
        windows=[[w.start, w.end, w.fade_in, w.fade_out] for w in modifier.windows],
        text=formula_shown(modifier.text, index) if isinstance(modifier, Formula) else None,
        curve=_curve(index, modifier) if isinstance(modifier, Cam) else None,
    )


def _curve(index: SceneIndex, cam: Cam) -> tuple[str, list[Point], str]:
    node = index.parameters[f"{cam.id}.profile"]
    return node.id, points_of(cam.profile, node.spec), node.spec.unit


def followers_of(index: SceneIndex, parameter: str) -> tuple[tuple[str, str], ...]:
    """(parameter, label) of everything that listens to a parameter."""
    along = tuple((one, index.parameters[one].label) for one in brought_along(index, parameter))
    return shown_followers(index, index.followers.get(parameter, [])) + along


def drivers_of(index: SceneIndex, node: ParameterNode) -> tuple[tuple[str, str], ...]:
    """(parameter, label) of everything that a parameter's chain listens to, its settings' chains included."""
    found: dict[str, str] = {}

    def look(parameter: Parameter) -> None:
        for modifier in parameter.chain:
            named = (f"{modifier.zone}.value",) if isinstance(modifier, Push) else modifier.references()
            heard = (index.heard(node, reference) for reference in named)
            found.update((r, index.parameters[r].label) for r in heard if r in index.parameters)
            for name in modifier.driven:
                look(getattr(modifier, name))

    look(node.parameter)
    for modifier in node.brought:
        found.update((r, index.parameters[r].label) for r in modifier.references())
    return tuple(found.items())


_GOES_ROUND = ("rate", "gear")
_DIFFERENCES = ("step", "span", "rate", "acceleration")


def turns(index: SceneIndex, node: ParameterNode) -> bool:
    """Whether a value is an angle that something stands at, and so may turn: no amplitude, and no lever that steers
    one."""
    if node.spec.kind != "angle" or node.spec.owner in _DIFFERENCES:
        return False
    # What wanders, swings or goes from key to key has no speed that a figure would tell anything of.
    sources = (index.parameters.get(one) for one in upstream(index, node.id))
    if not any(
        step.kind in _GOES_ROUND for one in sources if one and one.within is None for step in one.parameter.chain
    ):
        return False
    followers = [index.parameters[entry.parameter].spec for entry in index.followers.get(node.id, [])]
    return node.top not in index.levers or not followers or any(s.owner not in _DIFFERENCES for s in followers)


@dataclass(frozen=True)
class LeverView:
    """A lever on the board."""

    lever: Lever
    field: Field
    followers: tuple[tuple[str, str], ...]
    chosen: bool


def lever_groups(scene: Scene, chosen: str | None) -> list[tuple[str, list[LeverView]]]:
    """The levers in their groups; groups come in the order in which they first appear."""
    groups: dict[str, list[LeverView]] = {}
    for lever in scene.levers:
        parameter = f"{lever.id}.value"
        shown = LeverView(
            lever,
            field_of(scene.index, scene.index.parameters[parameter], chosen, lever.name),
            followers_of(scene.index, parameter),
            parameter == chosen,
        )
        groups.setdefault(lever.group, []).append(shown)
    return list(groups.items())
