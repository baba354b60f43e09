"""Values for the browser: frame tables, curves, and the same with edits tried but not kept."""

from hashlib import blake2b
from typing import Any

import msgpack
import numpy as np
from fastapi import APIRouter, Request
from pydantic import BaseModel, Field, model_validator
from starlette.responses import Response

from jaunty_lever.core.checks.formulas import mistakes
from jaunty_lever.core.document.scene import MOST_FRAMES, Project, Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.edits import AnyEdit, Gone
from jaunty_lever.core.edits.base import with_node, with_parameter
from jaunty_lever.core.evaluation.notes import notes
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.table import Channel, Drawn, channel, frame_table, world_matrix
from jaunty_lever.core.evaluation.trains import turns_a_minute

from ..site import Site, site_of

router = APIRouter(prefix="/api/projects/{project}/scenes/{scene}")


class Question(BaseModel):
    """What the browser wants to see.

    `edits` are tried first and not kept. Frames start … before stop make the table; curves run over the
    whole scene. `token` names the last answer, whose channels need not be sent again.
    """

    edits: list[AnyEdit] = Field(default_factory=list, max_length=2000)
    token: str | None = None
    start: int = Field(default=0, ge=0, le=MOST_FRAMES)
    stop: int = Field(default=600, ge=0, le=MOST_FRAMES)
    chosen: str | None = None
    small: list[str] = Field(default_factory=list, max_length=400)
    ghost: str | None = None
    path: str | None = None

    @model_validator(mode="after")
    def _some_frames(self) -> "Question":
        if self.start >= self.stop:
            raise ValueError("the first frame asked for must lie before the last")
        return self


class Answer:
    """Collects channels, each once, and leaves out those that the asker has."""

    def __init__(self, known: frozenset[str]) -> None:
        self._known = known
        self.held: set[str] = set()
        self.sent: dict[str, Any] = {}

    def put(self, one: Channel | None) -> str | None:
        """The channel's hash; its rows are sent unless known."""
        if one is None:
            return None
        if one.key not in self.held:
            self.held.add(one.key)
            if one.key not in self._known:
                self.sent[one.key] = [one.rows.shape[0], one.rows.shape[1], one.rows.tobytes()]
        return one.key

    def layer(self, drawn: Drawn) -> dict[str, Any]:
        """One layer of the tree, its values as channel hashes."""
        made: dict[str, Any] = {"id": drawn.id, "matrix": self.put(drawn.matrix), "opacity": self.put(drawn.opacity)}
        if drawn.layers is not None:
            made["layers"] = [self.layer(child) for child in drawn.layers]
            return made
        if drawn.picture is not None:
            return made | {"picture": drawn.picture, "size": list(drawn.size), "beyond": self.put(drawn.beyond)}
        made |= {
            "variants": [[v.verbs, self.put(v.points)] for v in drawn.variants], "which": self.put(drawn.which),
            "fill": drawn.fill, "paint": [self.put(c) for c in drawn.paint], "stroke": self.put(drawn.stroke),
            "width": self.put(drawn.stroke_width),
        }  # fmt: skip
        return made


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


def answer(site: Site, project: Project, revision: int, question: Question, scene_id: str) -> dict[str, Any]:
    """Everything asked for, as plain data with binary channels."""
    scene = scene_in(tried(project, question.edits), scene_id)
    sampler = Sampler(scene, site.cache)
    made = Answer(site.sent.known(question.token))
    stop = min(question.stop, scene.length)
    # Whoever asks beyond the end of a scene that has been made shorter meanwhile sees its last frame.
    start = min(question.start, stop - 1)
    table = frame_table(sampler, SampleTimes.frames(scene.fps, start, stop))
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    body: dict[str, Any] = {
        "revision": revision, "width": scene.width, "height": scene.height, "fps": scene.fps, "length": scene.length,
        "start": start, "stop": stop, "background": made.put(table.background),
        "layers": [made.layer(layer) for layer in table.layers],
        "small": {p: key for p in question.small if (key := _small(sampler, p, everywhere, made)) is not None},
        "chosen": _curves(sampler, question.chosen, everywhere, made),
        "path": _path(sampler, question.path, everywhere, made),
        "ghost": _ghost(site, scene, question.ghost, start, stop, made),
    }  # fmt: skip
    body["faults"] = faults(sampler)
    body["token"] = _token(made)
    site.sent.remember(body["token"], frozenset(made.held))
    body["channels"] = made.sent
    return body


