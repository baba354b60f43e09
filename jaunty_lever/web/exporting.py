"""Exports that take a while: worked on in the background, with progress and a way to stop them."""

import contextlib
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import orjson

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.exporters import EXPORTERS, Exporter, Options, Plan, Source
from jaunty_lever.storage.store import NotThere

KEPT = 8
KEPT_SECONDS = 24 * 3600


def _age(path: Path) -> float:
    try:
        return time.time() - path.stat().st_mtime
    except OSError:
        return 0.0


class _Stopped(Exception):
    pass


@dataclass
class Job:
    """One export: how far it is, and what came of it. A finished one survives the program beside its file."""

    id: str
    exporter: Exporter
    name: str
    path: Path
    total: int
    done: int = 0
    finished: bool = False
    stopped: bool = False
    problem: str = ""


class Exports:
    """Exports of one data folder; one is worked on at a time, the last few are kept for a day."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._jobs: dict[str, Job] = {}
        self._lock = threading.Lock()
        self._worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="export")
        self._take_up()

    def _take_up(self) -> None:
        """What an earlier run has finished; what it left undone, and what is old, is cleared away."""
        known = set()
        for note in sorted(self._folder.glob("export-*.json")):
            try:
                data = orjson.loads(note.read_bytes())
                exporter = EXPORTERS[data.get("format", "png-frames")]
                path, total = note.with_suffix(exporter.ending), int(data["total"])
                job = Job(note.stem, exporter, str(data["name"]), path, total, total, True)
            except (OSError, ValueError, KeyError, TypeError, AttributeError):
                continue
            if job.path.exists() and _age(job.path) < KEPT_SECONDS:
                self._jobs[job.id] = job
                known |= {note, job.path}
        for left in self._folder.glob("export-*"):
            if left not in known:
                left.unlink(missing_ok=True)

    def _clear(self) -> None:
        """Let go of what is more than a day old, or one too many. Called under the lock."""
        finished = [job for job in self._jobs.values() if job.finished]
        for old in finished:
            if old in finished[:-KEPT] or not old.path.exists() or _age(old.path) > KEPT_SECONDS:
                for path in (old.path, old.path.with_suffix(".json")):
                    path.unlink(missing_ok=True)
                if not old.problem or old in finished[:-KEPT]:
                    del self._jobs[old.id]

    def start(self, exporter: Exporter, source: Source, options: Options, plan: Plan) -> Job:
        """Begin what has been planned."""
        self._folder.mkdir(parents=True, exist_ok=True)
        job = Job(new_id("export"), exporter, plan.file_name, Path(), plan.steps)
        job.path = self._folder / f"{job.id}{exporter.ending}"
        with self._lock:
            self._clear()
            self._jobs[job.id] = job
        self._worker.submit(self._work, job, source, options)
        return job

    def _work(self, job: Job, source: Source, options: Options) -> None:
        def done(count: int) -> None:
            job.done = count
            if job.stopped:
                raise _Stopped

        part = job.path.with_suffix(".part")
        try:
            with part.open("wb") as target:
                job.exporter.write(source, options, target, done)
            # Only a whole file gets the name under which it is handed out.
            note = {"name": job.name, "total": job.total, "format": job.exporter.name}
            job.path.with_suffix(".json").write_bytes(orjson.dumps(note))
            part.rename(job.path)
        except _Stopped:
            job.problem = "Stopped."
        except OSError as error:
            job.problem = f"The file could not be written: {error.strerror or error}. Make room and start again."
        except Exception as error:  # whatever it is, the page must say so rather than wait for ever
            job.problem = f"It failed at step {job.done + 1} of {job.total}: {error}"
        if job.problem:
            for path in (part, job.path.with_suffix(".json")):
                with contextlib.suppress(OSError):
                    path.unlink(missing_ok=True)
        job.finished = True

    def job(self, job: str) -> Job:
        """An export by its id. Raises NotThere."""
        with self._lock:
            self._clear()
            found = self._jobs.get(job)
        if found is None:
            raise NotThere("This export is no longer kept: it is done with after a day. Start it again.")
        return found

    def stop(self, job: str) -> Job:
        """Stop an export. Raises NotThere."""
        found = self.job(job)
        found.stopped = True
        return found

    def shutdown(self) -> None:
        """Stop everything."""
        for job in self._jobs.values():
            job.stopped = True
        self._worker.shutdown(wait=False, cancel_futures=True)
