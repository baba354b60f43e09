"""Who depends on whom: parameters as a graph, and the circles that must not be."""

from collections.abc import Iterable, Iterator

from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.nodes import ParameterNode
from ..document.references import known_name, parted
from ..document.specs import ParameterSpec, specs_of
from .readings import firmly_needed, heard, listened


def upstream(index: SceneIndex, parameter: str) -> set[str]:
    """Everything that a parameter's value depends on, itself included."""
    found, waiting = {parameter}, [parameter]
    while waiting:
        node = index.target(waiting.pop())
        for step in listened(index, node) if node else ():
            if step not in found:
                found.add(step)
                waiting.append(step)
    return found


def downstream(index: SceneIndex, parameter: str) -> list[str]:
    """The parameters whose values depend on another one's: those of layers and levers, not the settings on the way."""
    found, waiting = {parameter}, [parameter]
    while waiting:
        here = waiting.pop()
        node = index.target(here)
        next_ones = [entry.parameter for entry in index.followers.get(here, ())]
        if node is not None and node.within is not None:
            next_ones.append(node.within)
        next_ones += brought_along(index, here)
        fresh = [one for one in next_ones if one not in found]
        found.update(fresh)
        waiting += fresh
    return [
        one for one in index.parameters if one in found and one != parameter and index.parameters[one].within is None
    ]


def brought_along(index: SceneIndex, parameter: str) -> list[str]:
    """The copy depth that the pushes of a copy position act on too."""
    array, _, name = parameter.rpartition(".")
    return [f"{array}.copy_depth"] if name == "copy_position" and f"{array}.own_depth" in index.own_depths else []


def above_stations(index: SceneIndex, parameter: str) -> dict[str, set[str]]:
    """The parameters that each modifier in a parameter's own chain depends on, by the modifiers' ids."""
    node = index.parameters[parameter]
    above: dict[str, set[str]] = {}
    for modifier in node.parameter.chain:
        sources = [*heard(index, node, modifier), *(f"{modifier.id}.{name}" for name in specs_of(type(modifier)))]
        known = (upstream(index, source) for source in sources if index.target(source) is not None)
        above[modifier.id] = set().union(*known)
    return above


def path_between(index: SceneIndex, start: str, goal: str) -> list[str] | None:
    """The parameters through which `start` depends on `goal`, both ends included; None if it does not, or only through
    where the copies that a zone reads stand: a zone makes way where that would close a circle."""
    came_from: dict[str, str | None] = {start: None}
    waiting = [start]
    while waiting:
        here = waiting.pop()
        if here == goal:
            found: list[str] = []
            step: str | None = here
            while step is not None:
                found.append(step)
                step = came_from[step]
            return found[::-1]
        node = index.target(here)
        for heard_here in listened(index, node, firmly_needed) if node else ():
            if heard_here not in came_from:
                came_from[heard_here] = here
                waiting.append(heard_here)
    return None


def circle(index: SceneIndex, follower: str, driver: str) -> str | None:
    """The circle that a link from `driver` to `follower` would close, in names; None if it closes none."""
    back = path_between(index, driver, follower)
    if back is None:
        return None
    return _said(index, [follower, *back])


def _said(index: SceneIndex, steps: list[str]) -> str:
    return " → ".join(f"“{node.label}”" for step in steps if (node := index.target(step)) is not None)


def _driven_by(index: SceneIndex, parameter: str) -> Iterator[str]:
    """The same without settings that nothing can drive."""
    node = index.target(parameter)
    if node is not None and node.reads is not None:
        yield from firmly_needed(index, node.reads)
    for modifier in node.stations if node else ():
        assert node is not None
        yield from heard(index, node, modifier)
        for name in modifier.driven:
            yield f"{modifier.id}.{name}"


def circles(index: SceneIndex, tops: set[str] | None = None, most: int = 3) -> list[str]:
    """Circles of the scene in names, no more than so many; each parameter and link is looked at once.

    With `tops`, only those that go through a parameter of these layers and levers.
    """
    done: set[str] = set()
    found: list[str] = []
    linked = {entry.parameter: None for entry in index.modifiers.values() if entry.modifier.references()}
    if tops is not None and any(top in index.layers and isinstance(index.layers[top], ArrayLayer) for top in tops):
        # Where copies stand may depend on an outline elsewhere, without a link.
        tops = None
    for start in linked:
        if start in done or (tops is not None and index.parameters[start].top not in tops):
            continue
        path: dict[str, None] = {start: None}
        waiting = [_driven_by(index, start)]
        while waiting and len(found) < most:
            step = next(waiting[-1], None)
            if step is None:
                waiting.pop()
                done.add(path.popitem()[0])
            elif step in path:
                steps = list(path)
                found.append(_said(index, [*steps[steps.index(step) :], step]))
            elif step not in done and index.target(step) is not None:
                path[step] = None
                waiting.append(_driven_by(index, step))
        if len(found) >= most:
            break
    return found


def out_of_reach(index: SceneIndex, node: ParameterNode, reference: str) -> str | None:
    """Why a value cannot listen to what a reference names, for where both stand; None when it can.

    Inside an array each copy hears its own; from outside a value of many is taken as one number.
    """
    if known_name(reference) is not None:
        heard = index.heard(node, reference)
        return "it stands in no array that could tell it" if heard == reference else None
    try:
        own, taken = parted(reference)
    except ValueError as error:
        return str(error)
    target = index.target(own)
    if target is None:
        return None
    mine, theirs = index.arrays_of(node), index.arrays_of(target)
    shared = common(mine, theirs)
    if taken is not None:
        if not theirs:
            return "it is one value already, which needs not be taken as one"
        if not target.spec.numeric or target.spec.stepped:
            return f"a {target.spec.kind} of many copies cannot be taken as one"
        return None
    if shared == len(theirs):
        return None
    name = index.layers[theirs[shared]].name
    return f"it has a value for each copy of {name}; take a copy's number, the mean, the least or the greatest of them"


def common(one: Iterable[str], other: Iterable[str]) -> int:
    """How many names two rows of names begin with alike."""
    count = 0
    for a, b in zip(one, other, strict=False):
        if a != b:
            break
        count += 1
    return count


def any_misfit(driver: ParameterSpec, component: int | None) -> str | None:
    """Why a driver cannot say which stop to stand at; None when it can."""
    if driver.kind in ("text", "colour"):
        return f"a {driver.kind} has no places to choose between; numbers, switches and choices have"
    if component is None and driver.components > 1:
        return f"it has {driver.components} components; choose one of them"
    return None


def misfit(follower: ParameterSpec, driver: ParameterSpec, component: int | None) -> str | None:
    """Why a driver of one kind cannot drive a follower of another; None when it can."""
    width = 1 if component is not None else driver.components
    if component is not None and component >= driver.components:
        return f"{driver.label} has no such component"
    if driver.kind == "text":
        return "a text cannot drive anything; numbers, vectors, colours, switches and choices can"
    if follower.kind == "text":
        if not driver.numeric:
            return f"a {driver.kind} cannot be shown as a number"
        return None if width == 1 else f"it has {width} components; choose the one to show"
    if (follower.kind == "choice") != (driver.kind == "choice"):
        return "a choice can only follow a choice"
    if follower.kind == "choice":
        fits = follower.options == driver.options
        return None if fits else f"the choices differ: {', '.join(driver.options)} and {', '.join(follower.options)}"
    if follower.kind == "colour" and driver.kind != "colour":
        return "a colour can only follow a colour"
    if width not in (1, follower.components):
        return f"it has {width} components and the follower {follower.components}; choose one component of it"
    return None
