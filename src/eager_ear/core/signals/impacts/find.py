"""Impacts in the sound: ticks, knocks and thumps that come back every turn, and taps that keep to nothing.

Impacts are found in three bands (transients); each one's drum angle follows from the track. What keeps to an angle is
the drum's (locked_impacts); what comes oftener than noise shows, at speed and at any angle, is something loose beside
it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp import SoundSections
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.impacts.angle_ranks import CELLS
from eager_ear.core.signals.impacts.impact_trains import FEWEST_IMPACTS
from eager_ear.core.signals.impacts.locked_impacts import (
    MULTIPLES,
    LockedImpacts,
    TurnWindow,
    come_oftener,
    judge_window,
    locked_groups,
    speed_ranks,
    turn_windows,
)
from eager_ear.core.signals.impacts.slow_impacts import SlowImpacts, slow_impacts
from eager_ear.core.signals.impacts.transients import NOISE_SHARE, Transients, find_transients, sharp_impacts
from eager_ear.core.units import BoolArray, FloatArray, Span

# A tub against the cabinet thumps, loose parts and stops knock, metal on metal ticks (DOMAIN: what is heard).
IMPACT_BANDS_HZ = {"thump": (50.0, 200.0), "knock": (200.0, 2000.0), "tick": (2000.0, 9000.0)}
LOWEST_BAND = "thump"
# An impact rings for a few periods of its band: a twentieth of a second at the lowest, which is a quarter of a turn,
# and next to nothing above: there a sixteenth of a turn, over which levels are taken, and a wander of some hundredths
# are all its width. Noise that swells once a turn does so over a quarter to a third of it, seldom over a ninth.
WIDEST_IMPACT_TURNS = {"thump": 0.3, "knock": 0.1, "tick": 0.1}
# Impacts tied to nothing, at more than this share of full speed.
FAST_SHARE = 0.5
SHORTEST_FAST_S = 3.0
IRREGULAR_FALSE_ALARM = 1e-3
# Where chance explains a second impact a turn so seldom, there are two.
SURE_FALSE_ALARM = 1e-6


@dataclass(frozen=True, kw_only=True)
class IrregularImpacts:
    """Impacts that keep to no drum angle, at more than half of the highest speed.

    per_s : rate above what noise alone shows, 0.0 when it shows as many by chance; sigma_per_s : its standard error
    from_rpm : lowest speed at which they were heard, None without any
    """

    per_s: float
    sigma_per_s: float
    from_rpm: float | None


@dataclass(frozen=True, kw_only=True)
class ImpactFinding:
    """What one band shows.

    per_turn : impacts per revolution, 0.0 when none is tied to the drum
    share : part of all windows of turns in which they are
    rayleigh_z : mean resultant length squared times the impacts, over those windows
    peak_db : median rise of the impacts over their surroundings
    speed_rpm : lowest and highest speed at which they occur, None when they do not
    profile_db : array [shape=(48,), dB], mean level over one turn in the clearest window, loudest cell first
    false_alarm : chance that impacts at random angles would gather as much in any group of any band
    irregular : impacts that are not tied to the drum; None where some are, or where full speed was too short to tell
    impact_s : array [shape=(k,), s, run's clock], impacts that stand out one by one while they are tied
    """

    band: str
    per_turn: float
    share: float
    rayleigh_z: float
    peak_db: float
    speed_rpm: tuple[float, float] | None
    profile_db: FloatArray
    turns: int
    false_alarm: float
    irregular: IrregularImpacts | None
    impact_s: FloatArray = field(default_factory=lambda: np.zeros(0))

    @property
    def band_hz(self) -> tuple[float, float]:
        return IMPACT_BANDS_HZ[self.band]


def find_impacts(sections: SoundSections, *, track: SpeedTrack, rests: Sequence[Span] = ()) -> dict[str, ImpactFinding]:
    """Look for impacts tied to the drum in every band that the sample rate holds.

    Parameters
    ----------
    rests : stretches [s, run's clock] in which the machine stands

    Raises
    ------
    NotMeasurable
        Fewer than eight revolutions at known speed.
    """
    bands = _bands_held(sections.rate_hz)
    start_s, end_s = _span_of(sections)
    heard = (track.t_s > start_s + 0.1) & (track.t_s < end_s - 0.1)
    spans = turn_windows(track, heard)
    if not spans:
        raise NotMeasurable(quantity="impacts", reason="fewer than eight revolutions at known speed were recorded.")
    impacts = find_transients(sections, bands=bands)
    slow = {name: slow_impacts(found, track, heard, rests=rests, trials=len(bands)) for name, found in impacts.items()}
    clicks = min(found.quicker_false_alarm for name, found in slow.items() if name != LOWEST_BAND)
    for name, found in slow.items():
        if found.tied is not None and name != LOWEST_BAND and _may_be_clicks(found.tied, clicks):
            slow[name] = replace(found, tied=None)
    return {
        name: _finding(name, found, slow[name], spans, track, heard, trials=len(bands))
        for name, found in impacts.items()
    }


@gate("clicks", harmless=lambda *_: False)
def _may_be_clicks(tied: LockedImpacts, clicks: float) -> bool:
    """Whether quicker clicks are surer in another band: a bearing's ring in all of them, and fewer are heard here."""
    return clicks < tied.false_alarm


@gate("quicker", harmless=lambda *_: False)
def _comes_quicker(slow: SlowImpacts) -> bool:
    """Whether slow turning shows clicks that come oftener than twice a turn: a bearing's, heard one by one."""
    return slow.quicker


def require_no_impacts(sections: SoundSections) -> None:
    """Whatever the speed, a sound in which no impact stands out has none that come every turn.

    Raises
    ------
    NotMeasurable
        Some do: they may be the drum's, or the motor's, or somebody's in the room.
    """
    for impacts in find_transients(sections, bands=_bands_held(sections.rate_hz)).values():
        if sharp_impacts(impacts, _span_of(sections))[0].size >= FEWEST_IMPACTS:
            raise NotMeasurable(
                quantity="impacts",
                reason="impacts are heard, but without the speed nothing tells how many make a turn.",
            )


def _bands_held(sample_rate_hz: float) -> dict[str, tuple[float, float]]:
    """The bands that a sample rate holds: the highest in part at lower rates, since ticks ring well beyond 2 kHz."""
    limit = 0.47 * sample_rate_hz
    return {n: (low, min(high, limit)) for n, (low, high) in IMPACT_BANDS_HZ.items() if low < 0.7 * limit}


def _span_of(sections: SoundSections) -> Span:
    return sections.span_s(0)[0], sections.span_s(sections.count - 1)[1]


def _finding(
    name: str,
    impacts: Transients,
    slow: SlowImpacts,
    spans: list[tuple[float, float]],
    track: SpeedTrack,
    heard: BoolArray,
    *,
    trials: int,
) -> ImpactFinding:
    windows = [judge_window(impacts, begin, end, track) for begin, end in spans]
    ranks = speed_ranks(impacts, track, heard)
    locked, smallest = locked_groups(windows, ranks, widest_turns=WIDEST_IMPACT_TURNS[name], trials=trials)
    oftener = come_oftener(ranks.values())
    if _comes_quicker(slow) or oftener:
        locked = []
    if slow.tied is not None and not oftener:
        locked.append(slow.tied)
        smallest = min(smallest, slow.tied.false_alarm)
    turns = int(sum(w.turns for w in windows))
    if not locked:
        calm = _profile(impacts, max(windows, key=lambda w: w.impacts), track)
        return ImpactFinding(
            band=name,
            per_turn=0.0,
            share=0.0,
            rayleigh_z=0.0,
            peak_db=float(calm.max()),
            speed_rpm=None,
            profile_db=calm,
            turns=turns,
            false_alarm=smallest,
            irregular=_irregular(impacts, track, heard),
        )
    tied = [w for group in locked for w in group.windows]
    counts = {m: sum(len(g.windows) for g in locked if g.multiple == m) for m in MULTIPLES}
    multiple = max(counts, key=lambda m: counts[m])
    if min(group.twice_false_alarm for group in locked) < SURE_FALSE_ALARM:
        # Where it is quiet both impacts of a turn are heard; at speed the louder may hide the other.
        multiple = MULTIPLES[-1]
    clearest = max(tied, key=lambda w: max(w.z))
    speeds = 60.0 * np.array([w.rate_hz for w in tied])
    profile = _profile(impacts, clearest, track)
    return ImpactFinding(
        band=name,
        per_turn=float(multiple),
        share=len(tied) / max(len(windows), len(tied)),
        rayleigh_z=float(np.median([w.z[multiple - 1] for w in tied])),
        peak_db=float(np.median([w.rise_db for w in tied if w.impacts] or [profile.max()])),
        speed_rpm=(float(np.percentile(speeds, 5)), float(np.percentile(speeds, 95))),
        profile_db=np.roll(profile, -int(profile.argmax())),
        turns=turns,
        false_alarm=smallest,
        irregular=None,
        impact_s=np.unique(np.concatenate([impacts.t_s[impacts.between(w.begin_s, w.end_s)] for w in tied])),
    )


def _irregular(impacts: Transients, track: SpeedTrack, heard: BoolArray) -> IrregularImpacts | None:
    """Impacts at speed against the few that noise shows (Poisson); None with less than three seconds of it."""
    fast = track.known & heard & (track.rate_hz > FAST_SHARE * track.max_rpm / 60.0)
    seconds = float(fast.sum()) * FRAME_STEP_S
    if seconds < SHORTEST_FAST_S:
        return None
    at = np.clip(np.searchsorted(track.t_s, impacts.t_s), 0, track.t_s.size - 1)
    count = int(fast[at].sum())
    expected = seconds * NOISE_SHARE / impacts.cell_s
    if count == 0 or float(scipy.special.pdtrc(count - 1, expected)) > IRREGULAR_FALSE_ALARM:
        return IrregularImpacts(per_s=0.0, sigma_per_s=float(np.sqrt(count + 1.0)) / seconds, from_rpm=None)
    return IrregularImpacts(
        per_s=count / seconds,
        sigma_per_s=float(np.sqrt(count)) / seconds,
        from_rpm=60.0 * float(track.rate_hz[at][fast[at]].min()),
    )


def _profile(impacts: Transients, window: TurnWindow, track: SpeedTrack) -> FloatArray:
    """Mean level of the band over the turn in one window, above its median [shape=(CELLS,), dB]."""
    first = int((window.begin_s - impacts.start_s) / impacts.cell_s)
    last = int((window.end_s - impacts.start_s) / impacts.cell_s)
    level = impacts.level_db[max(first, 0) : max(last, 0)]
    if level.size == 0:
        return np.zeros(CELLS)
    t_s = impacts.start_s + (max(first, 0) + np.arange(level.size) + 0.5) * impacts.cell_s
    known = bool(np.isfinite(track.at(t_s[[0, -1]])).all())
    turns = track.turns_at(t_s) if known else window.rate_hz * t_s
    cell = np.floor(np.mod(turns, 1.0) * CELLS).astype(int) % CELLS
    count = np.bincount(cell, minlength=CELLS)
    mean = np.bincount(cell, weights=level, minlength=CELLS) / np.maximum(count, 1)
    mean[count == 0] = float(np.median(level))
    return np.asarray(mean - np.median(mean))
