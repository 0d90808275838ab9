"""What the product leads through at the machine: water levels, wet loads, painted marks, the machine's own test."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from eager_ear.core.machine import LAYOUT_CODES


@dataclass(frozen=True, kw_only=True)
class Level:
    """One level of a leak test: where the water stands, and how long it is left there [min]."""

    code: str
    name: str
    dwell_min: float


@dataclass(frozen=True, kw_only=True)
class Cloth:
    """kg_per_litre : of dry cloth in a loosely filled bucket; holds_l_per_kg : water when lifted out dripping."""

    code: str
    name: str
    kg_per_litre: tuple[float, float]
    holds_l_per_kg: tuple[float, float]
    reason: str


@dataclass(frozen=True, kw_only=True)
class WitnessPlan:
    """Painted marks are looked at after so many heavy loads in all, then `then_times` times every `then_days` days."""

    after_loads: tuple[int, ...]
    then_days: int
    then_times: int
    reason: str


@dataclass(frozen=True, kw_only=True)
class TestRow:
    """One row of the machine's own test.

    longest_wait_s : so long may a sound machine take before it begins
    missing : what it means when it does not come; told : the symptom that this is
    """

    code: str
    name: str
    layouts: tuple[str, ...]
    longest_wait_s: float
    wait_says: str
    missing: str
    faults: tuple[str, ...]
    checks: tuple[str, ...]
    told: str | None


@dataclass(frozen=True, kw_only=True)
class Aside:
    """Something seen beside the rows, and the symptom that it is."""

    code: str
    name: str
    told: str


@dataclass(frozen=True, kw_only=True)
class Guides:
    cloths: Mapping[str, Cloth]
    witness: WitnessPlan
    rows: tuple[TestRow, ...]
    asides: tuple[Aside, ...]


def guides_of(table: Mapping[str, Any]) -> Guides:
    """Guides as their file tells them."""
    witness = table["witness"]
    return Guides(
        cloths={
            code: Cloth(
                code=code,
                name=row["name"],
                kg_per_litre=_range(row["kg_per_litre"]),
                holds_l_per_kg=_range(row["holds_l_per_kg"]),
                reason=row["reason"],
            )
            for code, row in table["cloth"].items()
        },
        witness=WitnessPlan(
            after_loads=tuple(witness["after_loads"]),
            then_days=witness["then_days"],
            then_times=witness["then_times"],
            reason=witness["reason"],
        ),
        rows=tuple(
            TestRow(
                code=row["code"],
                name=row["name"],
                layouts=tuple(row.get("layouts", LAYOUT_CODES)),
                longest_wait_s=float(row["longest_wait_s"]),
                wait_says=row.get("wait_says", ""),
                missing=row["missing"],
                faults=tuple(row["faults"]),
                checks=tuple(row["checks"]),
                told=row.get("told"),
            )
            for row in table["row"]
        ),
        asides=tuple(Aside(**row) for row in table["aside"]),
    )


def guide_misfits(
    guides: Guides, *, faults: Mapping[str, Collection[str]], checks: Collection[str], symptoms: Collection[str]
) -> Iterator[str]:
    """What the guides name and nobody knows, as sentences; ranges and counts that make no sense."""
    for row in guides.rows:
        for what, codes, known in (
            ("fault", row.faults, faults),
            ("check", row.checks, checks),
            ("symptom", [row.told] if row.told else [], symptoms),
            ("layout", row.layouts, LAYOUT_CODES),
        ):
            for code in sorted(set(codes) - set(known)):
                yield f"row {row.code} of the component test names the unknown {what} {code}"
        for layout in row.layouts:
            if not any(layout in faults.get(fault, ()) for fault in row.faults):
                yield f"row {row.code} of the component test blames nothing that {layout} has"
        if row.longest_wait_s <= 0:
            yield f"row {row.code} of the component test is never waited for"
    for aside in guides.asides:
        if aside.told not in symptoms:
            yield f"what is seen beside the component test, {aside.code}, is the unknown symptom {aside.told}"
    for cloth in guides.cloths.values():
        for low, high in (cloth.kg_per_litre, cloth.holds_l_per_kg):
            if not 0 < low <= high:
                yield f"cloth {cloth.code} has a range from {low} to {high}"
    if list(guides.witness.after_loads) != sorted(set(guides.witness.after_loads)):
        yield "witness marks are looked at after loads that do not rise"


def _range(values: list[float]) -> tuple[float, float]:
    low, high = values
    return float(low), float(high)
