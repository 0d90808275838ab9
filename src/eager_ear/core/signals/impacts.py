"""Impacts tied to the drum's angle: ticks, knocks and thumps that come back every turn.

Blows are found in three bands; each one's drum angle follows from the track. Over windows of a dozen turns Rayleigh's
test (Mardia & Jupp, Directional Statistics, section 6.3) asks whether the angles, or twice the angles, gather: m blows
a turn gather at the m-th multiple and at none below. Blows that come much oftener than m a turn are a bearing's, not
these. Blows too weak to be counted one by one show in the ranks of the level over the turn (angle_ranks). Noise that
swells once a turn passes both, but not for a narrow peak. Where the speed is not known, slow turning above all, blows
in even steps tell their own rate.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from scipy import special

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle_ranks import AngleRank, rank_angles
from eager_ear.core.signals.bands import SoundSections
from eager_ear.core.signals.speed_path import known_spans
from eager_ear.core.signals.speed_track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.transients import Transients, find_transients
from eager_ear.core.units import BoolArray, FloatArray

IMPACT_BANDS_HZ = {"thump": (50.0, 200.0), "knock": (200.0, 1500.0), "tick": (2000.0, 9000.0)}
MULTIPLES = (1, 2)
CELLS = 48
WINDOW_TURNS = 12
FEWEST_TURNS = 8
SLOWEST_HZ = 0.4
# Windows of like speed are judged together; one group in a million stands out by chance.
SPEED_GROUPS_HZ = (0.0, 1.2, 2.5, 5.0, 10.0, 16.0, 100.0)
FALSE_ALARM = 1e-6
# Noise that swells once a turn gathers as well, but over a wide range of angles: blows at one and the same angle,
# within some 25 degrees, need less of a proof.
TIGHT_CONCENTRATION = 0.9
TIGHT_FALSE_ALARM = 1e-3
# Ranks search every angle and drift already: one range of speeds in a thousand stands out by chance, and a blow must be
# the loudest of its neighbourhood in so many turns, which swelling noise is in a fifth to a third.
RANK_FALSE_ALARM = 1e-3
LEAST_NEAR_SHARE = 0.38
WIDEST_BLOW_TURNS = 9.5 / 48
# Mean resultant length of blows that are tied to an angle, some scattered ones among them.
LEAST_CONCENTRATION = 0.5
# Blows a turn for every expected one: some are missed, few are extra.
COUNT_RANGE = (0.4, 1.6)
# Slow turning of unknown rate: steps between blows that stay this even, or are double where one was missed, happen
# with this chance among random blows.
SLOW_RATES_HZ = (0.35, 1.75)
SLOW_FALSE_ALARM = 1e-4
EVEN = 0.15
CHANCE_EVEN = 0.12
FEWEST_EVEN_STEPS = 5
LEAST_EVEN_SHARE = 0.4
# Blows tied to nothing: `find_transients` takes one cell of noise in sixty thousand for one.
FAST_SHARE = 0.5
SHORTEST_FAST_S = 3.0
NOISE_SHARE = 1.0 / 60_000.0
IRREGULAR_FALSE_ALARM = 1e-3


@dataclass(frozen=True, kw_only=True)
class IrregularBlows:
    """Blows that keep to no drum angle, at more than half of the highest speed.

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
    rayleigh_z : mean resultant length squared times the blows, over those windows
    peak_db : median rise of the blows over their surroundings
    speed_rpm : lowest and highest speed at which they occur, None when they do not
    profile_db : array [shape=(48,), dB], mean level over one turn in the clearest window, loudest cell first
    false_alarm : chance that blows at random angles would gather as much in any group of any band
    irregular : blows that are not tied to the drum; None where some are, or where full speed was too short to tell
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
    irregular: IrregularBlows | None


@dataclass(frozen=True, kw_only=True)
class _Window:
    """A dozen turns: z and blows by multiple."""

    begin_s: float
    end_s: float
    rate_hz: float
    turns: float
    blows: int
    z: tuple[float, ...]
    rise_db: float


@dataclass(frozen=True, kw_only=True)
class _Locked:
    windows: tuple[_Window, ...]
    multiple: int
    false_alarm: float


