"""What stands before every route: whose page asks, by which name, how much comes and how slowly; headers on answers.

A page from elsewhere may be open in the same browser as this product. It is kept out by three things: names that are
not this server's (a name can be bound to this address by whoever owns it, an address cannot), the origin that browsers
send with whatever changes something, and what they say of a request's site (Fetch Metadata, W3C). Programs other than
browsers send none of these and are let through.
"""

from __future__ import annotations

import asyncio
import ipaddress
import re
import time
from collections.abc import Awaitable, Callable, Iterable
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from eager_ear.web.schemas.base import TroubleOut

Refusal = Callable[[Scope, Receive, Send], Awaitable[None]]

SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
# Routes that take files, and count them; all others take words.
TAKES_FILES = re.compile(r"/api/(cases|jobs/[^/]+/(recordings|photos)/[^/]+)")
MOST_WORDS_BYTES = 2_000_000
# A body may pause so long, and comes at least so fast once it has had its time to begin.
PAUSE_S = 30.0
SLOWEST_BYTES_S = 500.0
POLICY = (
    "default-src 'self'; style-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; "
    "connect-src 'self'; worker-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "Referrer-Policy": "no-referrer",
    "X-Content-Type-Options": "nosniff",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
# Half a year: long enough to be kept between visits, short enough to be undone.
UNDER_TLS = {"Strict-Transport-Security": "max-age=15768000"}


class Guard:
    """Wraps the whole application, its error pages too.

    Parameters
    ----------
    names : host names, besides any address and localhost, by which this server may be asked for
    """

    def __init__(self, app: ASGIApp, *, names: Iterable[str]) -> None:
        self._app = app
        self._names = frozenset({"localhost", *(name.strip().lower() for name in names if name.strip())})

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        under_tls = scope.get("scheme") in ("https", "wss")

        async def send_with_headers(message: Message) -> None:
            if message["type"] in ("http.response.start", "websocket.http.response.start"):
                headers = MutableHeaders(scope=message)
                for name, value in (HEADERS | UNDER_TLS if under_tls else HEADERS).items():
                    headers.setdefault(name, value)
            await send(message)

        refused = self._refusal(scope)
        if refused is not None:
            await refused(scope, receive, send_with_headers)
        elif scope["type"] == "websocket":
            await self._app(scope, receive, send_with_headers)
        else:
            patient = _patiently(receive, limit_bytes=_limit(scope)) if _has_body(scope) else receive
            await self._app(scope, patient, send_with_headers)

    def _refusal(self, scope: Scope) -> Refusal | None:
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not self._is_ours(host):
            return _refuse(scope, 421, "unknown_host", "This server is not known by the name that was asked for.")
        if _comes_from_elsewhere(scope, headers, host):
            return _refuse(scope, 403, "other_origin", "A page from elsewhere asked for this: it is refused.")
        announced = headers.get("content-length", "")
        limit = _limit(scope)
        if limit is not None and announced.isdigit() and int(announced) > limit:
            return _refuse(scope, 413, "too_large", _too_large(limit))
        return None

    def _is_ours(self, host: str) -> bool:
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            return False
        if name in self._names:
            return True
        try:
            ipaddress.ip_address(name.split("%")[0])
        except ValueError:
            return False
        return True


def _comes_from_elsewhere(scope: Scope, headers: Headers, host: str) -> bool:
    """Whether a browser says that another site's page asked, for what changes, a socket, or data."""
    changes = scope["type"] == "websocket" or scope["method"] not in SAFE_METHODS
    origin = headers.get("origin")
    if changes and origin is not None and urlsplit(origin).netloc.lower() != host.lower():
        return True
    site = headers.get("sec-fetch-site")
    if site in (None, "same-origin", "none"):
        return False
    # A link from elsewhere may open a page, and no more.
    return changes or headers.get("sec-fetch-mode") != "navigate"


def _refuse(scope: Scope, status: int, code: str, message: str) -> Refusal:
    if scope["type"] == "websocket" and "websocket.http.response" not in scope.get("extensions", {}):

        async def close(_: Scope, receive: Receive, send: Send) -> None:
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": message[:120]})

        return close
    body = TroubleOut(code=code, message=message).model_dump(exclude_none=True)
    # What is not read of a body would be taken for the next request.
    response: Response = JSONResponse(body, status_code=status, headers={"Connection": "close"})
    return response


def _has_body(scope: Scope) -> bool:
    headers = Headers(scope=scope)
    return headers.get("content-length", "0") != "0" or "transfer-encoding" in headers


def _limit(scope: Scope) -> int | None:
    """The most that may come, None where the route counts for itself."""
    return None if TAKES_FILES.fullmatch(scope["path"]) else MOST_WORDS_BYTES


def _too_large(limit_bytes: int) -> str:
    return f"More than {limit_bytes / 1e6:g} MB are not taken here."


def _patiently(receive: Receive, *, limit_bytes: int | None) -> Receive:
    """The body as it comes, as long as it comes fast enough and is no more than it may be.

    Raises HTTPException out of `receive`: 408 for one that stalls, 413 for one that is too large.
    """
    begin = time.monotonic()
    received = 0
    whole = False

    async def patient() -> Message:
        nonlocal received, whole
        if whole:
            return await receive()
        try:
            # Awaited as it is, not in a task of its own: who asks and is cancelled at once loses no message.
            async with asyncio.timeout(PAUSE_S):
                message = await receive()
        except TimeoutError as exc:
            raise HTTPException(408, "What was sent stopped coming") from exc
        if message["type"] == "http.request":
            received += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if limit_bytes is not None and received > limit_bytes:
                raise HTTPException(413, _too_large(limit_bytes).rstrip("."))
            if not whole and received < SLOWEST_BYTES_S * (time.monotonic() - begin - PAUSE_S):
                raise HTTPException(408, "What was sent came too slowly")
        return message

    return patient


def more_names(text: str) -> list[str]:
    """Names from a list with commas.

    >>> more_names("ear.lan, shop")
    ['ear.lan', 'shop']
    """
    return [name.strip() for name in text.split(",") if name.strip()]
