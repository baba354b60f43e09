"""Who may ask: own addresses only, writes from own pages only, with the token beyond this machine; and what a page may
load."""

import hmac
import os
import secrets
from asyncio import CancelledError
from pathlib import Path
from urllib.parse import parse_qsl, quote, urlencode

from starlette.datastructures import Headers
from starlette.responses import JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from .templating import page, walks

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
_HEADERS = [
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
]
_READING = {"GET", "HEAD", "OPTIONS"}


COOKIE = "lever-token"
_OPEN = {"/health"}
_OPEN_TO_ALL = "/static/"
"""What the page that asks for the token is made of."""
_SHORTEST = 16
"""Letters of the shortest token that cannot be guessed."""
_ASKED = (
    "This program asks for its token. Open the address that it told at its start, which ends with it; programs "
    "send it as "
    "“Authorization: Bearer TOKEN”."
)


_STOPPED = "The program was stopped before this was done. Start it again, and look whether it was kept."


class Guard:
    """Refuses foreign Host headers, cross-site writes, and whoever has no token where one is asked for; sends a strict
    content policy."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str], token: str = "") -> None:
        self.app, self.hosts, self.token = app, hosts, token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(scope["method"], headers)
        if refusal:
            await JSONResponse({"message": refusal}, 403)(scope, receive, _with_headers(send))
            return
        if self.token and not await self._admitted(scope, headers, receive, send):
            return
        begun = []

        async def sending(message: Message) -> None:
            begun.append(message["type"])
            await send(message)

        try:
            await self.app(scope, receive, _with_headers(sending))
        except CancelledError:
            # The program is stopped, and has waited long enough for this.
            if not begun:
                await JSONResponse({"message": _STOPPED}, 503)(scope, receive, _with_headers(send))

    async def _admitted(self, scope: Scope, headers: Headers, receive: Receive, send: Send) -> bool:
        """Whether somebody who asks has the token; whoever has not, or brings it in the address, is answered here."""
        path = scope["path"]
        if path in _OPEN or path.startswith(_OPEN_TO_ALL):
            return True
        given = parse_qsl(scope.get("query_string", b"").decode("latin-1"), keep_blank_values=True)
        brought = [value for name, value in given if name == "token"]
        rest = [one for one in given if one[0] != "token"]
        if scope["method"] == "GET" and any(self._is(one) for one in brought):
            # Kept by the browser from now on, and out of the address, which people show to others.
            # Here, whatever the path looks like: two slashes would lead to another server.
            here = "/" + quote(path.lstrip("/"))
            answer = RedirectResponse(f"{here}?{urlencode(rest)}" if rest else here, 303)
            answer.set_cookie(COOKIE, self.token, max_age=30 * 24 * 3600, httponly=True, samesite="strict")
            await answer(scope, receive, _with_headers(send))
            return False
        if self._known(headers):
            return True
        if walks(scope["method"], headers):
            asked: Response = page("token.html", 401, path=path, wrong=bool(brought), rest=rest)
        else:
            asked = JSONResponse({"message": _ASKED}, 401)
        await asked(scope, receive, _with_headers(send))
        return False

    def _known(self, headers: Headers) -> bool:
        kind, _, sent = headers.get("authorization", "").partition(" ")
        if kind.casefold() == "bearer" and self._is(sent.strip()):
            return True
        # Read one by one: what other programs keep in the browser may have any form.
        pairs = (one.strip().partition("=") for one in ";".join(headers.getlist("cookie")).split(";"))
        return any(name == COOKIE and self._is(value.strip('"')) for name, _, value in pairs)

    def _is(self, token: str) -> bool:
        return hmac.compare_digest(token.encode(), self.token.encode())

    def _refusal(self, method: str, headers: Headers) -> str | None:
        host = headers.get("host", "").lower()
        if host not in self.hosts:
            return "This server answers only to its own addresses."
        if method in _READING:
            return None
        origin = headers.get("origin")
        if origin is not None and origin.lower() not in (f"http://{host}", f"https://{host}"):
            return "Changes can be made only from this program's own pages."
        if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return "Changes can be made only from this program's own pages."
        return None


def _with_headers(send: Send) -> Send:
    async def sending(message: Message) -> None:
        if message["type"] == "http.response.start":
            message["headers"] = [*message.get("headers", []), *_HEADERS]
        await send(message)

    return sending


class NoToken(Exception):
    """The token of a data folder cannot be used; the message says why, and what to do, in a line."""


def token_in(folder: Path, new: bool = False) -> str:
    """The token of a data folder: the same at every start, unless a new one is asked for. Raises NoToken."""
    path = folder / "token"
    again = "Start once with --new-token to make a new one; addresses that hold the old one are worth nothing then."
    try:
        if new or not (path.exists() or path.is_symlink()):
            _write_whole(path, secrets.token_urlsafe(24))
        token = path.read_text(encoding="ascii").strip()
    except UnicodeDecodeError:
        raise NoToken(f"The token in {path} is no token: it is not plain text. {again}") from None
    except IsADirectoryError:
        raise NoToken(f"{path} is a folder, and should be the file that holds the token. Move it away.") from None
    except OSError as error:
        raise NoToken(f"The token in {path} cannot be kept or read: {error.strerror}.") from None
    if len(token) < _SHORTEST or not token.isprintable() or " " in token:
        raise NoToken(f"The token in {path} is {'too short' if token else 'empty'} and would let everybody in. {again}")
    return token


def _write_whole(path: Path, text: str) -> None:
    """A file that is there whole, or as it was: whatever happens meanwhile."""
    if path.is_dir():
        raise IsADirectoryError
    beside = path.with_name(f"{path.name}.new")
    beside.unlink(missing_ok=True)
    with open(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w", encoding="ascii") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())
    os.replace(beside, path)
    folder = os.open(path.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def beyond(host: str) -> bool:
    """Whether others than this machine can ask a server that listens on `host`."""
    return host not in ("127.0.0.1", "localhost", "::1")


def own_hosts(host: str, port: int, more: tuple[str, ...] = ()) -> frozenset[str]:
    """The Host headers under which a server on `host` and `port` is asked; `more` are other names of it."""
    names = {"127.0.0.1", "localhost", "[::1]", f"[{host}]" if ":" in host else host}
    names |= {name.strip().lower() for name in more}
    return frozenset({f"{name}:{port}" for name in names} | (names if port == 80 else set()))
