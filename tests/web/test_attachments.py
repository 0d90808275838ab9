"""Bytes from devices, on the real server: whole, in pieces, again, at once, and what is no recording."""

from __future__ import annotations

import contextlib
import io
import socket
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import numpy as np
import pytest
import soundfile
from PIL import Image

from eager_ear.use_cases.visits.bytes_in import Parcel, begin, take_piece
from tests.diaries import entry, new_id
from tests.support import RunningServer
from tests.web.visits import add_recording, new_job, problem, put, recording, small_wav, write


def piece(first: int, content: bytes, total: int) -> dict[str, str]:
    return {"Content-Range": f"bytes {first}-{first + len(content) - 1}/{total}"}


def test_what_is_no_recording_is_refused_in_words_and_leaves_nothing(api: httpx.Client) -> None:
    job = new_job(api)
    refused = [
        (b"\xff\xd8\xff\xe0 photograph", "spin.wav", 422, "no sound that can be read"),
        (b"", "spin.wav", 422, "is empty"),
        (b"t_s,ax_m_s2\n0,1\n0.01,fast\n0.02,1\n", "a.csv", 422, "line 3"),
        (b"t_s,ax_m_s2\n0.01,1\n0.02,1\n", "a.csv", 422, "fewer than 16 rows"),
        (b"hello\nworld\n", "a.csv", 422, "not a CSV table"),
        (small_wav(), "../spin.wav", 422, "cannot be the name"),
        (small_wav(), "spin\0.wav", 422, "no text"),
        (small_wav(), "s" * 300, 422, "name"),
        (b"x" * 61_000_000, "spin.wav", 413, "larger than the limit of 60 MB"),
    ]
    for content, name, status, says in refused:
        answer = put(api, job, content, name=name)
        assert (answer.status_code, says in answer.json()["message"]) == (status, True), (name, answer.text)
    uuid = new_id()
    put(api, job, small_wav(), uuid=uuid)
    for key, value in (("kind", "video"), ("kind", "tacho"), ("position", "moon")):
        assert problem(write(api, job, recording(uuid, **{key: value})))["field"] == f"body.{key}"
    assert problem(write(api, job, recording(uuid, start_s=1e300)))["field"] == "body.start_s"
    assert problem(write(api, job, recording(new_id())))["code"] == "bytes_missing"
    assert api.get(f"/api/jobs/{job}").json()["recordings"] == []


def test_pieces_are_resumed_where_they_broke_off(api: httpx.Client) -> None:
    job, uuid, content = new_job(api), new_id(), small_wav()
    path, total = f"/api/jobs/{job}/recordings/{uuid}", len(content)
    first = content[:10_000]
    answer = api.put(path, params={"name": "spin.wav"}, content=first, headers=piece(0, first, total))
    assert (answer.status_code, answer.json()["received_bytes"]) == (202, 10_000)
    assert problem(write(api, job, recording(uuid)))["code"] == "bytes_missing"
    # A piece from elsewhere is told where to begin; the same piece again is not stored twice.
    for start in (0, 20_000):
        again = api.put(path, params={"name": "spin.wav"}, content=first, headers=piece(start, first, total))
        assert (again.status_code, again.json()["received_bytes"]) == (409, 10_000)
    assert api.head(path).headers["Upload-Offset"] == "10000"
    rest = content[10_000:]
    answer = api.put(path, params={"name": "spin.wav"}, content=rest, headers=piece(10_000, rest, total))
    assert (answer.status_code, answer.json()["is_here"]) == (200, True)
    assert api.get(path).content == content
    # The whole again, after a lost answer, is the same recording; other bytes are not.
    assert api.put(path, params={"name": "spin.wav"}, content=content).status_code == 200
    assert api.put(path, params={"name": "spin.wav"}, content=small_wav(5)).status_code == 409
    assert api.get(path).content == content


