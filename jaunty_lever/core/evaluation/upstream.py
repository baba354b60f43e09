"""Everything a value depends on: as one hash of its content, and as what lies downstream of an edit."""

from collections.abc import Iterable, Iterator
from hashlib import blake2b
from threading import RLock

from ..document.difference import difference
from ..document.gauge import Zone
from ..document.index import SceneIndex
from ..document.layers import ArrayLayer
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from .plan import Plan
from .readings import array_of, line_layer, line_written, needed, outline_layers, written, zone_of
from .steps import Line
from .structure import text_in

_NONE: set[str] = set()
_UNKNOWN = 1 << 62, b""
"""The number and the key of what has none: no state stands over so many."""
_MOST_WAYS = 200_000
_MOST_STALE = 2_000
"""Parameters downstream of what has changed, from which on a state of a scene is what others are compared with."""
_MANY_STALE, _NEARER = 64, 4
"""The same, where the state that was asked about last is so many times nearer."""


def changed_since(before: SceneIndex, now: SceneIndex) -> frozenset[str] | None:
    """Ids of what has changed from one state of a scene to another: layers, levers, the scene itself. None where more
    has than what stands in these, such as what there is and what stands in what."""
    old, new = before.scene, now.scene
    if (old.fps, old.length) != (new.fps, new.length):
        return None
    found = difference(old, new)
    return None if found is None else found.tops


class Ways:
    """Which values were made of which, in a scene and the states that it has been brought to since. A way that is no
    more does no harm: more is worked out anew than need be."""

    def __init__(self) -> None:
        self.lock = RLock()
        self._of: dict[str, set[str]] = {}
        self._into: dict[str, set[str]] = {}

    @property
    def full(self) -> bool:
        """Whether so much has been noted that it is time to begin anew."""
        return len(self._into) > _MOST_WAYS

    def note(self, tops: Iterable[str], parameter: str, others: Iterable[str]) -> None:
        """A parameter was made of what stands in layers and levers, and of others."""
        for top in tops:
            self._of.setdefault(top, set()).add(parameter)
        for other in others:
            self._into.setdefault(other, set()).add(parameter)

    def downstream(self, changed: Iterable[str]) -> set[str]:
        """The parameters of some layers and levers, and all that was made of them."""
        found: set[str] = set().union(*(self._of.get(top, ()) for top in changed))
        waiting = list(found)
        while waiting:
            fresh = self._into.get(waiting.pop(), _NONE) - found
            found |= fresh
            waiting += fresh
        return found


