"""The interface for programs, to read: made from its own OpenAPI document and from the edits, nothing fetched."""

import html
import json
import typing
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.edits import EDIT, AnyEdit, Edit
from jaunty_lever.demo import FIRST_SCENE, ID

from ..templating import page
from .help import purposes

router = APIRouter(prefix="/help")

#: What the examples stand in for the parts of an address.
EXAMPLES = {
    "project": ID,
    "scene": FIRST_SCENE,
    "name": "png-frames",
    "job": "export-k3v9x2pd",
    "recipe": "recipe-k3v9x2pd",
    "picture": "picture-0123456789abcdef0123",
    "table": "crew",
}
_ABOUT = {
    "projects": "Projects",
    "recipes": "Recipes",
    "formats": "Ways out and in",
    "exports": "Exports",
    "news": "Projects",
}


@dataclass(frozen=True)
class Way:
    """One thing that can be asked."""

    method: str
    path: str
    does: str
    query: tuple[tuple[str, str], ...]
    body: str
    """An example of what is sent, as JSON; empty when nothing is."""
    sent: str
    """What kind of thing that is."""
    call: str
    """The same from a command line."""


def ways(document: dict[str, Any], address: str) -> Iterator[Way]:
    """What can be asked, out of an OpenAPI document."""
    schemas = document["components"]["schemas"]
    for path, methods in document["paths"].items():
        if not path.startswith("/api/"):
            continue
        for method, one in methods.items():
            query = tuple(
                (given["name"], _kind(given["schema"])) for given in one.get("parameters", ()) if given["in"] == "query"
            )
            content = next(iter(one.get("requestBody", {}).get("content", {}).items()), None)
            sent, body, fields = "", "", ""
            if content is not None:
                sent = content[0]
                schema = schemas[content[1]["schema"]["$ref"].rpartition("/")[2]]
                if sent == "application/json":
                    body = json.dumps(schema.get("examples", [{}])[0], ensure_ascii=False)
                    fields = f" -H 'content-type: application/json' -d '{body}'"
                else:
                    fields = "".join(f" -F {name}=…" for name in schema["properties"])
            filled = path
            for name, value in EXAMPLES.items():
                filled = filled.replace(f"{{{name}}}", value)
            call = f"curl{'' if method == 'get' else f' -X {method.upper()}'}{fields} {address}{filled}"
            yield Way(method.upper(), path, one.get("description") or one["summary"], query, body, sent, call)


def _kind(schema: dict[str, Any]) -> str:
    kinds = [part.get("type", "") for part in schema.get("anyOf", [schema])]
    return " or ".join(kind for kind in kinds if kind and kind != "null") or "text"


@dataclass(frozen=True)
class Told:
    """An edit: its kind, what it does, its fields and what each takes."""

    kind: str
    does: str
    fields: tuple[tuple[str, str, bool], ...]


def edits() -> list[Told]:
    """Every edit there is, by kind."""
    schema = EDIT.json_schema()["$defs"]
    kinds: list[type[Edit]] = list(typing.get_args(typing.get_args(AnyEdit)[0]))
    found = []
    for cls in kinds:
        own = schema.get(cls.__name__, {})
        needed = set(own.get("required", ()))
        fields = tuple(
            (name, _takes(given), name in needed) for name, given in own.get("properties", {}).items() if name != "kind"
        )
        found.append(Told(cls.model_fields["kind"].default, " ".join((cls.__doc__ or "").split()), fields))
    return sorted(found, key=lambda one: one.kind)


def _takes(schema: dict[str, Any]) -> str:
    """What a field takes, in a word or two."""
    if "enum" in schema or "const" in schema:
        return " | ".join(str(one) for one in schema.get("enum", [schema.get("const")]))
    if "anyOf" in schema:
        return " or ".join(dict.fromkeys(_takes(part) for part in schema["anyOf"] if part.get("type") != "null"))
    if "$ref" in schema or "discriminator" in schema:
        return "an object"
    if schema.get("type") == "array":
        inner = schema.get("items") or (schema.get("prefixItems") or [{}])[0]
        each = _takes(inner) if isinstance(inner, dict) and inner else "a value"
        return f"a list: {each}, …"
    names = {
        "string": "text",
        "integer": "a whole number",
        "number": "a number",
        "boolean": "true or false",
        "object": "an object",
    }
    return names.get(str(schema.get("type")), "a value")


@router.get("/api")
def api(request: Request) -> HTMLResponse:
    """What programs can ask, with examples."""
    address = str(request.base_url).rstrip("/")
    groups: dict[str, list[Way]] = {}
    for way in ways(request.app.openapi(), address):
        groups.setdefault(_ABOUT.get(way.path.split("/")[2], "Other"), []).append(way)
    return page(
        "help/api.html", groups=groups, edits=edits(), here="api", address=html.escape(address), purposes=purposes()
    )
