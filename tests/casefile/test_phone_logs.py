"""Sensor logs as loggers on phones write them: read, mended with a word, asked about, or refused with the line."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import pytest
import soundfile

from eager_ear.casefile import UnclearTable, UnreadableFile, inspect_recording
from eager_ear.casefile.audio_files import inspect_audio, read_audio
from eager_ear.casefile.table_files import read_acceleration
from eager_ear.core.units import FloatArray

ROWS = 400
T_S = np.arange(ROWS) / 100.0
SHAKE = np.stack([np.sin(T_S), np.cos(T_S), 9.81 + 0.1 * np.sin(3.0 * T_S)])


def log(
    header: str,
    *,
    separator: str = ",",
    time: Callable[[float], str] = lambda t: f"{t:.3f}",
    value: Callable[[float], str] = lambda v: f"{v:.4f}",
    before: str = "",
    extra: Sequence[str] = (),
) -> str:
    rows = [separator.join([time(t), *(value(v) for v in axes), *extra]) for t, axes in zip(T_S, SHAKE.T, strict=True)]
    return before + header + "\n" + "\n".join(rows) + "\n"


def comma(v: float) -> str:
    return f"{v:.4f}".replace(".", ",")


def clock(t: float) -> str:
    return f"10:{int(t // 60):02d}:{t % 60:06.3f}"


LOGS = {
    "the case format": log("t_s,ax_m_s2,ay_m_s2,az_m_s2"),
    "g": log("t_s,ax_g,ay_g,az_g", value=lambda v: f"{v / 9.80665:.6f}"),
    "spoken names with units": log(
        '"Time (s)","Acceleration x (m/s^2)","Acceleration y (m/s^2)","Acceleration z (m/s^2)"'
    ),
    "semicolons and decimal commas": log("t;x;y;z", separator=";", time=comma, value=comma),
    "tabs": log("time\tax\tay\taz", separator="\t"),
    "milliseconds": log("timestamp_ms,ax,ay,az", time=lambda t: f"{1000 * t:.0f}"),
    "milliseconds unsaid": log("timestamp,accX,accY,accZ", time=lambda t: f"{1000 * t:.0f}"),
    "microseconds": log("time (µs),x,y,z", time=lambda t: f"{1e6 * t:.0f}"),
    "nanoseconds of an epoch": log("time,seconds_elapsed,z,y,x", time=lambda t: f"{1.7e18 + 1e9 * t:.0f},{t:.3f}"),
    "epoch milliseconds": log("Timestamp,ax,ay,az", time=lambda t: f"{1.7e12 + 1000 * t:.0f}"),
    "clock times": log("time,ax,ay,az", time=clock),
    "dates and clock times": log("datetime,ax,ay,az", time=lambda t: f"2026-03-04 {clock(t)}"),
    "comments before, columns after": log(
        "t,ax,ay,az,gyro_x,note", before="# a logger\n# 100 Hz\n\n", extra=("0.5", "fine")
    ),
    "a byte order mark": "\ufeff" + log("t_s,ax_m_s2,ay_m_s2,az_m_s2"),
    "two sensors side by side": log("t,gravity_x,ax,ay,az", time=lambda t: f"{t:.3f},7"),
    "units of gravity forces": log("time,gFx,gFy,gFz", value=lambda v: f"{v / 9.80665:.6f}"),
}


@pytest.mark.parametrize("name", LOGS)
def test_what_loggers_write_is_read(tmp_path: Path, name: str) -> None:
    path = tmp_path / "log.csv"
    path.write_text(LOGS[name], encoding="utf-8")
    signal = read_acceleration(path, name="log.csv")
    assert signal.sample_rate_hz == pytest.approx(100.0, rel=0.01)
    expected = SHAKE[::-1] if "z,y,x" in LOGS[name].split("\n")[0] else SHAKE
    if "seconds_elapsed,z,y,x" in LOGS[name]:
        expected = SHAKE[[2, 1, 0]]
    np.testing.assert_allclose(signal.axes_m_s2, expected, atol=2e-3)
    assert inspect_recording(path, name="log.csv").kinds == ("acceleration",)


def test_other_encodings_and_zips_of_several_sensors_are_read(tmp_path: Path) -> None:
    wide = tmp_path / "wide.csv"
    wide.write_text(LOGS["the case format"], encoding="utf-16")
    assert read_acceleration(wide, name="wide.csv").t_s.size == ROWS
    sink = io.BytesIO()
    with zipfile.ZipFile(sink, "w") as zipped:
        zipped.writestr("Gyroscope.csv", log("time,seconds_elapsed,z,y,x"))
        zipped.writestr("log/Accelerometer.csv", LOGS["nanoseconds of an epoch"])
        zipped.writestr("Metadata.txt", "phone")
    packed = tmp_path / "log.zip"
    packed.write_bytes(sink.getvalue())
    read = inspect_recording(packed, name="log.zip")
    assert (read.kinds, read.duration_s) == (("acceleration",), pytest.approx(3.99, abs=0.02))


def mended(tmp_path: Path, change: Callable[[list[str]], list[str]]) -> tuple[FloatArray, tuple[str, ...]]:
    lines = LOGS["the case format"].strip().split("\n")
    path = tmp_path / "log.csv"
    path.write_text("\n".join(change(lines)))
    return read_acceleration(path, name="log.csv").t_s, inspect_recording(path, name="log.csv").warnings


def test_what_is_slightly_off_is_mended_and_said(tmp_path: Path) -> None:
    twice = lambda lines: [*lines[:50], lines[50], *lines[50:]]  # noqa: E731
    t_s, said = mended(tmp_path, twice)
    assert (t_s.size, "1 rows with a time that was there already" in said[0]) == (ROWS, True)
    t_s, said = mended(tmp_path, lambda lines: [*lines[:50], lines[51], lines[50], *lines[52:]])
    assert (t_s.size, bool((np.diff(t_s) > 0).all()), "out of order" in said[0]) == (ROWS, True, True)
    t_s, said = mended(tmp_path, lambda lines: [*lines[:-1], lines[-1][:9]])
    assert (t_s.size, said) == (ROWS - 1, ("The last line breaks off.",))
    hole = lambda lines: [*lines[:50], lines[50].replace(lines[50].split(",")[1], ""), *lines[51:]]  # noqa: E731
    t_s, said = mended(tmp_path, hole)
    assert (t_s.size, "1 rows could not be read" in said[0]) == (ROWS - 1, True)


def test_a_clock_that_ticks_now_and_then_is_spread_evenly(tmp_path: Path) -> None:
    path = tmp_path / "log.csv"
    path.write_text(log("t_s,ax_m_s2,ay_m_s2,az_m_s2", time=lambda t: f"{np.floor(t * 20) / 20:.3f}"))
    signal = read_acceleration(path, name="log.csv")
    assert signal.t_s.size == ROWS
    assert float(np.abs(signal.t_s - T_S).max()) < 0.02
    assert "spread evenly" in inspect_recording(path, name="log.csv").warnings[0]


@pytest.mark.parametrize(
    ("text", "asks"),
    [
        (log("t,a,b,c"), "Which columns are the acceleration"),
        (log("when,ax,ay,az"), "Which column is the time"),
        (log("t,ax,ay,az", value=lambda v: f"{v - 9.0:.3f}"), "in m/s² or in g"),
        (log("t,ax,ay,az", time=lambda t: f"{t * 1e13:.0f}"), "which unit is the time"),
        (log("t,ax,ay,az").split("\n", 1)[1], "Which columns are the time and the acceleration"),
        (log("Zeit;links;vorn;oben", separator=";"), "Which columns are the time and the acceleration"),
    ],
)
def test_what_cannot_be_guessed_is_asked_with_the_first_rows(tmp_path: Path, text: str, asks: str) -> None:
    path = tmp_path / "log.csv"
    path.write_text(text)
    with pytest.raises(UnclearTable, match=asks) as caught:
        read_acceleration(path, name="log.csv")
    asked = caught.value
    assert asked.rows[0][0] in ("t", "when", "", "Zeit")
    assert (len(asked.rows), len(asked.meant)) == (6, 4)
    if asks.startswith("Which column"):
        # It is answered by a first line that names them.
        named = asked.separator.join(["t_s", "ax_m_s2", "ay_m_s2", "az_m_s2"])
        path.write_text("\n".join([named, *text.split("\n")[asked.lines_before :]]))
        assert read_acceleration(path, name="log.csv").t_s.size == ROWS


def test_more_than_one_row_in_a_hundred_is_refused_with_the_line(tmp_path: Path) -> None:
    lines = LOGS["the case format"].split("\n")
    for k in range(100, 105):
        lines[k] = "lost"
    path = tmp_path / "log.csv"
    path.write_text("\n".join(lines))
    with pytest.raises(UnreadableFile, match=r"5 of 400 lines .* line 101: “lost”"):
        read_acceleration(path, name="log.csv")


@pytest.mark.parametrize(("kind", "keeps"), [("OGG", False), ("MP3", False), ("FLAC", True), ("AIFF", True)])
def test_what_else_records_is_read_and_compression_is_said(tmp_path: Path, kind: str, keeps: bool) -> None:
    path = tmp_path / f"spin.{kind.lower()}"
    tone = 0.3 * np.sin(2.0 * np.pi * 440.0 * np.arange(48000) / 48000.0)
    soundfile.write(path, tone, 48000, format=kind)
    read = inspect_recording(path, name=path.name)
    assert (read.kinds, read.rate_hz) == (("audio",), 48000.0)
    assert read.duration_s == pytest.approx(1.0, abs=0.1)
    assert (read.warnings == ()) is keeps
    assert "high bands" in "".join(read.warnings) or keeps


def test_a_header_that_announces_too_much_costs_nothing_that_is_there(tmp_path: Path) -> None:
    whole = io.BytesIO()
    soundfile.write(whole, np.full(48000, 0.25), 48000, format="WAV", subtype="PCM_16")
    for announced in (2_000_000_000, 0xFFFFFFFF, 0):
        content = bytearray(whole.getvalue())
        at = content.index(b"data")
        content[at + 4 : at + 8] = announced.to_bytes(4, "little")
        path = tmp_path / "spin.wav"
        path.write_bytes(bytes(content))
        assert read_audio(path, name="spin.wav").samples.size == 48000
        assert inspect_audio(path, name="spin.wav")[0] == pytest.approx(1.0)
