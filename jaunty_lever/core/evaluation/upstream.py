"""Everything a value depends on, as one hash of its content."""

from collections import OrderedDict
from collections.abc import Iterable
from hashlib import blake2b
from threading import Lock, RLock

from ..document.difference import difference
from ..document.index import SceneIndex
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from .readings import heard, needed, written

_last: "OrderedDict[str, Upstream]" = OrderedDict()
"""What is known of some scenes as they were asked about last."""
_SCENES = 24
_remembering = Lock()


def changed_since(before: SceneIndex, now: SceneIndex) -> frozenset[str] | None:
    """Ids of what has changed from one state of a scene to another: layers, levers, the scene itself. None where more has than what
    stands in these, such as what there is and what stands in what."""
    old, new = before.scene, now.scene
    if (old.fps, old.length) != (new.fps, new.length):
        return None
    found = difference(old, new)
    return None if found is None else found.tops


class _Ways:
    """Which values were made of which, in a scene and the states that it has been brought to since. A way that is no more does no
    harm: more is worked out anew than need be."""

    def __init__(self) -> None:
        self.lock = RLock()
        self._of: dict[str, set[str]] = {}
        self._into: dict[str, set[str]] = {}
        # What reads off copies is never taken over.
        self._always: set[str] = set()

    @property
    def full(self) -> bool:
        """Whether so much has been noted that it is time to begin anew."""
        return len(self._into) > _MOST_WAYS

    def note(self, top: str, parameter: str, others: Iterable[str], always: bool = False) -> None:
        """A parameter of a layer or lever was made of others."""
        self._of.setdefault(top, set()).add(parameter)
        for other in others:
            self._into.setdefault(other, set()).add(parameter)
        if always:
            self._always.add(parameter)

    def downstream(self, changed: Iterable[str]) -> set[str]:
        """The parameters of some layers and levers, and all that was made of them."""
        found = self._always.union(*(self._of.get(top, ()) for top in changed))
        waiting = list(found)
        while waiting:
            fresh = self._into.get(waiting.pop(), _NONE) - found
            found |= fresh
            waiting += fresh
        return found


_MOST_WAYS = 200_000
_NONE: set[str] = set()


class Upstream:
    """Content hashes of a scene's parameters, each worked out once; many threads may ask.

    What is the same as in the state of the scene that was asked about last is taken over from that: an edit costs what lies
    downstream of it.
    """

    def __init__(self, index: SceneIndex, before: "Upstream | None" = None) -> None:
        self._index, self._fps = index, index.scene.fps
        self._keys: dict[str, bytes] = {}
        self._working: set[str] = set()
        self._ways = _Ways()
        if before is not None:
            self._take_over(before)

    @classmethod
    def known(cls, index: SceneIndex) -> "Upstream":
        """Those of a scene; remembered on its index, which never changes."""
        made: Upstream | None = index.__dict__.get("_upstream")
        if made is None:
            with _remembering:
                before = _last.get(index.scene.id)
            made = index.__dict__.setdefault("_upstream", cls(index, before))
            with _remembering:
                _last[index.scene.id] = made
                _last.move_to_end(index.scene.id)
                while len(_last) > _SCENES:
                    _last.popitem(last=False)
        return made

    def key(self, parameter: str) -> bytes:
        """The hash of everything that decides the parameter's values."""
        known = self._keys.get(parameter)
        if known is not None:
            return known
        with self._ways.lock:
            return self._found(parameter)

    def _take_over(self, before: "Upstream") -> None:
        changed = changed_since(before._index, self._index)
        if changed is None or before._ways.full:
            return
        with before._ways.lock:
            self._ways, self._keys = before._ways, dict(before._keys)
            for parameter in self._ways.downstream(changed):
                self._keys.pop(parameter, None)

    def _found(self, parameter: str) -> bytes:
        node = self._index.target(parameter)
        if node is None or parameter in self._working:
            return b"?"
        spec = node.spec
        circumstances = (self._fps, spec.kind, spec.components, spec.options)
        if node.reads is None and node.parameter.alone and not node.brought:
            self._ways.note(node.top, parameter, ())
            self._keys[parameter] = _alone(node.parameter, circumstances)
            return self._keys[parameter]
        self._working.add(parameter)
        asked: list[str] = []
        try:
            whole = blake2b(_alone(node.parameter, circumstances), digest_size=16)
            if node.reads is not None:
                whole.update(written(self._index, node.reads).encode())
                for needs in needed(self._index, node.reads):
                    whole.update(self.key(needs))
            self._follow(node, node.stations, whole, asked)
        finally:
            self._working.discard(parameter)
        self._ways.note(node.top, parameter, asked, node.reads is not None or bool(node.brought))
        self._keys[parameter] = whole.digest()
        return self._keys[parameter]

    def _follow(self, node: ParameterNode, stations: Iterable[Modifier], whole: "blake2b", asked: list[str]) -> None:
        for modifier in stations:
            if modifier.minds_length:
                whole.update(repr(self._index.scene.length).encode())
            for reference in modifier.references():
                whole.update(reference.encode())
            for meant in heard(self._index, node, modifier):
                asked.append(meant)
                whole.update(self.key(meant))
            for name in modifier.driven:
                setting = self._index.parameters[f"{modifier.id}.{name}"]
                self._follow(setting, setting.stations, whole, asked)

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