def test_a_device_that_resumes_by_itself_is_understood(api: httpx.Client) -> None:
    job, uuid, content = new_job(api), new_id(), small_wav()
    path = f"/api/jobs/{job}/recordings/{uuid}?name=spin.wav"
    length = {"Upload-Length": str(len(content))}
    head = api.head(path, headers=length)
    assert (head.headers["Upload-Offset"], head.headers["Upload-Length"]) == ("0", str(len(content)))
    for start in range(0, len(content), 9000):
        block = content[start : start + 9000]
        sent = api.patch(path, content=block, headers={**length, "Upload-Offset": str(start)})
        assert (sent.status_code, sent.headers["Upload-Offset"]) == (204, str(start + len(block)))
    assert api.head(path).headers["Upload-Offset"] == str(len(content))
    assert write(api, job, recording(uuid))["job"]["recordings"][0]["size_bytes"] == len(content)


@pytest.mark.parametrize(("content", "left"), [(small_wav(), len(small_wav())), (b"no sound at all", 0)])
def test_what_came_whole_and_was_never_looked_over_is_when_it_is_asked_for(
    api: httpx.Client, server: RunningServer, content: bytes, left: int
) -> None:
    job, uuid = new_job(api), new_id()
    parcel = Parcel(job_uuid=job, uuid=uuid, purpose="recording", name="spin.wav", total_bytes=len(content))
    # As when the server is killed between the last byte and the look.
    database = server.database()
    begin(database, parcel, afresh=False)
    take_piece(database, uuid, offset=0, content=content)
    database.close()
    assert problem(write(api, job, recording(uuid)))["code"] == "bytes_missing"
    head = api.head(f"/api/jobs/{job}/recordings/{uuid}", headers={"Upload-Length": str(len(content))})
    assert int(head.headers["Upload-Offset"]) == left
    if left:
        assert len(write(api, job, recording(uuid, kind="audio"))["job"]["recordings"]) == 1


def test_a_connection_that_is_cut_keeps_what_arrived(api: httpx.Client, server: RunningServer) -> None:
    job, uuid = new_job(api), new_id()
    content = np.random.default_rng(0).bytes(3_500_000)
    head = (
        f"PUT /api/jobs/{job}/recordings/{uuid}?name=a.wav HTTP/1.1\r\nHost: 127.0.0.1\r\n"
        f"Content-Length: {len(content)}\r\nContent-Range: bytes 0-{len(content) - 1}/{len(content)}\r\n\r\n"
    )
    with socket.create_connection(("127.0.0.1", server.port), timeout=20) as connection:
        connection.sendall(head.encode() + content[:2_600_000])
    path = f"/api/jobs/{job}/recordings/{uuid}"
    for _ in range(100):
        if int(api.head(path).headers["Upload-Offset"]) == 2 << 20:
            break
    assert int(api.head(path).headers["Upload-Offset"]) == 2 << 20


def test_recordings_sent_at_the_same_moment_are_all_taken(api: httpx.Client, server: RunningServer) -> None:
    job = new_job(api)
    sink = io.BytesIO()
    soundfile.write(sink, np.random.default_rng(0).uniform(-0.1, 0.1, 1_500_000), 48000, format="WAV", subtype="PCM_24")

    def sent(k: int) -> int:
        with httpx.Client(base_url=server.url, timeout=60.0) as own:
            return put(own, job, sink.getvalue() if k % 2 else small_wav(k), name=f"spin-{k}.wav").status_code

    with ThreadPoolExecutor(6) as pool:
        assert list(pool.map(sent, range(6))) == [200] * 6


def test_the_same_content_under_two_names_is_two_recordings_and_stored_once(api: httpx.Client) -> None:
    job = new_job(api)
    for name in ("spin.wav", "SPIN.wav"):
        add_recording(api, job, small_wav(), file=name)
    recordings = api.get(f"/api/jobs/{job}").json()["recordings"]
    assert [r["name"] for r in recordings] == ["spin.wav", "SPIN.wav"]
    assert len({r["sha256"] for r in recordings}) == 1


def test_a_recording_is_removed_and_comes_back(api: httpx.Client) -> None:
    job = new_job(api)
    uuid = add_recording(api, job, small_wav())
    removed = entry("recording_removed", {"recording": uuid, "why": "wrong machine"})
    assert write(api, job, removed)["job"]["recordings"] == []
    back = write(api, job, entry("recording_removed", None, replaces=removed["id"]))["job"]
    assert [r["id"] for r in back["recordings"]] == [uuid]


