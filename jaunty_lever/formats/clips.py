"""Clips brought in: video files as they are, moving pictures and numbered ones as video files without loss."""

import base64
import os
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from hashlib import blake2b
from pathlib import Path
from threading import Thread
from typing import Any, Literal

import orjson

from jaunty_lever.core.document.clips import Clip
from jaunty_lever.core.document.ids import one_line

from .clip_reading import MOST_DATA, MOST_SECONDS, BadClip
from .clip_reading import __name__ as _READING

ENDINGS = (".mp4", ".m4v", ".mov", ".webm", ".mkv", ".gif", ".apng")
OTHERS = (".avi", ".wmv", ".flv", ".mpg", ".mpeg", ".ts", ".m2ts", ".mts", ".ogv", ".3gp")
"""Videos that are none of those that are read."""
MOST_BYTES = MOST_DATA
LEAST_NUMBERED, MOST_NUMBERED = 6, 1000
"""How many pictures whose names end in numbers, one after the other, are taken for a clip; and how many at once."""
_PATIENCE = 20
_sound: dict[str, str] = {}

Kind = Literal["video", "moving", "numbered"]
Told = Callable[[float], bool]
"""Hears how far the work is, 0..1; whether it goes on."""


class Cancelled(Exception):
    """Whoever asked does not want it any more."""


@dataclass(frozen=True)
class Read:
    """A clip that was taken in, and what is to be said of it, a sentence each."""

    clip: Clip
    remarks: list[str] = field(default_factory=list)


def media_of(content: bytes) -> tuple[Kind, str] | None:
    """As what a file is read, by its first bytes: None for what is no clip."""
    head = content[:64]
    if head[4:8] in (b"ftyp", b"moov", b"mdat", b"wide", b"free", b"skip", b"pnot"):
        return "video", "video/quicktime" if head[4:12] == b"ftypqt  " or head[4:8] != b"ftyp" else "video/mp4"
    if head[:4] == b"\x1a\x45\xdf\xa3":
        return "video", "video/webm" if b"webm" in head else "video/x-matroska"
    if head[:4] == b"GIF8":
        return "moving", "image/gif"
    if head[:8] == b"\x89PNG\r\n\x1a\n" and b"acTL" in content[: content.find(b"IDAT")]:
        return "moving", "image/apng"
    if head[:4] == b"RIFF" and head[8:16] == b"WEBPVP8X" and head[20] & 2:
        return "moving", "image/webp"
    return None


def recognised(content: bytes, name: str) -> bool:
    """Whether a file is a clip, or means to be one."""
    return media_of(content) is not None or name.lower().endswith((*ENDINGS, *OTHERS))


def take_in(content: bytes, name: str, told: Told = lambda share: True) -> Read:
    """The clip in a file's content. Raises BadClip, Cancelled."""
    if len(content) > MOST_BYTES:
        raise BadClip(
            f"The clip is larger than {MOST_BYTES >> 20} MB, the most that is taken in. Cut it, or encode it smaller."
        )
    found = media_of(content)
    if found is None:
        raise BadClip("This is no video that is read here: MP4, MOV, WebM, Matroska, GIF, APNG and animated WebP are.")
    return _taken(found[0], found[1], [(name, content)], told)


def take_in_numbered(pictures: Sequence[tuple[str, bytes]], rate: Fraction, told: Told = lambda share: True) -> Read:
    """Pictures, by name, as a clip of so many frames a second. Raises BadClip, Cancelled."""
    return _taken("numbered", "", list(pictures), told, rate)


_NUMBER = re.compile(r"^(.*?)(\d+)(\.[A-Za-z]+)$")


def numbered(names: Sequence[str]) -> list[str] | None:
    """The names in the order of their numbers, where all are one thing's pictures, numbered one after the other."""
    parts = [_NUMBER.match(name.replace("\\", "/").rpartition("/")[2]) for name in names]
    if len(names) < LEAST_NUMBERED or not all(parts):
        return None
    if len({(part[1], part[3].lower()) for part in parts if part}) > 1:
        return None
    order = sorted((int(part[2]), name) for part, name in zip(parts, names, strict=True) if part)
    numbers = [number for number, _ in order]
    return [name for _, name in order] if numbers == list(range(numbers[0], numbers[0] + len(numbers))) else None