def find_impacts(sections: SoundSections, *, track: SpeedTrack) -> dict[str, ImpactFinding]:
    """Look for impacts tied to the drum in every band that the sample rate holds.

    Raises
    ------
    NotMeasurable
        Fewer than eight revolutions at known speed.
    """
    # The highest band is heard in part at lower rates: a tick rings well beyond 2 kHz.
    limit = 0.47 * sections.rate_hz
    bands = {n: (low, min(high, limit)) for n, (low, high) in IMPACT_BANDS_HZ.items() if low < 0.7 * limit}
    start_s, end_s = sections.span_s(0)[0], sections.span_s(sections.count - 1)[1]
    heard = (track.t_s > start_s + 0.1) & (track.t_s < end_s - 0.1)
    spans = _turn_windows(track, heard)
    if not spans:
        raise NotMeasurable(quantity="impacts", reason="fewer than eight revolutions at known speed were recorded.")
    blows = find_transients(sections, bands=bands)
    return {name: _finding(name, found, spans, track, heard, trials=len(bands)) for name, found in blows.items()}


def _turn_windows(track: SpeedTrack, heard: BoolArray) -> list[tuple[float, float]]:
    """Begin and end of windows of whole turns within known stretches."""
    out: list[tuple[float, float]] = []
    for span in known_spans(track.known & heard & (track.rate_hz > SLOWEST_HZ)):
        t_s = track.t_s[span]
        turns = track.turns_at(t_s)
        total = turns[-1] - turns[0]
        if total < FEWEST_TURNS:
            continue
        borders = turns[0] + np.arange(0, total + 1e-9, min(WINDOW_TURNS, total))
        times = np.interp(borders, turns, t_s)
        out.extend((float(a), float(b)) for a, b in itertools.pairwise(times))
    return out


def _finding(
    name: str,
    blows: Transients,
    spans: list[tuple[float, float]],
    track: SpeedTrack,
    heard: BoolArray,
    *,
    trials: int,
) -> ImpactFinding:
    windows = [_window(blows, begin, end, track) for begin, end in spans]
    ranks = _ranks(blows, track, heard)
    locked, smallest = _locked(windows, ranks, trials=trials)
    if (slow := _slow_repetition(blows, track, heard, trials=trials)) is not None:
        locked.append(slow)
        smallest = min(smallest, slow.false_alarm)
    turns = int(sum(w.turns for w in windows))
    if not locked:
        calm = _profile(blows, max(windows, key=lambda w: w.blows), track)
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
            irregular=_irregular(blows, track, heard),
        )
    tied = [w for group in locked for w in group.windows]
    counts = {m: sum(len(g.windows) for g in locked if g.multiple == m) for m in MULTIPLES}
    multiple = max(counts, key=lambda m: counts[m])
    clearest = max(tied, key=lambda w: max(w.z))
    speeds = 60.0 * np.array([w.rate_hz for w in tied])
    profile = _profile(blows, clearest, track)
    return ImpactFinding(
        band=name,
        per_turn=float(multiple),
        share=len(tied) / max(len(windows), len(tied)),
        rayleigh_z=float(np.median([w.z[multiple - 1] for w in tied])),
        peak_db=float(np.median([w.rise_db for w in tied if w.blows] or [profile.max()])),
        speed_rpm=(float(np.percentile(speeds, 5)), float(np.percentile(speeds, 95))),
        profile_db=np.roll(profile, -int(profile.argmax())),
        turns=turns,
        false_alarm=smallest,
        irregular=None,
    )


def _irregular(blows: Transients, track: SpeedTrack, heard: BoolArray) -> IrregularBlows | None:
    """Blows at speed against the few that noise shows (Poisson); None with less than three seconds of it."""
    fast = track.known & heard & (track.rate_hz > FAST_SHARE * track.max_rpm / 60.0)
    seconds = float(fast.sum()) * FRAME_STEP_S
    if seconds < SHORTEST_FAST_S:
        return None
    at = np.clip(np.searchsorted(track.t_s, blows.t_s), 0, track.t_s.size - 1)
    count = int(fast[at].sum())
    expected = seconds * NOISE_SHARE / blows.cell_s
    if count == 0 or float(special.pdtrc(count - 1, expected)) > IRREGULAR_FALSE_ALARM:
        return IrregularBlows(per_s=0.0, sigma_per_s=float(np.sqrt(count + 1.0)) / seconds, from_rpm=None)
    return IrregularBlows(
        per_s=count / seconds,
        sigma_per_s=float(np.sqrt(count)) / seconds,
        from_rpm=60.0 * float(track.rate_hz[at][fast[at]].min()),
    )


