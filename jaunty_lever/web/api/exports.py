"""Long work: PNG frames as a zip, made in the background, with progress and a way to stop it."""

import contextlib
import threading
import time
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import orjson
from fastapi import APIRouter, Form, Request
from pydantic import TypeAdapter, ValidationError
from starlette.responses import FileResponse, HTMLResponse, Response

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import AnyEdit, Refused
from jaunty_lever.core.view.scene_view import scene_in, tried
from jaunty_lever.formats import frames_zip
from jaunty_lever.storage.store import NotThere

from ..site import page, site_of
from .files import attachment, checked_range

router = APIRouter()

_EDITS: TypeAdapter[list[AnyEdit]] = TypeAdapter(list[AnyEdit])

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
                job = Job(
                    note.stem, str(data["name"]), note.with_suffix(".zip"), int(data["total"]), int(data["total"]), True
                )
            except (OSError, ValueError, KeyError, TypeError):
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

    def start(
        self, scene: Scene, start: int, stop: int, transparent: bool, scale: float, pictures: Mapping[str, Picture]
    ) -> Job:
        """Begin a zip of PNG frames."""
        self._folder.mkdir(parents=True, exist_ok=True)
        job = Job(new_id("export"), f"{scene.name} frames {start}-{stop - 1}.zip", Path(), stop - start)
        job.path = self._folder / f"{job.id}.zip"
        with self._lock:
            self._clear()
            self._jobs[job.id] = job
        self._worker.submit(self._work, job, scene, start, stop, transparent, scale, pictures)
        return job

    def _work(
        self,
        job: Job,
        scene: Scene,
        start: int,
        stop: int,
        transparent: bool,
        scale: float,
        pictures: Mapping[str, Picture],
    ) -> None:
        def drawn(count: int) -> None:
            job.done = count
            if job.stopped:
                raise _Stopped

        part = job.path.with_suffix(".part")
        try:
            with part.open("wb") as target:
                frames_zip.write(target, scene, start, stop, transparent, scale, drawn, pictures)
            # Only a whole file gets the name under which it is handed out.
            job.path.with_suffix(".json").write_bytes(orjson.dumps({"name": job.name, "total": job.total}))
            part.rename(job.path)
        except _Stopped:
            job.problem = "Stopped."
        except OSError as error:
            job.problem = f"The frames could not be written: {error.strerror or error}. Make room and start again."
        except Exception as error:  # whatever it is, the page must say so rather than wait for ever
            job.problem = f"Drawing failed at frame {start + job.done}: {error}"
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

    def shutdown(self) -> None:
        """Stop everything."""
        for job in self._jobs.values():
            job.stopped = True
        self._worker.shutdown(wait=False, cancel_futures=True)


def _exports(request: Request) -> Exports:
    made: Exports = request.app.state.exports
    return made


@router.post("/api/projects/{project}/scenes/{scene}/frames")
def start(
    project: str, scene: str, request: Request, start: int = Form(0), stop: int = Form(0), size: float = Form(1.0),
    transparent: bool = Form(False), edits: str = Form("[]", max_length=200_000),
) -> HTMLResponse:  # fmt: skip
    """Begin drawing PNG frames; the answer is a piece of page that shows the progress.

    `edits` (JSON) are tried on top of what is kept: a visitor's own copy.
    """
    whole = site_of(request).store.state(project).project
    try:
        whole = tried(whole, _EDITS.validate_json(edits))
    except ValidationError:
        raise Refused("The levers of this copy cannot be read. Put everything back, then try again.", "edits") from None
    here = scene_in(whole, scene)
    first, last = checked_range(start, stop, here.length)
    if not 0.05 <= size <= 4 or max(here.width, here.height) * size > 8192:
        raise Refused("The size lies between 5 % and 400 %, and no side may pass 8,192 pixels.", "size")
    return page(
        "export_job.html", job=_exports(request).start(here, first, last, transparent, size, whole.picture_table)
    )


@router.get("/exports/{job}")
def progress(job: str, request: Request) -> HTMLResponse:
    """How far an export is."""
    return page("export_job.html", job=_exports(request).job(job))


@router.post("/exports/{job}/stop")
def stop(job: str, request: Request) -> HTMLResponse:
    """Stop an export."""
    found = _exports(request).job(job)
    found.stopped = True
    return page("export_job.html", job=found)


@router.get("/exports/{job}/file")
def result(job: str, request: Request) -> Response:
    """The finished zip."""
    found = _exports(request).job(job)
    if not found.finished or found.problem:
        raise NotThere("This export is not finished.")
    return FileResponse(found.path, media_type="application/zip", headers=attachment(found.name))
