"""Templates, and how pages are made of them. It knows nothing of the job, so that a first page need not wait for that
to load."""

import hashlib
from functools import cache
from importlib.resources import as_file, files
from typing import Any

from jinja2 import Environment, PackageLoader, select_autoescape
from starlette.datastructures import Headers
from starlette.responses import HTMLResponse

from jaunty_lever import __version__
from jaunty_lever.figures import plain_number
from jaunty_lever.web.layout import Layout

BROKEN = "Something broke inside the program; nothing was changed. Its log says what."


def said_of(error: Exception) -> dict[str, Any]:
    """What is said of something that could not be done: in words, where, and with everything that was wrong."""
    message, problems = getattr(error, "message", "") or str(error), getattr(error, "problems", ())
    return {"message": message, "at": getattr(error, "at", ""), "problems": list(problems)}


def walks(method: str, headers: Headers) -> bool:
    """Whether it is a person who goes from page to page that asks, and no program or page for its own needs."""
    return method == "GET" and "text/html" in headers.get("accept", "") and "hx-request" not in headers


@cache
def _stamp() -> str:
    """A hash of all static files, so that browsers fetch them anew after an update."""
    whole = hashlib.blake2b(__version__.encode(), digest_size=5)
    with as_file(files("jaunty_lever") / "web/static") as static:
        for path in sorted(path for path in static.rglob("*") if path.suffix in (".css", ".js", ".svg")):
            whole.update(path.read_bytes())
    return whole.hexdigest()


def lasting(seconds: float) -> str:
    """A time that something takes, as people say it: 4 s, 1 min 20 s, 2 h 5 min."""
    whole = max(1, round(seconds))
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60} s" if whole % 60 else f"{whole // 60} min"
    return f"{whole // 3600} h {whole % 3600 // 60} min"


def in_bytes(count: int) -> str:
    """How much room a file takes: 640 kB, 3.2 MB."""
    if count < 1_000_000:
        return f"{max(1, round(count / 1000))} kB"
    return f"{count / 1e6:.1f} MB" if count < 1e9 else f"{count / 1e9:.2f} GB"


@cache
def templates() -> Environment:
    """The Jinja templates, with the few helpers they use."""
    made = Environment(
        loader=PackageLoader("jaunty_lever.web"),
        autoescape=select_autoescape(["html"]),
        extensions=[Layout],
    )
    made.filters["figure"] = plain_number
    made.filters["lasting"] = lasting
    made.filters["bytes"] = in_bytes
    made.globals.update(static=lambda name: f"/static/{_stamp()}/{name}", version=__version__)
    return made


def page(template: str, /, status: int = 200, headers: dict[str, str] | None = None, **values: Any) -> HTMLResponse:
    """A rendered template."""
    return HTMLResponse(templates().get_template(template).render(**values), status, headers)
