"""A visit: what its diary says, folded by one function a station."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from types import MappingProxyType
from typing import Any

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.visit import any_time, call, cost, hands, proof, spin, stock, story, strip
from eager_ear.core.visit.any_time import AnyTime
from eager_ear.core.visit.call import CallStation
from eager_ear.core.visit.cost import Cost
from eager_ear.core.visit.entry import Entry
from eager_ear.core.visit.hands import Hands
from eager_ear.core.visit.proof import Proof
from eager_ear.core.visit.said import Disagreement, Kind, Said
from eager_ear.core.visit.spin import Spin
from eager_ear.core.visit.stock import Stock
from eager_ear.core.visit.story import Story
from eager_ear.core.visit.strip import Strip

STATIONS = ("story", "hands", "spin", "call", "cost", "strip", "proof")
_MODULES = (any_time, story, hands, spin, call, cost, strip, proof, stock)


@dataclass(frozen=True, kw_only=True)
class Visit:
    """One job as its diary tells it."""

    story: Story
    hands: Hands
    spin: Spin
    call: CallStation
    cost: Cost
    strip: Strip
    proof: Proof
    any_time: AnyTime
    stock: Stock
    disagreements: tuple[Disagreement, ...]

    @property
    def repair_from(self) -> datetime | None:
        """When closing began: what is recorded or checked later speaks of the mended machine."""
        if not any(s.way == "off" and s.state == "done" for s in self.strip.steps):
            return None
        return min((s.at for s in self.strip.steps if s.way == "on" and s.state == "done"), default=None)

    def is_after(self, at: datetime) -> bool:
        """Whether something was made on the mended machine."""
        return self.repair_from is not None and at > self.repair_from

    @property
    def proof_failed(self) -> bool:
        """Whether a proof of the repair failed: then the mended machine is what the call is about."""
        return any(not p.passed and self.is_after(p.at) for p in self.proof.proved)

    def case(self, case_id: str) -> Case | None:
        """What the call weighs, without the recordings; None as long as the layout is not known.

        Checks of the mended machine count once a proof of it failed, and then they alone.
        """
        machine = self.story.machine
        if machine is None:
            return None
        return Case(
            id=case_id,
            machine=machine,
            symptoms=self.story.symptoms,
            note=self.any_time.notes_about("story"),
            checks=self._checks(),
        )

    def _checks(self) -> tuple[HandCheck, ...]:
        """Hand checks, and what was seen on opening where that says the same as one: the later word counts."""
        about_now = self.proof_failed
        made = [c for c in self.hands.checks if self.is_after(c.at) is about_now]
        looked = [s for s in self.strip.seen if s.check is not None and self.is_after(s.at) is about_now]
        seen = {s.check: s for s in sorted(looked, key=lambda s: s.at)}
        by_hand = [c for c in made if c.check not in seen or c.at > seen[c.check].at]
        checked = {c.check for c in by_hand}
        return (
            *(HandCheck(check=c.check, values=c.values) for c in by_hand),
            *(HandCheck(check=str(code), values=s.values) for code, s in seen.items() if code not in checked),
        )


@lru_cache(maxsize=4)
def kinds_of(knowledge: Knowledge) -> Mapping[str, Kind]:
    """All kinds of entries by code."""
    return MappingProxyType({kind.code: kind for module in _MODULES for kind in module.kinds(knowledge)})


def fold_visit(entries: Iterable[Entry], *, knowledge: Knowledge, known: Mapping[str, Any] | None = None) -> Visit:
    """What a diary says.

    Parameters
    ----------
    known : the machine's facts from earlier visits, by the case format's keys
    """
    said = Said(entries, kinds=kinds_of(knowledge))
    return Visit(
        story=story.fold(said, known=known or {}),
        hands=hands.fold(said),
        spin=spin.fold(said),
        call=call.fold(said),
        cost=cost.fold(said),
        strip=strip.fold(said, looks=knowledge.looks),
        proof=proof.fold(said),
        any_time=any_time.fold(said),
        stock=stock.fold(said),
        disagreements=said.disagreements(),
    )


def fold_machine(entries: Iterable[Entry], *, knowledge: Knowledge) -> dict[str, Any]:
    """What all visits to one machine say of it, by the case format's keys and `place`."""
    told = story.fold(Said(entries, kinds=kinds_of(knowledge)), known={})
    return {**told.facts, **({"place": told.place} if told.place else {})}
