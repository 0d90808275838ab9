"""What a page from elsewhere tries in the same browser, and what every answer says to browsers."""

from __future__ import annotations

import contextlib
import json
import socket
import threading
from collections.abc import Iterator
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import sync_playwright
from websockets.exceptions import InvalidStatus
from websockets.sync.client import connect

from tests.support import RunningServer, chromium
from tests.web.visits import new_job

ELSEWHERE = "http://elsewhere.example"


@pytest.mark.parametrize("host", ["elsewhere.example", "127.0.0.1.elsewhere.example", "", "[::1", "localhost.example"])
def test_a_name_that_is_bound_to_this_address_is_not_answered(api: httpx.Client, host: str) -> None:
    answer = api.get("/api/jobs", headers={"Host": host})
    assert answer.status_code in (400, 421)
    assert "place" not in answer.text


@pytest.mark.parametrize("host", ["localhost:1", "192.168.7.7:8321", "[::1]:8321", "[fe80::1%25lan]"])
def test_addresses_and_this_machine_are_answered(api: httpx.Client, host: str) -> None:
    assert api.get("/api/health", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": ELSEWHERE},
        {"Origin": "null"},
        {"Origin": "http://127.0.0.1:1"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site", "Sec-Fetch-Mode": "navigate"},
    ],
)
def test_a_page_from_elsewhere_changes_nothing(api: httpx.Client, headers: dict[str, str]) -> None:
    job = new_job(api)
    before = api.get(f"/api/jobs/{job}/entries").json()
    for method, path in (
        ("POST", f"/api/jobs/{job}/entries"),
        ("POST", "/api/jobs"),
        ("POST", "/api/cases"),
        ("PUT", f"/api/jobs/{job}/recordings/01900000-0000-7000-8000-000000000001?name=a.wav"),
        ("PATCH", f"/api/jobs/{job}/recordings/01900000-0000-7000-8000-000000000001?name=a.wav"),
        ("POST", f"/api/jobs/{job}/measuring"),
    ):
        answer = api.request(method, path, headers=headers, content=b"{}")
        assert (answer.status_code, answer.json()["code"]) == (403, "other_origin"), path
    assert api.get(f"/api/jobs/{job}/entries").json() == before


def test_a_page_from_elsewhere_reads_nothing_but_may_link_here(api: httpx.Client) -> None:
    job = new_job(api)
    embedded = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors"}
    assert api.get(f"/api/jobs/{job}", headers=embedded).status_code == 403
    linked = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate"}
    assert api.get(f"/jobs/{job}/call", headers=linked).status_code == 200


def test_a_socket_from_elsewhere_is_not_opened(api: httpx.Client) -> None:
    job = new_job(api)
    address = f"{str(api.base_url).replace('http', 'ws', 1)}/api/jobs/{job}/live"
    with pytest.raises(InvalidStatus) as refused, connect(address, origin=ELSEWHERE, open_timeout=20):
        pass
    assert refused.value.response.status_code == 403
    own = str(api.base_url)
    with connect(address, origin=own, open_timeout=20) as socket:
        socket.send(json.dumps({"audio_rate_hz": 8000}))


@pytest.mark.parametrize("path", ["/", "/api/jobs", "/api/nothing", "/assets/nothing.js", "/api/jobs/none"])
def test_every_answer_says_what_browsers_may_do_with_it(api: httpx.Client, path: str) -> None:
    for answer in (api.get(path), api.get(path, headers={"Host": "elsewhere.example"}), api.put("/api/cases")):
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        assert answer.headers["Cross-Origin-Resource-Policy"] == "same-origin"
        assert answer.headers["Cross-Origin-Opener-Policy"] == "same-origin"
        assert "frame-ancestors 'none'" in answer.headers["Content-Security-Policy"]
        assert "Strict-Transport-Security" not in answer.headers
        assert "Server" not in answer.headers


def test_what_is_no_http_is_answered_with_the_same_headers(server: RunningServer) -> None:
    with socket.create_connection(("127.0.0.1", server.port), timeout=20) as connection:
        connection.sendall(b"\x00\x01 no words at all\r\n\r\n")
        answer = b"".join(iter(lambda: connection.recv(4096), b""))
    assert answer.startswith(b"HTTP/1.1 400")
    assert b"x-content-type-options: nosniff" in answer
    assert b"server:" not in answer.lower()


def test_what_is_no_file_may_not_be_large(api: httpx.Client) -> None:
    job = new_job(api)
    large = b'{"entries": [' + b" " * 3_000_000 + b"]}"
    announced = api.post(f"/api/jobs/{job}/entries", content=large)
    assert (announced.status_code, announced.json()["code"]) == (413, "too_large")
    counted = api.post(
        f"/api/jobs/{job}/entries",
        content=(large[k : k + 100_000] for k in range(0, len(large), 100_000)),
        headers={"Content-Type": "application/json"},
    )
    assert counted.status_code == 413
    assert "MB" in counted.json()["message"]


@contextlib.contextmanager
def page_of_another_origin(folder: Path) -> Iterator[str]:
    (folder / "index.html").write_text("<title>Somebody else's</title>")
    serving = ThreadingHTTPServer(("127.0.0.1", 0), partial(SimpleHTTPRequestHandler, directory=str(folder)))
    threading.Thread(target=serving.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{serving.server_port}/"
    serving.shutdown()
    serving.server_close()


def test_a_real_page_of_another_origin_plants_nothing(server: RunningServer, tmp_path: Path) -> None:
    with (
        page_of_another_origin(tmp_path) as elsewhere,
        httpx.Client(base_url=server.url) as api,
        sync_playwright() as driver,
        chromium(driver) as browser,
    ):
        page = browser.new_page()
        job = new_job(api)
        page.goto(elsewhere)
        said = page.evaluate(
            """async ([url, job]) => {
                const send = (path, options) => fetch(url + path, options).then(() => "answered", () => "kept out");
                const socket = await new Promise((resolve) => {
                    const opened = new WebSocket(url.replace("http", "ws") + `/api/jobs/${job}/live`);
                    opened.onopen = () => resolve("answered");
                    opened.onerror = () => resolve("kept out");
                });
                return [
                    await send("/api/jobs", {}),
                    await send(`/api/jobs/${job}/entries`, { method: "POST", mode: "no-cors", body: "{}" }),
                    socket,
                ];
            }""",
            [server.url, job],
        )
        assert said[0] == said[2] == "kept out"
        assert len(api.get(f"/api/jobs/{job}/entries").json()["entries"]) == 2
