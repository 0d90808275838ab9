"""What a body of an entry may hold: a small language of fields, each of which reads one value or refuses it.

The same description is what the web shows as its schema, so that a field is described once.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from eager_ear.core.errors import BadField, UnknownCode

CODE = re.compile(r"[a-z0-9][a-z0-9_.:/-]{0,79}")
LONGEST_LIST = 500


@dataclass(frozen=True, kw_only=True)
class Text:
    """Well-formed text of at most `longest` characters."""

    longest: int
    shortest: int = 0

    def read(self, value: Any, *, field: str) -> str:
        text = well_formed(value, field=field)
        if len(text) > self.longest:
            raise BadField(field=field, reason=f"{len(text)} characters are more than {self.longest}.")
        if len(text.strip()) < self.shortest:
            raise BadField(field=field, reason="is empty.")
        return text


@dataclass(frozen=True, kw_only=True)
class Code:
    """One of `choices`; any well-formed code where those are not written down yet."""

    choices: tuple[str, ...] = ()

    def read(self, value: Any, *, field: str) -> str:
        text = well_formed(value, field=field)
        if self.choices and text not in self.choices:
            raise UnknownCode(field=field, value=text[:80], known=self.choices)
        if not CODE.fullmatch(text):
            raise BadField(field=field, reason=f"“{text[:80]}” is not a code.")
        return text


@dataclass(frozen=True, kw_only=True)
class Flag:
    """True or false; `only_true` where absence is the other answer."""

    only_true: bool = False

    def read(self, value: Any, *, field: str) -> bool:
        if not isinstance(value, bool):
            raise BadField(field=field, reason="is neither true nor false.")
        if self.only_true and not value:
            raise BadField(field=field, reason="is true or left out.")
        return value


@dataclass(frozen=True, kw_only=True)
class Number:
    """A finite number within limits."""

    low: float
    high: float
    whole: bool = False

    def read(self, value: Any, *, field: str) -> float | int:
        number = finite(value, field=field)
        if not self.low <= number <= self.high:
            raise BadField(field=field, reason=f"{number:g} is outside {self.low:g} to {self.high:g}.")
        if self.whole and number != int(number):
            raise BadField(field=field, reason=f"{number:g} is not a whole number.")
        return int(number) if self.whole else number


@dataclass(frozen=True, kw_only=True)
class Id:
    """A UUID in its usual spelling."""

    def read(self, value: Any, *, field: str) -> str:
        return uuid_text(value, field=field)


@dataclass(frozen=True, kw_only=True)
class Day:
    """A date, or a moment with its zone, as ISO 8601."""

    def read(self, value: Any, *, field: str) -> str:
        text = well_formed(value, field=field)
        try:
            if len(text) == len("2026-01-01"):
                return date.fromisoformat(text).isoformat()
            moment = datetime.fromisoformat(text)
        except ValueError as exc:
            raise BadField(field=field, reason=f"“{text[:40]}” is not a date.") from exc
        if moment.tzinfo is None:
            raise BadField(field=field, reason="a time needs its zone.")
        return moment.isoformat()


@dataclass(frozen=True, kw_only=True)
class Items:
    """A list of one kind of value."""

    of: Field
    fewest: int = 0

    def read(self, value: Any, *, field: str) -> list[Any]:
        if not isinstance(value, list) or not self.fewest <= len(value) <= LONGEST_LIST:
            raise BadField(field=field, reason=f"needs a list of {self.fewest} to {LONGEST_LIST}.")
        return [self.of.read(item, field=f"{field}.{i}") for i, item in enumerate(value)]


@dataclass(frozen=True, kw_only=True)
class Record:
    """An object with these keys and no others; those in `needs` have to be there. None counts as left out."""

    keys: Mapping[str, Field]
    needs: tuple[str, ...] = ()

    def read(self, value: Any, *, field: str) -> dict[str, Any]:
        if not isinstance(value, Mapping):
            raise BadField(field=field, reason="is not an object with keys.")
        unknown = sorted(str(key) for key in value if key not in self.keys)
        if unknown:
            raise BadField(field=_within(field, unknown[0][:80]), reason="is not a key that belongs here.")
        missing = [key for key in self.needs if value.get(key) is None]
        if missing:
            raise BadField(field=_within(field, missing[0]), reason="is missing.")
        return {
            key: known.read(value[key], field=_within(field, key))
            for key, known in self.keys.items()
            if value.get(key) is not None or (key in value and isinstance(known, Clearable))
        }


@dataclass(frozen=True, kw_only=True)
class Clearable:
    """A fact that may be taken back by null: it is then not known any more."""

    of: Field

    def read(self, value: Any, *, field: str) -> Any:
        return None if value is None else self.of.read(value, field=field)


@dataclass(frozen=True, kw_only=True)
class AnyValues:
    """Values that are checked elsewhere, such as those of a hand check: an object of plain data."""

    def read(self, value: Any, *, field: str) -> dict[str, Any]:
        if not isinstance(value, Mapping):
            raise BadField(field=field, reason="is not an object with keys.")
        _plain(value, field=field, depth=0)
        return dict(value)


Field = Text | Code | Flag | Number | Id | Day | Items | Record | Clearable | AnyValues


def well_formed(value: Any, *, field: str) -> str:
    """A text that can be stored and shown: no lone surrogates, no zero bytes. Raises BadField."""
    if not isinstance(value, str):
        raise BadField(field=field, reason="is not a text.")
    if any("\ud800" <= c <= "\udfff" or c == "\0" for c in value):
        raise BadField(field=field, reason="holds characters that are no text.")
    return value


def finite(value: Any, *, field: str) -> float:
    """A finite number. Raises BadField, also for whole numbers too large for a float."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise BadField(field=field, reason="is not a number.")
    try:
        number = float(value)
    except OverflowError as exc:
        raise BadField(field=field, reason="is too large a number.") from exc
    if not math.isfinite(number):
        raise BadField(field=field, reason="is not a finite number.")
    return number


def uuid_text(value: Any, *, field: str) -> str:
    """A UUID in lower case with its dashes. Raises BadField."""
    text = well_formed(value, field=field)
    try:
        found = UUID(text)
    except ValueError as exc:
        raise BadField(field=field, reason=f"“{text[:60]}” is not a UUID.") from exc
    if str(found) != text.lower():
        raise BadField(field=field, reason=f"“{text[:60]}” is not a UUID in its usual spelling.")
    return str(found)


def _within(field: str, key: str) -> str:
    return f"{field}.{key}" if field else key


def _plain(value: Any, *, field: str, depth: int) -> None:
    if depth > 6:
        raise BadField(field=field, reason="is nested too deeply.")
    if isinstance(value, str):
        if len(well_formed(value, field=field)) > 2000:
            raise BadField(field=field, reason="is too long a text.")
    elif isinstance(value, Mapping):
        if len(value) > LONGEST_LIST:
            raise BadField(field=field, reason="has too many keys.")
        for key, item in value.items():
            _plain(item, field=_within(field, well_formed(key, field=field)[:80]), depth=depth + 1)
    elif isinstance(value, list):
        if len(value) > LONGEST_LIST:
            raise BadField(field=field, reason="is too long a list.")
        for item in value:
            _plain(item, field=field, depth=depth + 1)
    elif value is not None and not isinstance(value, bool):
        finite(value, field=field)
