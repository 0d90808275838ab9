"""Case folders and zips: round trips, and everything bad that may come in."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from eager_ear.casefile import (
    FileProblem,
    FileTooLarge,
    UnreadableFile,
    UnsafeArchive,
    parse_description,
    read_case_folder,
    unpacked,
    write_case_folder,
)
from eager_ear.casefile.audio_files import read_audio
from eager_ear.casefile.table_files import read_acceleration, read_current, read_tacho
from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import Machine
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, CurrentSignal, TachoSignal
from eager_ear.core.simulate import SimulatedCase
from eager_ear.knowledge import load_knowledge

CASE: dict[str, Any] = {"format": "eager-ear-case/1", "id": "a", "machine": {"layout": "front_belt"}}


def wav(path: Path, *, seconds: float = 0.5, channels: int = 1, subtype: str = "PCM_16", rate: int = 48000) -> Path:
    rng = np.random.default_rng(0)
    samples = rng.uniform(-0.5, 0.5, (int(seconds * rate), channels))
    soundfile.write(path, samples, rate, subtype=subtype, format="FLAC" if path.suffix == ".flac" else "WAV")
    return path


def test_a_simulated_case_survives_the_round_trip(
    tmp_path: Path, simulated: Callable[..., SimulatedCase], knowledge: Knowledge
) -> None:
    case = simulated("front_belt", "spider", 7, 0.9).case
    write_case_folder(tmp_path, case)
    again, description = read_case_folder(tmp_path, knowledge=knowledge)
    assert description.warnings == ()
    assert again.machine == case.machine
    assert [r.facts for r in again.recordings] == [r.facts for r in case.recordings]
    sound, shake = again.recordings[0].signal, again.recordings[1].signal
    assert isinstance(sound, AudioSignal)
    assert isinstance(shake, AccelerationSignal)
    np.testing.assert_array_equal(sound.samples, case.recordings[0].signal.samples)  # type: ignore[union-attr]
    np.testing.assert_allclose(shake.axes_m_s2, case.recordings[1].signal.axes_m_s2, atol=1e-3)  # type: ignore[union-attr]


def test_pulses_and_current_survive_the_round_trip(tmp_path: Path, knowledge: Knowledge) -> None:
    pulses = TachoSignal(pulse_s=np.array([0.25, 1.125, 1.5]))
    amps = CurrentSignal(t_s=np.array([0.0, 0.1, 0.2]), current_a=np.array([0.05, 7.25, 2.5]))
    recordings = tuple(
        Recording(facts=RecordingFacts(name=f"{kind}.csv", kind=kind, test="spin", run="1"), signal=signal)
        for kind, signal in (("tacho", pulses), ("current", amps))
    )
    write_case_folder(tmp_path, Case(id="a", machine=Machine(layout="front_belt"), recordings=recordings))
    again, _ = read_case_folder(tmp_path, knowledge=knowledge)
    np.testing.assert_allclose(again.recordings[0].signal.pulse_s, pulses.pulse_s)  # type: ignore[union-attr]
    np.testing.assert_allclose(again.recordings[1].signal.current_a, amps.current_a)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("name", "subtype"), [("a.wav", "PCM_16"), ("a.wav", "PCM_24"), ("a.wav", "FLOAT"), ("a.flac", "PCM_16")]
)
def test_widths_and_containers_are_read(tmp_path: Path, name: str, subtype: str) -> None:
    signal = read_audio(wav(tmp_path / name, subtype=subtype), name=name)
    assert signal.sample_rate_hz == 48000.0
    assert signal.samples.size == 24000
    assert float(np.abs(signal.samples).max()) == pytest.approx(0.5, rel=0.01)


def test_channels_are_averaged_unless_one_is_silent(tmp_path: Path) -> None:
    left = np.linspace(-0.5, 0.5, 9600)
    soundfile.write(tmp_path / "both.wav", np.stack([left, 0.5 * left], axis=1), 48000, subtype="FLOAT")
    soundfile.write(tmp_path / "one.wav", np.stack([left, 0 * left], axis=1), 48000, subtype="FLOAT")
    np.testing.assert_allclose(read_audio(tmp_path / "both.wav", name="b").samples, 0.75 * left, atol=1e-6)
    np.testing.assert_allclose(read_audio(tmp_path / "one.wav", name="o").samples, left, atol=1e-6)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "is empty"),
        (b"\xff\xd8\xff\xe0 a photograph", "no sound that can be read"),
        (b"RIFF\x00\x00\x00\x00WAVE", "no sound"),
        (b"fLaC" + b"\x00" * 40, "cannot|can be read"),
    ],
)
def test_files_that_are_no_recordings_are_refused(tmp_path: Path, content: bytes, says: str) -> None:
    path = tmp_path / "spin.wav"
    path.write_bytes(content)
    with pytest.raises(UnreadableFile, match=says) as caught:
        read_audio(path, name="spin.wav")
    assert caught.value.file == "spin.wav"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"),
        ("t_s,ax_m_s2\n", "no rows"),
        ("t_s,ax_m_s2\n0,1\n0.01,fast\n0.02,1\n", "line 3: “0.01,fast”"),
        ("t_s,ax_m_s2\n0,1\n0.01,nan\n0.02,1\n", "line 3"),
        ("t_s,ax_m_s2\n0,1\n0.01,1\n", "fewer than 16 rows"),
        ("t_s,ax_m_s2\n" + "".join(f"{k / 100},1e300\n" for k in range(20)), "cannot be read"),
        ("t_s,ax_m_s2\n" + "".join(f"{k / 100},99999\n" for k in range(20)), "no reading"),
        ("t_s,ax_g\n" + "".join(f"{5 * k},1\n" for k in range(20)), "outside 25 Hz"),
        ("t_s,ax_g\n" + "".join(f"{k / 100},1\n" for k in range(20)) + "9e9,1\n", "the clock jumped"),
        ("x" * 30_000, "more than 20000 characters"),
        ("\x00\x01\x02", "not a CSV table"),
    ],
)
def test_tables_that_are_no_acceleration_are_refused(tmp_path: Path, text: str, says: str) -> None:
    path = tmp_path / "a.csv"
    path.write_text(text)
    with pytest.raises(UnreadableFile, match=says):
        read_acceleration(path, name="a.csv")


def test_g_is_converted_and_missing_axes_stay_missing(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("t_s,az_g\n" + "".join(f"{k / 100},1.0\n" for k in range(20)))
    signal = read_acceleration(path, name="a.csv")
    assert signal.present == (2,)
    np.testing.assert_allclose(signal.axes_m_s2[2], 9.80665)


def test_tacho_and_current_are_read(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("pulse_s\n0.1\n0.2\n0.4\n")
    (tmp_path / "c.csv").write_text("t_s,current_a\n0,1.5\n1,2.5\n")
    assert read_tacho(tmp_path / "t.csv", name="t").pulse_s.tolist() == [0.1, 0.2, 0.4]
    assert read_current(tmp_path / "c.csv", name="c").current_a.tolist() == [1.5, 2.5]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"format": "other/1"}, "format"),
        ({"machine": {"layout": "sideways"}}, "machine.layout: “sideways”"),
        ({"machine": None}, "machine"),
        ({"machine": {"layout": "front_belt", "max_spin_rpm": "fast"}}, "machine.max_spin_rpm"),
        ({"machine": {"layout": "front_belt", "bearings": {"rear": "9999"}}}, "machine.bearings.rear"),
        ({"machine": {"layout": "front_belt", "mains_hz": 55}}, "machine.mains_hz"),
        ({"complaint": {"symptoms": ["hisses"]}}, "complaint.symptoms: “hisses”"),
        ({"checks": [{"check": "sniff", "values": {}}]}, "checks.check: “sniff”"),
        ({"recordings": [{"kind": "audio", "test": "spin"}]}, r"recordings\[0\].file"),
        ({"recordings": [{"kind": "video", "file": "a", "test": "spin"}]}, "recording.kind: “video”"),
        ({"recordings": 5}, "recordings"),
        ({"id": "x" * 300}, "id: 300 characters"),
        ({"id": ["a"]}, "id: is neither"),
        ({"complaint": {"note": "\ud800"}}, "complaint.note"),
        ({"machine": {"layout": "front_belt", "age_years": 10**400}}, "machine.age_years"),
        ({"recordings": [{"kind": "audio", "file": "a", "test": "spin", "start_s": -1e300}]}, "start_s"),
        ({"recordings": [{"kind": "audio", "file": "a\0", "test": "spin"}]}, "file"),
    ],
)
def test_the_field_that_is_wrong_is_named(change: dict[str, Any], says: str, knowledge: Knowledge) -> None:
    with pytest.raises(FileProblem, match=says) as caught:
        parse_description({**CASE, **change}, knowledge=knowledge)
    assert caught.value.file == "case.json"


def test_unknown_keys_are_ignored_with_a_warning_and_null_is_not_known(knowledge: Knowledge) -> None:
    description = parse_description(
        {**CASE, "colour": "white", "machine": {"layout": "front_belt", "age_years": None}}, knowledge=knowledge
    )
    assert description.warnings == ("unknown key “colour” ignored",)
    assert description.case.machine.age_years is None


JSON = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: (
        st.lists(inner, max_size=3)
        | st.dictionaries(st.sampled_from([*CASE, "checks", "recordings", "complaint"]), inner, max_size=4)
    ),
    max_leaves=12,
)


@settings(max_examples=200, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(JSON)
def test_any_json_is_read_or_refused_in_words(knowledge: Knowledge, data: Any) -> None:
    said = ""
    try:
        parse_description(data, knowledge=knowledge)
    except FileProblem as problem:
        said = problem.sentence()
    assert said == "" or said.startswith("case.json: ")


def zipped(path: Path, members: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in members.items():
            archive.writestr(name, content)
    return path


@pytest.mark.parametrize("name", ["../evil.txt", "/etc/evil", "a/../../evil", "..\\evil", "c:evil"])
def test_zips_that_reach_outside_are_refused(tmp_path: Path, name: str) -> None:
    path = zipped(tmp_path / "case.zip", {"case.json": b"{}", name: b"x"})
    with pytest.raises(UnsafeArchive, match="outside"), unpacked(path):
        pass
    assert not (tmp_path.parent / "evil.txt").exists()


def test_a_bomb_is_refused_before_it_fills_the_disk(tmp_path: Path) -> None:
    path = zipped(tmp_path / "case.zip", {"case.json": b"{}", "a.wav": b"\x00" * 60_000_000})
    with pytest.raises(UnsafeArchive, match="swells"), unpacked(path):
        pass
    with pytest.raises(FileTooLarge), unpacked(zipped(tmp_path / "b.zip", {"a": b"1234" * 2000}), limit_bytes=5000):
        pass


@pytest.mark.parametrize(
    "names", [[".", "case.json"], ["a", "a/b"], ["a/b", "a"], ["case.json/", "case.json"], ["a" * 300]]
)
def test_members_that_cannot_stand_beside_each_other_are_refused(tmp_path: Path, names: list[str]) -> None:
    path = tmp_path / "case.zip"
    with zipfile.ZipFile(path, "w") as archive:
        for name in names:
            archive.writestr(name, b"x")
    with pytest.raises((UnreadableFile, UnsafeArchive, FileProblem)), unpacked(path) as folder:
        read_case_folder(folder, knowledge=load_knowledge())


@pytest.mark.parametrize("method", [zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_damaged_members_are_said(tmp_path: Path, method: int) -> None:
    sink = io.BytesIO()
    with zipfile.ZipFile(sink, "w", method) as archive:
        archive.writestr("case.json", json.dumps(CASE).encode() * 50)
    content = bytearray(sink.getvalue())
    at = content.index(b"case.json") + 20
    content[at : at + 12] = b"\xff" * 12
    path = tmp_path / "case.zip"
    path.write_bytes(bytes(content))
    with pytest.raises(UnreadableFile, match="zip"), unpacked(path):
        pass


def test_what_is_no_zip_is_said(tmp_path: Path) -> None:
    path = tmp_path / "case.zip"
    path.write_bytes(b"PK\x03\x04 nonsense")
    with pytest.raises(UnreadableFile), unpacked(path):
        pass


def test_a_case_zipped_with_its_folder_is_found_and_cleaned_up(tmp_path: Path, knowledge: Knowledge) -> None:
    content = json.dumps(CASE).encode()
    with unpacked(zipped(tmp_path / "case.zip", {"visit/case.json": content})) as folder:
        case, _ = read_case_folder(folder, knowledge=knowledge)
        kept = folder
    assert case.machine.layout == "front_belt"
    assert not kept.exists()


def test_a_recording_outside_the_case_is_refused(tmp_path: Path, knowledge: Knowledge) -> None:
    case = {**CASE, "recordings": [{"kind": "audio", "file": "../secret.wav", "test": "spin"}]}
    (tmp_path / "case").mkdir()
    wav(tmp_path / "secret.wav")
    (tmp_path / "case" / "case.json").write_text(json.dumps(case))
    with pytest.raises(FileProblem, match="outside the case"):
        read_case_folder(tmp_path / "case", knowledge=knowledge)


def test_packing_is_the_same_every_time() -> None:
    from eager_ear.casefile import pack_file

    packs = []
    for _ in range(2):
        sink = io.BytesIO()
        with zipfile.ZipFile(sink, "w") as archive:
            pack_file(archive, "a.txt", io.BytesIO(b"hello"))
        packs.append(sink.getvalue())
    assert packs[0] == packs[1]
