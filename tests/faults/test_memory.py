"""Small files that would swell, many large ones at once: refused by arithmetic, or looked over in turn."""

from __future__ import annotations

import io
import threading
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile

from eager_ear.casefile import FileProblem, inspect_recording
from eager_ear.core.errors import BadSignal
from eager_ear.core.signals.types import AccelerationSignal
from tests.conftest import MOST_SERVER_MB
from tests.support import RunningServer
from tests.web.visits import new_job, put


def announcing(seconds: int, *, channels: int, rate_hz: int) -> bytes:
    """A second of silence whose head (STREAMINFO) announces so much, as a file that swells when it is decoded does."""
    sink = io.BytesIO()
    soundfile.write(sink, np.zeros((rate_hz, channels), dtype=np.int16), rate_hz, format="FLAC", subtype="PCM_16")
    content = bytearray(sink.getvalue())
    # 36 bits from the second half of byte 21 on.
    frames = seconds * rate_hz
    content[21] = content[21] & 0xF0 | frames >> 32
    content[22:26] = (frames & 0xFFFFFFFF).to_bytes(4, "big")
    return bytes(content)


@pytest.mark.parametrize(("channels", "rate_hz", "seconds"), [(8, 96_000, 300), (1, 8_000, 2_000)])
def test_a_small_file_of_much_sound_is_refused_by_arithmetic(
    tmp_path: Path, channels: int, rate_hz: int, seconds: int
) -> None:
    path = tmp_path / "spin.flac"
    path.write_bytes(announcing(seconds, channels=channels, rate_hz=rate_hz))
    with pytest.raises(FileProblem, match=r"million samples|half an hour"):
        inspect_recording(path, name="spin.flac")


def test_a_clock_that_jumps_is_refused_before_it_is_evened_out() -> None:
    t_s = np.arange(1000) / 10_000.0
    t_s[500:] += 3600.0
    with pytest.raises(BadSignal, match="clock jumped"):
        AccelerationSignal(t_s=t_s, axes_m_s2=np.zeros((3, 1000)))


def test_a_phone_that_slept_for_minutes_is_not() -> None:
    t_s = np.arange(2000) / 100.0
    t_s[1000:] += 600.0
    assert AccelerationSignal(t_s=t_s, axes_m_s2=np.zeros((3, 2000))).duration_s > 600.0


def test_many_large_logs_at_once_leave_the_server_small(server: RunningServer, api: httpx.Client) -> None:
    job = new_job(api)
    row = "{:.4f},0.1,0.2,9.81"
    log = ("t_s,ax_m_s2,ay_m_s2,az_m_s2\n" + "\n".join(row.format(k / 5000.0) for k in range(200_000))).encode()
    answers: list[int] = []

    def send() -> None:
        with httpx.Client(base_url=server.url, timeout=300.0) as own:
            answers.append(put(own, job, log, name="spin.csv").status_code)

    threads = [threading.Thread(target=send) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers == [200] * 8
    assert 0 < server.peak_mb < MOST_SERVER_MB
