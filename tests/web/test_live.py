"""Listening along through the real server's socket."""

from __future__ import annotations

import json
from typing import Any

import httpx
import numpy as np
import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection, connect

from tests.web.visits import new_job


def sound_block(samples: Any) -> bytes:
    return (1).to_bytes(8, "little") + np.asarray(samples, dtype="<f4").tobytes()


def motion_block(rows: Any) -> bytes:
    return (2).to_bytes(8, "little") + np.asarray(rows, dtype="<f8").tobytes()


def socket_of(api: httpx.Client, job: str) -> ClientConnection:
    return connect(f"{str(api.base_url).replace('http', 'ws', 1)}/api/jobs/{job}/live", open_timeout=20)


def answer(socket: ClientConnection) -> dict[str, Any]:
    return dict(json.loads(socket.recv(timeout=20)))


def test_sound_comes_back_as_levels(api: httpx.Client) -> None:
    job = new_job(api)
    tone = 0.1 * np.sqrt(2.0) * np.sin(2.0 * np.pi * 1000.0 * np.arange(16000) / 16000.0)
    with socket_of(api, job) as socket:
        socket.send(json.dumps({"audio_rate_hz": 16000, "audio_start_s": 0.5}))
        socket.send(sound_block(tone))
        readings = answer(socket)["readings"]
    assert readings[-1]["level_db"] == pytest.approx(-20.0, abs=0.1)
    assert 1.4 < readings[-1]["t_s"] <= 1.5
    assert readings[-1]["speed"] is None
    assert {p["name"] for p in readings[-1]["parts"]} >= {"ramp", "full_speed", "coast_down"}


def test_motion_alone_shows_speed_and_when_to_stop(api: httpx.Client) -> None:
    job = new_job(api)
    t_s = np.arange(0.0, 20.0, 0.01)
    rate_hz = 1.0 * np.clip(t_s - 4.0, 0.0, None)
    shake = 11.0 * (rate_hz / 16.0) ** 4 * np.sin(2.0 * np.pi * np.cumsum(rate_hz) * 0.01)
    shake += 0.05 * np.random.default_rng(1).normal(size=t_s.size)
    rows = np.stack([t_s, shake, np.zeros_like(t_s), np.full_like(t_s, 9.81)], axis=1)
    with socket_of(api, job) as socket:
        socket.send(json.dumps({"audio_rate_hz": None}))
        last: dict[str, Any] = {}
        for k in range(0, t_s.size, 100):
            socket.send(motion_block(rows[k : k + 100]))
            if k >= 200:
                last = answer(socket)["readings"][-1]
    speed = last["speed"]
    true_rpm = 60.0 * np.interp(last["t_s"], t_s, rate_hz)
    assert speed["rpm"] == pytest.approx(true_rpm, abs=3.0 * speed["sigma_rpm"])
    assert 10.0 < speed["sigma_rpm"] < 60.0
    assert speed["is_felt"]
    assert not speed["is_steady"]
    assert (last["must_stop"], last["shake"]) == (True, "violent")
    assert last["level_db"] is None


def test_a_bad_block_is_told_and_listening_goes_on(api: httpx.Client) -> None:
    job = new_job(api)
    with socket_of(api, job) as socket:
        socket.send(json.dumps({"audio_rate_hz": 8000}))
        for bad in (b"", b"\x09" + bytes(11), sound_block([0.0, float("nan")]), motion_block([[0, 1, 2, 3]])[:-8]):
            socket.send(bad)
            assert answer(socket)["trouble"]["code"] == "bad_signal"
        socket.send(sound_block(np.full(8000, 0.1)))
        assert answer(socket)["readings"]


@pytest.mark.parametrize("hello", ["not json", '{"audio_rate_hz": -4}', '{"audio_rate_hz": 100}'])
def test_a_hello_that_says_nothing_is_refused(api: httpx.Client, hello: str) -> None:
    with socket_of(api, new_job(api)) as socket:
        socket.send(hello)
        assert answer(socket)["trouble"]["code"] in ("bad_field", "bad_signal")
        with pytest.raises(ConnectionClosed):
            socket.recv(timeout=20)


def test_no_job_no_listening(api: httpx.Client) -> None:
    with socket_of(api, 999_999) as socket:
        assert answer(socket)["trouble"]["code"] == "not_found"
    assert api.get("/api/jobs/1/live").status_code == 426
