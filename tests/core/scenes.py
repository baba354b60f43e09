"""Small scenes for the tests, and strategies that draw random ones."""

from typing import Any

from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.document.specs import ParameterSpec, specs_of
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.motion import MODIFIERS, Gear, Stops


def scene(
    *layers: dict[str, Any], levers: tuple[dict[str, Any], ...] = (), fps: float = 30, length: int = 300
) -> Scene:
    """A scene of the given layers (ellipses unless they say otherwise)."""
    whole = [{"kind": "ellipse", "id": f"layer{k}", "name": f"Layer {k}", **layer} for k, layer in enumerate(layers)]
    return Scene.model_validate(
        {"id": "s", "name": "Test", "fps": fps, "length": length, "layers": whole, "levers": levers}
    )


def wiggling(parameter: str = "rotation", rest: Any = 0, fps: float = 30, keys: Any = (), **settings: Any) -> Scene:
    """One layer with a Wiggle `w` on one parameter; it is called `layer0.<parameter>`."""
    chain = [{"kind": "wiggle", "id": "w", **settings}]
    return scene({parameter: {"rest": rest, "keys": keys, "chain": chain}}, fps=fps)


def apply(project: Project, kind: str, **fields: Any) -> Project:
    """The project after one edit, given as a browser gives it."""
    return EDIT.validate_python({"kind": kind, "scene": "s", **fields}).apply(project)


def project(one: Scene | None = None) -> Project:
    """A project with one scene."""
    return Project(id="p", name="Project", scenes=(one or scene({}),))


_eases = st.sampled_from(["hold", "linear", "ease", "ease-in", "ease-out", "ease-in-out"]) | st.tuples(
    st.floats(0, 1), st.floats(-1, 2), st.floats(0, 1), st.floats(-1, 2)
).map(list)


def keys(low: float, high: float) -> st.SearchStrategy[list[dict[str, Any]]]:
    """No key, one, or a few, with any ease, at fractions of frames too."""
    one = st.fixed_dictionaries(
        {"frame": st.integers(0, 1190).map(lambda k: k / 4), "value": st.floats(low, high), "ease": _eases}
    )
    return st.lists(one, max_size=4, unique_by=lambda key: key["frame"])


def settings(low: float, high: float) -> st.SearchStrategy[Any]:
    """A setting at rest, or keyed."""
    return st.floats(low, high) | keys(low, high).filter(bool).map(lambda k: {"rest": low, "keys": k})


_windows = st.lists(
    st.tuples(st.integers(0, 200), st.integers(0, 90), st.integers(0, 20), st.integers(0, 20)).map(
        lambda w: {"start": w[0], "end": w[0] + w[1], "fade_in": w[2], "fade_out": w[3]}
    ),
    max_size=2,
)


def wiggles(id: str) -> st.SearchStrategy[dict[str, Any]]:
    """Any Wiggle."""
    return st.fixed_dictionaries(
        {
            "kind": st.just("wiggle"),
            "id": st.just(id),
            "frequency": settings(0, 12),
            "amplitude": settings(0, 50),
            "seed": st.integers(1, 99_999),
            "octaves": st.integers(1, 8),
            "persistence": settings(0, 1),
            "character": st.sampled_from(["smooth", "billow", "ridged", "stepped", "jitter"])
            | st.just({"rest": "smooth", "keys": [{"frame": 20, "value": "ridged"}, {"frame": 60, "value": "jitter"}]}),
            "direction": st.sampled_from(["both", "only above", "only below"]),
            "repeat": st.sampled_from([0, 0, 2.5, 4]),
            "mode": st.sampled_from(["around", "around", "within"]),
            "apart": settings(0, 100),
            "windows": _windows,
            "strength": settings(0, 100),
            "bypassed": st.sampled_from([False, False, False, True]),
        }
    )


def _setting(spec: ParameterSpec) -> st.SearchStrategy[Any]:
    """A setting inside, at the ends of and outside its useful range, at rest or keyed."""
    if spec.kind == "switch":
        return st.booleans()
    if spec.kind == "choice":
        still = st.sampled_from(spec.options)
        return still | st.tuples(still, still).map(
            lambda two: {"rest": two[0], "keys": [{"frame": 15, "value": two[0]}, {"frame": 70, "value": two[1]}]}
        )
    low = spec.low if spec.low is not None else -50.0
    high = min(spec.high if spec.high is not None else 50.0, low + 400)
    ends = st.sampled_from([low, high, 0.0, spec.default if isinstance(spec.default, float) else 1.0])
    if spec.whole:
        return st.integers(int(low) - 1, int(high) + 1) | ends.map(round)
    inside = st.floats(low, high)
    wide = st.floats(low - 20, high + 20)
    return inside | ends | wide | keys(low, high).filter(bool).map(lambda k: {"rest": low, "keys": k})


