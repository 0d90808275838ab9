"""What ended jobs count for, and what they teach: by hand, and on shops like all others and unlike them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
import pytest

from eager_ear.core.case import Case
from eager_ear.core.cost import Shop
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.posterior import hypotheses_for
from eager_ear.core.machine import Machine
from eager_ear.core.record import Outcome, cost_of_wrong, counts_of, share_between, standing_of, taught
from eager_ear.core.simulate.customer import story_of
from eager_ear.core.simulate.technician import Truth, hands_on
from eager_ear.core.weigh import Weighed, weigh
from eager_ear.verify.matching import MATCHING


def outcome(
    *faults: str,
    called: Mapping[str, float] | None = None,
    sure: bool = True,
    opened: bool = True,
    layout: str = "top_coupler",
    **more: Any,
) -> Outcome:
    return Outcome(
        job=more.pop("job", "j"),
        layout=layout,
        day=more.pop("day", date(2026, 3, 1)),
        outcome=more.pop("outcome", "mended"),
        faults=faults if sure else None,
        called=called or {"clutch": 0.8, "none": 0.2},
        advice="commit",
        opened=opened,
        **more,
    )


def test_a_job_counts_by_what_was_found_or_keeps_its_place() -> None:
    counts = counts_of(
        [
            outcome("clutch"),
            outcome("motor_coupler", "clutch"),
            outcome(sure=False),
            outcome("belt", layout="front_belt"),
            outcome("clutch", left_out="a neighbour’s machine was heard"),
        ]
    )
    assert counts.found["top_coupler"] == {"clutch": 2.0, "motor_coupler": 1.0}
    assert counts.visits == {"top_coupler": 3.0, "front_belt": 1.0}
    assert counts.unsure == {"top_coupler": 1.0}
    assert counts.found["front_belt"] == {"belt": 1.0}


def test_only_what_one_fault_showed_is_counted_for_its_column() -> None:
    level = {"coupler_state": np.array([0.1, 0.9])}
    counts = counts_of(
        [
            outcome("motor_coupler", levels=level),
            outcome("motor_coupler", levels=level),
            outcome("none", levels=level),
            outcome("motor_coupler", "clutch", levels=level),
            outcome(sure=False, levels=level),
        ]
    )
    np.testing.assert_allclose(counts.levels["coupler_state"]["motor_coupler"], [0.2, 1.8])
    np.testing.assert_allclose(counts.levels["coupler_state"]["none"], [0.1, 0.9])


def test_a_jeffreys_interval_by_hand() -> None:
    # The 5 and 95 % points of Beta(8.5, 2.5).
    part = share_between(8, 10)
    assert (part.low, part.high) == pytest.approx((0.5475, 0.9398), abs=2e-3)
    assert (share_between(0, 4).low, share_between(4, 4).high) == (0.0, 1.0)
    assert (share_between(0, 0).low, share_between(0, 0).high, share_between(0, 0).share) == (0.0, 1.0, None)


def test_a_standing_counts_what_it_names() -> None:
    standing = standing_of(
        [
            outcome("clutch", minutes=12.0),
            outcome("motor_coupler", minutes=20.0, again=True),
            outcome("none", called={"none": 0.9, "clutch": 0.1}, opened=False, outcome="no_fault"),
            outcome("motor_coupler", own_view=("motor_coupler",), by="ann"),
            outcome(sure=False),
            outcome("belt", left_out="not ours"),
        ]
    )
    assert (standing.ended, standing.known, standing.left_out) == (6, 4, 1)
    assert (standing.right.hits, standing.right.of) == (2, 4)
    assert (standing.own_right.hits, standing.own_right.of) == (1, 1)
    # Opened for the clutch and there was a coupler; the other was opened for what its technician thought.
    assert (standing.in_vain.hits, standing.in_vain.of) == (1, 3)
    assert (standing.again.hits, standing.again.of) == (1, 4)
    assert standing.minutes == 20.0
    assert {(t.found, t.called): t.count for t in standing.taken} == {
        ("motor_coupler", "clutch"): 2,
        ("clutch", "clutch"): 1,
        ("none", "none"): 1,
    }
    at = {t.chance: t.opened for t in standing.thresholds}
    assert (at[0.8].of, at[0.8].hits, at[0.9].of) == (3, 1, 0)
    assert [(o.name, o.right.of, o.in_vain.of) for o in standing.by_person] == [("ann", 1, 1)]
    [layout] = standing.by_layout
    assert (layout.right, layout.again, layout.minutes) == (standing.right, standing.again, 20.0)
    shop = Shop(currency="EUR", wrong_teardown=9000, visit=2500, hour=6000)
    cost = cost_of_wrong(standing, shop)
    # One opened in vain, and one that came back for the way and an hour.
    assert (cost.in_vain.minor, cost.again.minor, cost.total.minor) == (9000, 8500, 17500)
    assert sum(b.right.of for b in standing.bins) == 4


def test_nothing_ended_teaches_nothing(knowledge: Knowledge) -> None:
    assert taught(knowledge, []) is knowledge
    assert standing_of([]).right.of == 0


LAYOUT = "top_coupler"


Faults = tuple[str, ...]


class _Shop:
    """A shop whose machines have these faults so often, alone or two together: visits with their truth."""

    def __init__(self, odds: Mapping[str, float], *, seed: int, knowledge: Knowledge) -> None:
        drawn_from = hypotheses_for(LAYOUT, knowledge=replace(knowledge, odds={LAYOUT: odds}))
        self._sets, self._chances = drawn_from.sets, drawn_from.prior
        self._rng = np.random.default_rng(seed)
        self._knowledge = knowledge

    def visit(self) -> tuple[Faults, Case]:
        rng = self._rng
        faults = tuple(sorted(self._sets[int(rng.choice(len(self._sets), p=self._chances))]))
        truth = Truth(layout=LAYOUT, faults=faults, strength=float(rng.uniform(0.3, 1)))
        others = [str(c) for c in rng.choice(("rock", "hand_turn", "bounce", "residue", "agitator_ratchet"), 2, False)]
        matching = [MATCHING[f][0] for f in faults if f in MATCHING and rng.random() < 0.4]
        checks = [c for c in dict.fromkeys((*others, *matching)) if LAYOUT in self._knowledge.checks[c].layouts]
        story = story_of(truth, knowledge=self._knowledge, rng=rng)
        hands = hands_on(truth, checks, rng=rng)
        return faults or ("none",), Case(id="v", machine=Machine(layout=LAYOUT), checks=hands, symptoms=story)


def loss(cases: Sequence[tuple[Faults, Case]], knowledge: Knowledge) -> float:
    """Mean log loss of what was wrong [nats]."""

    def lost(faults: Faults, case: Case) -> float:
        chances = {s.fault: s.probability for s in weighed(case, knowledge).call.suspects}
        return float(np.mean([-np.log(chances[fault]) for fault in faults]))

    return float(np.mean([lost(faults, case) for faults, case in cases]))


def weighed(case: Case, knowledge: Knowledge) -> Weighed:
    return weigh(case, shown=(), knowledge=knowledge)


def learnt(cases: Sequence[tuple[Faults, Case]], knowledge: Knowledge) -> list[Outcome]:
    """Outcomes of those visits, one in four of which nobody looked into."""
    out = []
    for number, (faults, case) in enumerate(cases):
        call = weighed(case, knowledge).call
        levels = {
            r.finding.code: r.level_likelihood / r.level_likelihood.sum() for r in call.readings if r.source != "story"
        }
        chances = {s.fault: s.probability for s in call.suspects}
        out.append(outcome(*faults, called=chances, sure=number % 4 != 3, levels=levels))
    return out


@pytest.mark.slow
@pytest.mark.parametrize("kind", ["another shop", "the built-in shop"])
def test_a_shop_that_learns_is_soon_better_and_never_much_worse(knowledge: Knowledge, kind: str) -> None:
    built_in = knowledge.odds_of(LAYOUT)
    odds = {f: w * (6.0 if f in ("clutch", "gearcase_bearing", "pump_blocked") else 0.5) for f, w in built_in.items()}
    shop = _Shop(odds if kind == "another shop" else built_in, seed=5, knowledge=knowledge)
    taught_by, held_out = [shop.visit() for _ in range(120)], [shop.visit() for _ in range(70)]
    outcomes = learnt(taught_by, knowledge)
    before = loss(held_out, knowledge)
    after = {count: loss(held_out, taught(knowledge, outcomes[:count])) for count in (1, 20, 120)}
    assert max(after.values()) <= before + 0.02, (before, after)
    if kind == "another shop":
        assert after[120] < before - 0.05, (before, after)
