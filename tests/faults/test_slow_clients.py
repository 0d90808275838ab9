"""Clients that do not read, do not send, or never finish: they end, and the others go on meanwhile."""

from __future__ import annotations

import asyncio
import contextlib
import socket
import threading
import time
from collections.abc import AsyncIterator, Iterator

import httpx
import numpy as np
import pytest
import uvicorn
from fastapi import FastAPI, Request
from sse_starlette import EventSourceResponse
from starlette.responses import StreamingResponse

from eager_ear.host.running.mariadb import free_port
from eager_ear.store import Database, UnitOfWork
from eager_ear.store import database as database_module
from eager_ear.store.errors import DatabaseBusy
from eager_ear.web import guard, serve
from tests.diaries import new_id
from tests.web.visits import new_job, wav

READERS = 48


def test_readers_that_do_not_read_leave_the_others_alone(api: httpx.Client) -> None:
    job, recording = new_job(api), new_id()
    noise = np.random.default_rng(1).normal(scale=0.1, size=48_000 * 60)
    path = f"/api/jobs/{job}/recordings/{recording}"
    assert api.put(f"{path}?name=spin.wav", content=wav(noise)).status_code == 200
    asks = f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n".encode()
    with contextlib.ExitStack() as stack:
        for _ in range(READERS):
            reader = stack.enter_context(socket.create_connection(("127.0.0.1", api.base_url.port or 0)))
            reader.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
            reader.sendall(asks)
            assert reader.recv(12) == b"HTTP/1.1 200"
        for _ in range(20):
            assert api.get("/api/jobs").status_code == 200
        assert len(api.get(path).content) == len(wav(noise))


@pytest.fixture
def impatient(monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The product's own way to serve, with less patience, before an application of a few lines."""
    monkeypatch.setattr(serve, "HEAD_S", 0.4)
    monkeypatch.setattr(serve, "WRITE_S", 0.4)
    monkeypatch.setattr(guard, "PAUSE_S", 0.4)
    monkeypatch.setattr(guard, "SLOWEST_BYTES_S", 50.0)
    app = FastAPI()

    @app.post("/words")
    async def words(request: Request) -> int:
        return len(await request.body())

    @app.get("/endless")
    async def endless() -> StreamingResponse:
        return StreamingResponse(b"0" * 65_536 for _ in range(10_000))

    @app.get("/told")
    async def told(request: Request) -> EventSourceResponse:
        async def moments() -> AsyncIterator[dict[str, str]]:
            for number in range(8):
                # Asked before anything else, as whoever tells of changes does.
                if await request.is_disconnected():
                    return
                await asyncio.sleep(0.2)
                yield {"data": str(number)}

        return EventSourceResponse(moments())

    port = free_port()
    config = serve.settings(host="127.0.0.1", port=port)
    config.app, config.factory = guard.Guard(app, names=()), False
    server = uvicorn.Server(config)
    thread = threading.Thread(target=lambda: asyncio.run(server.serve()))
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield f"127.0.0.1:{port}"
    server.should_exit = True
    thread.join()


def opened(address: str) -> socket.socket:
    host, port = address.split(":")
    return socket.create_connection((host, int(port)), timeout=20)


def everything(connection: socket.socket) -> bytes:
    """What comes until the other side ends it."""
    out = bytearray()
    with contextlib.suppress(ConnectionResetError):
        while block := connection.recv(65_536):
            out += block
    return bytes(out)


@pytest.mark.parametrize("head", [b"", b"GET /endless HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: "])
def test_a_head_that_never_ends_is_closed(impatient: str, head: bytes) -> None:
    with opened(impatient) as connection:
        connection.sendall(head)
        assert everything(connection) == b""


def test_the_head_of_a_second_request_has_no_more_time(impatient: str) -> None:
    with opened(impatient) as connection:
        connection.sendall(b"POST /words HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 2\r\n\r\nok")
        assert b"200" in connection.recv(65_536)
        connection.sendall(b"POST /words HTTP/1.1\r\n")
        assert b"HTTP" not in everything(connection)


def test_a_body_that_stops_coming_is_told_so(impatient: str) -> None:
    with opened(impatient) as connection:
        connection.sendall(b"POST /words HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 9\r\n\r\nhalf")
        assert b"408" in connection.recv(65_536)


def test_a_body_that_trickles_is_ended(impatient: str) -> None:
    with opened(impatient) as connection:
        connection.sendall(b"POST /words HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 999\r\n\r\n")
        with contextlib.suppress(OSError):
            for _ in range(40):
                connection.sendall(b"x")
                time.sleep(0.05)
        assert b"408" in everything(connection)


@pytest.mark.parametrize("body", [None, b"words"])
def test_who_listens_for_longer_than_a_body_may_pause_is_told_to_the_end(impatient: str, body: bytes | None) -> None:
    with httpx.Client(base_url=f"http://{impatient}") as client:
        told = client.request("GET", "/told", content=body).text
    assert [line for line in told.splitlines() if line.startswith("data")] == [f"data: {k}" for k in range(8)]


def test_a_reader_that_never_reads_is_closed(impatient: str) -> None:
    with opened(impatient) as connection:
        connection.sendall(b"GET /endless HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        time.sleep(1.5)
        assert len(everything(connection)) < 655_360_000 // 2


def test_an_empty_pool_is_told_in_a_sentence(database_url: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(database_module, "POOL_SIZE", 1)
    monkeypatch.setattr(database_module, "POOL_OVERFLOW", 0)
    monkeypatch.setattr(database_module, "POOL_WAIT_S", 0.1)
    small = Database(database_url)
    with UnitOfWork(small) as holds:
        holds.jobs.find(new_id())
        with pytest.raises(DatabaseBusy, match="Try again"), UnitOfWork(small) as waits:
            waits.jobs.find(new_id())
    small.close()
