"""The simulator's physics against closed forms: what it makes is what its parameters say."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import find_layout, race_orders
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate import SIMULATED_FAULTS, draw_washer, faults_of_layout, record_washer, simulate_case
from eager_ear.core.simulate.bearing_sound import bearing_sound, damage_order
from eager_ear.core.simulate.phone import draw_phone, record_acceleration, record_audio
from eager_ear.core.simulate.room import draw_room, room_alone
from eager_ear.core.simulate.rotation import STEP_RATE_HZ, rotate
from eager_ear.core.simulate.shaking import bounce, shake
from eager_ear.core.simulate.washer import Washer


def washer(layout: str = "front_belt", *faults: str, seed: int = 3) -> Washer:
    return draw_washer(find_layout(layout), faults=faults, strength=0.8, rng=np.random.default_rng(seed))


def linear(of: Washer) -> Washer:
    """Without friction, stops and rotated axes: what has a closed form."""
    suspension = replace(of.suspension, friction_n=0.0, stop_gap_m=1.0, principal_rad=0.0)
    return replace(of, suspension=suspension, cabinet=replace(of.cabinet, foot_slap=0.0))


def test_double_unbalance_shakes_double_and_worn_dampers_peak_higher() -> None:
    base = linear(washer())
    rotation = rotate(base, rng=np.random.default_rng(0))

    def shaken(of: Washer) -> np.ndarray:
        return shake(of, rotation, position="top_centre", rng=np.random.default_rng(0)).cabinet_m_s2

    heavy = replace(base, suspension=replace(base.suspension, unbalance_kg_m=2 * base.suspension.unbalance_kg_m))
    np.testing.assert_allclose(shaken(heavy), 2.0 * shaken(base), rtol=1e-6, atol=1e-9)
    thin = tuple(0.3 * z for z in base.suspension.damping)
    worn = replace(base, suspension=replace(base.suspension, damping=thin))
    slow = rotation.drum_hz < 1.4 * base.suspension.radial_hz[1]
    assert np.abs(shaken(worn)[:, slow]).max() > 1.3 * np.abs(shaken(base)[:, slow]).max()


def test_force_on_the_cabinet_follows_the_transmissibility_of_a_rotating_unbalance() -> None:
    made = linear(washer())
    suspension = replace(
        made.suspension, second_order_gain=0.0, arm_opening=0.0, radial_hz=(4.0, 4.0), damping=(0.2, 0.2)
    )
    # On very soft feet the cabinet's acceleration is force over mass.
    made = replace(made, suspension=suspension, cabinet=replace(made.cabinet, rocking_hz=(0.01, 0.01)))
    rotation = rotate(made, rng=np.random.default_rng(0))
    rate_hz = 10.0
    steady = replace(
        rotation, drum_hz=np.full(rotation.t_s.size, rate_hz), drum_turns=rate_hz * (rotation.t_s + 1.0 / STEP_RATE_HZ)
    )
    cabinet = shake(made, steady, position="top_centre", rng=np.random.default_rng(0)).cabinet_m_s2
    late = cabinet[0, -4000:]
    amplitude = np.sqrt(2.0) * np.std(late)
    r, z = rate_hz / 4.0, 0.2
    passed = np.sqrt((1 + (2 * z * r) ** 2) / ((1 - r**2) ** 2 + (2 * z * r) ** 2))
    force = suspension.unbalance_kg_m * (2 * np.pi * rate_hz) ** 2
    assert amplitude == pytest.approx(passed * force / made.cabinet.kg, rel=0.03)


def test_the_coast_down_obeys_its_drag_and_motor_leads_by_the_slip() -> None:
    made = washer("front_belt", "belt")
    made = replace(made, drive=replace(made.drive, brake_rad_s2=0.0, hunting=0.0))
    rotation = rotate(made, rng=np.random.default_rng(1))
    coasting = (rotation.t_s > rotation.power_cut_s + 0.1) & (rotation.drum_hz > 1.0)
    w = 2 * np.pi * rotation.drum_hz
    fall = -np.gradient(w, 1.0 / STEP_RATE_HZ)[coasting]
    drag = made.drag
    expected = (drag.coulomb + drag.viscous * w + drag.quadratic * w**2)[coasting]
    np.testing.assert_allclose(fall, expected, rtol=2e-3)
    full = (rotation.motor_on > 0) & (rotation.drum_hz > 0.99 * rotation.drum_hz.max())
    slip = 1.0 - rotation.drum_hz[full] * made.drive.pulley_ratio / rotation.motor_hz[full]
    assert 0.5 * made.drive.belt_slip < slip.mean() < 2.0 * made.drive.belt_slip


@pytest.mark.parametrize(
    ("layout", "fault", "check"),
    [
        ("top_coupler", "motor_coupler", lambda r, _: r.drum_hz.max() == 0 and r.motor_hz.max() > 5),
        ("top_coupler", "run_capacitor", lambda r, _: r.motor_hz.max() == 0 and r.humming.any()),
        ("top_coupler", "clutch", lambda r, w: 60 * r.drum_hz.max() < 0.9 * w.drive.spin_rpm),
        ("top_coupler", "drive_block", lambda r, _: len(r.slips_s) >= 6),
        ("front_belt", "none", lambda r, w: abs(60 * r.drum_hz.max() / w.drive.spin_rpm - 1) < 0.02),
    ],
)
def test_drive_faults_turn_as_they_should(layout: str, fault: str, check: object) -> None:
    made = washer(layout, *(() if fault == "none" else (fault,)))
    assert check(rotate(made, rng=np.random.default_rng(2)), made)  # type: ignore[operator]


def test_a_motor_that_cuts_out_falls_before_its_plateau_is_over() -> None:
    sound, cut = washer("front_belt"), washer("front_belt", "motor")
    assert cut.drive.cut_out_after_s < cut.drive.plateau_s
    assert sound.drive.cut_out_after_s > 1000.0


def test_bearing_impulses_come_at_the_order_of_their_race() -> None:
    made = washer("front_belt", "drum_bearing")
    assert made.damage is not None
    damage = replace(made.damage, race="outer", slip=0.01, stage="growl", roughness=0.0, level=1.0)
    rotation = rotate(made, rng=np.random.default_rng(1))
    orders = race_orders(damage.size)
    assert damage_order(damage) == pytest.approx(0.99 * orders.outer_race)
    rate = 8000.0
    t_s = np.arange(int(rotation.t_s[-1] * rate)) / rate
    full = rotation.drum_hz.max()
    speed = np.interp(t_s, rotation.t_s, rotation.drum_hz) / full
    sound = bearing_sound(made, damage, rotation, speed, sample_rate_hz=rate, rng=np.random.default_rng(0))
    plateau = speed > 0.995
    envelope = np.square(sound[plateau]) - np.square(sound[plateau]).mean()
    spectrum = np.abs(np.fft.rfft(envelope * np.hanning(envelope.size)))
    frequency = np.fft.rfftfreq(envelope.size, 1.0 / rate)
    near = (frequency > 20) & (frequency < 1.5 * damage_order(damage) * full)
    found = frequency[near][np.argmax(spectrum[near])]
    assert found / full == pytest.approx(damage_order(damage), rel=0.01)


def test_the_bounce_decays_by_its_damping_ratio() -> None:
    suspension = replace(washer().suspension, radial_hz=(2.0, 2.5), damping=(0.1, 0.1))
    _, moved = bounce(suspension, push_m=0.02, seconds=4.0, friction_n=0.0)
    peaks = [moved[i] for i in range(1, moved.size - 1) if moved[i - 1] < moved[i] >= moved[i + 1]]
    decrement = np.log(peaks[0] / peaks[1])
    assert decrement / np.hypot(decrement, 2 * np.pi) == pytest.approx(0.1, rel=0.03)


def test_every_fault_of_every_layout_can_be_drawn_and_its_truth_is_told(knowledge: Knowledge) -> None:
    layouts = ("front_belt", "front_direct", "top_coupler", "top_shifter", "top_splined", "top_pulsator")
    reached = {fault for layout in layouts for fault in faults_of_layout(layout, knowledge=knowledge)}
    assert reached == set(SIMULATED_FAULTS) - {"none"}
    for layout in layouts:
        for fault in faults_of_layout(layout, knowledge=knowledge):
            assert draw_washer(find_layout(layout), faults=[fault], strength=0.5, rng=np.random.default_rng(1)).faults


def test_pairs_of_faults_stand_in_one_machine() -> None:
    both = simulate_case(layout="front_belt", faults=["drum_bearing", "foreign_object"], seed=4, strength=0.6)
    truth = both.truth()
    assert truth["faults"] == ["drum_bearing", "foreign_object"]
    assert truth["bearing"]["race"] in ("outer", "inner", "ball")
    assert truth["impacts_per_rev"] in (1, 2)


def test_nuisances_are_in_the_recordings() -> None:
    rng = np.random.default_rng(0)
    room = replace(draw_room(rough=False, rng=rng), talk_spans=((1.0, 3.0),), talk_level=1.0, background=0.001)
    quiet = room_alone(room, count=80_000, sample_rate_hz=16_000.0, rng=rng)
    assert np.std(quiet[16_000:48_000]) > 100 * np.std(quiet[60_000:])
    phone = replace(draw_phone(rough=False, rng=rng), overdrive=3.0, audio_rate_hz=16_000.0)
    clipped = record_audio(np.sin(np.arange(16_000.0) * 0.3), phone=phone, rng=rng)
    assert np.mean(np.abs(clipped.samples) > 0.99) > 0.3
    steady = np.concatenate([0.05 * rng.standard_normal(32_000), rng.standard_normal(32_000)])
    controlled = record_audio(steady, phone=replace(phone, overdrive=1.0, gain_control=0.9), rng=rng)
    before, after = np.std(controlled.samples[16_000:32_000]), np.std(controlled.samples[48_000:])
    assert after / before < 4.0
    gappy = replace(phone, gaps=((2.0, 0.5),), acceleration_rate_hz=100.0, jitter_s=0.0, slide_s=None)
    felt = record_acceleration(np.zeros((3, 6000)), neighbour_hz=0.0, neighbour_m_s2=0.0, phone=gappy, rng=rng)
    assert np.diff(felt.t_s).max() == pytest.approx(0.5, abs=0.03)


def test_a_rough_recording_is_still_a_valid_case() -> None:
    for seed in range(4):
        made = record_washer(
            washer("top_splined", seed=seed), rng=np.random.default_rng(seed), name="rough", rough=True
        )
        assert made.case.recordings
        for recording in made.case.recordings:
            assert isinstance(recording.signal, AudioSignal | AccelerationSignal)
        assert abs(made.drum_rpm[0, 0]) < 0.002