def test_two_gigabytes_announced_are_refused_before_they_are_sent(api: httpx.Client, server: RunningServer) -> None:
    job = new_job(api)
    head = (
        f"PUT /api/jobs/{job}/recordings/{new_id()}?name=a.wav HTTP/1.1\r\nHost: localhost\r\n"
        "Content-Length: 2000000000\r\nContent-Type: application/octet-stream\r\n\r\n"
    )
    with socket.create_connection(("127.0.0.1", server.port), timeout=20) as connection:
        connection.sendall(head.encode())
        assert b" 413 " in connection.recv(4096)


def test_a_stream_that_never_said_its_size_is_refused(api: httpx.Client) -> None:
    job = new_job(api)

    def endless():  # type: ignore[no-untyped-def]
        for _ in range(70):
            yield b"\x00" * 1_000_000

    with contextlib.suppress(httpx.WriteError, httpx.ReadError):
        answer = api.put(f"/api/jobs/{job}/recordings/{new_id()}", params={"name": "a.wav"}, content=endless())
        assert (answer.status_code, "how much" in answer.json()["message"]) == (422, True)


def test_files_are_served_in_ranges(api: httpx.Client) -> None:
    job, content = new_job(api), small_wav()
    path = f"/api/jobs/{job}/recordings/{add_recording(api, job, content)}"
    assert api.get(path).content == content
    part = api.get(path, headers={"Range": "bytes=100-199"})
    assert (part.status_code, part.content) == (206, content[100:200])
    assert api.get(path, headers={"Range": "bytes=-50"}).content == content[-50:]
    beyond = api.get(path, headers={"Range": f"bytes={len(content)}-"})
    assert (beyond.status_code, beyond.headers["Content-Range"]) == (416, f"bytes */{len(content)}")
    # Another job's address does not lead to it.
    assert api.get(path.replace(job, new_job(api))).status_code == 404
    assert api.get(path.replace("recordings", "photos")).status_code == 404


def jpeg(orientation: int) -> bytes:
    """A photo held sideways, with where it was taken."""
    image = Image.new("RGB", (400, 200), "white")
    image.paste("black", (0, 0, 200, 200))
    exif = Image.Exif()
    exif[0x0112] = orientation
    exif.get_ifd(0x8825)[1] = "N"
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    sink = io.BytesIO()
    image.save(sink, format="JPEG", exif=exif)
    return sink.getvalue()


def test_a_photo_is_turned_upright_and_forgets_where_it_was_taken(api: httpx.Client) -> None:
    job, uuid, content = new_job(api), new_id(), jpeg(6)
    path = f"/api/jobs/{job}/photos/{uuid}"
    for _ in range(2):
        assert api.put(path, params={"name": "plate.jpg"}, content=content).status_code == 200
    write(api, job, entry("photo", {"photo": uuid, "role": "plate", "about": "story"}))
    shown = api.get(f"/api/jobs/{job}").json()["photos"][0]
    assert (shown["width"], shown["height"], shown["role"]) == (200, 400, "plate")
    whole = Image.open(io.BytesIO(api.get(path).content))
    assert (whole.size, dict(whole.getexif())) == ((200, 400), {})
    assert whole.getpixel((100, 20)) < (40, 40, 40) < (200, 200, 200) < whole.getpixel((100, 380))
    small = Image.open(io.BytesIO(api.get(path, params={"small": True}).content))
    assert max(small.size) <= 320


@pytest.mark.parametrize("content", [b"GIF89a....", b"\x89PNG\r\n\x1a\n broken", small_wav(), b"<svg/>"])
def test_what_is_no_photo_is_refused(api: httpx.Client, content: Any) -> None:
    answer = api.put(f"/api/jobs/{new_job(api)}/photos/{new_id()}", params={"name": "a.jpg"}, content=content)
    assert (answer.status_code, "photo" in answer.json()["message"]) == (422, True)
