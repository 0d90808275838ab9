"""What the shop knows of machines like one: bearings and ratios read at others, and what codes on displays mean."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import UnknownCode
from eager_ear.core.fields import Text
from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.visit import Entry
from eager_ear.store import Database, JobRecord, MachineRecord, ShownCodeRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.folding import FoldedJob, folded

# Of so many machines of a layout, the last entered, those alike are looked for.
MOST_LOOKED_AT = 400
MOST_ALIKE = 3
# What a plate does not tell, and a machine of the same make has in common.
SHARED = ("bearings", "pulley_ratio", "spider_arms")

Because = Literal["sheet", "plate"]


@dataclass(frozen=True, kw_only=True)
class Alike:
    """Another machine that is likely of the same platform, and what is known of it and not of this one.

    because : it goes by the same service sheet, or has the same layout and plate speed
    """

    machine: MachineRecord
    because: Because
    facts: Mapping[str, Any]


@dataclass(frozen=True, kw_only=True)
class Platform:
    """Machines alike, those by the same sheet first, and what codes mean on this layout, by the code."""

    alike: tuple[Alike, ...]
    codes: Mapping[str, str]


def platform_of(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge) -> Platform:
    """What is known of machines like the one of a visit; nothing as long as its layout is not told."""
    facts = folded(work, job, knowledge=knowledge).visit.story.facts
    layout = facts.get("layout")
    if layout is None:
        return Platform(alike=(), codes={})
    own = work.machines.by_id(job.machine_id)
    alike = []
    speed = facts.get("max_spin_rpm")
    for machine in work.machines.alike(own, layout=layout, max_spin_rpm=speed, among=MOST_LOOKED_AT, knows=SHARED):
        because: Because = "sheet" if own.sheet is not None and own.sheet == machine.sheet else "plate"
        shared = {key: machine.facts[key] for key in SHARED if machine.facts.get(key) and not facts.get(key)}
        if shared:
            alike.append(Alike(machine=machine, because=because, facts=shared))
    alike.sort(key=lambda a: a.because != "sheet")
    practised = work.jobs.only_practised([a.machine.id for a in alike])
    counted = [a for a in alike if a.machine.id not in practised]
    codes = {code.text: code.means for code in work.shop.codes(layout)}
    return Platform(alike=tuple(counted[:MOST_ALIKE]), codes=codes)


def remember_codes(work: UnitOfWork, found: FoldedJob, added: Sequence[Entry]) -> None:
    """Keep what codes on the display were said to mean, for other machines of the layout.

    Those said now; those said before as well once the layout is told, and at no other time: what the shop has taken out
    of its table stays out.
    """
    story = found.visit.story
    layout = story.facts.get("layout")
    if layout is None or found.job.practice:
        return
    told_now = any(entry.kind == "machine" and (entry.body or {}).get("layout") for entry in added)
    meant = {code.text: code.means for code in story.codes_shown if code.means is not None}
    for entry in found.entries if told_now else added:
        text = (entry.body or {}).get("text")
        if entry.kind == "code_shown" and text in meant:
            means = str(meant[str(text)])
            work.shop.note_code(ShownCodeRecord(layout=layout, text=str(text), means=means, said_at=entry.counts_at))


def settle_code(database: Database, *, layout: str, text: str, means: str | None, symptoms: tuple[str, ...]) -> None:
    """Say what a code means on a layout; with None it is taken out of the table. Raises InputError."""
    if layout not in LAYOUT_CODES:
        raise UnknownCode(field="layout", value=layout[:40], known=LAYOUT_CODES)
    shown = Text(longest=40, shortest=1).read(text, field="text")
    if means is not None and means not in symptoms:
        raise UnknownCode(field="means", value=means[:40], known=symptoms)

    def settled(work: UnitOfWork) -> None:
        if means is None:
            work.shop.forget_code(layout, shown)
        else:
            work.shop.note_code(ShownCodeRecord(layout=layout, text=shown, means=means, said_at=now_utc()))

    in_unit(database, settled)
