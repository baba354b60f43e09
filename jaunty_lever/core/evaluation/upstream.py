"""Everything a value depends on, as one hash of its content."""

from collections.abc import Iterable
from hashlib import blake2b
from threading import RLock

from ..document.index import SceneIndex
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from .readings import heard, needed, written


class Upstream:
    """Content hashes of a scene's parameters, each worked out once; many threads may ask."""

    def __init__(self, index: SceneIndex) -> None:
        self._index, self._fps = index, index.scene.fps
        self._keys: dict[str, bytes] = {}
        self._working: set[str] = set()
        self._lock = RLock()

    @classmethod
    def known(cls, index: SceneIndex) -> "Upstream":
        """Those of a scene; remembered on its index, which never changes."""
        made: Upstream = index.__dict__.setdefault("_upstream", cls(index))
        return made

    def key(self, parameter: str) -> bytes:
        """The hash of everything that decides the parameter's values."""
        known = self._keys.get(parameter)
        if known is not None:
            return known
        with self._lock:
            return self._found(parameter)

    def _found(self, parameter: str) -> bytes:
        node = self._index.target(parameter)
        if node is None or parameter in self._working:
            return b"?"
        spec = node.spec
        circumstances = (self._fps, spec.kind, spec.components, spec.options)
        if node.reads is None and node.parameter.alone and not node.brought:
            self._keys[parameter] = _alone(node.parameter, circumstances)
            return self._keys[parameter]
        self._working.add(parameter)
        try:
            whole = blake2b(_alone(node.parameter, circumstances), digest_size=16)
            if node.reads is not None:
                whole.update(written(self._index, node.reads).encode())
                for needs in needed(self._index, node.reads):
                    whole.update(self.key(needs))
            self._follow(node, node.stations, whole)
        finally:
            self._working.discard(parameter)
        self._keys[parameter] = whole.digest()
        return self._keys[parameter]

    def _follow(self, node: ParameterNode, stations: Iterable[Modifier], whole: "blake2b") -> None:
        for modifier in stations:
            if modifier.minds_length:
                whole.update(repr(self._index.scene.length).encode())
            for reference in modifier.references():
                whole.update(reference.encode())
            for meant in heard(self._index, node, modifier):
                whole.update(self.key(meant))
            for name in modifier.driven:
                setting = self._index.parameters[f"{modifier.id}.{name}"]
                self._follow(setting, setting.stations, whole)

    def joined(self, parameters: Iterable[str]) -> bytes:
        """The hash of everything that decides several parameters."""
        whole = blake2b(digest_size=16)
        for parameter in parameters:
            whole.update(self.key(parameter))
        return whole.digest()


def _alone(own: Parameter, circumstances: tuple[object, ...]) -> bytes:
    """The hash of a parameter by itself; remembered on it, which never changes."""
    known: tuple[object, bytes] | None = own.__dict__.get("_alone")
    if known is None or known[0] != circumstances:
        whole = blake2b(own.digest, digest_size=16)
        whole.update(repr(circumstances).encode())
        known = own.__dict__["_alone"] = (circumstances, whole.digest())
    return known[1]
