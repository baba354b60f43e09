"""What must hold of links: their drivers are there and fit, and no value depends on itself."""

from collections.abc import Iterator

from ..document.references import PREFIX
from ..document.scene import Scene
from ..evaluation.graph import any_misfit, circles, misfit, out_of_reach
from ..motion.push import Push
from .arrays import push_problems
from .problem import Problem


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
