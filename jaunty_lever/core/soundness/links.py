"""What must hold of links: their drivers are there and fit, and no value depends on itself."""

from collections.abc import Iterator
from typing import Any

from ..document.gauge import Zone
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.parameter import stands_out
from ..document.references import PREFIX
from ..document.scene import Scene
from ..evaluation.graph import any_misfit, circles, misfit, out_of_reach
from ..motion.push import Push
from .arrays import push_problems
from .problem import Problem


def listening(index: SceneIndex, top: str) -> tuple[Any, ...]:
    """All of a layer or lever, or of the scene itself, that has a say in who listens to whom, and whether they fit; where it is what
    it was, no link can have come apart and no circle can have closed."""
    specs = tuple((node.id, node.spec) for node in index.parameters.of(top).values())
    chains = []
    for entry in index.modifiers.of(top).values():
        one, follower = entry.modifier, index.parameters[entry.parameter]
        pushes = one.stands and (one.bypassed, follower.parameter.bypassed, getattr(one, "zone", None))
        told = (type(one), one.id, entry.parameter, entry.position, one.references(), one.driven, pushes)
        chains.append((*told, getattr(one, "component", None)))
    layer = index.layers.get(top)
    around: tuple[Any, ...] = ()
    if isinstance(layer, ArrayLayer):
        kind = layer.arrangement
        lines = tuple(getattr(kind, name, None) for name in ("outline", "other_outline"))
        gauges = tuple(
            (
                one.id,
                type(one),
                getattr(one, "order", None) is None,
                isinstance(one, Zone) and stands_out(one.size_depth),
            )
            for one in layer.gauges
        )
        around = type(kind), lines, gauges
    return specs, tuple(chains), around


def link_problems(scene: Scene, tops: set[str]) -> Iterator[Problem]:
    """What is wrong with links of, or to, the layers and levers that are named."""
    index, sound = scene.index, True
    for entry in index.modifiers.values():
        follower = index.parameters[entry.parameter]
        if isinstance(entry.modifier, Push):
            yield from push_problems(index, follower, entry.modifier)
        if not entry.modifier.linked:
            continue
        for reference in entry.modifier.references():
            driver, far = index.target(index.heard(follower, reference)), out_of_reach(index, follower, reference)
            if driver is None and not far:
                sound = False
                yield Problem(f"{follower.label} follows “{reference}”, which is not there.", follower.id)
            elif driver is None or far:
                said = driver.label if driver else reference.removeprefix(PREFIX)
                yield Problem(f"“{follower.label}” cannot follow “{said}”: {far}.", follower.id)
            elif follower.top in tops or driver.top in tops:
                part = getattr(entry.modifier, "component", None)
                any_fits = entry.modifier.takes_any
                wrong = any_misfit(driver.spec, part) if any_fits else misfit(follower.spec, driver.spec, part)
                if wrong:
                    yield Problem(f"“{follower.label}” cannot follow “{driver.label}”: {wrong}.", follower.id)
    if sound:
        for said in circles(index, tops):
            yield Problem(f"These values depend on themselves, in a circle: {said}. Cut one of its links first.")
