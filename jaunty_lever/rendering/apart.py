"""Files made in a process beside this one: an encoder that breaks down takes nothing along but that process."""

import logging
import os
import pickle
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from jaunty_lever.core.document.progress import Stopped
from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.footage import decode_here
from jaunty_lever.exporters import EXPORTERS, Exporter, Options, Source
from jaunty_lever.exporters.drawn import scene_of
from jaunty_lever.processes import Beside, Ended

from .batch import BATCH, make
from .cluster import NoCluster
from .runners import Asked, Here, Runner, TooOften
from .work import packed, unpacked

log = logging.getLogger("jaunty_lever")

LIVES = 2
"""Processes that may be lost with one file before it is given up."""
_SHORT = 8
"""Frames that are drawn at once, without more processes."""
_OFTEN, _PATIENCE = 0.1, 100
"""Seconds between two looks at whether it is still wanted, and how many of them it has to hear that it is not."""
_IDLE = 2.0
"""Seconds after which those who drew need not wait for more in memory."""


class Broken(Exception):
    """What made a file ended before it was made, as often as may be; the message says what may help."""


@dataclass(frozen=True)
class _Order:
    """What is to be made: plain data."""

    format: str
    scene: str
    options: dict[str, Any]
    body: bytes
    target: str
    folder: str
    short: bool


class Apart:
    """The process, begun when it is needed, one file after the other; whoever draws the pieces is with it."""

    def __init__(self, runner: Runner) -> None:
        self._runner = runner
        self.beside = Beside(__name__)

    @property
    def told(self) -> str:
        """Who draws, in words."""
        return self._runner.told

    def make(
        self,
        exporter: Exporter,
        source: Source,
        options: Options,
        steps: int,
        target: Path,
        folder: Path,
        done: Callable[[int, bytes], None] = lambda count, sight: None,
        stop: Asked = lambda: False,
        lost: int = 0,
        lose: Callable[[int], None] = lambda lost: None,
    ) -> dict[str, Any]:
        """As `batch.make`, into a file by its path. `lost` is how many processes were lost with it before; `lose` hears
        of more.

        Raises Stopped, TooOften, NoCluster, OSError, Refused, Broken, or RuntimeError for what should not be.
        """
        short = steps <= _SHORT
        order = _Order(
            exporter.name,
            scene_of(source).id,
            options.model_dump(mode="json"),
            packed(source, exporter is BATCH),
            str(target),
            str(folder),
            short,
        )
        while lost < LIVES:
            try:
                return self._asked(order, done, stop)
            except EOFError:
                lost += 1
                lose(lost)
        raise Broken(exporter.gave_up(source, options))

    def _asked(self, order: _Order, done: Callable[[int, bytes], None], stop: Asked) -> dict[str, Any]:
        ended, waited = False, 0
        try:
            if stop():
                raise Stopped
            try:
                line = self.beside.begin()
            except Ended:
                raise Stopped from None
            try:
                line.send((order, pickle.dumps(self._runner)))
                while True:
                    if stop():
                        if not waited:
                            line.send("stop")
                        waited += 1
                        if waited > _PATIENCE:
                            raise Stopped
                    if not line.poll(_OFTEN):
                        continue
                    kind, content = line.recv()
                    if kind == "done":
                        done(*content)
                        continue
                    ended = True
                    return _came(kind, content)
            except (BrokenPipeError, ConnectionResetError):
                raise EOFError from None
        finally:
            if not ended:
                # What it may still say is no answer to anything else.
                self.beside.let_go()

    def begin(self) -> None:
        """Begin the process, if it is not there: it takes some seconds, in which nobody need wait."""
        self.beside.begin()

    def rest(self) -> None:
        """Nothing is to be made for now."""
        self.beside.let_go(gently=True)

    def close(self) -> None:
        """Nothing more is to be made."""
        self.beside.close(gently=True)


def _came(kind: str, content: Any) -> dict[str, Any]:
    """What it has said at the end: what it raised is raised here."""
    if kind == "made":
        return dict(content)
    if kind == "stopped":
        raise Stopped
    if kind == "refused":
        raise Refused(*content)
    if kind == "disk":
        raise OSError(*content)
    if kind == "too often":
        raise TooOften(content)
    if kind == "no cluster":
        raise NoCluster(content)
    said, where = content
    log.error("a file could not be made: %s", where)
    raise RuntimeError(said)


def serve(line: Connection) -> None:
    """In the process: files to be made, one after the other."""
    decode_here()
    runner: Runner = Here()
    try:
        while True:
            if not line.poll(_IDLE):
                runner.close()
            asked = line.recv()
            if asked == "stop":
                # It came when what it was for had been done.
                continue
            order, who = asked
            if isinstance(runner, Here):
                runner = pickle.loads(who)
            line.send(_answer(line, order, Here() if order.short else runner))
    finally:
        runner.close()


def _answer(line: Connection, order: _Order, runner: Runner) -> tuple[str, Any]:
    """What comes of an order. Raises EOFError."""
    exporter = BATCH if order.format == BATCH.name else EXPORTERS[order.format]
    stopped = False

    def stop() -> bool:
        nonlocal stopped
        stopped = stopped or (line.poll() and line.recv() == "stop")
        return stopped

    def done(count: int, sight: bytes) -> None:
        line.send(("done", (count, sight)))

    try:
        options = exporter.options.model_validate(order.options)
        source = unpacked(order.body, order.scene)
        with Path(order.target).open("wb") as target:
            return "made", make(exporter, source, options, target, Path(order.folder), runner, done, stop)
    except Refused as error:
        return "refused", (error.message, error.at)
    except TooOften as error:
        return "too often", error.frames
    except NoCluster as error:
        return "no cluster", str(error)
    except Stopped:
        return "stopped", None
    except MemoryError:
        os._exit(1)
    except (EOFError, BrokenPipeError, ConnectionResetError):
        raise
    except OSError as error:
        return "disk", (error.errno, error.strerror or str(error))
    except Exception as error:  # whatever it is, whoever waits for it is to hear of it
        return "broken", (str(error), traceback.format_exc())
