"""A fault as the knowledge tells it, named for people."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import BaseModel

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.library import FaultPage, Separator
from eager_ear.core.repair import Path, Setting
from eager_ear.core.strip import make_plan


class SignOut(BaseModel):
    """chance, calm : how often with the fault and on a sound machine"""

    finding: str
    name: str
    level: str
    chance: float
    calm: float
    check: str | None
    reason: str


class SeparatorOut(BaseModel):
    """one, other : what each of the two would most probably show"""

    finding: str
    name: str
    check: str | None
    one: str
    other: str


class LookAlikeOut(BaseModel):
    fault: str
    name: str
    separators: list[SeparatorOut]


class ToldOut(BaseModel):
    symptom: str
    name: str
    chance: float


class MendedOut(BaseModel):
    name: str
    least_min: float
    most_min: float


class FaultPageOut(BaseModel):
    """sounds : it can be heard by simulation; place : where in the machine it is, by the drawing's words
    first : what comes before a teardown by rule, with its reason
    """

    fault: str
    name: str
    layout: str
    sounds: bool
    place: str
    signs: list[SignOut]
    told: list[ToldOut]
    look_alikes: list[LookAlikeOut]
    mended: list[MendedOut]
    first: str

    @classmethod
    def of(cls, page: FaultPage, *, sounds: bool, knowledge: Knowledge) -> FaultPageOut:
        fault = knowledge.faults[page.fault]
        paths = knowledge.repair.paths_of(page.fault, layout=page.layout)
        applies = fault.first is not None and page.layout in fault.first.layouts
        return cls(
            fault=page.fault,
            name=fault.name,
            layout=page.layout,
            sounds=sounds,
            place=_place_of(paths, page.layout, knowledge),
            signs=[SignOut(**vars(sign)) for sign in page.signs],
            told=[ToldOut(symptom=s, name=knowledge.symptoms[s].name, chance=c) for s, c in page.told],
            look_alikes=[
                LookAlikeOut(
                    fault=alike.fault,
                    name=knowledge.faults[alike.fault].short,
                    separators=[separator_out(s) for s in alike.separators],
                )
                for alike in page.look_alikes
            ],
            mended=[MendedOut(name=path.name, least_min=path.minutes[0], most_min=path.minutes[1]) for path in paths],
            first=fault.first.why if fault.first is not None and applies else "",
        )


def _place_of(paths: Sequence[Path], layout: str, knowledge: Knowledge) -> str:
    """Where the last step before mending is done."""
    if not paths:
        return "whole"
    plan = make_plan(paths[:1], setting=Setting(layout=layout), repair=knowledge.repair)
    places = [p.step.place for p in (*plan.off, *plan.fit) if p.step is not None and p.step.place]
    return places[-1] if places else "whole"


class ApartOut(BaseModel):
    separators: list[SeparatorOut]


def separator_out(separator: Separator) -> SeparatorOut:
    return SeparatorOut(
        finding=separator.finding,
        name=separator.name,
        check=separator.check,
        one=separator.one,
        other=separator.other,
    )
