"""Spins compared at equal speed: what was added to one of them comes back, and nothing else."""

from __future__ import annotations

import json

import numpy as np
import pytest

from eager_ear.core.curves import curves_dict, profile_of
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import find_layout
from eager_ear.core.signals.angle.order_amplitudes import order_curves
from eager_ear.core.signals.dsp.transform import short_time_power
from eager_ear.core.signals.run import measure_run
from eager_ear.core.signals.sound.spin_profile import SpinProfile, compare_profiles, levels_at_speeds, spin_profile
from eager_ear.core.signals.speed.spin_phases import Phases, cut_phases
from eager_ear.core.simulate import draw_washer, record_washer
from eager_ear.core.simulate.washer import Washer
from tests.core.signals.synthetic import profile, shaken, track_of

RATE = 16000.0


def spun(
    *,
    top_hz: float = 12.0,
    gain_db: float = 0.0,
    hiss_db: float = 0.0,
    shake: float = 1.0,
    seed: int = 0,
    pa_per_fs: float | None = None,
) -> SpinProfile:
    """Noise growing with the square of speed, `hiss_db` more of it above 2.2 kHz, and unbalance `shake` times."""
    rng = np.random.default_rng(seed)
    t_s, rate = profile(top_hz=top_hz)
    track = track_of(t_s[::25], rate[::25])
    n = int(t_s[-1] * RATE)
    white = np.fft.rfft(rng.standard_normal(n))
    white[np.fft.rfftfreq(n, 1.0 / RATE) > 2244.0] *= 10.0 ** (hiss_db / 20.0)
    loud = np.interp(np.arange(n) / RATE, t_s, (rate / 12.0) ** 2)
    sound = (0.05 * 10.0 ** (gain_db / 20.0) * loud * np.fft.irfft(white, n) + 1e-6).astype(np.float32)
    spectrum = short_time_power(sound, sample_rate_hz=RATE, frame_s=0.085, hop_s=0.0426)
    vibration = shaken(t_s, rate, orders={1: shake * (top_hz / 12.0) ** 2}, noise=0.002, seed=seed)
    found = spin_profile(
        track,
        phases=cut_phases(track, rests=(), noted_power_cut_s=None),
        spectrum=spectrum,
        start_s=0.0,
        pa_per_fs=pa_per_fs,
        curves=order_curves(vibration, track=track),
    )
    assert found is not None
    return found


def test_an_equal_machine_shows_no_difference_whatever_the_gain_and_the_top_speed() -> None:
    found = compare_profiles(spun(), [spun(gain_db=-17.0, top_hz=9.0, seed=1)])
    assert found.overall is not None
    assert found.overall.db == pytest.approx(17.0, abs=0.3)
    assert not any(d.is_clear for _, d in found.bands)
    assert max(abs(d.db) for _, d in found.bands) < 1.5
    assert found.shake is not None
    assert found.shake.db == pytest.approx(0.0, abs=0.3)
    assert found.speed_rpm[1] < 60 * 9.0 * 2**0.25


def test_what_is_louder_shows_in_its_bands_alone() -> None:
    found = compare_profiles(spun(hiss_db=12.0), [spun(seed=1, gain_db=5.0)])
    high = [d for f, d in found.bands if f > 2400.0]
    low = [d for f, d in found.bands if 100.0 < f < 1900.0]
    assert [d.db for d in high] == pytest.approx([12.0] * len(high), abs=1.0)
    assert [d.db for d in low] == pytest.approx([0.0] * len(low), abs=1.0)
    assert all(d.is_clear and d.above == 1 for d in high)
    assert not any(d.is_clear for d in low)


def test_calibrated_sound_keeps_its_whole_difference() -> None:
    found = compare_profiles(spun(gain_db=9.0, pa_per_fs=2.0), [spun(seed=1, pa_per_fs=2.0)])
    assert found.calibrated
    assert np.median([d.db for _, d in found.bands]) == pytest.approx(9.0, abs=0.3)


def test_twice_the_unbalance_is_six_decibels_at_equal_speed() -> None:
    found = compare_profiles(spun(shake=2.0), [spun(top_hz=15.0, seed=1)])
    assert found.shake is not None
    assert found.shake.db == pytest.approx(6.02, abs=0.3)
    assert found.shake.is_clear


