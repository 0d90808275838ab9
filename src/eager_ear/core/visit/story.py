"""Story: which machine this is, who was asked, what is told."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eager_ear.core.diagnosis.knowledge import PHASES, Knowledge
from eager_ear.core.fields import Clearable, Code, Flag, Id, Number, Record, Text
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.visit.said import Body, Kind, Said, each_key, of

SINCE = ("today", "days", "weeks", "months", "always")
TOLD_LOADS = ("any", "heavy", "single_heavy", "empty_too")
AFTER = ("move", "repair", "heavy_item", "nothing")
ACQUIRED = ("new", "used", "unknown")
MACHINE_KEYS = ("layout", "mains_hz", "max_spin_rpm", "pulley_ratio", "spider_arms", "age_years", "stacked")


@dataclass(frozen=True, kw_only=True)
class PlateNumber:
    """A number of the machine that somebody types: what it can be, and what it usually is.

    Outside the usual it is kept, and asked about once: it may be a slip of the finger.
    """

    low: float
    high: float
    usual_low: float
    usual_high: float

    @property
    def field(self) -> Number:
        return Number(low=self.low, high=self.high)


# Washers spin at 400 to 1600 rpm; a motor turns once (on the shaft) to about fifteen times for a turn of the drum; a
# machine of thirty years is rare, one of eighty is a misreading.
PLATE: Mapping[str, PlateNumber] = {
    "max_spin_rpm": PlateNumber(low=100, high=2500, usual_low=400, usual_high=1600),
    "pulley_ratio": PlateNumber(low=0.5, high=30, usual_low=1, usual_high=16),
    "age_years": PlateNumber(low=0, high=80, usual_low=0, usual_high=30),
}


@dataclass(frozen=True, kw_only=True)
class Told:
    """One symptom as it was told; `present` false where it was asked for and denied."""

    symptom: str
    present: bool
    phase: str | None
    since: str | None
    loads: str | None
    after: str | None


@dataclass(frozen=True, kw_only=True)
class CodeShown:
    """A code on the machine's display, and the symptom that it means where somebody said so."""

    text: str
    means: str | None


@dataclass(frozen=True, kw_only=True)
class Story:
    """What is known of the machine and what was told.

    facts : the machine's, by the case format's keys; `learnt_here` names those entered at this visit
    known_as : the machine of the register that a person said it is
    """

    place: str
    facts: Mapping[str, Any]
    learnt_here: tuple[str, ...]
    known_as: str | None
    contact: Mapping[str, Any]
    told: tuple[Told, ...]
    codes_shown: tuple[CodeShown, ...]

    @property
    def symptoms(self) -> tuple[str, ...]:
        """Codes of what was told to be there, and of what the codes shown mean."""
        told = [t.symptom for t in self.told if t.present] + [c.means for c in self.codes_shown if c.means]
        return tuple(dict.fromkeys(told))

    @property
    def machine(self) -> Machine | None:
        """The machine, None as long as its layout is not known."""
        return machine_of(self.facts)


def machine_of(facts: Mapping[str, Any]) -> Machine | None:
    """The machine that these facts describe, by the case format's keys; None without a layout. Raises InputError."""
    if facts.get("layout") is None:
        return None
    known = {key: facts[key] for key in MACHINE_KEYS if facts.get(key) is not None}
    bearings = facts.get("bearings") or {}
    return Machine(**known, front_bearing=bearings.get("front"), rear_bearing=bearings.get("rear"))


def facts_of(machine: Machine) -> dict[str, Any]:
    """The machine by the case format's keys, unknown ones left out."""
    bearings = {k: v for k, v in (("front", machine.front_bearing), ("rear", machine.rear_bearing)) if v is not None}
    facts = {key: getattr(machine, key) for key in MACHINE_KEYS} | {"bearings": bearings or None}
    return {key: value for key, value in facts.items() if value is not None}


def _check_machine(body: Body) -> None:
    machine_of({"layout": LAYOUT_CODES[0], **{k: v for k, v in body.items() if v is not None}})


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""
    symptom = Code(choices=tuple(knowledge.symptoms))
    bearing = Clearable(of=Text(longest=32, shortest=1))
    return (
        Kind(
            code="machine",
            station="story",
            says=each_key,
            check=_check_machine,
            body=Record(
                keys={
                    "layout": Clearable(of=Code(choices=LAYOUT_CODES)),
                    "mains_hz": Clearable(of=Number(low=50, high=60, whole=True)),
                    "max_spin_rpm": Clearable(of=PLATE["max_spin_rpm"].field),
                    "pulley_ratio": Clearable(of=PLATE["pulley_ratio"].field),
                    "bearings": Record(keys={"front": bearing, "rear": bearing}),
                    "spider_arms": Clearable(of=Number(low=2, high=8, whole=True)),
                    "age_years": Clearable(of=PLATE["age_years"].field),
                    "stacked": Clearable(of=Flag()),
                    "place": Text(longest=200, shortest=1),
                    "serial_note": Clearable(of=Text(longest=200)),
                    "acquired": Code(choices=ACQUIRED),
                    "known_as": Clearable(of=Id()),
                    "column_with": Clearable(of=Id()),
                }
            ),
        ),
        Kind(
            code="contact",
            station="story",
            says=each_key,
            body=Record(
                keys={
                    "name": Clearable(of=Text(longest=200)),
                    "phone": Clearable(of=Text(longest=60)),
                    "access_note": Clearable(of=Text(longest=2000)),
                }
            ),
        ),
        Kind(
            code="told",
            station="story",
            says=of("symptom"),
            body=Record(
                keys={
                    "symptom": symptom,
                    "present": Flag(),
                    "phase": Code(choices=PHASES),
                    "since": Code(choices=SINCE),
                    "loads": Code(choices=TOLD_LOADS),
                    "after": Code(choices=AFTER),
                },
                needs=("symptom", "present"),
            ),
        ),
        Kind(
            code="code_shown",
            station="story",
            says=of("text"),
            body=Record(keys={"text": Text(longest=40, shortest=1), "means": symptom}, needs=("text",)),
        ),
    )


def fold(said: Said, *, known: Mapping[str, Any]) -> Story:
    """The story; `known` are the machine's facts from earlier visits, which those entered here go before."""
    own = {subject: s.value for subject, s in said.newest("machine").items()}
    facts = _nested({**_flat(known), **own})
    place = facts.pop("place", None)
    known_as = facts.pop("known_as", None)
    told = [s.value for s in said.newest("told").values()]
    return Story(
        place=str(place or ""),
        facts=facts,
        learnt_here=tuple(subject for subject, value in own.items() if value is not None),
        known_as=known_as,
        contact={k: s.value for k, s in said.newest("contact").items() if s.value is not None},
        told=tuple(
            Told(
                symptom=t["symptom"],
                present=t["present"],
                phase=t.get("phase"),
                since=t.get("since"),
                loads=t.get("loads"),
                after=t.get("after"),
            )
            for t in told
        ),
        codes_shown=tuple(
            CodeShown(text=s.value["text"], means=s.value.get("means")) for s in said.newest("code_shown").values()
        ),
    )


def _flat(facts: Mapping[str, Any]) -> dict[str, Any]:
    return each_key(facts)


def _nested(flat: Mapping[str, Any]) -> dict[str, Any]:
    """Facts by the case format's keys, what is not known left out."""
    out: dict[str, Any] = {}
    for subject, value in flat.items():
        if value is None:
            continue
        key, _, part = subject.partition(".")
        if part:
            out.setdefault(key, {})[part] = value
        else:
            out[key] = value
    return out
