"""The project file: JSON with a version, in a stable order, that reads well in a diff."""

import json
from typing import Any

import orjson
from pydantic import ValidationError

from jaunty_lever.core.checks.soundness import problems
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project

from .pictures import problem

FORMAT = "jaunty-lever project"
VERSION = 1
MOST_BYTES = 256 << 20
MOST_DEPTH = 200
ENDING = ".lever.json"


class BadFile(ValueError):
    """A file that cannot be taken in; `problems` says why, one sentence each."""

    def __init__(self, *told: str) -> None:
        super().__init__(" ".join(told[:5]))
        self.problems = told


def as_data(project: Project) -> dict[str, Any]:
    """The project as plain data, with the format's name and version first."""
    return {"format": FORMAT, "version": VERSION, **plain(project)}


def write(project: Project) -> str:
    """The file's text."""
    return _written(as_data(project), "") + "\n"


def _written(data: Any, indent: str) -> str:
    """JSON with short things on one line and long ones one part a line."""
    line = json.dumps(data, ensure_ascii=False)
    if not isinstance(data, dict | list) or not data or len(line) + len(indent) <= 96:
        return line
    inner = indent + "  "
    if isinstance(data, dict):
        parts = [f"{inner}{json.dumps(k, ensure_ascii=False)}: {_written(v, inner)}" for k, v in data.items()]
        return "{\n" + ",\n".join(parts) + f"\n{indent}}}"
    return "[\n" + ",\n".join(inner + _written(v, inner) for v in data) + f"\n{indent}]"


def read(content: bytes) -> Project:
    """The project in a file's content.

    Raises BadFile, with every problem in the artist's words, when it cannot be taken in.
    """
    if len(content) > MOST_BYTES:
        raise BadFile(f"The file is larger than {MOST_BYTES >> 20} MB, the most that is taken in.")
    try:
        data = orjson.loads(content)
    except orjson.JSONDecodeError as error:
        if "recursion" in str(error).lower() or "depth limit" in str(error):
            raise BadFile(_TOO_DEEP) from None
        where = f"on line {error.lineno}, column {error.colno}"
        if "infinity" in str(error) or b"NaN" in content or b"Infinity" in content:
            raise BadFile(
                f"The file holds a number that is too large or none at all (NaN, Infinity), {where}."
            ) from None
        raise BadFile(f"The file is not JSON: line {error.lineno}, column {error.colno}: {error.msg}.") from None
    return from_data(data)


_TOO_DEEP = f"The file is nested more than {MOST_DEPTH} levels deep."


def from_data(data: Any) -> Project:
    """The project in plain data. Raises BadFile."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise BadFile(f"This is not a Jaunty Lever project: its “format” should be “{FORMAT}”.")
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise BadFile("The file's “version” should be a whole number.")
    if version > VERSION:
        raise BadFile(
            f"The file has version {version}; this program reads up to version {VERSION}. Open it with a newer one."
        )
    if _depth(data) > MOST_DEPTH:
        raise BadFile(_TOO_DEEP)
    try:
        project = Project.model_validate({k: v for k, v in data.items() if k not in ("format", "version")})
    except ValidationError as error:
        raise BadFile(*_told(error, data)) from None
    except RecursionError:
        raise BadFile(_TOO_DEEP) from None
    found = list(problems(project))
    found += [f"The picture “{one.name or one.id}”: {wrong}" for one in project.pictures if (wrong := problem(one))]
    if found:
        raise BadFile(*found)
    return project


def _depth(data: Any) -> int:
    deepest, waiting = 0, [(data, 1)]
    while waiting:
        here, depth = waiting.pop()
        deepest = max(deepest, depth)
        if deepest > MOST_DEPTH:
            break
        parts = here.values() if isinstance(here, dict) else here if isinstance(here, list) else ()
        waiting += [(part, depth + 1) for part in parts if isinstance(part, dict | list)]
    return deepest


_UNION_MEMBERS = {"bool", "float", "str", "function-after[_curve()", "constrained-float"}


def _told(error: ValidationError, data: Any) -> list[str]:
    """Pydantic's complaints as sentences with a readable place, each place once."""
    said: dict[str, str] = {}
    for complaint in error.errors():
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
        where = " / ".join(path) or "the project"
        message = complaint["msg"].removeprefix("Value error, ").removeprefix("Input ")
        if complaint["type"] == "missing":
            message = "is missing"
        elif complaint["type"] == "extra_forbidden":
            message = "is not known here"
        elif complaint["type"] == "string_pattern_mismatch" and path and path[-1] == "id":
            message = "is not an id: a letter, then letters, figures, - or _"
        said.setdefault(where, f"{where}: {message}.")
    return list(said.values())


def schema() -> dict[str, Any]:
    """The JSON Schema of the file."""
    made = Project.model_json_schema()
    made["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    made["title"] = "Jaunty Lever project"
    parameter = made["$defs"]["Parameter"]
    bare = parameter["properties"]["rest"]
    made["$defs"]["Parameter"] = {
        "title": "Parameter",
        "description": "A resting value alone, or an object with keys and a chain.",
        "anyOf": [{k: v for k, v in bare.items() if k not in ("default", "title")}, parameter],
    }
    made["properties"] = {"format": {"const": FORMAT}, "version": {"const": VERSION}, **made["properties"]}
    made["required"] = ["format", "version", *made["required"]]
    return made
