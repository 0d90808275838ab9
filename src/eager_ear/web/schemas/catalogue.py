"""Codes with their plain names."""

from __future__ import annotations

from pydantic import BaseModel

from eager_ear.core.diagnosis.knowledge import Widget


class CodeOut(BaseModel):
    code: str
    name: str


class LayoutOut(BaseModel):
    code: str
    name: str
    drum: str
    drive: str


class ValueOut(BaseModel):
    name: str
    kind: str
    label: str
    unit: str
    choices: list[str]
    low: float
    high: float
    count: list[int]


class CheckSpecOut(BaseModel):
    code: str
    name: str
    access: str
    access_words: str
    minutes: float
    layouts: list[str]
    how: str
    widget: Widget
    values: list[ValueOut]


class CatalogueOut(BaseModel):
    layouts: list[LayoutOut]
    symptoms: list[CodeOut]
    faults: list[CodeOut]
    checks: list[CheckSpecOut]
    bearings: list[str]
    positions: list[str]
    loads: list[str]
    tests: list[str]
    stages: list[str]
