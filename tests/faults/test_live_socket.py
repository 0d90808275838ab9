"""Listening along with what no phone sends: it is told, it costs little, and it ends with its socket."""

from __future__ import annotations

import json
import time
from contextlib import ExitStack, suppress

import httpx
import numpy as np
import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection

from eager_ear.core.errors import BadSignal
from eager_ear.core.live import LiveEar
from eager_ear.core.live.motion_stream import MOST_ROWS
from eager_ear.core.machine import Machine
from eager_ear.web.routes.hearing.live import MOST_SOCKETS
from tests.web.test_live import answer, motion_block, socket_of, sound_block
from tests.web.visits import new_job

MACHINE = Machine(layout="front_belt")


@pytest.mark.parametrize("start_s", ["1e308", "-1e300", "NaN", "Infinity", "90000"])
def test_a_clock_beyond_a_day_is_refused_at_the_beginning(api: httpx.Client, start_s: str) -> None:
    with socket_of(api, new_job(api)) as socket:
        socket.send(f'{{"audio_rate_hz": 8000, "audio_start_s": {start_s}}}')
        assert answer(socket)["trouble"]["code"] == "bad_signal"


def test_blocks_that_would_never_end_are_told_and_listening_goes_on(api: httpx.Client) -> None:
    with socket_of(api, new_job(api)) as socket:
        socket.send(json.dumps({"audio_rate_hz": None}))
        for bad in (
            motion_block([[1e300, 0.0, 0.0, 9.8]]),
            motion_block([[1.0, 1e300, 0.0, 9.8]]),
            motion_block([[90_000.0, 0.0, 0.0, 9.8]]),
        ):
            socket.send(bad)
            assert answer(socket)["trouble"]["code"] == "bad_signal"
        socket.send("words in the place of a block")
        assert "not text" in answer(socket)["trouble"]["message"]
        t_s = np.arange(0.0, 4.0, 0.01)
        rows = np.stack([t_s, np.sin(t_s), np.zeros_like(t_s), np.full_like(t_s, 9.8)], axis=1)
        socket.send(motion_block(rows))
        assert answer(socket)["readings"]


def test_more_than_ten_seconds_of_sound_at_once_are_refused(api: httpx.Client) -> None:
    with socket_of(api, new_job(api)) as socket:
        socket.send(json.dumps({"audio_rate_hz": 8000}))
        socket.send(sound_block(np.zeros(90_000)))
        assert "more than 10 s" in answer(socket)["trouble"]["message"]


def test_rows_that_come_faster_than_any_sensor_do_not_pile_up() -> None:
    ear = LiveEar(machine=MACHINE, audio_rate_hz=None, audio_start_s=0.0)
    rows = MOST_ROWS // 2
    blocks = [1.0 + 1e-6 * np.arange(k * rows, (k + 1) * rows) for k in range(3)]
    for t_s in blocks[:2]:
        ear.push_motion(t_s, np.zeros((3, rows)))
    with pytest.raises(BadSignal, match="faster than any sensor"):
        ear.push_motion(blocks[2], np.zeros((3, rows)))


def test_a_gap_of_hours_costs_one_frame_and_the_clock_goes_on() -> None:
    ear = LiveEar(machine=MACHINE, audio_rate_hz=None, audio_start_s=0.0)
    t_s = np.arange(0.0, 4.0, 0.01)
    still = np.zeros((3, t_s.size))
    assert ear.push_motion(t_s, still)
    late = ear.push_motion(t_s + 80_000.0, still)
    assert [round(reading.t_s) for reading in late[:1]] == [80_004]
    again = ear.push_motion(t_s[:100] + 80_004.0, still[:, :100])
    assert 0 < len(again) < 20
    assert np.diff([reading.t_s for reading in again]) == pytest.approx(0.125, abs=1e-6)


def test_one_more_than_there_is_room_for_is_told_so_and_the_others_go_on(api: httpx.Client) -> None:
    job = new_job(api)
    with ExitStack() as open_now:
        for _ in range(MOST_SOCKETS):
            assert hears(open_now.enter_context(socket_of(api, job)))
        with socket_of(api, job) as late:
            assert answer(late)["trouble"]["code"] == "busy"
        assert api.get("/api/health").status_code == 200
    # Places are given back when their sockets have ended, which the server may learn a moment later.
    for _ in range(50):
        with socket_of(api, job) as socket, suppress(ConnectionClosed):
            if hears(socket):
                return
        time.sleep(0.1)
    pytest.fail("no place was given back")


def hears(socket: ClientConnection) -> bool:
    socket.send(json.dumps({"audio_rate_hz": 8000}))
    socket.send(sound_block(np.full(8000, 0.1)))
    return bool(answer(socket)["readings"])