def modifiers(id: str, group: str = "number", kinds: tuple[str, ...] = ()) -> st.SearchStrategy[dict[str, Any]]:
    """Any modifier that suits a parameter of this group, with any of its settings set to anything."""
    some = [
        cls
        for name, cls in MODIFIERS.items()
        if group in cls.kinds and (not kinds or name in kinds) and not cls.linked and not cls.stands
    ]

    def settled(cls: Any) -> st.SearchStrategy[dict[str, Any]]:
        own = {
            n: _setting(s) for n, s in specs_of(cls).items() if group == "number" or s.owner not in ("value", "weights")
        }
        return st.fixed_dictionaries(
            {"kind": st.just(cls.model_fields["kind"].default), "id": st.just(id)},
            optional=own | {"windows": _windows, "bypassed": st.sampled_from([False, False, True])},
        )

    return st.sampled_from(some).flatmap(settled)


@st.composite
def rigs_of_all(draw: st.DrawFn) -> dict[str, Any]:
    """Chains of up to five modifiers of any kind, on a keyed number, on a vector and on a lever they follow."""

    def chain(name: str, group: str, most: int) -> list[dict[str, Any]]:
        return [draw(modifiers(f"{name}{k}", group)) for k in range(draw(st.integers(1, most)))]

    follow = {
        "kind": "follow",
        "id": "f",
        "driver": "lever.value",
        "times": draw(st.floats(-3, 3)),
        "delay": draw(st.floats(-1, 1)),
    }
    numbers = chain("a", "number", 4)
    numbers.insert(draw(st.integers(0, len(numbers))), follow)
    for cls in (Gear, Stops):
        settled = {n: _setting(s) for n, s in specs_of(cls).items() if s.owner != "weights"}
        whole = {
            "kind": st.just(cls.model_fields["kind"].default),
            "id": st.just(cls.__name__),
            "driver": st.just("lever.value"),
        }
        if draw(st.booleans()):
            linked = draw(st.fixed_dictionaries(whole, optional=settled | {"windows": _windows}))
            numbers.insert(draw(st.integers(0, len(numbers))), linked)
    own = {"rest": draw(st.floats(-100, 100)), "keys": draw(keys(-100, 100)), "chain": numbers}
    point = st.tuples(st.floats(-100, 100), st.floats(-100, 100)).map(list)
    some = [
        {"frame": f, "value": draw(point), "ease": draw(_eases)} for f in draw(st.sampled_from([(), (10,), (10, 40.5)]))
    ]
    vector = {"rest": [10, 20], "keys": some, "chain": chain("b", "vector", 3)}
    lever = {
        "id": "lever",
        "name": "Wind",
        "value": {"rest": 3, "keys": draw(keys(0, 10)), "chain": chain("c", "number", 2)},
    }
    return {"layers": [{"rotation": own, "position": vector}], "levers": (lever,)}


@st.composite
def rigs(draw: st.DrawFn) -> dict[str, Any]:
    """A layer and a keyed lever: wiggles and a Follow in any order, on a number and on a vector."""
    follow = {
        "kind": "follow",
        "id": "f",
        "driver": "lever.value",
        "times": draw(st.floats(-3, 3)),
        "plus": draw(st.floats(-20, 20)),
        "delay": draw(st.floats(-1, 1)),
        "speed": draw(st.sampled_from([1, 0.5, 2, -1])),
        "blend": draw(st.sampled_from(["replace", "add", "multiply"])),
    }
    chain = draw(st.permutations([draw(wiggles("w1")), draw(wiggles("w2")), follow]))
    own = {"rest": draw(st.floats(-100, 100)), "keys": draw(keys(-100, 100)), "chain": chain}
    vector = {"rest": [10, 20], "chain": [draw(wiggles("w3")) | {"weights": [1, draw(st.sampled_from([0, 0.5, 1]))]}]}
    lever = {
        "id": "lever",
        "name": "Wind",
        "value": {"rest": 3, "keys": draw(keys(0, 10)), "chain": [draw(wiggles("w4"))]},
    }
    return {"layers": [{"rotation": own, "position": vector}], "levers": (lever,)}


def driven(rig: dict[str, Any], fps: float = 30) -> Scene:
    """The scene of a rig."""
    return scene(*rig["layers"], levers=rig["levers"], fps=fps)
