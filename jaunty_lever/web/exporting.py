"""Exports that take a while: drawn in the background, told how far they are, stopped, and taken up after a restart."""

import contextlib
import logging
import shutil
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from errno import ENOSPC
from pathlib import Path
from typing import Any

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS, Exporter, Options, Plan, Source
from jaunty_lever.exporters.drawn import scene_of
from jaunty_lever.processes import Ended
from jaunty_lever.rendering import Apart, Broken, Here, NoCluster, Runner, Stopped, TooOften
from jaunty_lever.rendering.batch import BATCH
from jaunty_lever.rendering.work import packed, unpacked
from jaunty_lever.storage.export_notes import ExportNote, ExportNotes, now
from jaunty_lever.storage.store import NoRoom, NotKept, NotThere

log = logging.getLogger("jaunty_lever")

KEPT = 12
KEPT_FOR = timedelta(days=1)
_RESTS = 60.0
"""Seconds after the last export, after which what made them goes."""


@dataclass
class Job:
    """One export: how far it is, and what came of it."""

    id: str
    exporter: Exporter
    name: str
    path: Path
    total: int
    project: str
    scene: str
    scene_name: str
    made: datetime
    left_out: tuple[str, ...] = ()
    done: int = 0
    finished: bool = False
    stopped: bool = False
    problem: str = ""
    begun: float | None = None
    """When drawing began, by a clock of its own; None while others are before it."""
    had: int = 0
    """Frames that had been drawn when it began."""
    sight: bytes = b""
    """PNG of the frame drawn last, small."""
    lost: int = 0
    """Processes that went in the middle of it."""
    ended: datetime | None = None
    report: dict[str, Any] = field(default_factory=dict)

    @property
    def pieces(self) -> Path:
        """The folder of its pieces."""
        return self.path.with_suffix(".pieces")

    @property
    def last(self) -> datetime:
        """When it was last worked on, or its file was last fetched."""
        times = [self.made, self.ended or self.made]
        for path in (self.path, self.pieces):
            with contextlib.suppress(OSError):
                times.append(datetime.fromtimestamp(path.stat().st_mtime, UTC).replace(tzinfo=None))
        return max(times)

    @property
    def left(self) -> float | None:
        """Seconds until it is drawn, as far as can be told from what has been."""
        drawn = self.done - self.had
        if self.begun is None or drawn <= 0:
            return None
        return (time.monotonic() - self.begun) / drawn * (self.total - self.done)

    @property
    def state(self) -> str:
        """In a word: waiting, drawing, joining, done, stopped or failed."""
        if self.finished:
            return "stopped" if self.stopped and self.problem else "failed" if self.problem else "done"
        return "waiting" if self.begun is None else "joining" if self.done >= self.total else "drawing"


