"""The server process: the application on one address, with patience that ends.

A connection that sends no whole head, or does not take what it is sent, is closed; it holds nothing but itself until
then.
"""

from __future__ import annotations

import argparse
import asyncio
from typing import Any

import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from eager_ear import logs
from eager_ear.processes import end_with
from eager_ear.web.guard import HEADERS

HEAD_S = 20.0
WRITE_S = 30.0
IDLE_S = 10
STOP_S = 3
# A block of sound or motion and its head.
MOST_SOCKET_BYTES = (1 << 22) + 1024
SOCKET_QUEUE = 4


class PatientProtocol(H11Protocol):
    """HTTP/1.1 whose waits end: for the head of a request, and for a reader to read."""

    head_timer: asyncio.TimerHandle | None = None
    write_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._watch_head()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        self._watch_head()

    def on_response_complete(self) -> None:
        super().on_response_complete()
        self._watch_head()

    def connection_lost(self, exc: Exception | None) -> None:
        for timer in (self.head_timer, self.write_timer):
            if timer is not None:
                timer.cancel()
        super().connection_lost(exc)

    def pause_writing(self) -> None:
        super().pause_writing()
        self.write_timer = self.loop.call_later(WRITE_S, self.transport.abort)

    def resume_writing(self) -> None:
        super().resume_writing()
        if self.write_timer is not None:
            self.write_timer.cancel()
            self.write_timer = None

    def send_400_response(self, msg: str) -> None:
        """What is no HTTP at all is answered with the headers of every other answer."""
        headers = [(name.lower().encode(), value.encode()) for name, value in HEADERS.items()]
        headers += [(b"content-type", b"text/plain; charset=utf-8"), (b"connection", b"close")]
        for event in (
            h11.Response(status_code=400, headers=headers, reason=b"Bad Request"),
            h11.Data(data=msg.encode("ascii", "replace")),
            h11.EndOfMessage(),
        ):
            self.transport.write(self.conn.send(event) or b"")
        self.transport.close()

    def _watch_head(self) -> None:
        """Wait for the next request's head as long as there is none, from its first byte on."""
        waits = self.cycle is None or self.cycle.response_complete
        if waits and self.head_timer is None:
            self.head_timer = self.loop.call_later(HEAD_S, self._head_never_came)
        elif not waits and self.head_timer is not None:
            self.head_timer.cancel()
            self.head_timer = None

    def _head_never_came(self) -> None:
        self.head_timer = None
        # A socket that was upgraded has a protocol of its own by now.
        if self.transport.get_protocol() is self and (self.cycle is None or self.cycle.response_complete):
            self.transport.abort()


def settings(*, host: str, port: int, **more: Any) -> uvicorn.Config:
    """How the product is served, in its tests as well."""
    return uvicorn.Config(
        "eager_ear.web.app:from_environment",
        factory=True,
        host=host,
        port=port,
        http=PatientProtocol,
        log_level="warning",
        log_config=None,
        server_header=False,
        ws_max_size=MOST_SOCKET_BYTES,
        ws_max_queue=SOCKET_QUEUE,
        timeout_keep_alive=IDLE_S,
        timeout_graceful_shutdown=STOP_S,
        **more,
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--ssl-certfile")
    parser.add_argument("--ssl-keyfile")
    parser.add_argument("--parent", type=int, required=True, help="process id of who started this")
    options = vars(parser.parse_args())
    end_with(options.pop("parent"))
    logs.set_up("server")
    uvicorn.Server(settings(**options)).run()


if __name__ == "__main__":
    main()
