"""The grade of a machine without a customer, and every reason that it is no better."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from eager_ear.core.repair import GRADES, StockRules

BEST, MARKED, WORD, PARTS = GRADES
BAD, GOOD = "bad", "good"
# Past this share of its expected life a machine is sold as looking its age.
YOUNG_SHARE = 0.5


@dataclass(frozen=True, kw_only=True)
class Graded:
    """why : what keeps it from the grade above, in words; empty for the best."""

    code: str
    why: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class State:
    """What is known of a machine that was taken in.

    intake : results by the rows' codes; unmended : names of faults that are likely and were not mended
    proved : None where nothing was repaired, else whether all proofs were run and passed
    """

    intake: Mapping[str, str]
    unmended: tuple[str, ...]
    proved: bool | None
    workaround: bool
    age_years: float | None


def grade_of(state: State, *, rules: StockRules, life_years: float) -> Graded:
    """The best grade that nothing speaks against.

    Parameters
    ----------
    life_years : what the shop expects of a washer
    """
    against = [*_no_run(state, rules), *_with_a_word(state, rules), *_marked(state, rules, life_years)]
    if not against:
        return Graded(code=BEST, why=())
    worst = max((code for code, _ in against), key=GRADES.index)
    return Graded(code=worst, why=tuple(why for code, why in against if code == worst))


def mended(state: State, *, rules: StockRules, workaround: bool) -> State:
    """The machine as it would stand once what is likely was mended and proved, and every look was made."""
    intake = {row.code: GOOD if row.works else state.intake.get(row.code, GOOD) for row in rules.intake}
    return State(intake=intake, unmended=(), proved=True, workaround=workaround, age_years=state.age_years)


def _no_run(state: State, rules: StockRules) -> Sequence[tuple[str, str]]:
    return [
        (PARTS, f"{row.name}: {row.bad}") for row in rules.intake if row.works and state.intake.get(row.code) == BAD
    ]


def _with_a_word(state: State, rules: StockRules) -> Sequence[tuple[str, str]]:
    out = [(WORD, f"{name}: not mended") for name in state.unmended]
    out += [
        (WORD, f"{row.name}: not looked at")
        for row in rules.intake
        if row.works and state.intake.get(row.code) not in (GOOD, BAD)
    ]
    if state.proved is False:
        out.append((WORD, "A proof is missing, or failed"))
    if state.workaround:
        out.append((WORD, "Mended with a workaround"))
    return out


def _marked(state: State, rules: StockRules, life_years: float) -> Sequence[tuple[str, str]]:
    out = [
        (MARKED, f"{row.name}: {row.bad if state.intake.get(row.code) == BAD else 'not looked at'}")
        for row in rules.intake
        if not row.works and state.intake.get(row.code) != GOOD
    ]
    if state.age_years is None:
        out.append((MARKED, "Its age is not known"))
    elif state.age_years > YOUNG_SHARE * life_years:
        out.append((MARKED, f"{state.age_years:g} years, past half of {life_years:g}"))
    return out
