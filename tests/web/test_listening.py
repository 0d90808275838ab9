"""The spin for the ear, from the real server: every way, what it needs, and what is refused."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
import soundfile

from eager_ear.casefile import write_case_folder
from eager_ear.core.simulate import SimulatedCase
from eager_ear.core.units import FloatArray
from tests.web.visits import finished, new_job, zipped_case


def visit(api: httpx.Client, folder: Path, case: SimulatedCase) -> str:
    folder.mkdir()
    write_case_folder(folder, case.case)
    answer = api.post("/api/cases", params={"place": "Lock house"}, content=zipped_case(folder))
    return str(finished(api, answer.json()["id"])["id"])


def heard(api: httpx.Client, job: str, way: str, begin_s: float, end_s: float, **more: Any) -> tuple[FloatArray, float]:
    answer = api.get(f"/api/jobs/{job}/listen", params={"way": way, "begin_s": begin_s, "end_s": end_s, **more})
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"] == "audio/wav"
    samples, rate = soundfile.read(io.BytesIO(answer.content))
    assert 0.01 < np.abs(samples).max() <= 0.71
    return samples / 10.0 ** (float(answer.headers["x-raised-db"]) / 20.0), float(rate)


def rms(samples: FloatArray) -> float:
    return float(np.sqrt(np.mean(np.square(samples))))


def test_what_was_measured_can_be_heard(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    job = visit(api, tmp_path / "worn", simulated("front_belt", "drum_bearing", 7, 0.9))
    curves = api.get(f"/api/jobs/{job}/call").json()["curves"]
    assert curves["sound"]["name"] == "spin.wav"
    plateau = next(p for p in curves["phases"] if p["name"] == "plateau")
    begin, end = plateau["start_s"] + 1.0, plateau["start_s"] + 4.0
    plain, rate = heard(api, job, "as_recorded", begin, end)
    assert plain.size == pytest.approx(3.0 * rate, abs=3)
    alone, _ = heard(api, job, "orders", begin, end)
    without, _ = heard(api, job, "without_orders", begin, end)
    np.testing.assert_allclose(alone + without, plain, atol=2e-4)
    assert rms(without) < rms(plain)
    band, _ = heard(api, job, "band", begin, end, low_hz=2000, high_hz=6000)
    assert rms(band) < rms(plain)
    slow, _ = heard(api, job, "slowed", begin, end, times=4)
    assert slow.size == pytest.approx(12.0 * rate, abs=5)
    envelope, _ = heard(api, job, "envelope", begin, end, low_hz=2000, high_hz=6000)
    assert envelope.size == plain.size
    beat, _ = heard(api, job, "beat", begin, end, order=[1.0])
    assert beat.size == plain.size
    turn, _ = heard(api, job, "one_turn", begin, end)
    rpm = curves["rpm"][int(np.searchsorted(curves["t_s"], begin))]
    period = 60.0 / rpm * rate
    near = np.correlate(turn[4000 : 4000 + int(2.5 * period)], turn[4000 : 4000 + int(period)], "valid")
    assert int(near[int(0.5 * period) :].argmax()) + int(0.5 * period) == pytest.approx(period, rel=0.02)
    one, _ = heard(api, job, "orders", begin, end, order=[1.0, 2.0])
    assert 0.0 < rms(one) < rms(alone)


@pytest.mark.parametrize("way", ["as_recorded", "orders", "without_orders", "band", "envelope", "beat", "slowed"])
def test_however_short_a_stretch_is_it_is_heard_or_told_why_not(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase], way: str
) -> None:
    job = visit(api, tmp_path / "worn", simulated("front_belt", "drum_bearing", 7, 0.9))
    phases = api.get(f"/api/jobs/{job}/call").json()["curves"]["phases"]
    begin = next(p for p in phases if p["name"] == "plateau")["start_s"] + 1.0
    for length_s in (0.001, 0.05, 0.2, 0.5, 0.99, 1.0):
        asked = {"way": way, "begin_s": begin, "end_s": begin + length_s, "order": [1.0]}
        answer = api.get(f"/api/jobs/{job}/listen", params=asked)
        assert answer.status_code == 200 or (answer.status_code == 422 and length_s < 0.1), (length_s, answer.text)


def test_two_visits_are_heard_in_turns_at_one_speed(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    one = visit(api, tmp_path / "worn", simulated("top_splined", "gearcase_bearing", 7, 0.9))
    two = visit(api, tmp_path / "sound", simulated("top_splined", "none", 8, 0.9))
    spins = [api.get(f"/api/jobs/{job}/call").json()["curves"] for job in (one, two)]
    tops = [max(rpm for rpm in curves["rpm"] if rpm is not None) for curves in spins]
    (fast, slow), curves = ((one, two), spins[0]) if tops[0] > tops[1] else ((two, one), spins[1])
    # On its way up the faster one passes the other's full speed.
    passes = next(t for t, rpm in zip(curves["t_s"], curves["rpm"], strict=True) if rpm and rpm > 0.98 * min(tops))
    asked = {"way": "beside", "begin_s": passes - 0.8, "end_s": passes + 0.8, "beside": slow}
    answer = api.get(f"/api/jobs/{fast}/listen", params=asked)
    assert answer.status_code == 200, answer.text
    assert float(answer.headers["x-speed-rpm"]) == pytest.approx(0.98 * min(tops), rel=0.05)
    samples, rate = soundfile.read(io.BytesIO(answer.content))
    piece, pause = int(1.59 * rate), int(0.15 * rate)
    assert samples.size == pytest.approx(4 * piece + 3 * pause, rel=0.02)
    assert rms(samples[:piece]) == pytest.approx(rms(samples[piece + pause :][:piece]), rel=0.1)
    # Where the other does not get there, both are heard at the fastest speed that they share.
    faster = api.get(f"/api/jobs/{fast}/listen", params={**asked, "begin_s": passes + 6.0, "end_s": passes + 8.0})
    assert faster.status_code == 200
    assert 0.5 * min(tops) < float(faster.headers["x-speed-rpm"]) < 1.08 * min(tops)


def test_what_cannot_be_heard_says_why(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    empty = new_job(api)
    asked = {"way": "as_recorded", "begin_s": 1.0, "end_s": 2.0}
    assert api.get(f"/api/jobs/{empty}/listen", params=asked).status_code == 404
    assert api.get("/api/jobs/999999/listen", params=asked).status_code == 404
    job = visit(api, tmp_path / "worn", simulated("front_belt", "drum_bearing", 7, 0.9))
    for wrong, word in (
        ({"way": "louder"}, "way"),
        ({"end_s": 1.0}, "stretch"),
        ({"end_s": 90.0}, "stretch"),
        ({"begin_s": "nan"}, "stretch"),
        ({"way": "slowed", "times": 40}, "times"),
        ({"way": "slowed", "end_s": 19.0}, "stretch"),
        ({"way": "orders", "order": [-1.0]}, "order"),
        ({"way": "beside"}, "beside"),
        ({"way": "band", "low_hz": 90000.0, "high_hz": 95000.0}, "band"),
        ({"begin_s": 500.0, "end_s": 501.0}, "sound"),
        ({"way": "one_turn", "begin_s": 0.0, "end_s": 0.5}, "turn"),
    ):
        answer = api.get(f"/api/jobs/{job}/listen", params={**asked, **wrong})
        assert answer.status_code == 422, wrong
        assert word in answer.json()["message"].lower()
