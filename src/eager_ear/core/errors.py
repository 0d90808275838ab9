"""Errors of the core. Each has a stable `code`, typed facts, and a sentence made from the facts.

CoreError
├── InputError                what was handed in cannot be used
│   ├── UnknownCode           a code that the case format does not know
│   ├── BadField              a field with a value of the wrong kind or out of range
│   └── BadSignal             samples that cannot be a recording
└── NotMeasurable             a quantity that these recordings cannot give; carries the reason
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any, ClassVar


def sayable(text: str) -> str:
    """The text as it can be written anywhere: what is half a letter is shown as such.

    >>> sayable("a\\ud800b")
    'a?b'
    """
    return text.encode("utf-8", "replace").decode("utf-8")


def _rebuild(cls: type[CoreError], facts: dict[str, Any]) -> CoreError:
    return cls(**facts)


@dataclass(eq=False, kw_only=True)
class CoreError(Exception):
    """Base of all errors of the core; picklable, so that it survives a process border."""

    code: ClassVar[str] = "core_error"

    def sentence(self) -> str:
        """One plain sentence for the person who can mend it."""
        return self.code

    def facts(self) -> dict[str, Any]:
        """The typed facts by name."""
        return {f.name: getattr(self, f.name) for f in fields(self)}

    def __str__(self) -> str:
        return self.sentence()

    def __reduce__(self) -> tuple[Any, ...]:
        return (_rebuild, (type(self), self.facts()))


@dataclass(eq=False, kw_only=True)
class InputError(CoreError):
    code: ClassVar[str] = "bad_input"
    message: str = ""

    def sentence(self) -> str:
        return self.message


@dataclass(eq=False, kw_only=True)
class UnknownCode(InputError):
    code: ClassVar[str] = "unknown_code"
    field: str
    value: str
    known: tuple[str, ...]

    def sentence(self) -> str:
        return f"{self.field}: “{self.value}” is not a known code; known are {', '.join(self.known)}."


@dataclass(eq=False, kw_only=True)
class BadField(InputError):
    code: ClassVar[str] = "bad_field"
    field: str
    reason: str

    def sentence(self) -> str:
        return f"{self.field}: {self.reason}"


@dataclass(eq=False, kw_only=True)
class BadSignal(InputError):
    code: ClassVar[str] = "bad_signal"
    reason: str

    def sentence(self) -> str:
        return self.reason


@dataclass(eq=False, kw_only=True)
class NotMeasurable(CoreError):
    """A quantity that these recordings cannot give, and why."""

    code: ClassVar[str] = "not_measurable"
    quantity: str
    reason: str

    def sentence(self) -> str:
        return f"{self.quantity[:1].upper()}{self.quantity[1:]} could not be measured: {self.reason}"
