"""What stands before every route: size, same origin, and the headers that keep the page to itself."""

import asyncio
import hmac
import json
import re
from typing import Final

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import HTTPConnection, Request
from starlette.responses import RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from oddlamp.api.lan import Lan, is_here
from oddlamp.api.locked import locked_page
from oddlamp.api.problems import problem

BODY_MOST_BYTES: Final = 2 * 1024 * 1024 + 65_536  # a plan of 2 MB, and what wraps it
# Some primitives set inline styles while they measure; scripts are never inline.
POLICY: Final = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; img-src 'self' data:; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

BODY_WAIT_S: Final = 30
# A module's log, a photo and a whole project are taken piece by piece as they come; the routes themselves say how much of them.
IN_PIECES: Final = re.compile(
    r"/api/projects/(?:[^/]+/module/[^/]+/read-back/file|import/archive|[^/]+/log/entries/[^/]+/photos)"
)
HALF: Final = re.compile(rb"\\u[dD][89a-fA-F]")
COOKIE: Final = "oddlamp_token"


class Guards:
    """Refuses large bodies before they are read whole, writes from other origins, and neighbours without the token.

    The token of ``lan`` is asked of everybody but this machine itself where the server is open to the local network.
    """

    def __init__(self, app: ASGIApp, lan: Lan | None = None) -> None:
        self.app, self.lan = app, lan

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Guard one request."""
        if scope["type"] == "websocket":
            if self._may_talk(scope):
                await self.app(scope, receive, send)
            else:
                await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        stranger = self._stranger(scope)
        if stranger is not None:
            await stranger(scope, receive, send)
            return
        origin, host = headers.get("origin"), headers.get("host", "")
        if scope["method"] not in ("GET", "HEAD", "OPTIONS") and origin is not None and origin.partition("//")[2] != host:
            await problem(
                403, "other-origin", "Changes come only from this page itself.", field="origin", given=origin, allowed=host
            )(scope, receive, send)
            return
        if IN_PIECES.fullmatch(scope["path"]):
            await self.app(scope, receive, with_policy(send))
            return
        body, refused = await _whole(receive, headers.get("content-length", "0"))
        if refused is not None:
            await refused(scope, receive, send)
            return
        told = False

        async def once() -> Message:
            nonlocal told
            if told:
                return await receive()  # only that the caller has gone comes after the body
            told = True
            return {"type": "http.request", "body": body, "more_body": False}

        await self.app(scope, once, with_policy(send))

    def _may_talk(self, scope: Scope) -> bool:
        """Tell whether a conversation may begin: from our own page alone, and by a neighbour only with the token."""
        headers = Headers(scope=scope)
        origin, host = headers.get("origin"), headers.get("host", "")
        if origin is None or origin.partition("//")[2] != host:
            return False
        if self.lan is None or is_here(scope):
            return True
        cookie = HTTPConnection(scope).cookies.get(COOKIE, "")
        return hmac.compare_digest(cookie.encode(), self.lan.token.encode())

    def _stranger(self, scope: Scope) -> Response | None:
        """Answer a neighbour: with the cookie it may pass, with the token in the address it gets the cookie."""
        if self.lan is None or is_here(scope):
            return None
        request, token = Request(scope), self.lan.token
        if hmac.compare_digest(request.cookies.get(COOKIE, "").encode(), token.encode()):
            return None
        given = request.query_params.get("token", "").strip()
        if scope["method"] == "GET" and hmac.compare_digest(given.encode(), token.encode()):
            inside = RedirectResponse("/", status_code=303)
            # Lax: a link followed from a message arrives from elsewhere, and a strict cookie would not go along on the
            # way in. What changes anything is still only taken from our own pages.
            inside.set_cookie(COOKIE, token, httponly=True, samesite="lax")
            return inside
        if scope["method"] == "GET" and "text/html" in request.headers.get("accept", ""):
            return locked_page(is_wrong=bool(given))
        return problem(
            401,
            "token-wanted",
            "Open the address that is shown on the machine where it runs, with its token.",
            field="token",
            given="none, or another one",
            allowed="the token it has now",
        )


def with_policy(send: Send) -> Send:
    """Put the headers that keep a page to itself before whatever is answered."""

    async def sent(message: Message) -> None:
        if message["type"] == "http.response.start":
            out = MutableHeaders(scope=message)
            out["content-security-policy"] = POLICY
            out["x-content-type-options"] = "nosniff"
            out["referrer-policy"] = "no-referrer"
        await send(message)

    return sent


def _too_large() -> Response:
    return problem(
        413,
        "too-large",
        "This is more than a plan may be.",
        field="body",
        given=f"over {BODY_MOST_BYTES} bytes",
        allowed="a plan of at most 2 MB",
    )


async def _whole(receive: Receive, length: str) -> tuple[bytes, Response | None]:
    """Read a body whole, or say why it is refused: too large, too slow, or text that no file can hold."""
    if not length.isdigit() or int(length) > BODY_MOST_BYTES:
        return b"", _too_large()
    body, more = bytearray(), True
    try:
        async with asyncio.timeout(BODY_WAIT_S):
            while more:
                message = await receive()
                body += message.get("body", b"")
                more = message.get("more_body", False)
                if len(body) > BODY_MOST_BYTES:
                    return b"", _too_large()
    except TimeoutError:
        said = f"The request did not arrive whole within {BODY_WAIT_S} s."
        return b"", problem(408, "too-slow", said, field="body", given="a part of it", allowed="all of it")
    if HALF.search(body) and _has_halves(bytes(body)):
        said = "The text holds halves of characters, which no file can keep."
        return b"", problem(
            422, "text-invalid", said, field="body", given="a lone surrogate", allowed="whole characters (Unicode)"
        )
    return bytes(body), None


def _has_halves(body: bytes) -> bool:
    """Tell whether JSON text escapes a surrogate without its other half."""
    try:
        json.dumps(json.loads(body), ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return True
    except (ValueError, RecursionError):
        return False  # no JSON: the route says so
    return False