def _small(sampler: Sampler, asked: str, samples: SampleTimes, made: Answer) -> str | None:
    """A parameter's result over the scene.

    With `#0` behind its id, what its keys or resting value give; with `#1`, what it would be if nothing
    in its chain were bypassed; with `#turning`, how many turns a minute an angle makes.
    """
    parameter, _, way = asked.partition("#")
    node = sampler.index.parameters.get(parameter)
    if node is None:
        return None
    if way == "turning":
        return made.put(channel(turns_a_minute(sampler, parameter, samples))) if node.spec.kind == "angle" else None
    if way == "1":
        chain = tuple(modifier.changed(bypassed=False) for modifier in node.parameter.chain)
        awake = with_parameter(sampler.scene, parameter, bypassed=False, chain=chain)
        return made.put(channel(Sampler(awake, sampler.cache).track(parameter, samples)))
    return made.put(channel(sampler.output(node, 0, samples)[0] if way else sampler.track(parameter, samples)))


def _token(made: Answer) -> str:
    return blake2b("".join(sorted(made.held)).encode(), digest_size=12).hexdigest()


def faults(sampler: Sampler) -> list[dict[str, Any]]:
    """What makes no sense at some time, each with the first frame where it happens."""
    parameters = sampler.index.parameters
    wrong = {one.modifier: one for one in mistakes(sampler.scene)}
    read = [
        {"parameter": one.parameter, "modifier": one.modifier, "message": one.mistake.message, "label": one.label,
         "frame": 0, "text": True}
        for one in wrong.values()
    ]  # fmt: skip
    return read + [
        {
            "parameter": fault.parameter, "modifier": fault.modifier, "message": fault.message,
            "label": parameters[fault.parameter].label if fault.parameter in parameters else "",
            "frame": int(np.ceil(fault.time * sampler.scene.fps - 1e-6)),
        }
        for fault in sampler.faults.values()
        if fault.modifier not in wrong
    ]  # fmt: skip


def _curves(sampler: Sampler, chosen: str | None, samples: SampleTimes, made: Answer) -> dict[str, Any] | None:
    if chosen is None or chosen not in sampler.index.parameters:
        return None
    stations = sampler.chain_outputs(chosen, samples)
    told = [
        [
            {"text": note.text, "warn": note.warn, "mends": [[mend.label, list(mend.edits)] for mend in note.mends]}
            for note in some
        ]
        for some in notes(sampler, chosen)
    ]
    texts = _texts(sampler, chosen, samples)
    return {
        "parameter": chosen,
        "stations": [made.put(channel(values)) for values in stations],
        "notes": told,
        "texts": texts,
    }


def _texts(sampler: Sampler, chosen: str, samples: SampleTimes) -> list[Any] | None:
    """A text parameter's runs: [first frame, text], as far as they can be told apart at a glance."""
    if sampler.index.parameters[chosen].spec.kind != "text":
        return None
    words, which = sampler.texts(chosen, samples)
    starts = [0, *(np.flatnonzero(np.diff(which)) + 1).tolist()]
    return [[k, words[which[k]]] for k in starts[:2000]]


def _path(sampler: Sampler, layer: str | None, samples: SampleTimes, made: Answer) -> str | None:
    """Where the layer's pivot is on the stage, at every frame."""
    if layer is None or layer not in sampler.index.layers:
        return None
    a, b, c, d, e, f = world_matrix(sampler, layer, samples).T
    x, y = sampler.track(f"{layer}.pivot", samples).T
    return made.put(channel(np.stack(np.broadcast_arrays(a * x + c * y + e, b * x + d * y + f), axis=1)))


def _ghost(site: Site, scene: Scene, layer: str | None, start: int, stop: int, made: Answer) -> dict[str, Any] | None:
    """The layer (in its groups) as it would be drawn with all its own chains bypassed."""
    if layer is None or layer not in scene.index.layers:
        return None
    node = scene.index.layers[layer]
    still = {n: p.changed(bypassed=True) for n in specs_of(type(node)) if (p := getattr(node, n)).chain}
    if not still:
        return None
    table = frame_table(
        Sampler(with_node(scene, layer, node.changed(**still)), site.cache), SampleTimes.frames(scene.fps, start, stop)
    )
    trail, wanted = [], {layer}
    parent = scene.index.parents[layer]
    while parent is not None:
        wanted.add(parent)
        parent = scene.index.parents[parent]
    layers = table.layers
    while True:
        found = next((drawn for drawn in layers if drawn.id in wanted), None)
        if found is None:
            return None
        if found.id == layer:
            whole = made.layer(found)
            for outer in reversed(trail):
                whole = {
                    "id": outer.id,
                    "matrix": made.put(outer.matrix),
                    "opacity": made.put(outer.opacity),
                    "layers": [whole],
                }
            return whole
        trail.append(found)
        layers = found.layers or ()


@router.post("/evaluate")
def evaluate(project: str, scene: str, question: Question, request: Request) -> Response:
    """Frame table, curves and faults, in MessagePack."""
    site = site_of(request)
    state = site.store.state(project)
    body = answer(site, state.project, state.revision, question, scene)
    return Response(msgpack.packb(body), media_type="application/vnd.msgpack")
