"""What is new of a project, from one process to another, in pieces so small that taking one in holds nobody up.

Who sends and who takes both hold the project as it was: what has stayed of it is named by its route, and is the very
same object to whoever takes it. Values that have been derived from a node, and are kept beside its fields, stay where
they are.
"""

import io
import pickle
from collections.abc import Iterator
from typing import Any

from jaunty_lever.core.document.index import walk
from jaunty_lever.core.document.model import Model, Route, at_route
from jaunty_lever.core.document.scene import Project


def _rebuilt(cls: type[Model], names: tuple[str, ...], given: tuple[str, ...], *values: Any) -> Model:
    made = cls.of_fields(**dict(zip(names, values, strict=True)))
    if given is not names:
        object.__setattr__(made, "__pydantic_fields_set__", set(given))
    return made


def _routes(project: Project) -> Iterator[tuple[Route, Model]]:
    """The parts of a project that are named when they stay."""
    for name in ("pictures", "clips", "fonts", "palettes", "tables", "curves"):
        for k, one in enumerate(getattr(project, name)):
            yield (name, k), one
    for k, scene in enumerate(project.scenes):
        yield ("scenes", k), scene
        for name in ("levers", "snapshots"):
            for place, one in enumerate(getattr(scene, name)):
                yield ("scenes", k, name, place), one
        for layer, route, _ in walk(scene.layers):
            yield ("scenes", k, "layers", *route), layer


class _Packer(pickle.Pickler):
    def __init__(self, file: io.BytesIO, stayed: dict[int, Route]) -> None:
        super().__init__(file, 5)
        self._stayed = stayed
        self._names: dict[type[Model], tuple[str, ...]] = {}
        self._given: dict[frozenset[str], tuple[str, ...]] = {}

    def persistent_id(self, obj: Any) -> Route | None:
        return self._stayed.get(id(obj)) if isinstance(obj, Model) else None

    def reducer_override(self, obj: Any) -> Any:
        if not isinstance(obj, Model):
            return NotImplemented
        cls, own = type(obj), obj.__dict__
        names = self._names.setdefault(cls, tuple(cls.model_fields))
        fields = frozenset(obj.__pydantic_fields_set__)
        given = names if len(fields) == len(names) else self._given.setdefault(fields, tuple(fields))
        return _rebuilt, (cls, names, given, *(own[name] for name in names))


def parcels(before: Project, after: Project) -> Iterator[bytes]:
    """What has changed from one project to the other, a layer at a time, the project itself last."""
    routes = list(_routes(before))
    file = io.BytesIO()
    packer = _Packer(file, {id(node): route for route, node in routes})
    stayed = {id(node) for _, node in routes}

    def taken() -> bytes:
        made = file.getvalue()
        file.seek(0)
        file.truncate()
        return made

    for scene in after.scenes:
        if id(scene) in stayed:
            continue
        # What a group holds goes before it: it is then no more than their names.
        for layer, _, _ in reversed(list(walk(scene.layers))):
            if id(layer) not in stayed:
                packer.dump(layer)
                yield taken()
    packer.dump(after)
    yield taken()


class _Feed(io.RawIOBase):
    """A file whose bytes are put in as they come."""

    def __init__(self) -> None:
        super().__init__()
        self._rest = memoryview(b"")

    def put(self, content: bytes) -> None:
        """The bytes that are read next; those before have been read."""
        self._rest = memoryview(content)

    def read(self, size: int = -1) -> bytes:
        made = self._rest if size < 0 else self._rest[:size]
        self._rest = self._rest[len(made) :]
        return bytes(made)

    def readline(self, size: int | None = -1) -> bytes:
        end = bytes(self._rest).find(b"\n") + 1
        return self.read(end or len(self._rest))


class _Opener(pickle.Unpickler):
    def __init__(self, feed: _Feed, before: Project) -> None:
        super().__init__(feed)
        self._before = before

    def persistent_load(self, route: Route) -> Any:
        return at_route(self._before, route)


class Opened:
    """The other end of `parcels`. Whoever sends is a process of this program: nothing is looked at."""

    def __init__(self, before: Project) -> None:
        self._feed = _Feed()
        self._opener = _Opener(self._feed, before)
        self.last: Any = None

    def take(self, parcel: bytes) -> None:
        """Take one in."""
        self._feed.put(parcel)
        self.last = self._opener.load()