def _window(blows: Transients, begin_s: float, end_s: float, track: SpeedTrack) -> _Window:
    inside = blows.between(begin_s, end_s)
    turns = track.turns_at(np.array([begin_s, end_s]))
    angles = 2 * np.pi * track.turns_at(blows.t_s[inside])
    return _judged(begin_s, end_s, float(turns[1] - turns[0]), angles, blows.rise_db[inside])


def _judged(begin_s: float, end_s: float, turns: float, angles: FloatArray, rise_db: FloatArray) -> _Window:
    count = angles.size
    z = tuple(float(np.abs(np.exp(1j * m * angles).sum()) ** 2) / count if count else 0.0 for m in MULTIPLES)
    return _Window(
        begin_s=begin_s,
        end_s=end_s,
        rate_hz=turns / (end_s - begin_s),
        turns=turns,
        blows=count,
        z=z,
        rise_db=float(np.median(rise_db)) if count else 0.0,
    )


def _ranks(blows: Transients, track: SpeedTrack, heard: BoolArray) -> dict[int, AngleRank]:
    """The level's own test in every range of speeds that has turns enough."""
    usable = track.known & heard & (track.rate_hz > SLOWEST_HZ)
    groups = np.digitize(track.rate_hz, SPEED_GROUPS_HZ)
    found = {int(g): rank_angles(blows, track=track, use=usable & (groups == g)) for g in np.unique(groups[usable])}
    return {g: rank for g, rank in found.items() if rank is not None}


def _locked(windows: list[_Window], ranks: dict[int, AngleRank], *, trials: int) -> tuple[list[_Locked], float]:
    """Speed groups in which blows keep to an angle, and the smallest chance of a false alarm over all groups."""
    tried = trials * (len(SPEED_GROUPS_HZ) - 1)
    groups = np.digitize([w.rate_hz for w in windows], SPEED_GROUPS_HZ)
    out: list[_Locked] = []
    smallest = 1.0
    for group in np.unique(groups):
        members = [w for w, g in zip(windows, groups, strict=True) if g == group]
        rank = ranks.get(int(group))
        swelling = rank is not None and rank.width_turns > WIDEST_BLOW_TURNS
        if swelling and rank is not None and tried * rank.false_alarm < RANK_FALSE_ALARM:
            # Tied to the drum, but no blow.
            continue
        by_rank = _locked_by_rank(members, rank, tried=tried)
        gathered, chance = _locked_by_angles([w for w in members if w.blows >= 3], tried=tried * len(MULTIPLES))
        smallest = min(smallest, chance, by_rank.false_alarm if by_rank is not None else 1.0)
        out.extend(lock for lock in [gathered or by_rank] if lock is not None)
    return out, smallest


def _locked_by_rank(members: list[_Window], rank: AngleRank | None, *, tried: int) -> _Locked | None:
    if rank is None or tried * rank.false_alarm > RANK_FALSE_ALARM or rank.near_share < LEAST_NEAR_SHARE:
        return None
    twice = tried * rank.opposite_false_alarm < RANK_FALSE_ALARM and rank.opposite_near_share > 0.5 * rank.near_share
    return _Locked(
        windows=tuple(members), multiple=2 if twice else 1, false_alarm=max(tried * rank.false_alarm, 1e-300)
    )


def _locked_by_angles(members: list[_Window], *, tried: int) -> tuple[_Locked | None, float]:
    """Rayleigh's test over windows of like speed, and the smallest chance of a false alarm."""
    smallest = 1.0
    for k, multiple in enumerate(MULTIPLES):
        if not members or not _counts_fit(members, multiple):
            continue
        total_z = sum(w.z[k] for w in members)
        concentration = np.sqrt(total_z / sum(w.blows for w in members))
        if concentration < LEAST_CONCENTRATION:
            continue
        chance = max(float(special.gammaincc(len(members), total_z)) * tried, 1e-300)
        smallest = min(smallest, chance)
        if chance < (FALSE_ALARM if concentration < TIGHT_CONCENTRATION else TIGHT_FALSE_ALARM):
            return _Locked(windows=tuple(members), multiple=multiple, false_alarm=chance), smallest
    return None, smallest