class Upstream:
    """Content hashes of a scene's parameters, each worked out once; many threads may ask.

    A state of a scene stands over an earlier one, its `base`: what does not lie downstream of what has changed since is
    known from there, so that an edit costs what lies downstream of it. What stands over a base is never one itself.
    """

    def __init__(self, index: SceneIndex, before: "Upstream | None" = None) -> None:
        self._index, self._fps = index, index.scene.fps
        self._plan = Plan.known(index)
        self._keys: dict[str, tuple[int, bytes]] = {}
        self._working: set[str] = set()
        self.ways = Ways()
        self._base: Upstream | None = None
        self._stale: set[str] = set()
        #: How many keys the base had when it was looked at what lies downstream: of those, all ways are known.
        self._until = 0
        if before is not None:
            self._stand_over(before if before._base is None else before._base)

    @classmethod
    def known(cls, index: SceneIndex) -> "Upstream":
        """Those of a scene; remembered on its index, which never changes."""
        made: Upstream | None = index.__dict__.get("_upstream")
        if made is None:
            made = index.__dict__.setdefault("_upstream", cls._found_for(index))
            index.lineage["upstream" if made._base is None else "last"] = made
        return made

    @classmethod
    def _found_for(cls, index: SceneIndex) -> "Upstream":
        made, last = cls(index, index.lineage.get("upstream")), index.lineage.get("last")
        if made._base is None or last is None or len(made._stale) < _MANY_STALE:
            return made
        changed = changed_since(last._index, index)
        if changed is None or last.ways is not made.ways:
            return made
        with made.ways.lock:
            nearer = len(made.ways.downstream(changed))
        if nearer * _NEARER > len(made._stale):
            return made
        # Edits have been kept since the base was: by now the state before is what to compare with.
        last._let_go()
        index.lineage["upstream"] = last
        return cls(index, last)

    def _let_go(self) -> None:
        """Stands over no other one from now on, and keeps what it knew from there."""
        with self.ways.lock:
            if self._base is None:
                return
            known = {name: key for name in self._base._keys if (key := self._from_base(name)) is not None}
            known |= {name: key for name, (_, key) in self._keys.items()}
            self._keys = {name: (number, key) for number, (name, key) in enumerate(known.items())}
            # Whoever is asking meanwhile goes by what is stale still.
            self._base = None

    def _from_base(self, parameter: str) -> bytes | None:
        """The key that a parameter has in the state that this one stands over, where it is the same."""
        base = self._base
        if base is None or parameter in self._stale:
            return None
        number, key = base._keys.get(parameter, _UNKNOWN)
        return key if number < self._until else None

    def key(self, parameter: str) -> bytes:
        """The hash of everything that decides the parameter's values."""
        known = self._keys.get(parameter)
        if known is not None:
            return known[1]
        taken = self._from_base(parameter)
        if taken is not None:
            return taken
        with self.ways.lock:
            return self._found(parameter)

    def as_before(self, parameter: str) -> bool:
        """Whether all that decides about a parameter is what it was in the state that this one stands over."""
        return self._from_base(parameter) is not None

    @property
    def before(self) -> SceneIndex | None:
        """The state that this one stands over."""
        return None if self._base is None else self._base._index

    def _stand_over(self, base: "Upstream") -> None:
        changed = changed_since(base._index, self._index)
        if changed is None or base.ways.full:
            return
        with base.ways.lock:
            stale, until = base.ways.downstream(changed), len(base._keys)
        self.ways, self._base, self._stale, self._until = base.ways, base, stale, until
        if len(stale) > _MOST_STALE:
            # So much has changed that this is the state to compare with from now on.
            self._let_go()

    def _found(self, parameter: str) -> bytes:
        node = self._index.target(parameter)
        if node is None or parameter in self._working:
            return b"?"
        spec = node.spec
        # For whose copies a value may differ has a say, too: what leaves an array is one from then on.
        circumstances = (self._fps, spec.kind, spec.components, spec.options, self._index.arrays_of(node))
        if node.reads is None and node.parameter.alone and not node.brought:
            return self._keep(parameter, (node.top,), (), _alone(node.parameter, circumstances))
        self._working.add(parameter)
        asked: list[str] = []
        try:
            whole = blake2b(_alone(node.parameter, circumstances), digest_size=16)
            if node.reads is not None:
                whole.update(written(self._index, node.reads).encode())
                for needs in needed(self._index, node.reads):
                    asked.append(needs)
                    whole.update(self.key(needs))
            self._follow(self._plan.at(node), whole, asked)
        finally:
            self._working.discard(parameter)
        return self._keep(parameter, self._tops(node), asked, whole.digest())

    def _keep(self, parameter: str, tops: Iterable[str], asked: Iterable[str], key: bytes) -> bytes:
        self.ways.note(tops, parameter, asked)
        self._keys[parameter] = len(self._keys), key
        return key

    def _tops(self, node: ParameterNode) -> Iterator[str]:
        """The layers and levers that decide about a parameter by more than their parameters."""
        yield node.top
        if node.reads is None and not any(step.stands for step in node.stations) and not node.brought:
            return
        # Copies stand where arrays around them, texts in these and outlines elsewhere have them stand.
        index, here = self._index, [] if node.reads is None else [node.reads.array]
        around = (*index.arrays_of(node), *here, *(outer for one in here for outer in index.arrays.get(one, ())))
        for array in dict.fromkeys(around):
            yield array
            if isinstance(layer := index.layers[array], ArrayLayer):
                text = text_in(index, array)
                zones = (one for one in layer.gauges if isinstance(one, Zone))
                yield from (lead.id for zone in zones if (lead := line_layer(index, zone)) is not None)
                orders = (layer.order, *(getattr(one, "order", None) for one in layer.gauges))
                yield from (own.outline for own in orders if own is not None and own.outline in index.layers)
                yield from (one.id for one in outline_layers(index, array_of(index, array)))
                yield from () if text is None else (text.id,)

    def _follow(self, line: Line, whole: "blake2b", asked: list[str]) -> None:
        for step in line.steps:
            modifier = step.modifier
            if modifier.minds_length:
                whole.update(repr(self._index.scene.length).encode())
            for reference in modifier.references():
                whole.update(reference.encode())
            if modifier.stands:
                whole.update(line_written(self._index, zone_of(self._index, getattr(modifier, "zone", ""))).encode())
            for meant in self._plan.hears(line.node, step):
                asked.append(meant)
                whole.update(self.key(meant))
            for name in modifier.driven:
                setting = self._plan.line(f"{modifier.id}.{name}")
                assert setting is not None
                self._follow(setting, whole, asked)

    def joined(self, parameters: Iterable[str], what: str = "") -> bytes:
        """The hash of everything that decides several parameters, and of what is made of them."""
        keys = self._keys
        parts = [known[1] if (known := keys.get(one)) is not None else self.key(one) for one in parameters]
        return blake2b(b"".join((what.encode(), *parts)), digest_size=16).digest()


def _alone(own: Parameter, circumstances: tuple[object, ...]) -> bytes:
    """The hash of a parameter by itself; remembered on it, which never changes."""
    known: tuple[object, bytes] | None = own.__dict__.get("_alone")
    if known is None or known[0] != circumstances:
        whole = blake2b(own.digest, digest_size=16)
        whole.update(repr(circumstances).encode())
        known = own.__dict__["_alone"] = (circumstances, whole.digest())
    return known[1]
