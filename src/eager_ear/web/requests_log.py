"""Every request has a number: it stands in the answer's head, in the words of a failure, and in the log."""

from __future__ import annotations

import secrets
import time

import structlog
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

HEADER = "X-Request-Id"
STATE = "request_id"
log = structlog.stdlib.get_logger("eager_ear.web")


class Numbered:
    """Wraps the whole application, inside its guard. What is looked for stands in no log: paths alone are kept."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        number = secrets.token_hex(6)
        scope.setdefault("state", {})[STATE] = number
        begin, status, sent = time.perf_counter(), 0, 0

        async def send_numbered(message: Message) -> None:
            nonlocal status, sent
            if message["type"] == "http.response.start":
                status = int(message["status"])
                MutableHeaders(scope=message).setdefault(HEADER, number)
            elif message["type"] == "http.response.body":
                sent += len(message.get("body", b""))
            await send(message)

        with structlog.contextvars.bound_contextvars(request=number):
            try:
                await self._app(scope, receive, send_numbered)
            except Exception:
                log.exception("failed", method=scope.get("method", "SOCKET"), path=scope["path"])
                raise
            finally:
                took_ms = round(1000.0 * (time.perf_counter() - begin), 1)
                told = log.warning if status >= 500 else log.info
                told(
                    "answered",
                    method=scope.get("method", "SOCKET"),
                    path=scope["path"],
                    status=status,
                    ms=took_ms,
                    bytes=sent,
                )
