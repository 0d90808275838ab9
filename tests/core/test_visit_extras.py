"""What comes beside the spin test: pushes, the room, hums and cut-outs, all the way to the call."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.analysis import analyse
from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence.sound_findings import SOUND_READERS, bounce_readings, cut_out, full_speed, hum
from eager_ear.core.machine import Machine
from eager_ear.core.result import result_dict
from eager_ear.core.signals.drive.arrival import Arrival
from eager_ear.core.signals.drive.mains_hum import Hum
from eager_ear.core.signals.mechanics.free_decay import BounceDecay
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.speed.spin_phases import Phases
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate import simulate_agitation, simulate_case


def pushed(*, damping: float) -> Recording:
    t_s = np.arange(0.0, 8.0, 0.01)
    w = 2 * np.pi * 2.2
    since = np.maximum(t_s - 1.5, 0.0)
    swing = np.exp(-damping * w * since) * np.cos(w * since) * (t_s > 1.5)
    axes = np.stack([0 * swing, 0 * swing, 9.81 + 2.0 * swing])
    axes = axes + 0.01 * np.random.default_rng(0).standard_normal(axes.shape)
    facts = RecordingFacts(name="bounce.csv", kind="acceleration", test="bounce")
    return Recording(facts=facts, signal=AccelerationSignal(t_s=t_s, axes_m_s2=axes))


@pytest.mark.parametrize(("damping", "louder"), [(0.03, True), (0.2, False)])
def test_a_recorded_push_speaks_for_or_against_the_suspension(
    damping: float, louder: bool, knowledge: Knowledge
) -> None:
    bare = Case(id="a", machine=Machine(layout="front_belt"))
    analysis = analyse(replace(bare, recordings=(pushed(damping=damping),)), knowledge=knowledge)
    assert analysis.bounces[0].damping_ratio == pytest.approx(damping, rel=0.3)
    before = {s.fault: s.probability for s in analyse(bare, knowledge=knowledge).call.suspects}
    after = {s.fault: s.probability for s in analysis.call.suspects}
    assert (after["suspension_worn"] > 1.5 * before["suspension_worn"]) == louder
    assert result_dict(analysis.weighed)["bounces"][0]["critical_rpm"] == pytest.approx(132.0, rel=0.07)


def test_a_push_that_cannot_be_read_says_why(knowledge: Knowledge) -> None:
    flat = pushed(damping=0.05)
    signal = flat.signal
    assert isinstance(signal, AccelerationSignal)
    still = replace(flat, signal=AccelerationSignal(t_s=signal.t_s, axes_m_s2=np.zeros_like(signal.axes_m_s2)))
    analysis = analyse(Case(id="a", machine=Machine(layout="front_belt"), recordings=(still,)), knowledge=knowledge)
    assert analysis.bounces == ()
    assert any(w.recording == "bounce.csv" and w.code == "not_measured" for w in analysis.warnings)


def test_a_room_as_loud_as_the_spin_is_told(knowledge: Knowledge) -> None:
    case = simulate_case(layout="front_direct", faults=["none"], seed=2, with_acceleration=False).case
    spin = case.recordings[0].signal
    assert isinstance(spin, AudioSignal)
    facts = RecordingFacts(name="room.wav", kind="audio", test="ambient")

    def told(gain: float) -> bool:
        room = AudioSignal(samples=spin.samples * np.float32(gain), sample_rate_hz=spin.sample_rate_hz)
        with_room = replace(case, recordings=(*case.recordings, Recording(facts=facts, signal=room)))
        return any(w.code == "room_too_loud" for w in analyse(with_room, knowledge=knowledge).warnings)

    assert told(3.0)
    assert not told(0.01)


def run_with(**figures: object) -> RunMeasurement:
    return RunMeasurement(key="spin/1", load=None, **figures)  # type: ignore[arg-type]


def heard_hum(seconds: float) -> Hum:
    return Hum(
        frequency_hz=100.0, seconds=seconds, rise_db=25.0, level_db=-20.0, over_beside_db=15.0, share=0.9, steady=False
    )


def test_a_hum_counts_only_while_nothing_turns(knowledge: Knowledge) -> None:
    finding = knowledge.findings["hum"]
    still = run_with(hum=heard_hum(5.0))
    reading = hum(finding, still)
    assert reading is not None
    assert reading.level == "long"
    silent = hum(finding, run_with(hum=heard_hum(0.0)))
    assert silent is not None
    assert silent.level == "no"
    assert hum(finding, run_with()) is None


@pytest.mark.parametrize(("share", "level"), [(0.99, "full"), (0.8, "less"), (0.5, "far less")])
def test_a_drum_that_never_arrives(share: float, level: str, knowledge: Knowledge) -> None:
    arrival = Arrival(ramp_s=20.0, share_of_plate=share, plateau_s=8.0, fell_before_cut_s=None)
    run = run_with(arrival=arrival, phases=Phases(parts=(), power_cut_s=30.0, fall_s=30.0))
    reading = full_speed(knowledge.findings["full_speed"], run)
    assert reading is not None
    assert reading.level == level
    assert (
        full_speed(
            knowledge.findings["full_speed"], run_with(arrival=arrival, phases=Phases(parts=(), power_cut_s=None))
        )
        is None
    )


def test_a_fall_long_before_the_switch_is_a_cut_out(knowledge: Knowledge) -> None:
    def reading(early_s: float | None) -> str | None:
        arrival = Arrival(ramp_s=20.0, share_of_plate=1.0, plateau_s=4.0, fell_before_cut_s=early_s)
        found = cut_out(knowledge.findings["cut_out"], run_with(arrival=arrival))
        return found.level if found is not None else None

    assert reading(8.0) == "long before"
    assert reading(0.1) == "no"
    assert reading(None) is None


def test_every_sound_finding_has_a_reader_and_every_reader_a_finding(knowledge: Knowledge) -> None:
    for code in SOUND_READERS:
        assert code in knowledge.findings
        assert SOUND_READERS[code](knowledge.findings[code], run_with()) is None
    assert bounce_readings([], findings=knowledge.findings) == []
    pushes = [
        BounceDecay(rate_hz=2.0, damping_ratio=z, damping_sigma=0.005, friction_share=0.0, swings=4.0, axis="z")
        for z in (0.2, 0.03)
    ]
    assert bounce_readings(pushes, findings=knowledge.findings)[0].level == "swings on"


def test_a_motor_that_only_hums_is_named_by_its_hum(knowledge: Knowledge) -> None:
    case = simulate_case(layout="top_splined", faults=["run_capacitor"], seed=3, strength=0.8).case
    result = result_dict(analyse(case, knowledge=knowledge).weighed)
    assert "speed_track" not in result["measurements"]
    assert {s["fault"] for s in result["suspects"][:3]} & {"run_capacitor", "pump_blocked"}
    assert any("hum at 100 Hz" in e["finding"] for e in result["suspects"][0]["evidence"])


def test_a_recording_of_the_hum_alone_speaks_for_a_stalled_motor(knowledge: Knowledge) -> None:
    spun = simulate_case(layout="top_coupler", faults=["run_capacitor"], seed=4).case
    sound = next(r for r in spun.recordings if isinstance(r.signal, AudioSignal))
    facts = replace(sound.facts, name="hum.wav", test="hum")
    case = replace(spun, recordings=(replace(sound, facts=facts),))
    analysis = analyse(case, knowledge=knowledge)
    said = next(r for r in analysis.call.readings if r.finding.code == "hum")
    assert (said.value or 0.0) > 3.0
    nothing = analyse(replace(case, recordings=()), knowledge=knowledge)
    before = {s.fault: s.probability for s in nothing.call.suspects}
    after = {s.fault: s.probability for s in analysis.call.suspects}
    assert after["run_capacitor"] > 2.0 * before["run_capacitor"]
    assert not any(w.code == "no_rotation_seen" for w in analysis.warnings)


def humming(*, test: str, name: str, level: float) -> Recording:
    """Ten seconds at twice the mains from beginning to end, in a faint noise."""
    t_s = np.arange(10 * 16000) / 16000.0
    phase = 2 * np.pi * 100.0 * t_s
    sound = level * (np.sin(phase) + 0.4 * np.sin(2 * phase))
    sound = sound + 0.002 * np.random.default_rng(5).standard_normal(t_s.size)
    facts = RecordingFacts(name=name, kind="audio", test=test)
    return Recording(facts=facts, signal=AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=16000.0))


def chance_of(fault: str, recordings: list[Recording], knowledge: Knowledge) -> tuple[float, set[str]]:
    case = Case(id="a", machine=Machine(layout="top_pulsator", mains_hz=50), recordings=tuple(recordings))
    analysis = analyse(case, knowledge=knowledge)
    return (
        next(s.probability for s in analysis.call.suspects if s.fault == fault),
        {w.code for w in analysis.warnings},
    )


def test_a_hum_all_through_counts_in_full_only_beside_a_quieter_room(knowledge: Knowledge) -> None:
    nothing, _ = chance_of("run_capacitor", [], knowledge)
    hum = humming(test="hum", name="hum.wav", level=0.1)
    alone, warned = chance_of("run_capacitor", [hum], knowledge)
    assert alone > 2.0 * nothing
    assert "hum_all_through" in warned
    quiet = humming(test="ambient", name="ambient.wav", level=0.003)
    beside, warned = chance_of("run_capacitor", [hum, quiet], knowledge)
    assert beside > 1.5 * alone
    assert "hum_all_through" not in warned
    alike = humming(test="ambient", name="ambient.wav", level=0.08)
    assert chance_of("run_capacitor", [hum, alike], knowledge)[0] == pytest.approx(nothing, rel=1e-6)


def test_what_was_recorded_beside_the_spin_is_told(knowledge: Knowledge) -> None:
    spun = simulate_case(layout="top_coupler", faults=["none"], seed=4).case
    room = humming(test="ambient", name="ambient.wav", level=0.0001)
    beside = (
        pushed(damping=0.05),
        room,
        washing("top_coupler", "none"),
        humming(test="hum", name="hum.wav", level=0.1),
    )
    others = result_dict(analyse(replace(spun, recordings=(*spun.recordings, *beside)), knowledge=knowledge).weighed)[
        "others"
    ]
    said = {other["test"]: other["says"] for other in others}
    assert set(said) == {"bounce", "ambient", "hum"}
    assert said["bounce"].startswith("Swings at 133 a minute with a damping ratio of 0.05")
    assert said["ambient"].startswith("The spin at full speed stands ")
    assert "above the room's" in said["hum"]
    loud = [humming(test=test, name=f"{test}.wav", level=0.1) for test in ("hum", "ambient")]
    alike = result_dict(analyse(replace(spun, recordings=tuple(loud)), knowledge=knowledge).weighed)["others"]
    assert alike[0]["says"] == "The hum is no louder than the room's."
    alone = result_dict(analyse(replace(spun, recordings=(room,)), knowledge=knowledge).weighed)["others"]
    assert alone == [{"test": "ambient", "run": alone[0]["run"], "says": "Kept to be held against a spin."}]


def washing(layout: str, fault: str) -> Recording:
    sound = simulate_agitation(layout=layout, faults=[fault], seed=3, strength=None, lasts_s=10.0)
    return Recording(facts=RecordingFacts(name="wash.wav", kind="audio", test="agitate"), signal=sound)


def test_a_motor_that_only_hums_is_heard_in_the_wash(knowledge: Knowledge) -> None:
    nothing, _ = chance_of("run_capacitor", [], knowledge)
    stalled, _ = chance_of("run_capacitor", [washing("top_pulsator", "run_capacitor")], knowledge)
    assert stalled > 2.0 * nothing
    runs, warned = chance_of("run_capacitor", [washing("top_pulsator", "none")], knowledge)
    assert runs == pytest.approx(nothing, rel=1e-6)
    assert "not_measured" in warned


def test_a_wash_that_was_recorded_cut_off_concludes_nothing(knowledge: Knowledge) -> None:
    wash = washing("top_pulsator", "run_capacitor")
    assert isinstance(wash.signal, AudioSignal)
    clipped = np.clip(8.0 * wash.signal.samples, -1.0, 1.0)
    spoilt = replace(wash, signal=replace(wash.signal, samples=clipped))
    nothing, _ = chance_of("run_capacitor", [], knowledge)
    chance, warned = chance_of("run_capacitor", [spoilt], knowledge)
    assert chance == pytest.approx(nothing, rel=1e-6)
    assert {"clipped", "not_measured"} <= warned


def test_a_running_motor_that_hums_as_well_is_no_stalled_one(knowledge: Knowledge) -> None:
    hum, noise = humming(test="hum", name="hum.wav", level=0.02), np.random.default_rng(2)
    loud = hum.signal.samples + 0.1 * noise.standard_normal(160_000).astype(np.float32)
    runs = replace(hum, signal=AudioSignal(samples=loud, sample_rate_hz=16000.0))
    nothing, _ = chance_of("run_capacitor", [], knowledge)
    assert chance_of("run_capacitor", [runs], knowledge)[0] <= nothing * 1.001


def test_an_actuator_that_hums_is_no_stalled_motor(knowledge: Knowledge) -> None:
    case = Case(
        id="a",
        machine=Machine(layout="top_shifter"),
        recordings=(humming(test="agitate", name="shift.wav", level=0.1),),
    )
    assert not any(r.finding.code in ("hum", "steady_hum") for r in analyse(case, knowledge=knowledge).call.readings)


def test_recordings_that_are_only_heard_are_named(knowledge: Knowledge) -> None:
    quiet = AudioSignal(samples=np.full(48000, 0.01, dtype=np.float32), sample_rate_hz=48000.0)
    facts = RecordingFacts(name="stroke.wav", kind="audio", test="agitate")
    case = Case(id="a", machine=Machine(layout="top_coupler"), recordings=(Recording(facts=facts, signal=quiet),))
    warnings = analyse(case, knowledge=knowledge).warnings
    assert any(w.recording == "stroke.wav" and "kept for listening" in w.message for w in warnings)
