"""Documents of earlier versions, led over once they can be looked at: their formulas, and how gauges led values.

Up to the eighth version a value followed a gauge or a lever by a Between in place of all that it had: its value at 0,
its value at 1, and an amount that followed. Where the first of them is what the value rests at, a Steer towards the
second gives the same, and another one can be put behind it.
"""

from collections.abc import Iterator

from .document.modifier import Modifier
from .document.nodes import ParameterNode
from .document.parameter import Parameter
from .document.scene import Project, Scene
from .document.specs import components
from .document.versions import VERSION
from .formula.older import rewritten, texts_of_today
from .motion import Between, Follow, Remap, Steer


def changes_of_today(scene: Scene, version: int) -> dict[str, str | Modifier]:
    """What becomes of modifiers of an earlier version, by their ids: the text of a formula, or another modifier."""
    found: dict[str, str | Modifier] = {}
    if version < 5:
        found |= texts_of_today(scene, version)
    if version < 9:
        found |= {steer.id: steer for steer in _steers(scene)}
    return found


def scene_of_today(scene: Scene, version: int) -> Scene:
    """A scene of an earlier version as one of today."""
    table = changes_of_today(scene, version) if version < VERSION else {}
    made: Scene = rewritten(scene, table) if table else scene
    return made


def project_of_today(project: Project, version: int) -> Project:
    """A project of an earlier version as one of today."""
    if version >= VERSION:
        return project
    made = tuple(scene_of_today(scene, version) for scene in project.scenes)
    same = all(new is old for new, old in zip(made, project.scenes, strict=True))
    return project if same else project.changed(scenes=made)


def _steers(scene: Scene) -> Iterator[Steer]:
    """What stands for those Betweens that it can stand for."""
    heard: set[str] | None = None
    for entry in scene.index.modifiers.values():
        between = entry.modifier
        if not isinstance(between, Between) or entry.position:
            continue
        node = scene.index.parameters[entry.parameter]
        ends = _ends(between)
        if ends is None or not _from_rest(between, node):
            continue
        if heard is None:
            heard = {scene.index.heard(n, r) for n, r in _references(scene)}
        follow = between.amount.chain[0]
        assert isinstance(follow, Follow)
        own = {between.id, *(one.id for one in between.amount.chain)}
        if any(reference.partition(".")[0] in own for reference in heard):
            continue
        yield Steer(
            id=between.id,
            driver=follow.driver,
            component=follow.component,
            target=between.b,
            low=Parameter(rest=ends[0]),
            high=Parameter(rest=ends[1]),
            stop=between.stop,
            strength=between.strength,
            weights=between.weights,
            windows=between.windows,
            bypassed=between.bypassed,
        )


def _references(scene: Scene) -> Iterator[tuple[ParameterNode, str]]:
    for entry in scene.index.modifiers.values():
        for reference in entry.modifier.references():
            yield scene.index.parameters[entry.parameter], reference


def _from_rest(between: Between, node: ParameterNode) -> bool:
    """Whether its first value is what comes in at all times."""
    own, first = node.parameter, between.a
    if own.keys or first.keys or first.chain:
        return False
    return components(own.rest, node.spec) == components(first.rest, node.spec)


def _ends(between: Between) -> tuple[float, float] | None:
    """Between which values of what leads it it goes from the first to the second; None where more is made of that."""
    amount = between.amount
    follow = amount.chain[0] if amount.chain else None
    if amount.bypassed or not isinstance(follow, Follow) or len(amount.chain) > 2:
        return None
    if follow != Follow(id=follow.id, driver=follow.driver, component=follow.component):
        return None
    if len(amount.chain) == 1:
        return 0.0, 100.0
    remap = amount.chain[1]
    if not isinstance(remap, Remap):
        return None
    low, high = remap.from_low.constant_value, remap.from_high.constant_value
    plain = Remap(
        id=remap.id,
        from_low=remap.from_low,
        from_high=remap.from_high,
        to_low=Parameter(rest=0.0),
        to_high=Parameter(rest=100.0),
    )
    if remap != plain or remap.from_low.moves or remap.from_high.moves or low == high:
        return None
    return (float(low), float(high)) if isinstance(low, int | float) and isinstance(high, int | float) else None