def test_levels_by_speed_are_those_that_were_put_in() -> None:
    """Twice the unbalance moves twice as fast, whatever the microphone is set to."""
    single, double = (levels_at_speeds(spun(shake=shake)) for shake in (1.0, 2.0))
    rpm = [level.speed_rpm for level in single]
    assert rpm == pytest.approx([rpm[0] * 2.0 ** (k / 4) for k in range(len(rpm))])
    for one, two in zip(single, double, strict=True):
        assert one.shake_mm_s is not None
        assert two.shake_mm_s == pytest.approx(2.0 * one.shake_mm_s, rel=0.05)
    # A gain moves nothing, hiss above 2 kHz all of it.
    plain, loud, hissing = (
        [level.bright_db for level in levels_at_speeds(spun(**made)) if level.bright_db is not None]
        for made in ({}, {"gain_db": -12.0}, {"hiss_db": 6.0})
    )
    assert loud == pytest.approx(plain, abs=0.2)
    assert np.mean(np.array(hissing) - np.array(plain)) == pytest.approx(5.0, abs=1.5)


def test_against_several_their_own_spread_counts() -> None:
    one = spun(shake=1.6)
    alike = [spun(shake=s, seed=k) for k, s in enumerate((0.98, 1.0, 1.02))]
    spread = [spun(shake=s, seed=k) for k, s in enumerate((0.5, 1.0, 2.0))]
    sure, unsure = compare_profiles(one, alike).shake, compare_profiles(one, spread).shake
    assert sure is not None
    assert unsure is not None
    assert (sure.is_clear, sure.above) == (True, 3)
    assert (unsure.is_clear, unsure.above) == (False, 2)


def test_only_the_driven_part_counts() -> None:
    t_s, rate = profile(top_hz=12.0)
    track = track_of(t_s[::25], rate[::25])
    curves = order_curves(shaken(t_s, rate, orders={1: 1.0}, noise=0.002), track=track)

    def steps(cut_s: float) -> list[int]:
        phases = Phases(parts=(), power_cut_s=cut_s)
        found = spin_profile(track, phases=phases, spectrum=None, start_s=0.0, pa_per_fs=None, curves=curves)
        return [] if found is None else found.step.tolist()

    # The ramp passes 6 turns a second at nine seconds: a cut there leaves nothing above it.
    assert max(steps(9.0)) == 10
    assert max(steps(27.0)) == 14
    assert steps(0.5) == []


def test_nothing_shared_is_said() -> None:
    slow, fast = spun(top_hz=3.0), spun(top_hz=12.0, seed=1)
    late = SpinProfile(
        step=fast.step[-3:] + 4,
        centre_hz=fast.centre_hz,
        level_db=fast.level_db[-3:],
        shake_db=fast.shake_db[-3:],
        calibrated=False,
    )
    with pytest.raises(NotMeasurable, match="share too little"):
        compare_profiles(slow, [late])
    with pytest.raises(NotMeasurable, match="no other spin"):
        compare_profiles(slow, [])


def test_the_same_washer_in_another_room_is_no_different() -> None:
    layout = find_layout("front_direct")
    sound = draw_washer(layout, faults=(), strength=None, rng=np.random.default_rng(6002))
    one, again = (measured(sound, seed=seed) for seed in (200, 203))
    found = compare_profiles(one, [again])
    assert np.mean([d.is_clear for _, d in found.bands]) < 0.25
    assert found.shake is not None
    assert not found.shake.is_clear


def measured(washer: Washer, *, seed: int) -> SpinProfile:
    """The washer's profile from a recording of its own, by way of storing it."""
    case = record_washer(washer, rng=np.random.default_rng(seed), name="x", rough=False).case
    run = measure_run(case.recordings, machine=case.machine, key="a")
    found = profile_of(json.loads(json.dumps(curves_dict(run))))
    assert found is not None
    assert run.profile is not None
    assert found.level_db == pytest.approx(run.profile.level_db, abs=0.01, nan_ok=True)
    assert found.shake_db == pytest.approx(run.profile.shake_db, abs=0.01, nan_ok=True)
    return found


def test_a_run_without_speed_has_no_profile() -> None:
    assert profile_of(curves_dict(None)) is None
    assert profile_of(None) is None
