"""Codes with their plain names."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from eager_ear.core.diagnosis.knowledge import Act, Widget
from eager_ear.core.machine.layouts import Driven, Inside


class CodeOut(BaseModel):
    code: str
    name: str


class LayoutOut(BaseModel):
    """inside, driven : what is seen of it, by which it is recognised."""

    code: str
    name: str
    drum: Literal["front", "top"]
    drive: str
    inside: list[Inside]
    driven: list[Driven]


class SymptomOut(CodeOut):
    """phases : when it is told; heard_on : layouts on which an example of it can be heard, with what it comes from."""

    phases: list[str]
    heard_on: dict[str, str]


class ValueOut(BaseModel):
    name: str
    kind: str
    label: str
    unit: str
    choices: list[str]
    low: float
    high: float
    count: list[int]


class ScaleOut(BaseModel):
    """What a measured value is held against: the limits between neighbouring levels, in `unit`.

    limits_on : of layouts where they lie elsewhere
    """

    name: str
    unit: str
    levels: list[str]
    limits: list[float]
    limits_on: dict[str, list[float]]


class CheckSpecOut(BaseModel):
    """places : where hands go, by where the machine loads; act : what they do there; scales : of what is measured"""

    code: str
    name: str
    access: str
    access_words: str
    minutes: float
    layouts: list[str]
    how: str
    widget: Widget
    places: dict[str, str]
    act: Act
    scales: list[ScaleOut]
    values: list[ValueOut]


class FaultOut(BaseModel):
    """A fault by its short name, with the layouts that can have it."""

    code: str
    name: str
    layouts: list[str]


class PlateNumberOut(BaseModel):
    """A number of the machine that is typed: its limits, and what is usual, outside of which it is asked about."""

    low: float
    high: float
    usual_low: float
    usual_high: float


class IntakeRowOut(CodeOut):
    """A look at a machine that is taken in; told : the symptom that it is when it is bad."""

    how: str
    good: str
    bad: str
    why: str
    told: str | None


class GradeOut(CodeOut):
    says: str


class AgainOut(CodeOut):
    """A part that serves again, and the test that it has to pass."""

    test: str
    layouts: list[str]


class FigureOut(BaseModel):
    """How a figure of the result is made. rests_on : kinds of recordings; findings : that read it"""

    code: str
    name: str
    rests_on: list[str]
    how: str
    source: str
    good_to: str
    findings: list[str]


class NamesOut(BaseModel):
    """What codes in a diary are called, for whoever reads it. steps : by layout and id, as entries name them"""

    findings: dict[str, str]
    parts: dict[str, str]
    paths: dict[str, str]
    proofs: dict[str, str]
    steps: dict[str, str]


class CatalogueOut(BaseModel):
    """plate : numbers of the machine, by the case format's keys; heard_phases : with noises to hear, by layout"""

    layouts: list[LayoutOut]
    symptoms: list[SymptomOut]
    faults: list[FaultOut]
    checks: list[CheckSpecOut]
    bearings: list[str]
    plate: dict[str, PlateNumberOut]
    positions: list[str]
    loads: list[str]
    tests: list[str]
    stages: list[str]
    phases: list[str]
    heard_phases: dict[str, list[str]]
    intake: list[IntakeRowOut]
    grades: list[GradeOut]
    again: list[AgainOut]
    figures: list[FigureOut]
    names: NamesOut
    knowledge_version: str
