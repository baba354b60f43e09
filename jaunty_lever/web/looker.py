"""In a process of its own: scenes looked through for what is to be noticed, one after the other, as nobody waits for
it.

It keeps the project that it was told last, and is told what has changed. A signal leaves what is being looked through
before the next value is worked out, or the next frame is drawn; values are remembered by what they were worked out of,
so that looking again goes on from there.
"""

import os
import signal
import time
from collections.abc import Callable, Hashable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import numpy as np

from jaunty_lever.core.checks import flashing
from jaunty_lever.core.checks.check import Check
from jaunty_lever.core.checks.run import STAGES
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Gone
from jaunty_lever.core.evaluation.cache import Cache, Entry
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.footage import decode_here
from jaunty_lever.drawing.light import Light
from jaunty_lever.processes import hold_to
from jaunty_lever.storage.bodies import Unreadable
from jaunty_lever.storage.parcels import Opened

from .aside import MOST_MEMORY, kept

LEAVE = signal.SIGUSR1
"""The signal that leaves what is being looked through."""
_LEAST_PRESSING = 19
_QUIET, _PATIENCE = 0.2, 20.0
"""Seconds for which frames are not drawn after a page asked for values; seconds that are waited so at the most."""


class _Left(BaseException):
    """It is not wanted any more. Nothing that mends mistakes on the way is to take it for one."""


class _Minded(Cache):
    """Asked before anything is worked out: there it can be left. A signal that raised by itself might do so in the
    middle of what is to be whole, such as compiled mathematics being loaded."""

    def __init__(self, minded: Callable[[], None]) -> None:
        super().__init__()
        self._minded = minded

    def get(self, key: Hashable) -> Entry | None:
        self._minded()
        return super().get(key)


class _Looker:
    def __init__(self, line: Connection) -> None:
        self._line = line
        self._project: tuple[str, Project] | None = None
        self._cache, self._light = _Minded(self._minded), Light()
        self._left = False
        self._asked, self._patience = 0.0, _PATIENCE
        signal.signal(LEAVE, self._leave)

    def _leave(self, *_: Any) -> None:
        self._left = True

    def _minded(self) -> None:
        if self._left:
            raise _Left

    def _say(self, *said: Any) -> None:
        self._line.send(said)
        self._minded()

    def serve(self) -> None:
        while True:
            asked = self._line.recv()
            if asked[0] == "read":
                _, path, project, revision = asked
                try:
                    self._project = project, kept(Path(path), project, revision)
                except (Gone, Unreadable):
                    self._project = None
            elif asked[0] == "parcels":
                if self._project is not None:
                    opened = Opened(self._project[1])
                    for parcel in asked[2]:
                        opened.take(parcel)
                    self._project = asked[1], opened.last
            elif asked[0] == "look":
                self._looked(asked[1])

    def _looked(self, scene: str) -> None:
        self._left, self._patience = False, _PATIENCE
        ended = "left"
        try:
            self._look(scene)
            ended = "whole"
        except _Left:
            pass
        except MemoryError:
            os._exit(1)
        except Exception as error:  # whoever waits for it is to hear of it
            ended = f"{type(error).__name__}: {error}"
        self._line.send(("ended", ended))

    def _look(self, name: str) -> None:
        project = self._project[1] if self._project else None
        scene = project.scene(name) if project else None
        self._say("begun")
        if project is None or scene is None:
            raise _Left
        sampler = Sampler(scene, self._cache)
        for stage, look in STAGES:
            self._say("found", stage, [_plain(one) for one in look(sampler)])
        light: list[Any] = []
        told = time.monotonic()
        for part in self._light.in_parts(sampler, project.footage, self._between):
            light.append(part)
            if time.monotonic() - told > 0.5:
                told = time.monotonic()
                self._say("drawn", sum(map(len, light)))
        self._say("found", "flashing", [_plain(one) for one in flashing.checks(scene, np.concatenate(light))])

    def _between(self) -> None:
        """Frames are drawn while nobody asks for anything."""
        while True:
            while self._line.poll():
                # Nothing but that somebody has asked comes while it looks.
                self._line.recv()
                self._asked = time.monotonic()
            self._minded()
            wait = _QUIET - (time.monotonic() - self._asked)
            if wait <= 0 or self._patience <= 0:
                return
            time.sleep(min(wait, 0.03))
            self._patience -= 0.03


def _plain(check: Check) -> dict[str, Any]:
    return {
        "kind": check.kind,
        "text": check.text,
        "at": check.at,
        "frame": check.frame,
        "mends": [[mend.label, list(mend.edits)] for mend in check.mends],
    }


def serve(line: Connection) -> None:
    """In the process: what is to be looked through, as it comes."""
    looker = _Looker(line)
    os.nice(_LEAST_PRESSING)
    hold_to(MOST_MEMORY)
    decode_here()
    looker.serve()
