"""Who may ask: own addresses only, writes from own pages only, and what a page may load."""

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
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


class Guard:
    """Refuses foreign Host headers and cross-site writes, and sends a strict content policy."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(scope["method"], headers)
        if refusal:
            await JSONResponse({"message": refusal}, 403)(scope, receive, _with_headers(send))
            return
        await self.app(scope, receive, _with_headers(send))

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


def own_hosts(host: str, port: int) -> frozenset[str]:
    """The Host headers under which a server on `host` and `port` is asked."""
    names = {"127.0.0.1", "localhost", "[::1]", f"[{host}]" if ":" in host else host}
    return frozenset({f"{name}:{port}" for name in names} | (names if port == 80 else set()))
