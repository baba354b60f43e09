"""What a revision's body holds: a project as compressed JSON with the version of its form."""

import base64
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from typing import Any

import orjson
from pydantic import ValidationError

from jaunty_lever.core.document.plain import packed, plain
from jaunty_lever.core.document.scene import Project, SceneOutline
from jaunty_lever.core.document.versions import VERSION, of_today
from jaunty_lever.core.older import project_of_today

MOST_UNPACKED = 1 << 30


class Unreadable(Exception):
    """A project whose stored form cannot be read; the message says why."""


def pack(project: Project) -> bytes:
    """A project without the bytes of its pictures, clips and fonts and its tables' cells, which lie beside the
    revisions."""
    pictures = tuple(picture.changed(data="") for picture in project.pictures)
    clips = tuple(clip.changed(data="") for clip in project.clips)
    fonts = tuple(font.changed(data="") for font in project.fonts)
    tables = tuple(table.changed(data=table.digest) for table in project.tables)
    bare = project.changed(pictures=pictures, clips=clips, fonts=fonts, tables=tables, scenes=())
    whole = {"version": VERSION, **plain(bare), "scenes": [orjson.Fragment(packed(scene)) for scene in project.scenes]}
    return zlib.compress(orjson.dumps(whole), 1)


def beside(project: Project) -> dict[str, Callable[[], bytes]]:
    """What lies beside the revisions of a project, by its name: pictures, clips, fonts and the cells of tables."""
    made: dict[str, Callable[[], bytes]] = {one.id: partial(base64.b64decode, one.data) for one in project.pictures}
    made |= {one.id: partial(base64.b64decode, one.data) for one in project.clips}
    made |= {one.id: partial(base64.b64decode, one.data) for one in project.fonts}
    return made | {one.digest: partial(zlib.compress, one.data.encode(), 1) for one in project.tables}


def raw(body: bytes) -> bytes:
    """The JSON in a body, as far as it can be had."""
    unpacker = zlib.decompressobj()
    try:
        return unpacker.decompress(body, MOST_UNPACKED)
    except zlib.error:
        return body


@contextmanager
def _reading() -> Iterator[None]:
    """Whatever a damaged body does to those who read it is Unreadable, with the reason."""
    try:
        yield
    except ValidationError as error:
        first = error.errors()[0]
        where = " / ".join(str(step) for step in first["loc"])
        raise Unreadable(f"Its stored form is damaged: {where}: {first['msg']}.") from None
    except (
        zlib.error,
        orjson.JSONDecodeError,
        AttributeError,
        TypeError,
        KeyError,
        LookupError,
        RecursionError,
    ) as error:
        raise Unreadable(f"Its stored form is damaged ({error or type(error).__name__}).") from None


def _data(body: bytes) -> tuple[dict[str, Any], int]:
    """What a body holds as plain data, and the version of its form."""
    data: dict[str, Any] = orjson.loads(zlib.decompressobj().decompress(body, MOST_UNPACKED))
    version = data.pop("version", 1)
    if not isinstance(version, int) or version > VERSION:
        raise Unreadable(
            f"It was written by a newer Jaunty Lever (its form is {version}; this one reads up to {VERSION})."
        )
    return data, version


def unpack(body: bytes, part: Callable[[str], bytes]) -> Project:
    """The project in a body; `part` gives what lies beside the revisions by its name. Raises Unreadable."""
    with _reading():
        data, version = _data(body)
        for one in (*data.get("pictures", ()), *data.get("clips", ()), *data.get("fonts", ())):
            one["data"] = base64.b64encode(part(one["id"])).decode()
        for one in data.get("tables", ()):
            one["data"] = zlib.decompressobj().decompress(part(one["data"]), MOST_UNPACKED).decode()
        project = Project.model_validate(of_today(data, version))
        return project_of_today(project, version)


def outlines(body: bytes) -> tuple[SceneOutline, ...]:
    """The scenes in a body without what is in them, which takes a hundredth of the time. Raises Unreadable."""
    with _reading():
        data, _ = _data(body)
        heads = [{name: scene[name] for name in SceneOutline.model_fields if name in scene} for scene in data["scenes"]]
        return tuple(SceneOutline.model_validate(head) for head in heads)
