"""What the product's JSON files share: reading with clear complaints, and writing that reads well in a diff."""

import json
from collections import Counter
from itertools import islice
from typing import Any, TypeVar

import orjson
from pydantic import ValidationError

from jaunty_lever.core.document.limits import (
    MOST_CLIPS,
    MOST_KEYS,
    MOST_LAYERS,
    MOST_LEVERS,
    MOST_MODIFIERS,
    MOST_PICTURES,
    MOST_SCENES,
    MOST_SNAPSHOTS,
)
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.versions import of_today

MOST_DEPTH = 200
MOST_PROBLEMS = 100
"""How many problems of a file are told: whoever mends those looks again."""

Read = TypeVar("Read", bound=Model)


class BadFile(ValueError):
    """A file that cannot be taken in; `problems` says why, one sentence each."""

    def __init__(self, *told: str) -> None:
        super().__init__(" ".join(told[:5]))
        self.problems = told


def written(data: Any, indent: str) -> str:
    """JSON with short things on one line and long ones one part a line."""
    line = json.dumps(data, ensure_ascii=False)
    if not isinstance(data, dict | list) or not data or len(line) + len(indent) <= 96:
        return line
    inner = indent + "  "
    if isinstance(data, dict):
        parts = [f"{inner}{json.dumps(k, ensure_ascii=False)}: {written(v, inner)}" for k, v in data.items()]
        return "{\n" + ",\n".join(parts) + f"\n{indent}}}"
    return "[\n" + ",\n".join(inner + written(v, inner) for v in data) + f"\n{indent}]"


def load(content: bytes, most: int) -> Any:
    """The plain data in a file's content of at most `most` bytes. Raises BadFile."""
    if len(content) > most:
        raise BadFile(f"The file is larger than {most >> 20} MB, the most that is taken in.")
    try:
        return orjson.loads(content)
    except orjson.JSONDecodeError as error:
        if "recursion" in str(error).lower() or "depth limit" in str(error):
            raise BadFile(_TOO_DEEP) from None
        where = f"on line {error.lineno}, column {error.colno}"
        if "infinity" in str(error) or b"NaN" in content or b"Infinity" in content:
            raise BadFile(
                f"The file holds a number that is too large or none at all (NaN, Infinity), {where}."
            ) from None
        raise BadFile(f"The file is not JSON: line {error.lineno}, column {error.colno}: {error.msg}.") from None


_TOO_DEEP = f"The file is nested more than {MOST_DEPTH} levels deep."


def validated(data: Any, model: type[Read], what: str, form: str, version: int) -> Read:
    """Plain data as a model, after its format and version have been looked at. Raises BadFile."""
    if not isinstance(data, dict) or data.get("format") != form:
        raise BadFile(f"This is not a Jaunty Lever {what}: its “format” should be “{form}”.")
    given = data.get("version")
    if not isinstance(given, int) or isinstance(given, bool) or given < 1:
        raise BadFile("The file's “version” should be a whole number.")
    if given > version:
        raise BadFile(
            f"The file has version {given}; this program reads up to version {version}. Open it with a newer one."
        )
    _weigh(data)
    try:
        return model.model_validate({k: of_today(v, given) for k, v in data.items() if k not in ("format", "version")})
    except ValidationError as error:
        raise BadFile(*_told(error, data, what)) from None
    except RecursionError:
        raise BadFile(_TOO_DEEP) from None


MOST_PARTS = 4_000_000
#: How many things of a kind a file may hold, by the name of the list that they stand in.
_MOST = {
    "scenes": (MOST_SCENES, "scenes"),
    "layers": (MOST_LAYERS, "layers"),
    "chain": (MOST_MODIFIERS, "modifiers"),
    "keys": (MOST_KEYS, "keys"),
    "levers": (MOST_SCENES * MOST_LEVERS, "levers"),
    "pictures": (MOST_PICTURES, "pictures"),
    "clips": (MOST_CLIPS, "clips"),
    "snapshots": (MOST_SCENES * MOST_SNAPSHOTS, "snapshots"),
}