def _taken(kind: Kind, media: str, files: list[tuple[str, bytes]], told: Told, rate: Fraction | None = None) -> Read:
    found, made = _looked_through(kind, media, files, told, rate)
    content = made if made is not None else files[0][1]
    if len(content) > MOST_BYTES:
        raise BadClip(f"All its frames together have more than {MOST_BYTES >> 20} MB. Make it shorter, or smaller.")
    stem = files[0][0].replace("\\", "/").rpartition("/")[2].rpartition(".")[0] or files[0][0]
    if kind == "numbered":
        stem = stem.rstrip("0123456789").rstrip(" _-.") or stem
    remarks = found.pop("remarks")
    clip = Clip(id=_id(content), name=one_line(stem)[:200], data=base64.b64encode(content).decode(), **found)
    _sound[clip.id] = _told_of(clip)
    return Read(clip, remarks)


def problem(clip: Clip) -> str | None:
    """What is wrong with a clip that came in a project file or by an edit; None when it is sound."""
    try:
        content = base64.b64decode(clip.data, validate=True)
    except ValueError:
        return "its data is damaged."
    kind = media_of(content)
    if kind is None or kind[0] != "video":
        return "its data is no video that is read here."
    if clip.id != _id(content):
        return "its id is not that of its data."
    # An id is made of the bytes: what was looked into once need not be looked into again.
    if _sound.get(clip.id) == _told_of(clip):
        return None
    try:
        found, _ = _looked_through("video", clip.media, [(clip.name, content)], lambda share: True, None, False)
    except BadClip as error:
        return str(error)
    if (found["width"], found["height"]) != (clip.width, clip.height):
        return f"its frames are {found['width']} × {found['height']} pixels, not what the file says."
    _sound[clip.id] = _told_of(clip)
    while len(_sound) > 500:
        del _sound[next(iter(_sound))]
    return None


def _told_of(clip: Clip) -> str:
    return f"{clip.media} {clip.width} {clip.height} {clip.timing}"


def _id(content: bytes) -> str:
    return f"clip-{blake2b(content, digest_size=10).hexdigest()}"


def _looked_through(
    kind: Kind, media: str, files: list[tuple[str, bytes]], told: Told, rate: Fraction | None, whole: bool = True
) -> tuple[dict[str, Any], bytes | None]:
    """What a process of its own finds, and makes. Raises BadClip, Cancelled."""
    try:
        with tempfile.TemporaryDirectory(prefix="clip-") as name:
            folder = Path(name)
            asked = {
                "kind": kind,
                "media": media,
                "names": [one for one, _ in files],
                "whole": whole,
                "seconds": MOST_SECONDS,
                "rate": rate and [rate.numerator, rate.denominator],
            }
            (folder / "asked").write_bytes(orjson.dumps(asked))
            for number, (_, content) in enumerate(files):
                (folder / str(number)).write_bytes(content)
            _run(folder, told)
            made = folder / "made"
            found = orjson.loads((folder / "found").read_bytes())
            if "bad" in found:
                raise BadClip(found["bad"])
            return found, made.read_bytes() if made.exists() else None
    except FileNotFoundError:
        raise BadClip("Its frames unfold to more than this program can hold. Make it smaller.") from None
    except OSError as error:
        raise BadClip(f"There is no room to look into it: {error.strerror or error}.") from None


def _run(folder: Path, told: Told) -> None:
    """Let the process work, and tell how far it is."""
    with subprocess.Popen(
        [sys.executable, "-m", _READING, str(folder), str(os.getpid())],
        stderr=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        text=True,
    ) as process:
        share = [0.0]

        def listen() -> None:
            for line in process.stderr or ():
                if re.fullmatch(r"\d\.\d+\n", line):
                    share[0] = float(line)

        Thread(target=listen, name="clip", daemon=True).start()
        until = time.monotonic() + MOST_SECONDS + _PATIENCE
        try:
            while process.poll() is None:
                if not told(share[0]):
                    raise Cancelled
                if time.monotonic() > until:
                    raise BadClip(f"It takes more than {MOST_SECONDS} seconds to look through. Make it shorter.")
                try:
                    process.wait(0.1)
                except subprocess.TimeoutExpired:
                    continue
        finally:
            if process.poll() is None:
                process.kill()


__all__ = ["BadClip", "Cancelled", "Read", "numbered", "problem", "recognised", "take_in", "take_in_numbered"]
