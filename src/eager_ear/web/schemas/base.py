"""What all bodies share."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict


class Strict(BaseModel):
    """Refuses keys that do not belong there."""

    model_config = ConfigDict(extra="forbid")


class TableAskedOut(BaseModel):
    """A log whose columns cannot be guessed.

    A first line that names them answers it: it is written with `separator` and takes the place of `lines_before` lines.
    rows : its own names, empty where there are none, then its first rows; meant : t, x, y, z or empty for each column.
    """

    question: str
    rows: list[list[str]]
    meant: list[Literal["t", "x", "y", "z", ""]]
    separator: str
    lines_before: int
    in_archive: bool


class TroubleOut(BaseModel):
    """Every error: a code for programs, a sentence for people, and what more there is to it."""

    code: str
    message: str
    field: str | None = None
    received_bytes: int | None = None
    table: TableAskedOut | None = None
