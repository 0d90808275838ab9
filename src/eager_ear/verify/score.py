"""One analysed case laid beside its truth: an error for every quantity that has one."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.signals.mechanics import PASSAGE
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.simulate import SimulatedCase
from eager_ear.core.units import FloatArray
from eager_ear.verify.draws import Draw

SPEED_ABOVE_RPM = 60.0
LEAST_KNOWN_SHARE = 0.5
WRONG_ERROR = 0.05
DETECTION_LIMIT = 0.01
LEAST_ACCELERATION_RATE_HZ = 50.0
AUDIBLE_LEVEL = 0.5
# With more damping than this the run-up shows no peak.
OVERDAMPED = 0.4
# What a warning is expected to tell of each nuisance of the draw.
WARNING_OF = {
    "neighbour": "second_machine",
    "speech": "speech",
    "gain_control": "gain_pumping",
    "clipping": "clipped",
    "gaps": "gaps_in_data",
    "sliding": "sensor_moved",
}


@dataclass(frozen=True, kw_only=True)
class CaseScore:
    """Errors of one case; None where either the truth or the measurement does not exist.

    speed_errors : relative errors of all frames above 60 rpm at which the speed was declared known
    speed_known_share : part of the frames above 60 rpm at which it was
    errors : signed errors by quantity, in the unit its name ends with
    missed : quantities that the case could have shown and the analysis left out
    warned : nuisance, or hits on the stops -> (present, noticed)
    first_probability : what the call said of the fault that it named first
    """

    seed: int
    group: str
    layout: str
    sensors: str
    speed_errors: tuple[float, ...]
    speed_known_share: float | None
    false_rotation: bool
    errors: dict[str, float] = field(default_factory=dict)
    missed: tuple[str, ...] = ()
    warned: dict[str, tuple[bool, bool]] = field(default_factory=dict)
    first_named: str = ""
    first_probability: float = 0.0
    line_found: bool = False
    race_named: str | None = None
    race_true: str | None = None
    stage_named: str | None = None
    stage_true: str | None = None

    @property
    def speed_median(self) -> float | None:
        return float(np.median(np.abs(self.speed_errors))) if self.speed_errors else None

    @property
    def speed_lost(self) -> bool:
        """Half of the turning above 60 rpm or more was declared unknown."""
        return self.speed_known_share is not None and self.speed_known_share < LEAST_KNOWN_SHARE

    @property
    def speed_wrong(self) -> bool:
        """The track says something else than what the drum did."""
        median = self.speed_median
        return self.false_rotation or (median is not None and median > WRONG_ERROR)


def score_case(draw: Draw, *, knowledge: Knowledge) -> CaseScore:
    """Analyse one draw as any case and compare."""
    simulated = draw.case
    analysis = analyse(simulated.case, knowledge=knowledge)
    run = analysis.lead
    errors, share = _speed(simulated, run)
    found, missed = _quantities(simulated, run)
    recordings = [r for r in simulated.case.recordings if r.facts.test == "spin"]
    line = run.race_lines[0] if run is not None and run.race_lines else None
    significant = line is not None and line.false_alarm < DETECTION_LIMIT
    damage = simulated.washer.damage
    return CaseScore(
        seed=draw.seed,
        group=draw.group,
        layout=simulated.washer.layout,
        sensors="+".join(sorted(r.facts.kind for r in recordings)),
        speed_errors=tuple(float(e) for e in errors),
        speed_known_share=share,
        false_rotation=not simulated.washer.turns_drum and run is not None and run.track is not None,
        errors=found,
        missed=missed,
        warned=_warned(simulated, analysis) | _stop_hits(simulated, run),
        first_named=analysis.call.suspects[0].fault,
        first_probability=analysis.call.suspects[0].probability,
        line_found=significant,
        race_named=line.race if line is not None and significant else None,
        race_true=damage.race if damage is not None else None,
        stage_named=next((s.stage for s in analysis.call.suspects if s.stage), None),
        stage_true=damage.stage if damage is not None else None,
    )


def _speed(simulated: SimulatedCase, run: RunMeasurement | None) -> tuple[FloatArray, float | None]:
    true_t, true_rpm = simulated.drum_rpm[:, 0], simulated.drum_rpm[:, 1]
    turning = true_rpm > SPEED_ABOVE_RPM
    if not turning.any():
        return np.zeros(0), None
    if run is None or run.track is None:
        return np.zeros(0), 0.0
    track = run.track
    t_s = true_t[turning]
    if run.acceleration is None and track.source != "tacho":
        # With sound alone the run's clock is the sound's: how well its beginning was noted is not an error of speed.
        t_s = t_s + simulated.take.audio_start_s - simulated.take.audio_late_s
    nearest = np.clip(np.searchsorted(track.t_s, t_s), 0, track.t_s.size - 1)
    known = track.known[nearest] & (t_s >= track.t_s[0]) & (t_s <= track.t_s[-1])
    if not known.any():
        return np.zeros(0), 0.0
    rpm = np.interp(t_s[known], track.t_s, track.rate_hz) * 60.0
    return rpm / true_rpm[turning][known] - 1.0, float(known.mean())


def _quantities(simulated: SimulatedCase, run: RunMeasurement | None) -> tuple[dict[str, float], tuple[str, ...]]:
    errors: dict[str, float] = {}
    missed: list[str] = []
    for name, measure in (
        ("critical", _suspension),
        ("slip_pp", _slip),
        ("coast", _coast),
        ("impacts", _impacts),
        ("lag_s", _lag),
    ):
        got = measure(simulated, run) if run is not None else None
        if got:
            errors.update(got)
        elif _expected(name, simulated):
            missed.append(name)
    return errors, tuple(missed)


def _expected(name: str, simulated: SimulatedCase) -> bool:
    """Whether this case could have shown the quantity at all."""
    washer, take = simulated.washer, simulated.take
    kinds = {r.facts.kind for r in simulated.case.recordings if r.facts.test == "spin"}
    if not washer.turns_drum:
        return False
    whole = take.begin_s < 4.0
    to_rest = take.end_s > simulated.rotation.rest_s
    return {
        "critical": "acceleration" in kinds
        and simulated.phone.acceleration_rate_hz >= LEAST_ACCELERATION_RATE_HZ
        and min(simulated.shaking.damping) < OVERDAMPED
        and (whole or to_rest),
        "slip_pp": kinds == {"audio", "acceleration"} and simulated.belt_slip_pct() is not None and take.plate_known,
        "coast": to_rest,
        "impacts": "audio" in kinds and audible_impacts(simulated) is not None,
        "lag_s": False,
    }[name]


def _suspension(simulated: SimulatedCase, run: RunMeasurement) -> dict[str, float] | None:
    if simulated.phone.acceleration_rate_hz < LEAST_ACCELERATION_RATE_HZ or not run.suspension:
        return None
    fit = run.suspension[0]
    true_hz, damping = np.asarray(simulated.shaking.natural_hz), simulated.shaking.damping
    nearest = int(np.argmin(np.abs(true_hz - fit.critical_hz)))
    return {
        "critical": float(fit.critical_hz / true_hz[nearest] - 1.0),
        "damping": float(fit.damping_ratio / damping[nearest] - 1.0),
    }


def _slip(simulated: SimulatedCase, run: RunMeasurement) -> dict[str, float] | None:
    true_pct = simulated.belt_slip_pct()
    if run.slip is None or true_pct is None:
        return None
    return {"slip_pp": run.slip.slip_pct - true_pct}


def _coast(simulated: SimulatedCase, run: RunMeasurement) -> dict[str, float] | None:
    if run.coast_down is None or not simulated.washer.turns_drum:
        return None
    true_s = simulated.rotation.rest_s - simulated.rotation.power_cut_s
    return {"coast": run.coast_down.time_to_rest_s / true_s - 1.0}


def _impacts(simulated: SimulatedCase, run: RunMeasurement) -> dict[str, float] | None:
    true_count = audible_impacts(simulated)
    if run.impacts_per_rev is None or true_count is None or not simulated.washer.turns_drum:
        return None
    return {"impacts": run.impacts_per_rev - true_count}


def audible_impacts(simulated: SimulatedCase) -> int | None:
    """Impacts per revolution that can be heard; None where what can be heard is a matter of taste.

    Stop hits and slaps of feet come once a turn as well, and impacts below half the drum's noise at full spin, or above
    what the recording's rate holds, may or may not be heard.
    """
    tied = [k for k in simulated.washer.knocks if k.per_turn]
    if not tied:
        return None if simulated.shaking.hits or simulated.shaking.slaps else 0
    loud = [k for k in tied if k.level >= AUDIBLE_LEVEL and k.band_hz[0] < 0.35 * simulated.phone.audio_rate_hz]
    return max(k.per_turn for k in loud) if loud else None


def _stop_hits(simulated: SimulatedCase, run: RunMeasurement | None) -> dict[str, tuple[bool, bool]]:
    """Whether the group hit its stops on its way through the critical speed, and whether that was noticed."""
    if run is None or run.stop_hits is None:
        return {}
    rotation, take = simulated.rotation, simulated.take
    fastest_hz = PASSAGE[1] * max(simulated.shaking.natural_hz)
    times = np.array([t for t, _ in simulated.shaking.hits])
    slow = np.interp(times, rotation.t_s, rotation.drum_hz) < fastest_hz
    recorded = (times > take.begin_s) & (times < take.end_s)
    return {"stop_hits": (bool((slow & recorded).any()), run.stop_hits.count > 0)}


def _lag(simulated: SimulatedCase, run: RunMeasurement) -> dict[str, float] | None:
    if run.lag is None:
        return None
    return {"lag_s": simulated.take.audio_start_s + run.lag.lag_s - simulated.take.audio_late_s}


def _warned(simulated: SimulatedCase, analysis: Analysis) -> dict[str, tuple[bool, bool]]:
    codes = {w.code for w in analysis.warnings}
    present = set(simulated.nuisances())
    kinds = {r.facts.kind for r in simulated.case.recordings if r.facts.test == "spin"}
    needs = {"gaps": "acceleration", "sliding": "acceleration", "neighbour": None}
    return {
        name: (name in present, code in codes)
        for name, code in WARNING_OF.items()
        if needs.get(name, "audio") is None or needs.get(name, "audio") in kinds
    }
