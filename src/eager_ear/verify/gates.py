"""What each gate of the measuring core is worth: the same draws measured with it, and without it.

A gate is looked at where it shut. What a draw is worth: of the turning above 60 rpm the part that is known right, less
the part that is known wrong; and one more for impacts counted right, one less for impacts counted wrong.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.signals.gates import GATES, watched
from eager_ear.verify.draws import Draw
from eager_ear.verify.score import WRONG_ERROR, CaseScore, score_case

RIGHT_ERROR = 0.02
# Less than this changes no figure of a page of some hundred draws.
LEAST_CHANGE = 0.02


@dataclass(frozen=True, kw_only=True)
class GateScore:
    """What the gates that shut in one draw changed in its worth: by what is kept shut against what is let through."""

    seed: int
    gained: Mapping[str, float]


@dataclass(frozen=True, kw_only=True)
class GateWorth:
    """One gate over many draws: in how many it shut, helped and hurt, and what it gained a hundred draws in all."""

    name: str
    purpose: str
    shut: int
    helped: int
    hurt: int
    gained: float


def score_gates(draw: Draw, *, knowledge: Knowledge) -> GateScore:
    """Measure a draw, and once more without each gate that shut."""
    with watched() as watch:
        kept = worth(score_case(draw, knowledge=knowledge))
    gained: dict[str, float] = {}
    for name in sorted(watch.shut):
        with watched(opened=[name]):
            gained[name] = kept - worth(score_case(draw, knowledge=knowledge))
    return GateScore(seed=draw.seed, gained=gained)


def worth(score: CaseScore) -> float:
    """Known right less known wrong, between -2 and 2."""
    errors = np.abs(np.array(score.speed_errors))
    speed = -1.0 if score.false_rotation else 0.0
    if errors.size and score.speed_known_share is not None:
        right, wrong = float((errors < RIGHT_ERROR).mean()), float((errors > WRONG_ERROR).mean())
        speed = score.speed_known_share * (right - wrong)
    impacts = score.errors.get("impacts")
    return speed + (0.0 if impacts is None else 1.0 if abs(impacts) < 0.5 else -1.0)


def gate_worths(scores: Sequence[GateScore]) -> list[GateWorth]:
    """Every gate, those that gain most first."""
    found = [_worth_of(name, purpose, scores) for name, purpose in GATES.items()]
    return sorted(found, key=lambda gate: -gate.gained)


def _worth_of(name: str, purpose: str, scores: Sequence[GateScore]) -> GateWorth:
    gains = np.array([score.gained[name] for score in scores if name in score.gained])
    return GateWorth(
        name=name,
        purpose=purpose,
        shut=gains.size,
        helped=int((gains > LEAST_CHANGE).sum()),
        hurt=int((gains < -LEAST_CHANGE).sum()),
        gained=100.0 * float(gains.sum()) / max(len(scores), 1),
    )


INTRODUCTION = """# What each gate is worth

Made by `./ear verify --gates`; not written by hand. A gate is a rule that holds back what a search has found. {draws}
mixed draws by each physics, seeds from {first}, were measured as they are, and once more without each gate that shut.
*Helped* and *hurt* count the draws that are better, or worse, with the gate by two hundredths or more of this sum: of
the turning above 60 rpm the part that is known within 2 %, less the part that is wrong by more than 5 %; one for
impacts counted right, less one for impacts counted wrong. *Gained* is the sum over all draws, a hundred of them. A gate
that gains by neither physics is taken out.

| gate | what for | our physics: shut | helped | hurt | gained | other physics: shut | helped | hurt | gained |
|---|---|---|---|---|---|---|---|---|---|
"""


def write_gates(ours: Sequence[GateScore], other: Sequence[GateScore], *, first_seed: int) -> str:
    """The page, as Markdown."""
    elsewhere = {gate.name: gate for gate in gate_worths(other)}
    rows = [
        f"| {gate.name} | {gate.purpose} | {_cells(gate)} | {_cells(elsewhere[gate.name])} |"
        for gate in sorted(gate_worths(ours), key=lambda g: -(g.gained + elsewhere[g.name].gained))
    ]
    return INTRODUCTION.format(draws=len(ours), first=first_seed) + "\n".join(rows) + "\n"


def _cells(gate: GateWorth) -> str:
    return f"{gate.shut} | {gate.helped} | {gate.hurt} | {gate.gained:+.1f}"
