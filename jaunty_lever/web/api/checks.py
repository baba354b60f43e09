"""What the program notices about a scene: the list behind the count in the head, and how a perfect loop is made."""

import logging
import time
from threading import Event, Thread
from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from jaunty_lever.core.checks import flashing
from jaunty_lever.core.checks.check import Check
from jaunty_lever.core.checks.run import run
from jaunty_lever.core.checks.seam import jumps, length_edit, perfect, rounding, told
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.periods import moving
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.drawing.frames import Pictures
from jaunty_lever.drawing.light import light_in_parts

from ..site import Site, site_of

router = APIRouter(prefix="/api/projects/{project}/scenes/{scene}")
log = logging.getLogger("jaunty_lever")

WAITED_FOR = 1200
"""Frames of a scene that is looked through while the asker waits; a longer one tells how far it is."""


QUIET, PATIENCE = 0.2, 20.0
"""Seconds since a page last asked for values before frames are drawn on; seconds that are waited so at the most."""


def _plain(check: Check) -> dict[str, Any]:
    return {
        "kind": check.kind,
        "text": check.text,
        "at": check.at,
        "frame": check.frame,
        "mends": [[mend.label, list(mend.edits)] for mend in check.mends],
    }


class Looking:
    """One state of a scene being looked through: what was found so far, and how many of its frames were drawn."""

    def __init__(self, site: Site, project: str, revision: int, scene: Scene, pictures: Pictures) -> None:
        self.found: list[dict[str, Any]] = []
        self.done, self.total = 0, scene.length
        self.finished, self.overtaken, self._patience = Event(), False, PATIENCE
        self._site, self._project, self._revision, self._scene, self._pictures = (
            site,
            project,
            revision,
            scene,
            pictures,
        )
        Thread(target=self._work, name="checks", daemon=True).start()

    def _between(self) -> None:
        # Whoever drags something meanwhile goes first; what has been changed since is not worth finishing.
        time.sleep(0.001)
        while time.monotonic() - self._site.asked < QUIET and self._patience > 0:
            time.sleep(0.03)
            self._patience -= 0.03
        try:
            self.overtaken = self._site.store.state(self._project).revision != self._revision
        except Exception:
            self.overtaken = True
        if self.overtaken:
            raise _Overtaken

    def _work(self) -> None:
        try:
            sampler = Sampler(self._scene, self._site.cache)
            self.found = [_plain(check) for check in run(sampler)]
            light = []
            for part in light_in_parts(sampler, self._pictures, self._between):
                light.append(part)
                self.done += len(part)
            flashes = [_plain(check) for check in flashing.checks(self._scene, np.concatenate(light))]
            grave = [one for one in self.found if one["kind"] in ("fault", "formula")]
            self.found = [*grave, *flashes, *self.found[len(grave) :]]
        except _Overtaken:
            pass
        except Exception:  # the page must not wait for ever
            log.exception("a scene could not be looked through")
        finally:
            self.finished.set()


class _Overtaken(Exception):
    """The scene was changed while it was looked through: what would be found speaks of the past."""


@router.get("/checks", response_model=None)
def checks(project: str, scene: str, request: Request) -> Response:
    """What was found so far in the scene as it is stored now; `x-looked-at` tells how many of its frames were drawn."""
    looking = noticed(project, scene, request)
    if looking.overtaken:
        return Response(status_code=204)
    return JSONResponse(looking.found, headers={"x-looked-at": f"{looking.done}/{looking.total}"})


def noticed(project: str, scene: str, request: Request) -> Looking:
    """The looking through of the scene as it is stored now; one for all who ask. Short scenes are waited for."""
    site = site_of(request)
    for _ in range(20):
        state = site.store.state(project)
        key = (project, scene, state.revision)
        with site.noticing:
            looking: Looking | None = site.noticed.get(key)
            if looking is None or looking.overtaken:
                here = scene_in(state.project, scene)
                looking = Looking(site, project, state.revision, here, state.project.footage)
                site.noticed[key] = looking
                while len(site.noticed) > 40:
                    del site.noticed[next(iter(site.noticed))]
        looking.finished.wait(None if looking.total <= WAITED_FOR else 1.0)
        # Changed in the very moment of looking: look again.
        if not looking.overtaken:
            break
    assert looking is not None
    return looking


@router.get("/loop")
def loop(project: str, scene: str, request: Request) -> dict[str, Any]:
    """Whether the scene comes back to its start, when all that repeats does, and what would make it fit."""
    site = site_of(request)
    here = scene_in(site.store.state(project).project, scene)
    sampler = Sampler(here, site.cache)
    found, whole = list(jumps(sampler)), perfect(here)
    fitting = rounding(here)
    said = []
    for jump in found:
        said.append([jump.node.id, jump.node.label, told(jump).rstrip(",")])
    return {
        "jumps": said,
        "length": here.length,
        "frames": whole.frames,
        "periodic": whole.count,
        "moves": bool(moving(here.index)),
        "loops": here.loops,
        # Keyed motion that ends as it began is back, though nothing makes it repeat.
        "never": [[node.id, node.label] for node in whole.never if node.id in {jump.node.id for jump in found}],
        "set": [length_edit(whole.frames)] if whole.frames and whole.frames != here.length else [],
        "round": list(fitting),
    }
