"""What the panels show, worked out from the document: fields, rows, stations, levers."""

from dataclasses import dataclass
from typing import Any

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.index import ParameterNode, SceneIndex
from jaunty_lever.core.document.layers import BaseLayer, Group, LinearFill, Path, RadialFill, ShapeLayer
from jaunty_lever.core.document.lever import Lever
from jaunty_lever.core.document.modifier import Modifier
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import ParameterSpec, components, specs_of
from jaunty_lever.core.formula.names import shown as formula_shown
from jaunty_lever.core.motion import Formula
from jaunty_lever.core.ties import deciding
from jaunty_lever.core.words import SettingWords, sentence
from jaunty_lever.storage.store import NotThere, State


def scene_on_page(state: State, scene: str) -> Scene:
    """The scene that a page is about. Raises NotThere, which is a page that says so."""
    found = state.project.scene(scene)
    if found is None:
        raise NotThere("This scene does not exist, or has been deleted.")
    return found


@dataclass(frozen=True)
class Driven:
    """What drives a value: words for the field, and where the driver is to be found."""

    words: str
    driver: str
    modifier: str
    formula: bool = False


@dataclass(frozen=True)
class Field:
    """One value to be shown and set: a parameter, or one component of it."""

    parameter: str
    label: str
    kind: str
    unit: str
    help: str
    texts: tuple[str, ...]
    axes: tuple[str, ...]
    step: float
    low: float | None
    high: float | None
    options: tuple[str, ...]
    keyed: bool
    chained: bool
    driven: Driven | None
    chosen: bool
    key_frames: tuple[float, ...]


def fields_unit(spec: ParameterSpec) -> str:
    """A unit as it stands behind a field: frequencies read "a second"."""
    return {"Hz": "/s", "s": "s"}.get(spec.unit, spec.unit)


def field_of(index: SceneIndex, node: ParameterNode, chosen: str | None, label: str | None = None) -> Field:
    """The field for a parameter."""
    spec, own = node.spec, node.parameter
    value = own.keys[0].value if own.keys else own.rest
    if spec.kind == "text":
        texts: tuple[str, ...] = (str(value),)
    elif spec.kind == "choice":
        texts = (str(value),)
    elif spec.kind == "colour":
        texts = (hex_colour(components(value, spec)),)
    else:
        numbers = components(value, spec)
        typed = own.typed if len(own.typed) == len(numbers) and not own.keys else ("",) * len(numbers)
        texts = tuple(t or plain_number(n, 3).replace("−", "-") for t, n in zip(typed, numbers, strict=True))
    name = label or spec.label
    return Field(
        parameter=node.id,
        label=name,
        kind=spec.kind,
        unit=fields_unit(spec),
        help=spec.help,
        texts=texts,
        axes=spec.component_names if spec.kind != "colour" else (),
        step=spec.step or 1.0,
        low=spec.low,
        high=spec.high,
        options=spec.options,
        keyed=bool(own.keys),
        chained=bool(own.chain),
        driven=driven_of(index, node),
        chosen=node.id == chosen,
        key_frames=tuple(key.frame for key in own.keys),
    )


def driven_of(index: SceneIndex, node: ParameterNode) -> Driven | None:
    """The link that decides a value alone, said in words; None when the value is its own."""
    tie = deciding(index, node)
    return Driven(tie.words, tie.driver, tie.modifier, tie.written) if tie else None


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
    fields: tuple[Field, ...] = ()
    fill: str | None = None
    stops: tuple[tuple[str, Field, Field], ...] = ()
    data: str | None = None


def rows(scene: Scene, chosen: tuple[str, ...], parameter: str | None) -> list[Row]:
    """All layers, the topmost first, nested; the last chosen one opened."""
    found: list[Row] = []
    opened = chosen[-1] if chosen else None

    def walk(layers: tuple[BaseLayer, ...], depth: int) -> None:
        for layer in reversed(layers):
            found.append(_row(scene, layer, depth, chosen, opened, parameter))
            if isinstance(layer, Group):
                walk(layer.layers, depth + 1)

    walk(scene.layers, 0)
    return found


