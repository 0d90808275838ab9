"""Impacts that keep to an angle of the drum: by their own angles, or by ranks of the level.

Over windows of a dozen turns Rayleigh's test (Mardia & Jupp, Directional Statistics, section 6.3) asks whether the
angles of single impacts, or twice the angles, gather: m impacts a turn gather at the m-th multiple and at none below.
Impacts too weak to be counted one by one show in the ranks of the level over the turn (angle_ranks). Noise that swells
once a turn passes both, but not for a narrow peak.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle import SpeedTrack, known_spans
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.impacts.angle_ranks import CELLS, OPPOSITE, THIRDS, AngleRank, near_chance, rank_angles
from eager_ear.core.signals.impacts.transients import Transients
from eager_ear.core.units import BoolArray, FloatArray

# Once a turn, and twice: opposite paddles or two arms.
MULTIPLES = (1, 2)
# So few that a track wrong by half a percent keeps an impact within a sixteenth of a turn.
WINDOW_TURNS = 12
# With fewer no angle is rare enough to be no chance.
FEWEST_TURNS = 8
# Below it a turn takes longer than the speed is known for.
SLOWEST_HZ = 0.4
# Windows of like speed are judged together; one group in a million stands out by chance.
SPEED_GROUPS_HZ = (0.0, 1.2, 2.5, 5.0, 10.0, 16.0, 100.0)
FALSE_ALARM = 1e-6
# Noise that swells once a turn gathers as well, but over a wide range of angles: impacts at one and the same angle,
# within some 25 degrees, need less of a proof.
TIGHT_CONCENTRATION = 0.9
TIGHT_FALSE_ALARM = 1e-3
# Ranks search every angle and drift already: one range of speeds in a thousand stands out by chance. An impact must be
# the loudest of its neighbourhood in so many turns; noise that swells is so in a fifth of them at a typical angle, in a
# third at its crest. What is so far oftener than in a third is an impact, however wide.
RANK_FALSE_ALARM = 1e-3
LEAST_NEAR_SHARE = 0.45
# What is narrower than noise ever swells, and tied to the drum beyond doubt, need only be so in a third: where noise
# swells in ripples the same is seen at a chance of one in ten million.
NARROWEST_SWELL_TURNS = 0.09
NARROW_NEAR_SHARE = 1.0 / 3.0
NARROW_FALSE_ALARM = 1e-8
TYPICAL_NEAR_SHARE = 1.0 / 5.0
CREST_NEAR_SHARE = 1.0 / 3.0
CREST_FALSE_ALARM = 1e-2
SECOND_FALSE_ALARM = 1e-2
# What is the loudest a third of a turn further as well, as often but for a fifth, comes three times a turn or oftener.
OFTENER_SHARE = 0.8
OFTENER_FALSE_ALARM = 1e-6
# Mean resultant length of impacts that are tied to an angle, some scattered ones among them.
LEAST_CONCENTRATION = 0.5


@dataclass(frozen=True, kw_only=True)
class TurnWindow:
    """A dozen turns: impacts in them, and Rayleigh's z by multiple."""

    begin_s: float
    end_s: float
    rate_hz: float
    turns: float
    impacts: int
    z: tuple[float, ...]
    rise_db: float


@dataclass(frozen=True, kw_only=True)
class LockedImpacts:
    """Windows of like speed whose impacts keep to one angle (multiple 1) or two, and the chance that they do not.

    twice_false_alarm : chance that there is no second impact a turn; 1.0 where that has no chance of its own
    """

    windows: tuple[TurnWindow, ...]
    multiple: int
    false_alarm: float
    twice_false_alarm: float = 1.0


def turn_windows(track: SpeedTrack, heard: BoolArray) -> list[tuple[float, float]]:
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


def judge_window(impacts: Transients, begin_s: float, end_s: float, track: SpeedTrack) -> TurnWindow:
    """The impacts between two times, and how their angles gather."""
    inside = impacts.between(begin_s, end_s)
    turns = track.turns_at(np.array([begin_s, end_s]))
    angles = 2 * np.pi * track.turns_at(impacts.t_s[inside])
    return _judged(begin_s, end_s, float(turns[1] - turns[0]), angles, impacts.rise_db[inside])


def _judged(begin_s: float, end_s: float, turns: float, angles: FloatArray, rise_db: FloatArray) -> TurnWindow:
    count = angles.size
    z = tuple(float(np.abs(np.exp(1j * m * angles).sum()) ** 2) / count if count else 0.0 for m in MULTIPLES)
    return TurnWindow(
        begin_s=begin_s,
        end_s=end_s,
        rate_hz=turns / (end_s - begin_s),
        turns=turns,
        impacts=count,
        z=z,
        rise_db=float(np.median(rise_db)) if count else 0.0,
    )


def speed_ranks(impacts: Transients, track: SpeedTrack, heard: BoolArray) -> dict[int, AngleRank]:
    """The level's own test in every range of speeds that has turns enough."""
    usable = track.known & heard & (track.rate_hz > SLOWEST_HZ)
    groups = np.digitize(track.rate_hz, SPEED_GROUPS_HZ)
    found = {int(g): rank_angles(impacts, track=track, use=usable & (groups == g)) for g in np.unique(groups[usable])}
    return {g: rank for g, rank in found.items() if rank is not None}


