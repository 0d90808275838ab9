"""Whole visits whose truth is known, and how good the call is on them.

Each draw is one machine with none, one or two faults, recorded by our own simulator or by the other physics; a
technician's hands and a customer's words come from `core/simulate/`. The recordings are measured once;
then the same visit is weighed with all of it, with hands only, with the deciding check only, with recordings only, and
walked: check after check in the recommended order until there is a decision.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence import Shown
from eager_ear.core.diagnosis.next_check import minutes_of, opened_by
from eager_ear.core.machine import LAYOUT_CODES, Machine, find_layout
from eager_ear.core.measure import measure_recordings, runs_of
from eager_ear.core.simulate import SIMULATED_FAULTS, draw_washer, record_washer
from eager_ear.core.simulate.customer import story_of
from eager_ear.core.simulate.scenario import OUR_PHYSICS
from eager_ear.core.simulate.technician import Truth, hands_on
from eager_ear.core.weigh import Weighed, weigh
from eager_ear.verify.matching import DECISIVE, HEARD, MATCHING
from eager_ear.verify.other_physics import OTHER_PHYSICS

SOUND_SHARE, PAIR_SHARE = 0.15, 0.12
# Nobody makes more checks than this before deciding something.
MOST_CHECKS = 12
# What a technician without the product works through, as far as the layout has it.
FIXED_LIST = (
    "rock",
    "hand_turn",
    "bounce",
    "drum_lift_play",
    "drum_gap_round",
    "corner_rest",
    "sag",
    "foreign_sweep",
    "hold_and_twist",
    "agitator_ratchet",
    "load_seen",
    "shift_sound",
    "residue",
    "belt_look",
    "hose_clips",
    "counterweight",
    "spring_seats",
    "lid_switch_ohms",
    "capacitor_uf",
    "pump_clear",
    "coupler_look",
    "collar_look",
    "hub_look",
    "gearcase_turns",
    "drive_block_look",
    "clutch_look",
    "staged_fill",
    "hot_cutout",
)


@dataclass(frozen=True, kw_only=True)
class Visit:
    """One drawn visit, its recordings already measured. physics : "ours" or "other"."""

    seed: int
    physics: str
    truth: Truth
    machine: Machine
    shown: tuple[Shown, ...]
    hands: tuple[HandCheck, ...]
    story: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Judged:
    """What one weighing said, beside the truth. `named` : suspects, the likeliest first."""

    named: tuple[str, ...]
    first_chance: float
    advice: str
    opened_for: str | None

    def first_right(self, faults: Sequence[str]) -> bool:
        return self.named[0] in (faults or ("none",))


@dataclass(frozen=True, kw_only=True)
class CallScore:
    """One visit weighed in every way. minutes : until a decision, by the recommended order and by the fixed list."""

    seed: int
    physics: str
    layout: str
    faults: tuple[str, ...]
    by: dict[str, Judged] = field(default_factory=dict)
    minutes: tuple[float, float] | None = None


def drawn_truth(seed: int, *, knowledge: Knowledge) -> Truth:
    """Any layout; nothing, one fault or two, each as likely as any other."""
    rng = np.random.default_rng([seed, 7])
    layout = str(rng.choice(LAYOUT_CODES))
    possible = [f.code for f in knowledge.faults_of(layout) if f.code in MATCHING and f.code != "none"]
    one = 1.0 - SOUND_SHARE - PAIR_SHARE
    count = int(rng.choice([0, 1, 2], p=[SOUND_SHARE, one, PAIR_SHARE]))
    faults = tuple(str(f) for f in rng.choice(possible, size=count, replace=False))
    return Truth(layout=layout, faults=faults, strength=float(rng.uniform(0.3, 1.0)))


def visit(seed: int, *, knowledge: Knowledge, recorded: bool = True, ours: bool | None = None) -> Visit:
    """The visit of that seed.

    Parameters
    ----------
    recorded : whether the spin is made and measured, which takes seconds
    ours : by our own physics; where it is not told, odd seeds are by the other
    """
    truth = drawn_truth(seed, knowledge=knowledge)
    rng = np.random.default_rng([seed, 8])
    other = seed % 2 == 1 if ours is None else not ours
    mimicked = [f for f in truth.faults if f in SIMULATED_FAULTS]
    washer = draw_washer(find_layout(truth.layout), faults=mimicked, strength=truth.strength, rng=rng)
    shown: tuple[Shown, ...] = ()
    machine = Machine(layout=truth.layout)
    if recorded:
        physics = OTHER_PHYSICS if other else OUR_PHYSICS
        case = record_washer(washer, rng=rng, name=f"visit-{seed}", rough=True, physics=physics).case
        machine = case.machine
        shown = tuple(
            measure_recordings(recordings, machine=machine, knowledge=knowledge).shown
            for recordings in runs_of(case.recordings).values()
        )
    by_hand = np.random.default_rng([seed, 9])
    checks = [c for f in truth.faults or ("none",) for c in MATCHING[f] if _possible(c, truth.layout, knowledge)]
    return Visit(
        seed=seed,
        physics="other" if other else "ours",
        truth=truth,
        machine=machine,
        shown=shown,
        hands=hands_on(truth, list(dict.fromkeys(checks)), rng=by_hand),
        story=story_of(truth, knowledge=knowledge, rng=by_hand),
    )


def _possible(check: str, layout: str, knowledge: Knowledge) -> bool:
    return layout in knowledge.checks[check].layouts


def score_visit(visit: Visit, *, knowledge: Knowledge, ways: Sequence[str] = ()) -> CallScore:
    """Weigh one visit in every way that it allows, or in those named."""
    faults = visit.truth.faults
    by: dict[str, Judged] = {}

    def judge(way: str, *, shown: Sequence[Shown], checks: Sequence[HandCheck], story: Sequence[str]) -> None:
        if not ways or way in ways:
            by[way] = _judged(_weighed(visit, shown, checks, story, knowledge))

    if visit.shown:
        judge("both", shown=visit.shown, checks=visit.hands, story=visit.story)
        judge("recordings", shown=visit.shown, checks=(), story=())
    judge("hands", shown=(), checks=visit.hands, story=visit.story)
    if len(faults) == 1 and faults[0] in DECISIVE:
        judge("decisive", shown=(), checks=visit.hands[:1], story=())
    minutes = None
    if visit.shown and (not ways or "walked" in ways):
        by["walked"], walked_min = _walked(visit, knowledge=knowledge, fixed=())
        minutes = (walked_min, _walked(visit, knowledge=knowledge, fixed=FIXED_LIST)[1])
    return CallScore(
        seed=visit.seed, physics=visit.physics, layout=visit.truth.layout, faults=faults, by=by, minutes=minutes
    )


def can_be_heard(faults: Sequence[str]) -> bool:
    """Whether a phone beside the machine can tell all of them."""
    return bool(faults) and set(faults) <= set(HEARD)


def _weighed(
    visit: Visit, shown: Sequence[Shown], checks: Sequence[HandCheck], story: Sequence[str], knowledge: Knowledge
) -> Weighed:
    case = Case(id="visit", machine=visit.machine, checks=tuple(checks), symptoms=tuple(story))
    return weigh(case, shown=shown, knowledge=knowledge)


def _judged(weighed: Weighed) -> Judged:
    call = weighed.call
    return Judged(
        named=tuple(s.fault for s in call.suspects),
        first_chance=call.suspects[0].probability,
        advice=call.advice,
        opened_for=call.decision.choices[0].fault if call.advice == "commit" else None,
    )


def _walked(visit: Visit, *, knowledge: Knowledge, fixed: Sequence[str]) -> tuple[Judged, float]:
    """From recordings and story on, one check after the other until the call says something else than to go on.

    Returns the last call and the minutes of all checks made, in the recommended order or in a fixed one.
    """
    rng = np.random.default_rng([visit.seed, 10])
    checks: list[HandCheck] = []
    listed = [c for c in fixed if _possible(c, visit.truth.layout, knowledge)]
    spent = 0.0
    while True:
        weighed = _weighed(visit, visit.shown, checks, visit.story, knowledge)
        left = listed[len(checks) :] if fixed else [c.check for c in weighed.call.next_checks]
        decided = weighed.call.advice in ("commit", "no_teardown")
        if decided or not left or (not fixed and len(checks) >= MOST_CHECKS):
            return _judged(weighed), spent
        code = left[0]
        opened = opened_by([made.check for made in checks], knowledge=knowledge)
        spent += minutes_of(knowledge.checks[code], opened=opened)
        checks.extend(hands_on(visit.truth, [code], rng=rng))