def _row(
    scene: Scene, layer: BaseLayer, depth: int, chosen: tuple[str, ...], opened: str | None, parameter: str | None
) -> Row:
    index = scene.index
    moves = any(getattr(layer, name).moves for name in specs_of(type(layer)))
    base: dict[str, Any] = {
        "id": layer.id,
        "name": layer.name,
        "kind": layer.kind,
        "depth": depth,
        "hidden": layer.hidden,
        "chosen": layer.id in chosen,
        "moves": moves,
        "group": isinstance(layer, Group),
    }
    if layer.id != opened:
        return Row(**base)
    fields, fill, stops = [], None, []
    paint = layer.fill if isinstance(layer, ShapeLayer) else None
    for name in specs_of(type(layer)):
        fields.append(field_of(index, index.parameters[f"{layer.id}.{name}"], parameter))
    if paint is not None:
        fill = paint.kind
        inner = [
            field_of(index, index.parameters[f"{layer.id}.fill.{name}"], parameter) for name in specs_of(type(paint))
        ]
        at = next((k for k, f in enumerate(fields) if f.parameter.endswith(".stroke")), len(fields))
        fields[at:at] = inner
        if isinstance(paint, LinearFill | RadialFill):
            for stop in paint.stops:
                node, colour = (
                    field_of(index, index.parameters[f"{stop.id}.{n}"], parameter) for n in ("offset", "colour")
                )
                stops.append((stop.id, node, colour))
    data = layer.data if isinstance(layer, Path) else None
    return Row(**base, fields=tuple(fields), fill=fill, stops=tuple(stops), data=data)


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
    windows: list[list[float]]
    driver: Driven | None
    text: str | None = None


@dataclass(frozen=True)
class ChainView:
    """The chain of the chosen parameter."""

    parameter: str
    sentence: str
    field: Field
    bypassed: bool
    stations: tuple[Station, ...]
    keys: list[list[Any]]
    kind: str
    unit: str
    followers: tuple[tuple[str, str], ...]
    drivers: tuple[tuple[str, str], ...]
    turns: bool
    crumbs: tuple[tuple[str, str], ...]


def chain_view(scene: Scene, parameter: str) -> ChainView | None:
    """The chain of a parameter, or None when it is not there."""
    index = scene.index
    node = index.parameters.get(parameter)
    if node is None:
        return None
    own = node.parameter
    stations = tuple(_station(index, node, modifier, k) for k, modifier in enumerate(own.chain))
    keys = [
        [key.frame, key.ease if isinstance(key.ease, str) else list(key.ease), *components(key.value, node.spec)]
        for key in own.keys
    ]
    return ChainView(
        parameter=parameter,
        sentence=sentence(index, node),
        field=field_of(index, node, parameter),
        bypassed=own.bypassed,
        stations=stations,
        keys=keys,
        kind=node.spec.kind,
        unit=node.spec.unit,
        followers=followers_of(index, parameter),
        drivers=drivers_of(index, node),
        turns=turns(index, node),
        crumbs=_crumbs(index, node),
    )


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
    for name in [*(name for name in names if name != "weights"), "weights"]:
        if name not in hidden:
            shown = field_of(index, index.parameters[f"{modifier.id}.{name}"], None)
            (main if names[name].main else more).append(shown)
    driver = None
    if modifier.linked and modifier.references():
        words = SettingWords(index, modifier, node.spec).named(
            modifier.references()[0], getattr(modifier, "component", None)
        )
        driver = Driven(words, modifier.references()[0], modifier.id)
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
    )


def followers_of(index: SceneIndex, parameter: str) -> tuple[tuple[str, str], ...]:
    """(parameter, label) of everything that listens to a parameter."""
    return tuple(
        (entry.parameter, index.parameters[entry.parameter].label) for entry in index.followers.get(parameter, [])
    )


def drivers_of(index: SceneIndex, node: ParameterNode) -> tuple[tuple[str, str], ...]:
    """(parameter, label) of everything that a parameter's chain listens to, its settings' chains included."""
    found: dict[str, str] = {}

    def look(parameter: Parameter) -> None:
        for modifier in parameter.chain:
            found.update((r, index.parameters[r].label) for r in modifier.references() if r in index.parameters)
            for name in modifier.driven:
                look(getattr(modifier, name))

    look(node.parameter)
    return tuple(found.items())


_DIFFERENCES = ("step", "span", "rate", "acceleration")


def turns(index: SceneIndex, node: ParameterNode) -> bool:
    """Whether a value is an angle that something stands at, and so may turn: no amplitude, and no lever that steers one."""
    if node.spec.kind != "angle" or node.spec.owner in _DIFFERENCES:
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
