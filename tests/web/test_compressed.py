"""What is said is sent small to who can read it; recordings and what is told as it happens go as they are."""

from __future__ import annotations

import gzip
import re

import httpx
import pytest

from tests.web.visits import add_recording, new_job, small_wav

ZIPPED = {"Accept-Encoding": "gzip"}
PLAIN = {"Accept-Encoding": "identity"}


def raw(api: httpx.Client, path: str, headers: dict[str, str]) -> tuple[httpx.Response, bytes]:
    """An answer and its bytes as they came over the line."""
    with api.stream("GET", path, headers=headers) as answer:
        return answer, b"".join(answer.iter_raw())


def script(api: httpx.Client) -> str:
    found = re.search(r"/assets/index-[^\"]+\.js", api.get("/").text)
    assert found is not None
    return found[0]


def test_words_are_sent_small_to_who_reads_them_so(api: httpx.Client) -> None:
    small, zipped = raw(api, "/api/catalogue", ZIPPED)
    whole, plain = raw(api, "/api/catalogue", PLAIN)
    assert small.headers["Content-Encoding"] == "gzip"
    assert "Content-Encoding" not in whole.headers
    assert small.headers["Vary"] == whole.headers["Vary"] == "Accept-Encoding"
    assert gzip.decompress(zipped) == plain
    assert len(zipped) < len(plain) / 3


def test_the_interface_is_fetched_small_and_once(api: httpx.Client) -> None:
    path = script(api)
    small, zipped = raw(api, path, ZIPPED)
    _, plain = raw(api, path, PLAIN)
    assert gzip.decompress(zipped) == plain
    assert len(zipped) < len(plain) / 2
    assert "immutable" in small.headers["Cache-Control"]
    # Its first page names it, and is asked for anew.
    assert api.get("/").headers["Cache-Control"] == "no-cache"
    assert api.get("/assets/nothing.js").status_code == 404


@pytest.mark.parametrize("part", [None, "bytes=100-199"])
def test_recordings_go_as_they_are(api: httpx.Client, part: str | None) -> None:
    job, content = new_job(api), small_wav()
    uuid = add_recording(api, job, content)
    headers = ZIPPED | ({"Range": part} if part else {})
    answer, came = raw(api, f"/api/jobs/{job}/recordings/{uuid}", headers)
    assert "Content-Encoding" not in answer.headers
    assert came == (content[100:200] if part else content)


def test_what_is_told_as_it_happens_is_not_held_back(api: httpx.Client) -> None:
    job = new_job(api)
    with api.stream("GET", f"/api/jobs/{job}/changes", headers=ZIPPED, timeout=10) as answer:
        assert "Content-Encoding" not in answer.headers
        assert next(answer.iter_bytes())
