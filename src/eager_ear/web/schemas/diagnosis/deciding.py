"""The sum behind the advice, as the interface draws it."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from eager_ear.core.cost import Money
from eager_ear.core.diagnosis import BETWEEN_CHECKS_MIN, Knowledge
from eager_ear.use_cases.diagnosis.deciding import Decided
from eager_ear.web.schemas.base import Strict
from eager_ear.web.schemas.diagnosis.results import SuspectOut


class DecisionIn(Strict):
    """tried : settings of the shop, to see what would follow; nothing is kept."""

    tried: dict[str, Any] = Field(default={})


class WhatIfOut(BaseModel):
    """A call that would be: its sentence, what to do then, and who would stand where."""

    headline: str
    advice: str
    suspects: list[SuspectOut]


class ChoiceOut(BaseModel):
    """One thing to do now. spent : what it takes anyway; lost : what being wrong costs, weighted by its chance."""

    action: str
    fault: str | None
    check: str | None
    name: str
    wrong: float
    minutes: float
    spent: Money
    lost: Money
    total: Money


class FirstOut(BaseModel):
    code: str
    name: str


class DecisionOut(BaseModel):
    """Choices, the cheapest first; first : checks that come before opening whatever the sum says.

    between_min : what every check takes besides its own minutes
    """

    advice: str
    choices: list[ChoiceOut]
    first: list[FirstOut]
    why_first: str
    hour: Money
    wrong_teardown: Money
    between_min: float

    @classmethod
    def of(cls, decided: Decided, *, knowledge: Knowledge) -> DecisionOut:
        decision, shop = decided.decision, decided.shop
        return cls(
            advice=decided.advice,
            choices=[
                ChoiceOut(
                    action=c.action,
                    fault=c.fault,
                    check=c.check,
                    name=c.name,
                    wrong=c.wrong,
                    minutes=c.spent_min,
                    spent=decided.money(c.spent_min),
                    lost=decided.money(c.lost_min),
                    total=decided.money(c.total_min),
                )
                for c in decision.choices
            ],
            first=[FirstOut(code=code, name=knowledge.checks[code].name) for code in decision.first],
            why_first=decision.why_first,
            hour=shop.money(shop.hour),
            wrong_teardown=shop.money(shop.wrong_teardown),
            between_min=BETWEEN_CHECKS_MIN,
        )