def locked_groups(
    windows: list[TurnWindow],
    ranks: Mapping[int, AngleRank],
    *,
    widest_turns: float,
    trials: int,
) -> tuple[list[LockedImpacts], float]:
    """Speed groups in which impacts keep to an angle, and the smallest chance of a false alarm over all groups.

    Parameters
    ----------
    ranks : the level's own test in every range of speeds
    widest_turns : as much of a turn as an impact of this band may ring on for
    trials : bands looked at
    """
    tried = trials * (len(SPEED_GROUPS_HZ) - 1)
    groups = np.digitize([w.rate_hz for w in windows], SPEED_GROUPS_HZ)
    out: list[LockedImpacts] = []
    smallest = 1.0
    swells = any(_swells(rank, widest_turns=widest_turns, tried=tried) for rank in ranks.values())
    for group in np.unique(groups):
        members = [w for w, g in zip(windows, groups, strict=True) if g == group]
        rank = ranks.get(int(group))
        by_rank = _locked_by_rank(members, rank, widest_turns=widest_turns, tried=tried) if rank is not None else None
        if rank is not None and by_rank is None and _swells(rank, widest_turns=widest_turns, tried=tried):
            continue
        gathered, chance = _locked_by_angles(
            [w for w in members if w.impacts >= 3],
            tried=tried * len(MULTIPLES),
            tight=FALSE_ALARM if swells else TIGHT_FALSE_ALARM,
        )
        smallest = min(smallest, chance, by_rank.false_alarm if by_rank is not None else 1.0)
        out.extend(lock for lock in [gathered or by_rank] if lock is not None)
    return out, smallest


@gate("three a turn", harmless=lambda *_: False)
def come_oftener(ranks: Iterable[AngleRank]) -> bool:
    """Whether impacts come three times a turn or oftener in some range of speeds, beyond doubt: a bearing's."""
    return any(
        rank.third_near_share > OFTENER_SHARE * rank.near_share
        and THIRDS.size * near_chance(rank.third_near_share, rank.turns, TYPICAL_NEAR_SHARE) < OFTENER_FALSE_ALARM
        for rank in ranks
    )


@gate("swells", harmless=lambda *_, **__: False)
def _swells(rank: AngleRank, *, widest_turns: float, tried: int) -> bool:
    """Tied to the drum, but too wide for an impact."""
    return rank.width_turns > widest_turns and tried * rank.false_alarm < RANK_FALSE_ALARM


def _locked_by_rank(
    members: list[TurnWindow], rank: AngleRank, *, widest_turns: float, tried: int
) -> LockedImpacts | None:
    """The level's own verdict: a narrow part of the turn that stands out of all or of its neighbourhood."""
    # The angle was chosen by the whole turn: of its neighbourhood nothing was searched but the ranges of speed.
    crest = tried * near_chance(rank.near_share, rank.turns, CREST_NEAR_SHARE)
    alone = tried * rank.false_alarm
    nearby = tried * CELLS * near_chance(rank.near_share, rank.turns, TYPICAL_NEAR_SHARE)
    sharp = rank.width_turns <= NARROWEST_SWELL_TURNS and alone < NARROW_FALSE_ALARM
    least = NARROW_NEAR_SHARE if sharp else LEAST_NEAR_SHARE
    narrow = rank.width_turns <= widest_turns and rank.near_share >= least
    if _at_thirds(rank):
        return None
    if crest > CREST_FALSE_ALARM and not (narrow and min(alone, nearby) < RANK_FALSE_ALARM):
        return None
    chance = min(crest, alone, nearby)
    second = _elsewhere_as_well(rank.opposite_near_share, rank, positions=OPPOSITE.size)
    return LockedImpacts(
        windows=tuple(members),
        multiple=2 if second < SECOND_FALSE_ALARM else 1,
        false_alarm=max(chance, 1e-300),
        twice_false_alarm=second,
    )


@gate("thirds", harmless=lambda *_: False)
def _at_thirds(rank: AngleRank) -> bool:
    """Whether a third of a turn further it is the loudest of its neighbourhood as well: three a turn, or oftener."""
    return _elsewhere_as_well(rank.third_near_share, rank, positions=THIRDS.size) < SECOND_FALSE_ALARM


def _elsewhere_as_well(near_share: float, rank: AngleRank, *, positions: int) -> float:
    """Chance that another part of the turn is the loudest of its neighbourhood so often, if nothing is there.

    1.0 where it is so much seldomer than the first.
    """
    if near_share <= 0.5 * rank.near_share:
        return 1.0
    return min(1.0, positions * near_chance(near_share, rank.turns, TYPICAL_NEAR_SHARE))


def _locked_by_angles(members: list[TurnWindow], *, tried: int, tight: float) -> tuple[LockedImpacts | None, float]:
    """Rayleigh's test over windows of like speed, and the smallest chance of a false alarm.

    Parameters
    ----------
    tight : chance allowed for impacts at one and the same angle
    """
    smallest = 1.0
    best: tuple[float, LockedImpacts] | None = None
    for k, multiple in enumerate(MULTIPLES):
        if not members:
            continue
        total_z = sum(w.z[k] for w in members)
        concentration = np.sqrt(total_z / sum(w.impacts for w in members))
        if concentration < LEAST_CONCENTRATION:
            continue
        chance = max(float(scipy.special.gammaincc(len(members), total_z)) * tried, 1e-300)
        smallest = min(smallest, chance)
        # Impacts at one angle gather less when it is doubled: its scatter doubles. Those at two gather more.
        clear = chance < (FALSE_ALARM if concentration < TIGHT_CONCENTRATION else tight)
        if clear and (best is None or total_z > best[0]):
            best = total_z, LockedImpacts(windows=tuple(members), multiple=multiple, false_alarm=chance)
    return best[1] if best is not None else None, smallest
