"""A fault as the knowledge tells it: what gives it away, what it is mistaken for, and what tells the two apart.

Two faults are told apart by a finding as well as its outcomes differ between them: the symmetric divergence of its two
columns (Kullback & Leibler, Ann. Math. Statist. 22(1), 1951).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.diagnosis.knowledge import Finding, Knowledge
from eager_ear.core.diagnosis.next_check import minutes_of
from eager_ear.core.diagnosis.posterior import hypotheses_for, level_chances
from eager_ear.core.errors import UnknownCode
from eager_ear.core.units import FloatArray

MOST_SIGNS = 8
MOST_LOOK_ALIKES = 3
MOST_SEPARATORS = 4
# Less than this is no sign: it is met on one sound machine for one and a half with the fault.
LEAST_RATIO = 1.5
LEAST_BITS = 0.05
# A check of so many minutes has to tell twice as much as one that takes none.
DEAR_MIN = 20.0


@dataclass(frozen=True, kw_only=True)
class Sign:
    """A finding at one level: how often with the fault, how often without. check : that asks for it, None by ear."""

    finding: str
    name: str
    level: str
    chance: float
    calm: float
    check: str | None
    reason: str


@dataclass(frozen=True, kw_only=True)
class Separator:
    """A finding that tells two faults apart: what each would most probably show. bits : how well it does."""

    finding: str
    name: str
    check: str | None
    one: str
    other: str
    bits: float


@dataclass(frozen=True, kw_only=True)
class LookAlike:
    """What a fault is mistaken for, and what tells the two apart, the best first."""

    fault: str
    separators: tuple[Separator, ...]


@dataclass(frozen=True, kw_only=True)
class FaultPage:
    """One fault on one layout. told : symptoms with how often customers with it report them"""

    fault: str
    layout: str
    signs: tuple[Sign, ...]
    told: tuple[tuple[str, float], ...]
    look_alikes: tuple[LookAlike, ...]


def fault_page(fault: str, *, layout: str, knowledge: Knowledge) -> FaultPage:
    """Raises UnknownCode for a fault that the layout does not have."""
    require_fault(fault, layout=layout, knowledge=knowledge)
    shown = _shown(layout, knowledge)
    told = sorted(
        ((s.code, s.given[fault]) for s in knowledge.symptoms.values() if fault in s.given), key=lambda t: -t[1]
    )
    return FaultPage(
        fault=fault,
        layout=layout,
        signs=tuple(_signs(fault, shown, knowledge, layout)),
        told=tuple(told[:MOST_SIGNS]),
        look_alikes=tuple(
            LookAlike(fault=other, separators=_separators(fault, other, shown, knowledge, layout))
            for other in _nearest(fault, shown, knowledge, layout)
        ),
    )


def separators(one: str, other: str, *, layout: str, knowledge: Knowledge) -> tuple[Separator, ...]:
    """What tells two faults of a layout apart, the best for its minutes first. Raises UnknownCode."""
    for fault in (one, other):
        require_fault(fault, layout=layout, knowledge=knowledge)
    return _separators(one, other, _shown(layout, knowledge), knowledge, layout)


def _separators(
    one: str, other: str, shown: dict[str, dict[str, FloatArray]], knowledge: Knowledge, layout: str
) -> tuple[Separator, ...]:
    out = []
    for code, columns in shown.items():
        finding = knowledge.findings[code]
        bits = _divergence(columns[one], columns[other])
        if bits >= LEAST_BITS:
            out.append(
                Separator(
                    finding=code,
                    name=finding.name,
                    check=_check_of(finding, layout, knowledge),
                    one=finding.levels[int(np.argmax(columns[one] / columns[other] * columns[one]))],
                    other=finding.levels[int(np.argmax(columns[other] / columns[one] * columns[other]))],
                    bits=bits,
                )
            )
    return tuple(sorted(out, key=lambda s: -s.bits / (1.0 + _minutes(s, knowledge) / DEAR_MIN))[:MOST_SEPARATORS])


def _minutes(separator: Separator, knowledge: Knowledge) -> float:
    if separator.check is None:
        return 0.0
    check = knowledge.checks[separator.check]
    return minutes_of(check, opened=())


def require_fault(fault: str, *, layout: str, knowledge: Knowledge) -> None:
    """Raises UnknownCode for a fault that the layout does not have."""
    known = tuple(f.code for f in knowledge.faults_of(layout))
    if fault not in known:
        raise UnknownCode(field="fault", value=fault[:60], known=known)


def _shown(layout: str, knowledge: Knowledge) -> dict[str, dict[str, FloatArray]]:
    """What each fault alone shows of each finding that this layout can be asked for."""
    hypotheses = hypotheses_for(layout, knowledge=knowledge)
    single = {next(iter(s)) if s else "none": k for k, s in enumerate(hypotheses.sets) if len(s) < 2}
    out = {}
    for code, finding in knowledge.findings.items():
        asked = _check_of(finding, layout, knowledge) is not None or not _is_by_hand(finding, knowledge)
        if layout in finding.layouts and asked:
            chances = np.maximum(level_chances(finding, hypotheses), 1e-4)
            out[code] = {fault: chances[k] / chances[k].sum() for fault, k in single.items()}
    return out


def _signs(fault: str, shown: dict[str, dict[str, FloatArray]], knowledge: Knowledge, layout: str) -> list[Sign]:
    found = []
    for code, columns in shown.items():
        finding = knowledge.findings[code]
        gain = columns[fault] * np.log2(columns[fault] / columns["none"])
        level = int(np.argmax(gain))
        if columns[fault][level] > LEAST_RATIO * columns["none"][level] and gain[level] > LEAST_BITS:
            sign = Sign(
                finding=code,
                name=finding.name,
                level=finding.levels[level],
                chance=float(columns[fault][level]),
                calm=float(columns["none"][level]),
                check=_check_of(finding, layout, knowledge),
                reason=finding.reason,
            )
            found.append((float(gain[level]), sign))
    return [sign for _, sign in sorted(found, key=lambda item: -item[0])[:MOST_SIGNS]]


def _nearest(fault: str, shown: dict[str, dict[str, FloatArray]], knowledge: Knowledge, layout: str) -> list[str]:
    """Faults that share signs with this one, those first that the findings they share tell apart least."""
    near = []
    for other in (f.code for f in knowledge.faults_of(layout)):
        if other in (fault, "none"):
            continue
        shared = sum(_shared(c[fault], c[other], c["none"]) for c in shown.values())
        if shared > LEAST_BITS:
            apart = sum(_divergence(c[fault], c[other]) for c in shown.values())
            near.append((apart / shared, other))
    return [other for _, other in sorted(near)[:MOST_LOOK_ALIKES]]


def _shared(one: FloatArray, other: FloatArray, calm: FloatArray) -> float:
    """How far two columns leave the calm one together."""
    return float(np.sum(np.minimum(np.abs(one - calm), np.abs(other - calm))))


def _divergence(one: FloatArray, other: FloatArray) -> float:
    return float(np.sum((one - other) * np.log2(one / other)) / 2.0)


def _is_by_hand(finding: Finding, knowledge: Knowledge) -> bool:
    return any(finding.code in check.findings for check in knowledge.checks.values())


def _check_of(finding: Finding, layout: str, knowledge: Knowledge) -> str | None:
    """The check of this layout that asks for the finding, None where it is heard, or not asked of this layout."""
    asks = (c.code for c in knowledge.checks.values() if finding.code in c.findings and layout in c.layouts)
    return next(asks, None)
