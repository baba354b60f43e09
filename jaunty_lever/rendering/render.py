"""From a scene to a file, by way of pieces that are kept until all of them are there."""

import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO, Any

from jaunty_lever.core.document.progress import Stopped
from jaunty_lever.exporters import Drawn, Options, Source

from .runners import Asked, Frames, Runner
from .work import Piece, contents, work_of


@dataclass(frozen=True)
class Report:
    """What came of a drawing."""

    frames: int
    seconds: float
    """From the first frame to the whole file."""
    drawing: float
    """Seconds of drawing, of all who drew together."""
    pieces: int
    again: int
    """Pieces that had been drawn before, and were taken up."""
    more: dict[str, Any]
    """What the format tells of itself."""

    def plain(self) -> dict[str, Any]:
        """As plain data, all of it side by side."""
        told = asdict(self)
        told.update(told.pop("more"))
        return told


def render(
    exporter: Drawn,
    source: Source,
    options: Options,
    target: IO[bytes],
    folder: Path,
    runner: Runner,
    done: Callable[[int, bytes], None] = lambda count, sight: None,
    stop: Asked = lambda: False,
) -> Report:
    """Draw an export into `target`. Pieces are kept in `folder`; those that are there already are not drawn again.

    `done` is told how many frames are behind it, and how the last of them look. Raises Stopped, TooOften, OSError, or
    what drawing raised; the pieces stay then, and it can be taken up later.
    """
    begun, drawing = time.monotonic(), 0.0
    pieces = exporter.pieces_of(source, options)
    folder.mkdir(parents=True, exist_ok=True)
    missing = [frames for frames in pieces if not _path(folder, frames).exists()]
    count = sum(end - first for first, end in pieces) - sum(end - first for first, end in missing)
    done(count, b"")
    for frames, piece in runner.run(work_of(exporter, source, options), missing, stop) if missing else ():
        _keep(_path(folder, frames), piece)
        count, drawing = count + piece.frames, drawing + piece.seconds
        done(count, piece.sight)

    def items() -> Iterator[Any]:
        for frames in pieces:
            if stop():
                raise Stopped
            moments, made = contents(_path(folder, frames).read_bytes())
            exposed.append(moments)
            yield from made

    exposed: list[int] = []
    more = dict(exporter.join(source, options, items(), target) or {})
    if max(exposed, default=1) > 1:
        more["moments"] = max(exposed)
    return Report(count, time.monotonic() - begun, drawing, len(pieces), len(pieces) - len(missing), more)


def _path(folder: Path, frames: Frames) -> Path:
    return folder / f"{frames[0]:06d}-{frames[1]:06d}.piece"


def _keep(path: Path, piece: Piece) -> None:
    """Only a whole piece gets its name."""
    part = path.with_suffix(".part")
    try:
        part.write_bytes(piece.data)
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
        raise
