"""What stands before every route: size, same origin, and the headers that keep the page to itself."""

import contextlib
import hmac
from typing import Final

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.responses import RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from oddlamp.api.problems import problem

BODY_MOST_BYTES: Final = 2 * 1024 * 1024 + 65_536  # a plan of 2 MB, and what wraps it
# Some primitives set inline styles while they measure; scripts are never inline.
POLICY: Final = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; img-src 'self' data:; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

LOOPBACK: Final = ("127.0.0.1", "::1")
COOKIE: Final = "oddlamp_token"


class TooLarge(Exception):
    """The body ran past the limit while it was read."""


class Guards:
    """Refuses large bodies before they are read whole, writes from other origins, and neighbours without the token.

    ``token`` is asked of everybody but this machine itself where the server is open to the local network.
    """

    def __init__(self, app: ASGIApp, token: str | None = None) -> None:
        self.app, self.token = app, token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Guard one request."""
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
        length = headers.get("content-length", "0")
        taken, refused = (
            0,
            problem(
                413,
                "too-large",
                "This is more than a plan may be.",
                field="body",
                given=f"over {BODY_MOST_BYTES} bytes",
                allowed="a plan of at most 2 MB",
            ),
        )
        if not length.isdigit() or int(length) > BODY_MOST_BYTES:
            await refused(scope, receive, send)
            return

        async def limited() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > BODY_MOST_BYTES:
                raise TooLarge
            return message

        async def with_policy(message: Message) -> None:
            if taken > BODY_MOST_BYTES:
                return  # what the routes make of a cut body is not the answer
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out["content-security-policy"] = POLICY
                out["x-content-type-options"] = "nosniff"
                out["referrer-policy"] = "no-referrer"
            await send(message)

        with contextlib.suppress(TooLarge):
            await self.app(scope, limited, with_policy)
        if taken > BODY_MOST_BYTES:
            await refused(scope, receive, send)

    def _stranger(self, scope: Scope) -> Response | None:
        """Answer a neighbour: with the cookie it may pass, with the token in the address it gets the cookie."""
        client = scope.get("client")
        if self.token is None or (client is not None and client[0] in LOOPBACK):
            return None
        request = Request(scope)
        if hmac.compare_digest(request.cookies.get(COOKIE, "").encode(), self.token.encode()):
            return None
        if scope["method"] == "GET" and hmac.compare_digest(request.query_params.get("token", "").encode(), self.token.encode()):
            inside = RedirectResponse("/", status_code=303)
            inside.set_cookie(COOKIE, self.token, httponly=True, samesite="strict")
            return inside
        return problem(
            401,
            "token-wanted",
            "Open the address that was printed where the server was started, with its token.",
            field="token",
            given="none, or another one",
            allowed="the token of this start of the server",
        )