class Exports:
    """Exports of one data folder; one is worked on at a time, the last few are kept for a day."""

    def __init__(self, folder: Path, notes: ExportNotes, runner: Runner | None = None) -> None:
        """`runner` draws whatever is more than a handful of frames; without one, the process in which files are
        made."""
        self._folder, self._notes, self._apart = folder, notes, Apart(runner or Here())
        self._resting: threading.Timer | None = None
        self._jobs: dict[str, Job] = {}
        self._lock = threading.Lock()
        self._leaving = False
        self._worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="export")
        self._take_up()

    def _take_up(self) -> None:
        """What an earlier run has finished is there; what it was at goes on; what is left over is cleared away."""
        kept: set[Path] = set()
        goes_on: list[tuple[Job, Source, Options]] = []
        notes = self._notes.all()
        for note in notes:
            exporter = BATCH if note.format == BATCH.name else EXPORTERS.get(note.format)
            if exporter is None:
                continue
            path = self._folder / f"{note.id}{exporter.ending}"
            where = (note.project, note.scene, note.scene_name, note.made)
            job = Job(note.id, exporter, note.name, path, note.total, *where, tuple(note.report.get("left_out", ())))
            job.report, job.problem, job.lost = note.report, note.problem, int(note.report.get("lost", 0))
            if job.last + KEPT_FOR < now() and note.state != "begun":
                continue
            if note.state == "begun" and job.last + KEPT_FOR < now():
                self._jobs[job.id] = job
                self._given_up(
                    job, "Nobody worked on it for more than a day: what there was of it is gone. Start it again."
                )
            elif note.state == "begun" and note.body is not None:
                try:
                    source, options = unpacked(note.body, note.scene), exporter.options.model_validate(note.options)
                    exporter.plan(source, options)
                except Refused as error:
                    self._jobs[job.id] = job
                    self._given_up(job, str(error))
                    continue
                except Exception:
                    log.exception("an export could not be taken up")
                    continue
                self._jobs[job.id] = job
                kept.add(job.pieces)
                goes_on.append((job, source, options))
            elif note.state != "begun" and (note.state == "failed" or path.exists()):
                job.finished, job.done = True, job.total if note.state == "done" else 0
                job.stopped = job.problem == "Stopped."
                self._jobs[job.id] = job
                kept.add(path)
        self._forget([note.id for note in notes if note.id not in self._jobs])
        for left in self._folder.glob("export-*"):
            if left not in kept:
                _removed(left)
        # Only now: what they begin to write must not be taken for what is left over.
        for job, source, options in goes_on:
            self._worker.submit(self._work, job, source, options)

    def _forget(self, exports: list[str]) -> None:
        if exports:
            # A full disk keeps a note longer, which harms nobody.
            with contextlib.suppress(NotKept):
                self._notes.forget(exports)

    def _clear(self) -> None:
        """Let go of what is more than a day old, or one too many. Called under the lock."""
        finished = [job for job in self._jobs.values() if job.finished]
        gone = []
        for old in finished:
            lost = not old.problem and not old.path.exists()
            if old in finished[:-KEPT] or lost or old.last + KEPT_FOR < now():
                _removed(old.path)
                del self._jobs[old.id]
                gone.append(old.id)
        self._forget(gone)

    def start(self, exporter: Exporter, source: Source, options: Options, plan: Plan) -> Job:
        """Begin what has been planned. Raises NotKept."""
        scene = scene_of(source)
        project = source.project or Project(id="alone", name=scene.name, scenes=(scene,))
        source = Source(project, scene)
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            full = error.errno == ENOSPC
            why = (
                "the disk is full. Make room" if full else f"{self._folder} cannot be made: {error.strerror}. Mend that"
            )
            raise (NoRoom if full else NotKept)(f"The export could not begin: {why}, then do it again.") from None
        export, left_out = new_id("export"), tuple(plan.left_out)
        path = self._folder / f"{export}{exporter.ending}"
        job = Job(export, exporter, plan.file_name, path, plan.steps, project.id, scene.id, scene.name, now(), left_out)
        given = options.model_dump(mode="json")
        report = {"left_out": list(left_out)}
        self._notes.begin(
            ExportNote(
                *(job.id, job.project, job.scene, job.scene_name, exporter.name, job.name, given, job.total),
                *("begun", "", report, packed(source, exporter is BATCH), job.made),
            )
        )
        with self._lock:
            self._clear()
            self._jobs[job.id] = job
        self._worker.submit(self._work, job, source, options)
        return job

    def _work(self, job: Job, source: Source, options: Options) -> None:
        if self._leaving or job.finished:
            return
        part = job.path.with_name(f"{job.path.name}.part")
        report: dict[str, Any] = {"left_out": list(job.left_out)}
        job.begun = time.monotonic()
        try:
            if job.stopped:
                raise Stopped
            report |= self._drawn(job, source, options, part)
            report |= {"bytes": part.stat().st_size}
            # Only a whole file gets the name under which it is handed out.
            part.replace(job.path)
        except Stopped:
            if self._leaving:
                # It goes on when the program is started again.
                return
            job.problem = "Stopped."
        except (TooOften, Broken, NoCluster, Refused) as error:
            job.problem = str(error)
        except OSError as error:
            job.problem = f"The file could not be written: {error.strerror or error}. Make room and start again."
        except Exception as error:  # whatever it is, the page must say so rather than wait for ever
            log.exception("an export failed")
            job.problem = f"It failed at step {job.done + 1} of {job.total}: {error}"
        finally:
            _removed(part)
            if not self._leaving:
                _removed(job.pieces)
        self._end(job, report)
        self._stay()

    def begin(self) -> None:
        """Have at hand what makes files, for a while: it takes some seconds to begin, in which nobody need wait."""
        with contextlib.suppress(Ended):
            self._apart.begin()
            self._stay()

    def _stay(self) -> None:
        with self._lock:
            if self._resting is not None:
                self._resting.cancel()
            self._resting = threading.Timer(_RESTS, self._rest)
            self._resting.daemon = True
            self._resting.start()

    def _rest(self) -> None:
        if all(job.finished for job in list(self._jobs.values())):
            self._apart.rest()

    def _end(self, job: Job, report: dict[str, Any]) -> None:
        try:
            self._notes.end(job.id, "failed" if job.problem else "done", job.problem, report)
        except NotKept as error:
            job.problem = job.problem or str(error)
        job.report = report
        job.ended = now()
        job.finished = True

    def _drawn(self, job: Job, source: Source, options: Options, target: Path) -> dict[str, Any]:
        def stop() -> bool:
            return job.stopped or self._leaving

        began = False

        def done(count: int, sight: bytes = b"") -> None:
            nonlocal began
            if not began:
                began, job.had = True, count
            job.done = count
            job.sight = sight or job.sight

        def lose(lost: int) -> None:
            job.lost = lost
            # Noted before it is tried again: whatever becomes of the program, it is not tried for ever.
            with contextlib.suppress(NotKept):
                self._notes.note(job.id, {"left_out": list(job.left_out), "lost": lost})

        begun = time.monotonic()
        came = self._apart.make(
            job.exporter, source, options, job.total, target, job.pieces, done, stop, job.lost, lose
        )
        return {"frames": job.total, "seconds": time.monotonic() - begun} | came

    @property
    def drawn_by(self) -> str:
        """Who draws, in words."""
        return self._apart.told

    def job(self, job: str) -> Job:
        """An export by its id. Raises NotThere."""
        with self._lock:
            self._clear()
            found = self._jobs.get(job)
        if found is None:
            raise NotThere("This export is no longer kept: it is done with after a day. Start it again.")
        return found

    def of_project(self, project: str) -> list[Job]:
        """A project's exports, the newest first."""
        with self._lock:
            self._clear()
            return [job for job in reversed(self._jobs.values()) if job.project == project]

    def stop(self, job: str) -> Job:
        """Stop an export. Raises NotThere."""
        found = self.job(job)
        found.stopped = True
        if not found.finished:
            # Noted at once: whatever becomes of the program meanwhile, it is not begun again.
            with contextlib.suppress(NotKept):
                self._notes.end(found.id, "failed", "Stopped.", {})
            if found.begun is None:
                # Others are before it: nobody waits for them to hear of it.
                self._given_up(found, "Stopped.")
        return found

    def _given_up(self, job: Job, why: str) -> None:
        """End an export that nobody works on."""
        job.problem = why
        self._end(job, {})

    def remove(self, job: str) -> None:
        """Let go of a finished export and its file. Raises NotThere."""
        found = self.job(job)
        with self._lock:
            if found.finished and self._jobs.pop(found.id, None) is not None:
                _removed(found.path)
                self._forget([found.id])

    def shutdown(self) -> None:
        """Leave everything as it is: what is not finished goes on at the next start."""
        self._leaving = True
        self._worker.shutdown(wait=True, cancel_futures=True)
        if self._resting is not None:
            self._resting.cancel()
        self._apart.close()


def _removed(path: Path) -> None:
    if path.is_dir():
        shutil.rmtree(path, ignore_errors=True)
    else:
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)
