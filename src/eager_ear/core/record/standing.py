"""How good the ear is, counted: shares with their intervals, honest when counts are small."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import scipy

from eager_ear.core.cost import Money, Shop
from eager_ear.core.record.outcomes import Outcome

BORDERS = (0.0, 0.5, 0.7, 0.8, 0.9, 1.0001)
THRESHOLDS = (0.5, 0.6, 0.7, 0.8, 0.9, 0.95)
LEVEL = 0.9


@dataclass(frozen=True, kw_only=True)
class Part:
    """So many of so many, with the range in which the true share lies nine times in ten."""

    hits: int
    of: int
    low: float
    high: float

    @property
    def share(self) -> float | None:
        return self.hits / self.of if self.of else None


@dataclass(frozen=True, kw_only=True)
class Bin:
    """Calls that said about as much of what they named first. said : mean of what they said."""

    low: float
    high: float
    said: float
    right: Part


@dataclass(frozen=True, kw_only=True)
class Taken:
    """What was called where `found` was there; `count` times."""

    found: str
    called: str
    count: int


@dataclass(frozen=True, kw_only=True)
class Threshold:
    """If machines were opened only from that chance on: how many would have been, and how many of them rightly."""

    chance: float
    opened: Part


@dataclass(frozen=True, kw_only=True)
class Of:
    """The same figures of one layout, or of one person. minutes : median from the first entry to the call"""

    name: str
    right: Part
    in_vain: Part
    again: Part
    minutes: float | None


@dataclass(frozen=True, kw_only=True)
class Standing:
    """A shop's record.

    ended : jobs closed; known : of those, what was wrong is surely known; left_out : not counted, by hand
    right, own_right : of calls, and of what people went by where they departed from the call
    in_vain : machines opened for something that was not there; again : that came back after they were mended
    minutes : median from the first entry to the call
    """

    ended: int
    known: int
    left_out: int
    right: Part
    own_right: Part
    in_vain: Part
    again: Part
    minutes: float | None
    bins: tuple[Bin, ...]
    taken: tuple[Taken, ...]
    thresholds: tuple[Threshold, ...]
    by_layout: tuple[Of, ...]
    by_person: tuple[Of, ...]


@dataclass(frozen=True, kw_only=True)
class WrongCost:
    """What wrong calls cost a shop: machines opened in vain, and those that came back, at its own prices."""

    in_vain: Money
    again: Money

    @property
    def total(self) -> Money:
        return self.in_vain + self.again


def cost_of_wrong(standing: Standing, shop: Shop) -> WrongCost:
    """At the shop's price of a wrong teardown; a machine that came back costs the way and an hour."""
    return WrongCost(
        in_vain=Money(minor=shop.wrong_teardown, currency=shop.currency) * standing.in_vain.hits,
        again=Money(minor=shop.visit + shop.hour, currency=shop.currency) * standing.again.hits,
    )


def share_between(hits: int, of: int) -> Part:
    """Jeffreys' interval of a share (Brown, Cai & DasGupta, Statistical Science 16(2), 2001)."""
    if of == 0:
        return Part(hits=0, of=0, low=0.0, high=1.0)
    tail = (1.0 - LEVEL) / 2.0
    low, high = scipy.special.betaincinv(hits + 0.5, of - hits + 0.5, (tail, 1.0 - tail)).tolist()
    return Part(hits=hits, of=of, low=0.0 if hits == 0 else low, high=1.0 if hits == of else high)


def standing_of(outcomes: Sequence[Outcome]) -> Standing:
    """The record of those jobs."""
    counted = [o for o in outcomes if o.left_out is None]
    known = [o for o in counted if o.faults is not None]
    own = [o for o in known if o.own_view and o.first not in o.own_view]
    return Standing(
        ended=len(outcomes),
        known=len(known),
        left_out=len(outcomes) - len(counted),
        right=_part(known, lambda o: bool(o.first_right)),
        own_right=_part(own, lambda o: bool(set(o.own_view) & set(o.faults or ()))),
        in_vain=_in_vain(known),
        again=_again(counted),
        minutes=_minutes(counted),
        bins=tuple(_bins(known)),
        taken=tuple(_taken(known)),
        thresholds=tuple(_thresholds(known)),
        by_layout=_of(counted, lambda o: o.layout),
        by_person=_of([o for o in counted if o.by], lambda o: str(o.by)),
    )


def _gone_by(outcome: Outcome) -> set[str]:
    """What the machine was opened for."""
    return set(outcome.own_view) or {outcome.first}


def _part(outcomes: Sequence[Outcome], counts: Callable[[Outcome], bool]) -> Part:
    return share_between(sum(counts(o) for o in outcomes), len(outcomes))


def _bins(known: Sequence[Outcome]) -> Iterable[Bin]:
    for low, high in pairwise(BORDERS):
        here = [o for o in known if low <= o.called[o.first] < high]
        if here:
            said = sum(o.called[o.first] for o in here) / len(here)
            yield Bin(low=low, high=min(high, 1.0), said=said, right=_part(here, lambda o: bool(o.first_right)))


def _taken(known: Sequence[Outcome]) -> Iterable[Taken]:
    counts: dict[tuple[str, str], int] = {}
    for outcome in known:
        for fault in outcome.faults or ():
            # What is there and was named first is no mistake about another one that is there as well.
            called = fault if outcome.first_right and outcome.first != fault else outcome.first
            if called != fault or outcome.first == fault:
                counts[fault, called] = counts.get((fault, called), 0) + 1
    ranked = sorted(counts.items(), key=lambda item: (-item[1], item[0]))
    return (Taken(found=found, called=called, count=count) for (found, called), count in ranked)


def _thresholds(known: Sequence[Outcome]) -> Iterable[Threshold]:
    for chance in THRESHOLDS:
        would = [o for o in known if o.first != "none" and o.called[o.first] >= chance]
        yield Threshold(chance=chance, opened=_part(would, lambda o: bool(o.first_right)))


def _in_vain(known: Sequence[Outcome]) -> Part:
    opened = [o for o in known if o.opened]
    return _part(opened, lambda o: o.faults == ("none",) or not (_gone_by(o) & set(o.faults or ())))


def _again(counted: Sequence[Outcome]) -> Part:
    return _part([o for o in counted if o.outcome in ("mended", "workaround")], lambda o: o.again)


def _minutes(counted: Sequence[Outcome]) -> float | None:
    minutes = sorted(o.minutes for o in counted if o.minutes is not None)
    return minutes[len(minutes) // 2] if minutes else None


def _of(counted: Sequence[Outcome], name: Callable[[Outcome], str]) -> tuple[Of, ...]:
    out = []
    for one in sorted({name(o) for o in counted}):
        theirs = [o for o in counted if name(o) == one]
        known = [o for o in theirs if o.faults is not None]
        right = _part(known, lambda o: bool(o.first_right))
        out.append(Of(name=one, right=right, in_vain=_in_vain(known), again=_again(theirs), minutes=_minutes(theirs)))
    return tuple(out)
