"""Readings from a measured run: one small function a finding, all with one signature.

A new finding is a function here, its name in `SOUND_READERS`, and its entry in `knowledge/sound_findings.toml`.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from eager_ear.core.diagnosis.evidence.readings import Reading, read_number
from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.hands import swings_from_damping
from eager_ear.core.signals.angle import ORDERS
from eager_ear.core.signals.impacts import ImpactFinding
from eager_ear.core.signals.mechanics import BounceDecay, CornerComparison
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.units import plus_minus

Reader = Callable[[Finding, RunMeasurement], Reading | None]
TUMBLE_TOP_RPM = 140.0


def race_lines(finding: Finding, run: RunMeasurement) -> Reading | None:
    if not run.spectra:
        return None
    if not run.race_lines:
        return read_number(finding, 0.0, sigma=0.0, text="no line family at any bearing race", source="sound")
    line = run.race_lines[0]
    strength = min(30.0, -math.log10(max(line.false_alarm, 1e-30)))
    where = f"{line.race} race, {line.bearing}" if line.bearing else f"{line.race} race"
    if strength < finding.limits[0]:
        text = "no line family at any bearing race beyond chance"
    else:
        text = f"envelope lines at the {where}: order {line.order:.2f}, {line.ratio_db:.0f} dB over the floor"
    return read_number(finding, strength, sigma=0.0, text=text, source="sound")


def noise_stays(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.persistence is None:
        return None
    change = run.persistence.change_db
    text = f"with the motor off the noise changes by {change:+.1f} dB at equal speed"
    return read_number(finding, change, sigma=run.persistence.sigma_db, text=text, source="sound")


def damping(finding: Finding, run: RunMeasurement) -> Reading | None:
    if not run.suspension:
        return None
    # The least damped direction decides: a worn damper need not act in both.
    fit = min(run.suspension, key=lambda f: f.damping_ratio + f.damping_sigma)
    text = (
        f"damping ratio {plus_minus(fit.damping_ratio, fit.damping_sigma, decimals=2)} at the critical speed of "
        f"{60 * fit.critical_hz:.0f} rpm{', passed alike both ways' if fit.passages > 1 else ''}"
    )
    return read_number(finding, fit.damping_ratio, sigma=fit.damping_sigma, text=text, source="sound")


def run_up_bang(finding: Finding, run: RunMeasurement) -> Reading | None:
    if (hits := run.stop_hits) is not None:
        often = f"{hits.count} impacts of {hits.rise_db:.0f} dB" if hits.count else "no impacts"
        text = f"{often} in {hits.turns:.0f} turns through the critical speed"
        return read_number(finding, hits.rise_db, sigma=1.0, text=text, source="sound")
    thump = run.impacts.get("thump")
    if thump is None or not run.suspension:
        return None
    critical = 60.0 * run.suspension[0].critical_hz
    hit = _inside(thump, low=0.65 * critical, high=1.5 * critical) and not _above(thump, 1.5 * critical)
    height = thump.peak_db if hit else 0.0
    text = f"bangs of {height:.0f} dB at the critical speed" if hit else "no bangs at the critical speed"
    return read_number(finding, height, sigma=1.0, text=text, source="sound")


def growth(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.growth is None:
        return None
    power = plus_minus(run.growth.exponent, run.growth.sigma, decimals=1)
    text = f"once-per-turn motion grows with speed to the power {power}"
    return read_number(finding, run.growth.exponent, sigma=run.growth.sigma, text=text, source="sound")


def _top_acceleration(run: RunMeasurement, order: int) -> dict[str, float] | None:
    """Median amplitude of an order by axis [m/s²] in the fastest tenth of the known speeds."""
    curves = run.curves
    if curves is None:
        return None
    use = curves.known & curves.significant(1)
    if use.sum() < 8:
        return None
    fast = use & (curves.rate_hz > 0.93 * np.percentile(curves.rate_hz[use], 95))
    if fast.sum() < 4:
        return None
    values = np.median(np.abs(curves.amplitude_m_s2[:, ORDERS.index(order)][:, fast]), axis=1)
    return {name: float(v) for name, v in zip(curves.axis_names, values, strict=True)}


def axial(finding: Finding, run: RunMeasurement) -> Reading | None:
    top = _top_acceleration(run, 1)
    if top is None or not {"x", "y", "z"} <= set(top):
        return None
    radial = math.hypot(top["x"], top["z"])
    ratio = top["y"] / max(radial, 1e-9)
    return read_number(finding, ratio, sigma=0.1 * ratio, text=f"axial share {ratio:.2f} at full speed", source="sound")


def second_order(finding: Finding, run: RunMeasurement) -> Reading | None:
    first, second = _top_acceleration(run, 1), _top_acceleration(run, 2)
    if first is None or second is None:
        return None
    ratio = max(second.values()) / 2.0 / max(max(first.values()), 1e-9)
    text = f"twice-per-turn velocity is {100 * ratio:.0f} % of once per turn"
    return read_number(finding, ratio, sigma=0.1 * ratio, text=text, source="sound")


def strong_shake(finding: Finding, run: RunMeasurement) -> Reading | None:
    return _shake(finding, run) if run.load in (None, "empty") else None


def strong_shake_loaded(finding: Finding, run: RunMeasurement) -> Reading | None:
    return None if run.load in (None, "empty") else _shake(finding, run)


def _shake(finding: Finding, run: RunMeasurement) -> Reading | None:
    top = _top_acceleration(run, 1)
    if top is None:
        return None
    size = math.sqrt(sum(v * v for v in top.values()))
    text = f"the cabinet shakes with {size:.1f} m/s² once per turn at full speed"
    return read_number(finding, size, sigma=0.1 * size, text=text, source="sound")


def _inside(impact: ImpactFinding, *, low: float, high: float) -> bool:
    return impact.speed_rpm is not None and impact.speed_rpm[0] <= high and impact.speed_rpm[1] >= low


def _above(impact: ImpactFinding, rpm: float) -> bool:
    return impact.speed_rpm is not None and impact.speed_rpm[1] > rpm


def _impact_reading(finding: Finding, impact: ImpactFinding, *, counts: bool, words: str) -> Reading:
    strength = min(30.0, -math.log10(impact.false_alarm)) if counts else 0.0
    if counts and impact.speed_rpm is not None:
        low, high = impact.speed_rpm
        text = f"{words}, {impact.per_turn:.0f} per turn, {impact.peak_db:.0f} dB, from {low:.0f} to {high:.0f} rpm"
    else:
        text = f"no {words} over {impact.turns} turns"
    return read_number(finding, strength, sigma=0.0, text=text, source="sound")


def tick_each_turn(finding: Finding, run: RunMeasurement) -> Reading | None:
    tick = run.impacts.get("tick")
    if tick is None:
        return None
    return _impact_reading(finding, tick, counts=0 < tick.per_turn <= 2.0, words="tick at one drum angle")


def thump_each_turn(finding: Finding, run: RunMeasurement) -> Reading | None:
    thump = run.impacts.get("thump")
    if thump is None:
        return None
    critical = 60.0 * run.suspension[0].critical_hz if run.suspension else TUMBLE_TOP_RPM * 1.5
    counts = thump.per_turn > 0 and _above(thump, 1.5 * critical)
    return _impact_reading(finding, thump, counts=counts, words="thump at one drum angle")


def knock_at_tumble(finding: Finding, run: RunMeasurement) -> Reading | None:
    return _slow_reading(finding, run, per_turn=1.0, words="knock at tumble speed")


def creak_at_tumble(finding: Finding, run: RunMeasurement) -> Reading | None:
    return _slow_reading(finding, run, per_turn=2.0, words="creak at tumble speed")


def _slow_reading(finding: Finding, run: RunMeasurement, *, per_turn: float, words: str) -> Reading | None:
    """Knocks so often a turn at slow turning; they tell their own rate, but that there are none needs it known."""
    knock = run.impacts.get("knock")
    if knock is None:
        return None
    slow = run.track is not None and bool((run.track.known & (run.track.rate_hz < TUMBLE_TOP_RPM / 60.0)).sum() > 24)
    counts = _inside(knock, low=0.0, high=TUMBLE_TOP_RPM) and not _above(knock, 2.5 * TUMBLE_TOP_RPM)
    counts = counts and knock.per_turn == per_turn
    return _impact_reading(finding, knock, counts=counts, words=words) if counts or slow else None


def irregular_taps(finding: Finding, run: RunMeasurement) -> Reading | None:
    """Taps in the middle band; where ticks or thumps are tied to the drum, their echoes would count as taps."""
    knock = run.impacts.get("knock")
    taps = knock.irregular if knock is not None else None
    if taps is None or run.tied_impacts is not None:
        return None
    text = "no irregular taps at speed"
    if taps.from_rpm is not None:
        rate = f"{plus_minus(taps.per_s, taps.sigma_per_s, decimals=1)} a second from {taps.from_rpm:.0f} rpm on"
        text = f"taps tied to no drum angle, {rate}"
    return read_number(finding, taps.per_s, sigma=taps.sigma_per_s, text=text, source="sound")


def belt_slip(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.slip is None:
        return None
    text = f"belt slip {plus_minus(run.slip.slip_pct, run.slip.sigma_pct, decimals=1)} %"
    return read_number(finding, run.slip.slip_pct, sigma=run.slip.sigma_pct, text=text, source="sound")


def squeal(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.squeal is None:
        return None
    heard, share = run.squeal.prominence_db, 100 * run.squeal.share_of_ramp
    text = (
        f"squeal of {heard:.0f} dB at {run.squeal.frequency_hz:.0f} Hz in {share:.0f} % of the time while gaining speed"
        if heard > finding.limits[0]
        else "no squeal while gaining speed"
    )
    return read_number(finding, heard, sigma=1.0, text=text, source="sound")


def drum_still(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.sound_range_db is None:
        return None
    if run.track is not None:
        return read_number(finding, 0.0, sigma=0.0, text="the drum turns", source="sound")
    if not run.vibration_recorded:
        return None
    text = f"sound rises by {run.sound_range_db:.0f} dB, yet nothing shakes once per turn"
    return read_number(finding, run.sound_range_db, sigma=1.0, text=text, source="sound")


def drag(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.coast_down is None or run.track is None:
        return None
    mean = 2 * math.pi * run.track.max_rpm / 60.0 / run.coast_down.time_to_rest_s
    text = f"coasts to rest in {run.coast_down.time_to_rest_s:.0f} s, {run.coast_down.turns_to_rest:.0f} turns"
    return read_number(finding, mean, sigma=0.1 * mean, text=text, source="sound")


def hum(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.hum is None or (run.hum.steady and run.track is None):
        return None
    heard = run.hum.seconds if run.track is None else 0.0
    text = (
        f"hum at {run.hum.frequency_hz:.0f} Hz, twice the mains, for {heard:.0f} s while nothing turns"
        if heard > 0
        else "no hum at twice the mains without motion"
    )
    return read_number(finding, heard, sigma=0.3, text=text, source="sound")


def steady_hum(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.hum is None or not run.hum.steady or run.track is not None:
        return None
    over = run.hum.over_beside_db
    text = f"hum at {run.hum.frequency_hz:.0f} Hz, twice the mains, all through: the motor's, or the room's own"
    return read_number(finding, over, sigma=1.0, text=text, source="sound")


def full_speed(finding: Finding, run: RunMeasurement) -> Reading | None:
    if run.arrival is None or run.arrival.share_of_plate is None or run.phases is None or run.phases.fall_s is None:
        return None
    share = run.arrival.share_of_plate
    text = f"reaches {100 * share:.0f} % of the plate's speed, {run.arrival.ramp_s:.0f} s after slow turning"
    return read_number(finding, share, sigma=0.01, text=text, source="sound")


def cut_out(finding: Finding, run: RunMeasurement) -> Reading | None:
    metered_s = run.current.off_s if run.current is not None else None
    if metered_s is not None and run.noted_power_cut_s is not None:
        early = run.noted_power_cut_s - metered_s
        text = "the motor draws current until it is switched off"
        if early > 1.0:
            text = f"the motor's current stops {early:.0f} s before the power was switched off"
        return read_number(finding, early, sigma=0.5, text=text, source="sound")
    if run.arrival is None or run.arrival.fell_before_cut_s is None:
        return None
    early = run.arrival.fell_before_cut_s
    text = (
        f"the speed falls {early:.0f} s before the power was switched off" if early > 1.0 else "runs until switched off"
    )
    return read_number(finding, early, sigma=0.5, text=text, source="sound")


def bounce_readings(bounces: Sequence[BounceDecay], *, findings: Mapping[str, Finding]) -> list[Reading]:
    """The least damped of the recorded pushes, as swings until a twentieth is left."""
    if not bounces:
        return []
    least = min(bounces, key=lambda b: b.damping_ratio)
    swings = swings_from_damping(least.damping_ratio)
    sigma = swings * least.damping_sigma / max(least.damping_ratio, 1e-3)
    text = (
        f"a recorded push swings at {60 * least.rate_hz:.0f} a minute with a damping ratio of "
        f"{plus_minus(least.damping_ratio, least.damping_sigma, decimals=2)}"
    )
    return [read_number(findings["bounce_swings"], swings, sigma=sigma, text=text, source="sound")]


def corner_readings(corners: CornerComparison | None, *, findings: Mapping[str, Finding]) -> list[Reading]:
    """How far the corner that moves most is ahead of the next."""
    if corners is None:
        return []
    most, ahead = corners.corners[0], corners.ahead_db
    low, high = corners.speed_rpm
    text = (
        f"the {most.corner.replace('_', ' ')} corner moves {plus_minus(ahead, corners.ahead_sigma_db, decimals=1)} dB "
        f"more than the next, {low:.0f} to {high:.0f} rpm"
    )
    return [read_number(findings["uneven_corners"], ahead, sigma=corners.ahead_sigma_db, text=text, source="sound")]


SOUND_READERS: Mapping[str, Reader] = {
    "race_lines": race_lines,
    "noise_stays": noise_stays,
    "damping": damping,
    "run_up_bang": run_up_bang,
    "growth": growth,
    "axial": axial,
    "second_order": second_order,
    "strong_shake": strong_shake,
    "strong_shake_loaded": strong_shake_loaded,
    "tick_each_turn": tick_each_turn,
    "thump_each_turn": thump_each_turn,
    "knock_at_tumble": knock_at_tumble,
    "creak_at_tumble": creak_at_tumble,
    "irregular_taps": irregular_taps,
    "belt_slip": belt_slip,
    "squeal": squeal,
    "drum_still": drum_still,
    "drag": drag,
    "hum": hum,
    "steady_hum": steady_hum,
    "full_speed": full_speed,
    "cut_out": cut_out,
}


# What is asked of a machine that is energised and was to move.
ENERGISED_READERS: Mapping[str, Reader] = {"hum": hum, "steady_hum": steady_hum}


def sound_readings(run: RunMeasurement, *, findings: Mapping[str, Finding]) -> list[Reading]:
    """All readings that this run of a spin gives."""
    return readings_by(SOUND_READERS, run, findings=findings)


def readings_by(
    readers: Mapping[str, Reader], run: RunMeasurement, *, findings: Mapping[str, Finding]
) -> list[Reading]:
    """The readings that these readers find in a run."""
    readings = [reader(findings[code], run) for code, reader in readers.items()]
    return [r for r in readings if r is not None]
