"""Machines without a customer, as their file tells them: looks at intake, grades, parts that serve again."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

# The grades from the best to the worst, by their codes.
GRADES = ("A", "B", "C", "parts")


@dataclass(frozen=True, kw_only=True)
class IntakeRow:
    """One look at a machine that is taken in. works : whether it may not be sold as long as this is bad.

    told : the symptom that it is when it is bad, None where it is none
    """

    code: str
    name: str
    how: str
    good: str
    bad: str
    works: bool
    why: str
    told: str | None = None


@dataclass(frozen=True, kw_only=True)
class Grade:
    """share : of the price of the best grade"""

    code: str
    name: str
    says: str
    share: float
    reason: str


@dataclass(frozen=True, kw_only=True)
class Use:
    """How hard a machine was used. hours_a_load : that its drum, pump and control run; loads_a_week : usual answers"""

    hours_a_load: float
    loads_a_week: tuple[int, ...]
    reason: str


@dataclass(frozen=True, kw_only=True)
class StockRules:
    """again : parts that serve again, with the test that each has to pass."""

    intake: tuple[IntakeRow, ...]
    grades: Mapping[str, Grade]
    again: Mapping[str, str]
    use: Use


def stock_rules_of(table: Mapping[str, Any]) -> StockRules:
    """The rules from their file."""
    return StockRules(
        intake=tuple(IntakeRow(**row) for row in table["intake"]),
        grades={row["code"]: Grade(**row) for row in table["grade"]},
        again={row["part"]: row["test"] for row in table["again"]},
        use=Use(**{**table["use"], "loads_a_week": tuple(table["use"]["loads_a_week"])}),
    )


def stock_misfits(rules: StockRules, *, parts: Collection[str], symptoms: Collection[str]) -> Iterator[str]:
    """What the rules name and nobody knows, as sentences; grades that do not fall."""
    for row in rules.intake:
        if row.told is not None and row.told not in symptoms:
            yield f"intake {row.code} is the unknown symptom {row.told}"
    for part in sorted(set(rules.again) - set(parts)):
        yield f"the unknown part {part} is said to serve again"
    if tuple(rules.grades) != GRADES:
        yield f"grades are {', '.join(rules.grades)} instead of {', '.join(GRADES)}"
    shares = [grade.share for grade in rules.grades.values()]
    if shares != sorted(shares, reverse=True) or not all(0 <= share <= 1 for share in shares):
        yield "a worse grade is worth more than a better one"
