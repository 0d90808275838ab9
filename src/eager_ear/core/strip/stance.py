"""How a machine can be gone at: postures, helpers and variants that change its plan, each with what it would take."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from eager_ear.core.repair import VARIANTS, Path, Repair, Setting
from eager_ear.core.strip.closure import NoSuchWay
from eager_ear.core.strip.plan import make_plan

POSTURE, PEOPLE = "posture", "people"
BELOW_A_DRYER = "stacked"
# On a bench stands what came out; nobody begins there.
NOT_AT_FIRST = (BELOW_A_DRYER, "bench")
HANDS = (1, 2)


@dataclass(frozen=True, kw_only=True)
class Way:
    """One answer to one question about how the machine stands. question : posture, people, or a group of variants.

    minutes : the least that the plan takes so; tippings : of the machine
    """

    question: str
    answer: str
    minutes: float
    tippings: int
    chosen: bool


def told_setting(told: Mapping[str, Any], *, setting: Setting) -> Setting:
    """The shop's setting with what somebody said at the machine. told : answers by their questions"""
    variants = frozenset(str(told[group]) for group in VARIANTS if told.get(group))
    return replace(
        setting,
        people=int(told.get(PEOPLE) or setting.people),
        posture=setting.posture if setting.posture == BELOW_A_DRYER else told.get(POSTURE) or setting.posture,
        variants=variants,
    )


def ways_to_stand(paths: Sequence[Path], *, setting: Setting, repair: Repair, factor: float) -> tuple[Way, ...]:
    """Every question that changes this plan, with all answers to it that lead to a plan."""
    out: list[Way] = []
    codes = tuple(path.id for path in paths)
    for question, answers in _questions(paths, setting, repair):
        planned = [(answer, plan) for answer, asked in answers if (plan := _outlined(codes, asked, repair)) is not None]
        if len({plan for _, plan in planned}) < 2:
            continue
        said = _said(question, setting)
        out += [
            Way(
                question=question,
                answer=answer,
                minutes=round(plan.minutes * factor, 1),
                tippings=plan.tippings,
                chosen=answer == said,
            )
            for answer, plan in planned
        ]
    return tuple(out)


@dataclass(frozen=True)
class _Outline:
    """What tells one plan from another. minutes : of practised hands"""

    steps: tuple[str, ...]
    minutes: float
    tippings: int


@lru_cache(maxsize=2048)
def _outlined(codes: tuple[str, ...], setting: Setting, repair: Repair) -> _Outline | None:
    """The same few repairs are asked for again and again while somebody works at them."""
    try:
        plan = make_plan([repair.paths[code] for code in codes], setting=setting, repair=repair)
    except NoSuchWay:
        return None
    steps = tuple(p.step.id for p in (*plan.off, *plan.fit, *plan.on) if p.step)
    return _Outline(steps=steps, minutes=plan.minutes[0], tippings=plan.tippings)


def _questions(
    paths: Sequence[Path], setting: Setting, repair: Repair
) -> Iterator[tuple[str, list[tuple[str, Setting]]]]:
    if setting.posture != BELOW_A_DRYER:
        named = {code for path in paths for code in path.postures}
        codes = [code for code in repair.postures if code in named and code not in NOT_AT_FIRST]
        yield POSTURE, [(code, replace(setting, posture=code)) for code in codes]
    yield PEOPLE, [(str(hands), replace(setting, people=hands)) for hands in HANDS]
    decisive = {need.when for step in repair.steps_of(setting.layout).values() for need in step.needs}
    decisive |= {step.no_way_back_if for step in repair.steps_of(setting.layout).values()}
    for group, variants in VARIANTS.items():
        if not decisive & set(variants):
            continue
        others = setting.variants - set(variants)
        yield group, [(code, replace(setting, variants=others | {code})) for code in variants]


def _said(question: str, setting: Setting) -> str | None:
    """The present answer; None where nobody said how it is to stand."""
    if question == POSTURE:
        return setting.posture
    if question == PEOPLE:
        return str(setting.people)
    group = VARIANTS[question]
    return next((code for code in group if code in setting.variants), group[0])
