"""What is to be drawn, as plain data that goes to another process or machine, and the drawing of a piece of it."""

import time
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import msgpack
import orjson

from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project
from jaunty_lever.drawing.exposure import exposures_told
from jaunty_lever.drawing.frames import Look, images, png
from jaunty_lever.exporters import EXPORTERS, Drawn, Options, Source
from jaunty_lever.exporters.drawn import scene_of
from jaunty_lever.version import __version__

SIGHT = 192
"""Pixels across of the small picture that tells how a piece looks."""
_SEEN = 10
"""Frames of a piece that is looked at by itself."""


class OtherVersion(Exception):
    """Whoever is to draw is another version of the program."""


@dataclass(frozen=True)
class Work:
    """A scene and how it is drawn: nothing else is needed to draw any of its frames."""

    format: str
    scene: str
    options: bytes
    """JSON."""
    project: bytes
    """The project with this scene alone, JSON, compressed."""
    version: str = __version__


@dataclass(frozen=True)
class Piece:
    """Some frames, drawn."""

    frames: int
    data: bytes
    """MessagePack: of how many moments of motion blur a frame was made, at most, and what the format makes of them."""
    seconds: float
    """How long that took."""
    sight: bytes = b""
    """PNG of its last frame, small."""


def work_of(exporter: Drawn, source: Source, options: Options) -> Work:
    """The work that drawing an export is."""
    given = orjson.dumps(options.model_dump(mode="json"))
    return Work(exporter.name, scene_of(source).id, given, packed(source))


def packed(source: Source, tables: bool = False) -> bytes:
    """The project with the scene alone, as compressed JSON; with its tables, if they matter."""
    assert source.project is not None
    alone = source.project.changed(scenes=(scene_of(source),), **({} if tables else {"tables": ()}))
    return zlib.compress(orjson.dumps(plain(alone)), 1)


def unpacked(body: bytes, scene: str) -> Source:
    """What was packed."""
    given: Mapping[str, Any] = orjson.loads(zlib.decompress(body))
    project = Project.model_validate(given)
    return Source(project, next(one for one in project.scenes if one.id == scene))


@lru_cache(maxsize=4)
def opened(work: Work) -> tuple[Drawn, Source, Options]:
    """The work ready to be done. Raises OtherVersion when it was given by another version of the program."""
    if work.version != __version__:
        raise OtherVersion(
            f"This drawing was given out by Jaunty Lever {work.version}, and Jaunty Lever {__version__} was to "
            "draw it. "
            "All of them must be of one version."
        )
    exporter = EXPORTERS[work.format]
    assert isinstance(exporter, Drawn)
    source = unpacked(work.project, work.scene)
    return exporter, source, exporter.options.model_validate(orjson.loads(work.options))


def make(work: Work, first: int, end: int) -> Piece:
    """Draw the frames first … before end."""
    begun = time.perf_counter()
    exporter, source, options = opened(work)
    with exposures_told() as moments:
        items = [data for _, data in exporter.items(source, options, first, end)]
    data = msgpack.packb([max(moments, default=1), items])
    if end - first < _SEEN and first % _SEEN:
        # Looking costs as much as drawing a frame: of many small pieces some are looked at.
        return Piece(end - first, data, time.perf_counter() - begun)
    scene = scene_of(source)
    small = Look(scale=min(1.0, SIGHT / scene.width), pictures=source.project.footage if source.project else {})
    sight = png(next(images(scene, end - 1, end, small)))
    return Piece(end - first, data, time.perf_counter() - begun, sight)


def contents(data: bytes) -> tuple[int, list[Any]]:
    """Of how many moments a frame of a piece was made, at most, and the data of its items."""
    moments, items = msgpack.unpackb(data, strict_map_key=False)
    return moments, items
