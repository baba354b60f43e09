"""Everything that a page sees of a scene.

The answer is plain data (see docs/display-list.md): the display list of some frames, curves over the whole scene, the
chosen chain with what its stations tell, faults, and the channels that the asker has not got.
"""

from typing import Any

from ..display.display_list import display_list
from ..display.node import DisplayNode
from ..display.shutter import exposed, roughly
from ..document.scene import Project, Scene
from ..document.specs import specs_of
from ..edits import AnyEdit, Gone
from ..edits.base import with_node
from ..evaluation.cache import Cache
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .copies import Copies, flight_of, stage_of
from .curves import chain, curves, path
from .faults import faults
from .plan import plan_of
from .question import Question
from .sending import Sending, Told
from .zones import planes_of


def tried(project: Project, edits: list[AnyEdit]) -> Project:
    """The project with edits applied. Raises Refused."""
    for edit in edits:
        project = edit.apply(project)
    return project


def scene_in(project: Project, scene: str) -> Scene:
    """The scene, or Gone."""
    found = project.scene(scene)
    if found is None:
        raise Gone("This scene has been deleted.", scene)
    return found


def scene_view(
    project: Project, scene_id: str, question: Question, cache: Cache, before: Told | None = None
) -> tuple[dict[str, Any], Told]:
    """The answer to a question, and what its asker has from then on; `before` is what it has already. Raises Refused,
    or Gone."""
    scene = scene_in(tried(project, question.edits), scene_id)
    sampler = Sampler(scene, cache)
    sent = Sending(before)
    stop = min(question.stop, scene.length)
    # Whoever asks beyond the end of a scene that has been made shorter meanwhile sees its last frame.
    start = min(question.start, stop - 1)
    here, shown = SampleTimes.frames(scene.fps, start, stop), Copies(question.copies)
    drawn = display_list(sampler, here)
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    new = sent.new_nodes(drawn) if question.only_new else None
    body: dict[str, Any] = {
        "width": scene.width,
        "height": scene.height,
        "fps": scene.fps,
        "length": scene.length,
        "start": start,
        "stop": stop,
        "background": sent.put(drawn.background),
        "nodes": sent.all_nodes(drawn) if new is None else None,
        "new_nodes": new,
        "curves": curves(sampler, question.curves, everywhere, shown, sent),
        "chosen": chain(sampler, question.chosen, everywhere, shown, question.spread, sent),
        "path": path(sampler, question.path, everywhere, shown, sent),
        "dots": stage_of(sampler, question.dots, here, shown, sent),
        "flight": flight_of(sampler, question.flight, here, shown, sent),
        "plan": plan_of(sampler, question.plan, here, shown, sent),
        "planes": planes_of(sampler, here, shown, sent),
        "motion_blur": scene.motion_blur,
        "exposure": _exposure(sampler, question.exposure, sent),
        "shutter": _shutter(sampler, question.moments, start, stop, sent),
        "ghost": _ghost(scene, question.ghost, start, stop, cache, sent),
    }
    body["faults"] = faults(sampler, question.chosen)
    told = sent.told()
    body["token"], body["channels"] = told.token, sent.channels
    return body, told


def _exposure(sampler: Sampler, frame: int | None, sent: Sending) -> dict[str, Any] | None:
    """A frame at the moments of its exposure: its nodes, whose channels have a row for each, and how many there are."""
    if frame is None or not sampler.scene.motion_blur or frame >= sampler.scene.length:
        return None
    made = exposed(sampler, frame)
    drawn = made.drawn
    return {
        "frame": frame,
        "samples": made.samples,
        "background": sent.put(drawn.background),
        "nodes": [sent.node(node) for node in drawn.nodes],
    }


def _shutter(sampler: Sampler, moments: int | None, start: int, stop: int, sent: Sending) -> dict[str, Any] | None:
    """All frames as their shutters see them, roughly: nodes whose channels have so many rows for each frame."""
    if moments is None or not sampler.scene.motion_blur:
        return None
    drawn = roughly(sampler, start, stop, moments)
    return {
        "moments": moments,
        "background": sent.put(drawn.background),
        "nodes": [sent.node(node) for node in drawn.nodes],
    }


def _ghost(
    scene: Scene, layer: str | None, start: int, stop: int, cache: Cache, sent: Sending
) -> dict[str, Any] | None:
    """The layer (in its groups) as it would be drawn with all its own chains bypassed."""
    if layer is None or layer not in scene.index.layers:
        return None
    found = scene.index.layers[layer]
    still = {n: p.changed(bypassed=True) for n in specs_of(type(found)) if (p := getattr(found, n)).chain}
    if not still:
        return None
    bare = Sampler(with_node(scene, layer, found.changed(**still)), cache)
    alone = _alone(display_list(bare, SampleTimes.frames(scene.fps, start, stop)).nodes, layer)
    return sent.node(alone) if alone else None


def _alone(nodes: tuple[DisplayNode, ...], wanted: str) -> DisplayNode | None:
    """A node with nothing beside it but the groups that it stands in."""
    for node in nodes:
        if node.id == wanted:
            return node
        inner = _alone(node.nodes, wanted)
        if inner is not None:
            return DisplayNode(node.kind, node.id, node.channels, node.fixed, (inner,))
    return None
