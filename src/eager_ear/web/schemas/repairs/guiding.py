"""What is asked while somebody is led through a proof; the answers are the core's own."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from eager_ear.core.proof import Act, ServiceSheet, Turn
from eager_ear.web.schemas.base import Strict

Words = Annotated[str, Field(max_length=500)]
Seconds = Annotated[float, Field(ge=0, le=600, allow_inf_nan=False)]
Litres = Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)]


class WetLoadIn(Strict):
    """cloth : a kind of cloth that the proof names."""

    cloth: Annotated[str, Field(max_length=40)]
    dry_litres: Litres
    rated_kg: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
    water_litres: Litres | None = None


class TurnIn(Strict):
    act: Act
    count: Annotated[int, Field(ge=0, le=60)] = 1
    seconds: Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)] = 0.0
    key: Annotated[str, Field(max_length=40)] = ""


class SheetIn(Strict):
    """Slots of a photographed service sheet."""

    layout: Annotated[str, Field(max_length=32)]
    name: Annotated[str, Field(min_length=1, max_length=120)]
    photo: Annotated[str, Field(max_length=36)] = ""
    enter: Annotated[list[TurnIn], Field(max_length=20)]
    settle_s: Seconds = 30.0
    before: Words = ""
    blocked_by: Words = ""
    time_limit_s: Annotated[float, Field(gt=0, le=600, allow_inf_nan=False)] | None = None
    confirm: Words = ""
    codes: Words = ""
    auto_test: Words = ""
    spin: Words = ""
    calibration: Words = ""
    calibration_min: Annotated[float, Field(gt=0, le=60, allow_inf_nan=False)] = 6.0
    start: Words = ""
    stop: Words = ""
    leave: Words = ""
    unlock_s: Seconds = 60.0

    def sheet(self) -> ServiceSheet:
        told = self.model_dump()
        return ServiceSheet(**{**told, "enter": tuple(Turn(**turn) for turn in told["enter"])})


class ChosenSheetIn(Strict):
    """The sheet that this machine goes by, None for none of those that are known."""

    sheet: Annotated[str, Field(max_length=36)] | None
