"""Who may ask: own addresses only, writes from own pages only, with the token beyond this machine; and what a page may load."""

import hmac
import secrets
from asyncio import CancelledError
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import parse_qsl, urlencode

from starlette.datastructures import Headers
from starlette.responses import JSONResponse, RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

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
_ASKED = (
    "This program asks for its token. Open the address that it told at its start, which ends with it; programs send it as "
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
        if self.token and scope["path"] not in _OPEN and not self._known(headers):
            given = dict(parse_qsl(scope.get("query_string", b"").decode("latin-1")))
            if scope["method"] != "GET" or not self._is(given.pop("token", "")):
                await JSONResponse({"message": _ASKED}, 401)(scope, receive, _with_headers(send))
                return
            # Kept by the browser from now on, and out of the address, which people show to others.
            answer = RedirectResponse(scope["path"] + (f"?{urlencode(given)}" if given else ""), 303)
            answer.set_cookie(COOKIE, self.token, max_age=30 * 24 * 3600, httponly=True, samesite="strict")
            await answer(scope, receive, _with_headers(send))
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

    def _known(self, headers: Headers) -> bool:
        kind, _, sent = headers.get("authorization", "").partition(" ")
        if kind.casefold() == "bearer" and self._is(sent.strip()):
            return True
        try:
            cookie = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
        except CookieError:
            return False
        return cookie is not None and self._is(cookie.value)

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


def token_in(folder: Path) -> str:
    """The token of a data folder: the same at every start. Raises OSError."""
    path = folder / "token"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(24), encoding="ascii")
    return path.read_text(encoding="ascii").strip()


def beyond(host: str) -> bool:
    """Whether others than this machine can ask a server that listens on `host`."""
    return host not in ("127.0.0.1", "localhost", "::1")


def own_hosts(host: str, port: int, more: tuple[str, ...] = ()) -> frozenset[str]:
    """The Host headers under which a server on `host` and `port` is asked; `more` are other names of it."""
    names = {"127.0.0.1", "localhost", "[::1]", f"[{host}]" if ":" in host else host}
    names |= {name.strip().lower() for name in more}
    return frozenset({f"{name}:{port}" for name in names} | (names if port == 80 else set()))