def _weigh(data: Any) -> None:
    """Raises BadFile when plain data holds more than a project may, or is no project at all, before it is read
    closely."""
    counts: Counter[str] = Counter()
    odd, parts, waiting = 0, 0, [(data, "", 1)]
    while waiting:
        here, name, depth = waiting.pop()
        if depth > MOST_DEPTH:
            raise BadFile(_TOO_DEEP)
        parts += len(here)
        if parts > MOST_PARTS:
            raise BadFile(f"The file holds more than {MOST_PARTS:,} numbers and texts, the most that is taken in.")
        if isinstance(here, dict):
            waiting += [(part, key, depth + 1) for key, part in here.items() if isinstance(part, dict | list)]
            continue
        if name in _MOST:
            most, what = _MOST[name]
            counts[name] += len(here)
            odd += sum(not isinstance(part, dict) for part in here)
            if counts[name] > most:
                raise BadFile(f"A project has at most {most:,} {what}; the file holds {counts[name]:,} or more.")
            if odd > MOST_PROBLEMS:
                raise BadFile(
                    f"More than {MOST_PROBLEMS} of its {what} are none: numbers or texts stand in their place."
                )
        waiting += [(part, "", depth + 1) for part in here if isinstance(part, dict | list)]


_UNION_MEMBERS = {"bool", "float", "str", "function-after[_curve()", "constrained-float"}


def _told(error: ValidationError, data: Any, what: str) -> list[str]:
    """Pydantic's complaints as sentences with a readable place, each place once."""
    said: dict[str, str] = {}
    for complaint in islice(
        error.errors(include_url=False, include_context=False, include_input=False), 50 * MOST_PROBLEMS
    ):
        here: Any = data
        path: list[str] = []
        for step in complaint["loc"]:
            if isinstance(here, dict) and step in here:
                here = here[step]
                path.append(str(step))
            elif isinstance(here, list) and isinstance(step, int) and step < len(here):
                here = here[step]
                name = here.get("name") if isinstance(here, dict) else None
                path.append(f"“{name}”" if isinstance(name, str) else f"number {step + 1}")
            elif complaint["type"] == "missing":
                path.append(str(step))
        where = " / ".join(path) or f"the {what}"
        message = complaint["msg"].removeprefix("Value error, ").removeprefix("Input ")
        if complaint["type"] == "missing":
            message = "is missing"
        elif complaint["type"] == "extra_forbidden":
            message = "is not known here"
        elif complaint["type"].startswith("union_tag"):
            kind = here.get("kind") if isinstance(here, dict) else None
            message = f"“{str(kind)[:40]}” is no kind that is known here" if kind is not None else "tells no “kind”"
        elif complaint["type"] == "string_pattern_mismatch" and path and path[-1] == "id":
            message = "is not an id: a letter, then letters, figures, - or _"
        said.setdefault(where, f"{where}: {message}.")
        if len(said) >= MOST_PROBLEMS:
            break
    return list(said.values())


def schema_of(model: type[Model], what: str, form: str, version: int) -> dict[str, Any]:
    """The JSON Schema of a file that holds such a model."""
    made = model.model_json_schema()
    made["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    made["title"] = f"Jaunty Lever {what}"
    parameter = made["$defs"]["Parameter"]
    bare = parameter["properties"]["rest"]
    made["$defs"]["Parameter"] = {
        "title": "Parameter",
        "description": "A resting value alone, or an object with keys and a chain.",
        "anyOf": [{k: v for k, v in bare.items() if k not in ("default", "title")}, parameter],
    }
    made["properties"] = {"format": {"const": form}, "version": {"const": version}, **made["properties"]}
    made["required"] = ["format", "version", *made["required"]]
    return made
