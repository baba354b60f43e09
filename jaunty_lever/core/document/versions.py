"""The version of what files and revisions hold, and how plain data of earlier ones becomes that of today.

1 to 2: percentages became shares in formulas (`core.formula.older` leads these over, once they are a document).
2 to 3: arrays came; Wiggle's switch that tied components became how far they are apart.
3 to 4: tables came.
4 to 5: the noise of formulas became coherent in all that it takes, its seed the fourth (`core.formula.older` again).
5 to 6: what is random about a Push became one number for each axis, and one more in depth.
6 to 7: the text of a new layer became its kind; before, one that had none of its own said "Lantern Quay".
7 to 8: curves that are kept came.
8 to 9: Steer came; what a Between did in its place is one (`core.older`).
9 to 10: Noise came, and more of the gauge of that name; nothing is led over.
"""

import re
from collections.abc import Iterator
from typing import Any

VERSION = 10


def of_today(data: Any, version: int) -> Any:
    """Plain data as it was read, led over from an earlier version; as much as can be seen from data alone."""
    if version < 3:
        data = _apart(data)
    if version < 6:
        chances = {f"{one['id']}.random" for one in _pushes(data)}
        data = _by_axis(data, chances) if chances else data
    # What a recipe holds comes as the list of its layers.
    return _with_words(data, isinstance(data, list)) if version < 7 else data


def _with_words(node: Any, layers: bool = False) -> Any:
    """Plain data whose text layers say what they said when they had no text of their own."""
    if isinstance(node, list):
        return [_with_words(part, layers) for part in node]
    if not isinstance(node, dict):
        return node
    made = {name: _with_words(part, name == "layers") for name, part in node.items()}
    if layers and node.get("kind") == "text":
        made.setdefault("text", "Lantern Quay")
    return made


def _pushes(node: Any) -> Iterator[dict[str, Any]]:
    """The pushes in plain data."""
    if isinstance(node, dict) and node.get("kind") == "push" and isinstance(node.get("id"), str):
        yield node
    for part in node if isinstance(node, list) else node.values() if isinstance(node, dict) else ():
        if isinstance(part, list | dict):
            yield from _pushes(part)


def _by_axis(node: Any, chances: set[str]) -> Any:
    """Plain data whose pushes say by axis what is random about them, which was one number; `chances` names these."""
    if isinstance(node, list):
        return [_by_axis(part, chances) for part in node]
    if not isinstance(node, dict):
        return node
    made = {name: _by_axis(part, chances) for name, part in node.items()}
    if node.get("driver") in chances and node.get("component") is None:
        made["component"] = 0
    if node.get("kind") == "formula" and isinstance(node.get("text"), str):
        made["text"] = re.sub(
            r"\$<([^<>]*)>(?!\.x\b)", lambda one: f"{one[0]}.x" if one[1] in chances else one[0], node["text"]
        )
    if node.get("kind") == "push" and "random" in made and f"{node.get('id')}.random" in chances:
        own = made["random"]
        if isinstance(own, dict) and own.get("chain"):
            led = {
                "kind": "follow",
                "id": f"{node['id'][:30]}-in-depth",
                "driver": f"{node['id']}.random",
                "component": 0,
            }
            own = {"rest": own.get("rest", 0), "chain": [led]}
        made["random_depth"] = own
    return made


def _apart(node: Any) -> Any:
    if isinstance(node, list):
        return [_apart(part) for part in node]
    if not isinstance(node, dict):
        return node
    made = {name: _apart(part) for name, part in node.items() if name != "tied" or node.get("kind") != "wiggle"}
    if node.get("kind") == "wiggle" and "tied" in node:
        made["apart"] = _from_tied(_apart(node["tied"]), str(node.get("id", "w")))
    return made


def _from_tied(tied: Any, modifier: str) -> Any:
    """A percentage that is 0 where a switch was on."""
    if not isinstance(tied, dict):
        return 0 if tied is True else 100 if tied is False else tied
    keys = [{**key, "value": 0 if key.get("value") is True else 100, "ease": "hold"} for key in tied.get("keys", ())]
    made = {**tied, "rest": 0 if tied.get("rest") is True else 100}
    if keys:
        made["keys"] = keys
    if tied.get("chain"):
        # What drove the switch gives 0 or 1; keys and resting value only mattered where nothing did.
        turn = {
            "kind": "remap",
            "id": f"{modifier[:30]}-apart",
            "from_low": 0,
            "from_high": 1,
            "to_low": 100,
            "to_high": 0,
        }
        made["chain"] = [*tied["chain"], turn]
    return made
