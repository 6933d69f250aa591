"""How large a request may be: bytes are counted as they come, so that nothing large is kept before anyone looks."""

from __future__ import annotations

import contextlib
import json
import re

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

#: Most bytes of the body of a route; of all others, which take JSON only.
_UPLOADS = (
    (re.compile(r"/api/projects/[^/]+/import$"), 2_050_000_000),
    (re.compile(r"/api/projects/file$"), 4_050_000_000),
    (re.compile(r"/api/(skies|backdrops|references)$"), 650_000_000),
    (re.compile(r"/api/tables$"), 81_000_000),
    (re.compile(r"/api/photometry$"), 9_000_000),
    (re.compile(r"/api/projects/[^/]+/lights$"), 250_000_000),
)
JSON_BYTES = 1_000_000
#: Letters of a path with its query.
_MOST_LETTERS = 4096


class _TooLarge(Exception):
    pass


def most_bytes(path: str) -> int:
    """Largest body of a request to a path.

    >>> most_bytes("/api/photometry"), most_bytes("/api/projects")
    (9000000, 1000000)
    """
    return next((most for route, most in _UPLOADS if route.fullmatch(path)), JSON_BYTES)


class Limits:
    """Ends requests that are larger than their route takes, or whose address no text can be."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, counting what comes."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        if not _plain(scope):
            await _say(send, 404, "There is nothing of this name.")
            return
        most = most_bytes(scope["path"])
        said = Headers(scope=scope).get("content-length", "0")
        come, begun, over = 0, False, not said.isdigit() or int(said) > most

        async def counted() -> Message:
            nonlocal come, over
            message = await receive()
            if message["type"] == "http.request":
                come += len(message.get("body", b""))
                over = over or come > most
            if over:
                raise _TooLarge
            return message

        async def watched(message: Message) -> None:
            nonlocal begun
            # What the application makes of a body that was cut off is not what is wrong with it.
            if over and not begun:
                return
            begun = True
            await send(message)

        if not over:
            with contextlib.suppress(_TooLarge):
                await self._app(scope, counted, watched)
        if over and not begun:
            await _say(send, 413, f"This is larger than {most / 1e6:,.0f} MB, the most that is taken here. "
                                  "Make it smaller and send it again.")  # fmt: skip


def _plain(scope: Scope) -> bool:
    """Whether path and query are text that a row could hold."""
    try:
        whole = scope["path"].encode() + scope.get("query_string", b"")
    except UnicodeEncodeError:
        return False
    return len(whole) <= _MOST_LETTERS and b"\x00" not in whole and b"%00" not in whole


async def _say(send: Send, status: int, text: str) -> None:
    body = json.dumps({"detail": text}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode()),
               (b"connection", b"close")]  # fmt: skip
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
