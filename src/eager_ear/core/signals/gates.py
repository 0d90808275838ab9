"""Gates: rules that hold back what a search has found, each by a name, so that what it is worth can be counted.

A gate is a function with a harmless answer, given where it has nothing to object to. `watched` notes which gates shut
while something is measured, and opens some of them: then they always give that answer. `./ear verify --gates` measures
the same machines with and without each.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import Any, ParamSpec, TypeVar, cast

import numpy as np

from eager_ear.core.errors import NotMeasurable

P = ParamSpec("P")
T = TypeVar("T")

# What each gate is for, by its name: the first line of its docstring.
GATES: dict[str, str] = {}


@dataclass(kw_only=True)
class GateWatch:
    """Gates held open, and which of the others shut."""

    opened: frozenset[str] = frozenset()
    shut: set[str] = field(default_factory=set)


_watch: ContextVar[GateWatch | None] = ContextVar("gate_watch", default=None)


@contextmanager
def watched(*, opened: Collection[str] = ()) -> Iterator[GateWatch]:
    """What gates do to all that is measured inside."""
    watch = GateWatch(opened=frozenset(opened))
    token = _watch.set(watch)
    try:
        yield watch
    finally:
        _watch.reset(token)


def gate(name: str, *, harmless: Callable[..., Any]) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Make a rule a gate.

    Parameters
    ----------
    harmless : of the rule's own arguments, what it answers where it has nothing to object to. A rule that objects by
        NotMeasurable shuts by raising it.
    """

    def as_gate(rule: Callable[P, T]) -> Callable[P, T]:
        GATES[name] = (rule.__doc__ or "").strip().split("\n")[0]

        @functools.wraps(rule)
        def guarded(*arguments: P.args, **named: P.kwargs) -> T:
            watch = _watch.get()
            if watch is None:
                return rule(*arguments, **named)
            if name in watch.opened:
                return cast(T, harmless(*arguments, **named))
            try:
                found = rule(*arguments, **named)
            except NotMeasurable:
                watch.shut.add(name)
                raise
            if not _same(found, harmless(*arguments, **named)):
                watch.shut.add(name)
            return found

        return guarded

    return as_gate


def _same(one: Any, other: Any) -> bool:
    if isinstance(one, np.ndarray) and isinstance(other, np.ndarray):
        return bool(np.array_equal(one, other))
    return bool(one is other or one == other)