def _counts_fit(members: list[_Window], multiple: int) -> bool:
    per_turn = sum(w.blows for w in members) / max(sum(w.turns for w in members), 1e-9)
    return COUNT_RANGE[0] * multiple <= per_turn <= COUNT_RANGE[1] * multiple


def _slow_repetition(blows: Transients, track: SpeedTrack, heard: BoolArray, *, trials: int) -> _Locked | None:
    """Blows in even steps where the speed is not known, one a turn.

    A step of random blows is as long as the one before, or double, within `EVEN` in `CHANCE_EVEN` of all cases (the
    ratio of two exponential variables): the number of even ones among all is binomial. One blow a turn is assumed: at
    slow turning two evenly spaced ones look like twice the rate.
    """
    found: list[_Window] = []
    smallest = 1.0
    for span in known_spans(~track.known & heard):
        inside = blows.between(float(track.t_s[span[0]]), float(track.t_s[span[-1]]))
        t_s, rise = blows.t_s[inside], blows.rise_db[inside]
        if t_s.size < FEWEST_EVEN_STEPS + 2:
            continue
        chains = _even_chains(t_s)
        even = sum(last - first - 1 for first, last, _ in chains)
        chance = trials * float(special.bdtrc(even - 1, t_s.size - 2, CHANCE_EVEN)) if even else 1.0
        if chance > SLOW_FALSE_ALARM or even < LEAST_EVEN_SHARE * (t_s.size - 2):
            continue
        smallest = min(smallest, chance)
        for first, last, missed in chains:
            turns = float(last - first + missed)
            rate = turns / float(t_s[last] - t_s[first])
            if last - first >= 3 and SLOW_RATES_HZ[0] < rate < SLOW_RATES_HZ[1]:
                # The chain gives the angle of each blow: a whole turn further than the one before.
                angles = np.zeros(last - first + 1)
                found.append(_judged(float(t_s[first]), float(t_s[last]), turns, angles, rise[first : last + 1]))
    if not found:
        return None
    return _Locked(windows=tuple(found), multiple=1, false_alarm=max(smallest, 1e-300))


def _even_chains(t_s: FloatArray) -> list[tuple[int, int, int]]:
    """Runs of even steps as (first blow, last blow, turns missed between); a step is double where one was missed."""
    steps = np.diff(t_s)
    out: list[tuple[int, int, int]] = []
    first, missed, turn = 0, 0, float(steps[0])
    for i in range(1, steps.size + 1):
        whole = round(steps[i] / turn) if i < steps.size else 0
        if 1 <= whole <= 2 and abs(steps[i] / (whole * turn) - 1.0) < EVEN:
            turn = float(steps[i]) / whole
            missed += whole - 1
            continue
        if i - first >= 2:
            out.append((first, i, missed))
        if i < steps.size:
            first, missed, turn = i, 0, float(steps[i])
    return out


def _profile(blows: Transients, window: _Window, track: SpeedTrack) -> FloatArray:
    """Mean level of the band over the turn in one window, above its median [shape=(CELLS,), dB]."""
    first = int((window.begin_s - blows.start_s) / blows.cell_s)
    last = int((window.end_s - blows.start_s) / blows.cell_s)
    level = blows.level_db[max(first, 0) : max(last, 0)]
    if level.size == 0:
        return np.zeros(CELLS)
    t_s = blows.start_s + (max(first, 0) + np.arange(level.size) + 0.5) * blows.cell_s
    known = bool(np.isfinite(track.at(t_s[[0, -1]])).all())
    turns = track.turns_at(t_s) if known else window.rate_hz * t_s
    cell = np.floor(np.mod(turns, 1.0) * CELLS).astype(int) % CELLS
    count = np.bincount(cell, minlength=CELLS)
    mean = np.bincount(cell, weights=level, minlength=CELLS) / np.maximum(count, 1)
    mean[count == 0] = float(np.median(level))
    return np.asarray(mean - np.median(mean))
