"""The door: who may ask at all, and what a page of ours may load.

A page of another origin that the artist's browser has open could otherwise send edits, or watch the picture. Requests are
answered only under the names the server was started for; whatever changes something, and every socket, must come from a page of ours.
"""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from urllib.parse import parse_qs, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

#: Names of this machine itself.
LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
#: Name of the cookie that holds the key.
COOKIE = "westlight-key"
_SAFE = ("GET", "HEAD", "OPTIONS")
_POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; "
    "connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": _POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


class Doors:
    """Lets in requests under known names, and changes and sockets from pages of ours."""

    def __init__(self, app: ASGIApp, names: Iterable[str] = LOOPBACK, key: str = "") -> None:
        self._app = app
        self._names = frozenset(names)
        self._key = key

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or refuse it."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        refusal = self.refusal(scope)
        if refusal is not None:
            if scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008, "reason": refusal})
                return
            await PlainTextResponse(refusal, 403)(scope, receive, send)
            return

        if self._brings_key(scope):
            # From now on the cookie stands for the key, which leaves the address.
            cookie = f"{COOKIE}={self._key}; Path=/; HttpOnly; SameSite=Strict; Max-Age=31536000"
            letter = RedirectResponse(scope["path"], 303, {"set-cookie": cookie, **HEADERS})
            await letter(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        await self._app(scope, receive, with_headers)

    def refusal(self, scope: Scope) -> str | None:
        """Why a request is not let in; None for one that is."""
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if _name_of(host) not in self._names:
            return "This server is not known by that name; open the address it printed."
        if self._key and not (_same(_cookie(headers), self._key) or self._brings_key(scope)):
            return "Open the address that the server printed when it was started: it holds the key."
        changes = scope["type"] == "websocket" or scope["method"] not in _SAFE
        if not changes:
            return None
        origin = headers.get("origin")
        foreign = origin is not None and urlsplit(origin).netloc != host
        # Browsers that send no origin with a request still say whether it comes from another site.
        if foreign or headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return "Only pages of this server may do that."
        return None

    def _brings_key(self, scope: Scope) -> bool:
        """Whether the address of a page holds the key."""
        if not self._key or scope["type"] != "http" or scope["method"] != "GET":
            return False
        told = parse_qs(scope.get("query_string", b"").decode("latin-1")).get("key", [""])
        return _same(told[0], self._key)


def _cookie(headers: Headers) -> str:
    """The key a browser keeps."""
    for part in headers.get("cookie", "").split(";"):
        name, _, value = part.strip().partition("=")
        if name == COOKIE:
            return value
    return ""


def _same(told: str, key: str) -> bool:
    return secrets.compare_digest(told.encode(), key.encode())


def _name_of(host: str) -> str:
    """A host without its port."""
    if host.startswith("["):
        return host[: host.find("]") + 1]
    return host.rsplit(":", 1)[0] if ":" in host else host
