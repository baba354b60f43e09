"""Who depends on whom: parameters as a graph, and the circles that must not be."""

from collections.abc import Iterator

from ..document.index import ParameterNode, SceneIndex
from ..document.specs import ParameterSpec, specs_of


def listened(index: SceneIndex, node: ParameterNode) -> Iterator[str]:
    """Ids of the parameters that a parameter's value needs: its modifiers' settings and drivers."""
    for modifier in node.parameter.chain:
        yield from modifier.references()
        for name in specs_of(type(modifier)):
            if f"{modifier.id}.{name}" in index.parameters:
                yield f"{modifier.id}.{name}"


def upstream(index: SceneIndex, parameter: str) -> set[str]:
    """Everything that a parameter's value depends on, itself included."""
    found, waiting = {parameter}, [parameter]
    while waiting:
        node = index.parameters.get(waiting.pop())
        for needed in listened(index, node) if node else ():
            if needed not in found:
                found.add(needed)
                waiting.append(needed)
    return found


def path_between(index: SceneIndex, start: str, goal: str) -> list[str] | None:
    """The parameters through which `start` depends on `goal`, both ends included; None if it does not."""
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
        node = index.parameters.get(here)
        for needed in listened(index, node) if node else ():
            if needed not in came_from:
                came_from[needed] = here
                waiting.append(needed)
    return None


def circle(index: SceneIndex, follower: str, driver: str) -> str | None:
    """The circle that a link from `driver` to `follower` would close, in names; None if it closes none."""
    back = path_between(index, driver, follower)
    if back is None:
        return None
    names = [index.parameters[step].label for step in [follower, *back]]
    return " → ".join(f"“{name}”" for name in names)


def _driven_by(index: SceneIndex, parameter: str) -> Iterator[str]:
    """The same without settings that nothing can drive."""
    node = index.parameters.get(parameter)
    for modifier in node.parameter.chain if node else ():
        yield from modifier.references()
        for name in modifier.driven:
            yield f"{modifier.id}.{name}"


def circles(index: SceneIndex, tops: set[str] | None = None, most: int = 3) -> list[str]:
    """Circles of the scene in names, no more than so many; each parameter and link is looked at once.

    With `tops`, only those that go through a parameter of these layers and levers.
    """
    done: set[str] = set()
    found: list[str] = []
    linked = {entry.parameter: None for entry in index.modifiers.values() if entry.modifier.references()}
    for start in linked:
        if start in done or (tops is not None and index.parameters[start].top not in tops):
            continue
        path: dict[str, None] = {start: None}
        waiting = [_driven_by(index, start)]
        while waiting and len(found) < most:
            needed = next(waiting[-1], None)
            if needed is None:
                waiting.pop()
                done.add(path.popitem()[0])
            elif needed in path:
                steps = list(path)
                whole = [*steps[steps.index(needed) :], needed]
                found.append(" → ".join(f"“{index.parameters[step].label}”" for step in whole))
            elif needed not in done and needed in index.parameters:
                path[needed] = None
                waiting.append(_driven_by(index, needed))
        if len(found) >= most:
            break
    return found


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
