"""Ties: who drives whom in a scene, each said in a few words."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from .document.index import SceneIndex
from .document.modifier import Modifier
from .document.nodes import ModifierNode, ParameterNode
from .motion import Between, Follow, Formula, Push, Remap
from .words import SettingWords


@dataclass(frozen=True)
class Tie:
    """One driver of one follower. `words` name the driver, `does` only what the tie makes of it; `modifier` cuts it."""

    driver: str
    follower: str
    modifier: str
    words: str
    does: str
    written: bool = False


def remap_behind(chain: tuple[Modifier, ...], at: int) -> Remap | None:
    """The Remap right behind a Follow that decides the value: it takes the driver's range to the follower's."""
    behind = chain[at + 1] if at + 1 < len(chain) else None
    decides = isinstance(chain[at], Follow) and chain[at].decides()
    return behind if decides and isinstance(behind, Remap) and not behind.windows else None


def _said(index: SceneIndex, node: ParameterNode, at: int) -> tuple[str, str]:
    """A tie in words with its driver's name, and without."""
    chain = node.parameter.chain
    modifier = chain[at]
    words = SettingWords(index, modifier, node.spec)
    whole = modifier.tie(words)
    reference, component = modifier.references()[0], getattr(modifier, "component", None)
    name = words.named(reference, component)
    behind = remap_behind(chain, at)
    if behind is not None:
        whole += f", {behind.tie(SettingWords(index, behind, node.spec))}"
    return whole, whole.removeprefix(name).removeprefix(",").strip()


def _between(index: SceneIndex, modifier: Between, node: ParameterNode) -> tuple[str, str, str] | None:
    """Driver, words, and what it does, for a Between whose amount is driven."""
    chain = modifier.amount.chain
    if not chain or not chain[0].linked or modifier.amount.bypassed:
        return None
    words = SettingWords(index, modifier, node.spec)
    inner = SettingWords(index, chain[0], node.spec)
    driver = chain[0].references()[0]
    does = f"{words.of('a')} to {words.of('b')}"
    return driver, f"{inner.named(driver, getattr(chain[0], 'component', None))}: {does}", does


def tie_at(index: SceneIndex, node: ParameterNode, at: int) -> Tie | None:
    """The tie that the modifier at a position of a parameter's chain makes; None when it makes none."""
    modifier: Modifier = node.parameter.chain[at]
    if isinstance(modifier, Between):
        found = _between(index, modifier, node)
        return Tie(found[0], node.id, modifier.id, found[1], found[2]) if found else None
    if isinstance(modifier, Formula):
        said = modifier.clause(SettingWords(index, modifier, node.spec)).replace("is ", "= ", 1)
        return Tie(node.id, node.id, modifier.id, said, said, written=True)
    if isinstance(modifier, Push):
        say = SettingWords(index, modifier, node.spec)
        whole = modifier.clause(say).removeprefix("is ")
        return Tie(f"{modifier.zone}.value", node.id, modifier.id, whole, modifier.tie(say))
    if not modifier.linked or not modifier.references():
        return None
    words, does = _said(index, node, at)
    return Tie(modifier.references()[0], node.id, modifier.id, words, does or "as it is")


def deciding(index: SceneIndex, node: ParameterNode, component: int | None = None) -> Tie | None:
    """The tie that decides a value, or one component of it, alone; None when the value is its own."""
    if node.parameter.bypassed:
        return None
    meant = range(node.spec.components) if component is None else (component,)
    for at, modifier in enumerate(node.parameter.chain):
        whole = not modifier.windows and not modifier.strength.moves and modifier.strength.rest == 100
        if whole and modifier.decides() and not modifier.bypassed and all(map(modifier.reaches, meant)):
            tie = tie_at(index, node, at)
            if tie is not None:
                return tie
    return None


def ties(index: SceneIndex) -> Iterator[Tie]:
    """Every tie of a scene: links, driven amounts (as ties of what they blend), and formulas' references."""
    for entry in index.modifiers.values():
        yield from _ties(index, entry)


def _ties(index: SceneIndex, entry: ModifierNode) -> Iterator[Tie]:
    node = index.parameters[entry.parameter]
    if isinstance(entry.modifier, Formula):
        tie = tie_at(index, node, entry.position)
        for reference in entry.modifier.references():
            heard = index.heard(node, reference)
            if tie and heard in index.parameters:
                yield Tie(heard, node.id, entry.modifier.id, tie.words, tie.does, written=True)
        return
    host = index.modifiers.get(node.modifier or "")
    inner = host is not None and isinstance(host.modifier, Between) and node.field == "amount" and entry.position == 0
    if inner:
        assert host is not None
        tie = tie_at(index, index.parameters[host.parameter], host.position)
    elif isinstance(entry.modifier, Between):
        return
    else:
        tie = tie_at(index, node, entry.position)
    if tie is None:
        return
    heard = index.heard(node, tie.driver)
    if heard in index.parameters:
        yield tie if heard == tie.driver else replace(tie, driver=heard)
