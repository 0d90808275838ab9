"""The same machine before and after its repair: what went, what stayed, and whether the two can be compared at all.

Two values differ clearly when they lie more than two standard errors of their difference apart. Whether that is
better is told by the finding's own healthy level, never by the sign.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from eager_ear.core.diagnosis.evidence import Observation, Shown
from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.sound import ProfileComparison, SpinProfile, compare_profiles

Verdict = Literal["better", "alike", "worse", "not_compared"]
CLEAR_SIGMAS = 2.0
# So many runs of bands are told, those that changed most.
WIDEST_BANDS = 3
# A level is healthy that sound machines show at least so often as their commonest.
HEALTHY_SHARE = 0.5


@dataclass(frozen=True, kw_only=True)
class Change:
    """One quantity before and after. healthy_before, healthy_after : by the finding's own limits; reason : for those"""

    finding: str
    name: str
    unit: str
    before: float
    after: float
    sigma: float
    before_text: str
    after_text: str
    clear: bool
    healthy_before: bool
    healthy_after: bool
    reason: str

    @property
    def mended(self) -> bool:
        return self.clear and self.healthy_after and not self.healthy_before

    @property
    def spoilt(self) -> bool:
        return self.clear and self.healthy_before and not self.healthy_after


@dataclass(frozen=True, kw_only=True)
class BandChange:
    """Neighbouring bands of sound that fell or rose together, dB, of the shape of the spectrum."""

    low_hz: float
    high_hz: float
    db: float
    sigma_db: float


@dataclass(frozen=True, kw_only=True)
class BeforeAfter:
    """Both spins side by side. problems : why they do not compare, and how to record again."""

    verdict: Verdict
    says: str
    changes: tuple[Change, ...]
    bands: tuple[BandChange, ...]
    shake_db: float | None
    shake_sigma_db: float | None
    problems: tuple[str, ...]


def compare_before_after(
    before: Shown,
    after: Shown,
    *,
    findings: Mapping[str, Finding],
    profiles: tuple[SpinProfile | None, SpinProfile | None],
) -> BeforeAfter:
    """Lay two spins of one machine side by side."""
    problems = _problems(before, after)
    changes = _changes(before.observations, after.observations, findings)
    comparison = _profiles_compared(*profiles, problems)
    if problems:
        return BeforeAfter(
            verdict="not_compared",
            says="These two spins cannot be compared.",
            changes=changes,
            bands=(),
            shake_db=None,
            shake_sigma_db=None,
            problems=tuple(problems),
        )
    bands = _bands(comparison) if comparison is not None else ()
    shake = comparison.shake if comparison is not None else None
    verdict = _verdict(changes, after, findings)
    return BeforeAfter(
        verdict=verdict,
        says=_says(changes, bands, verdict),
        changes=changes,
        bands=bands,
        shake_db=shake.db if shake is not None else None,
        shake_sigma_db=shake.sigma_db if shake is not None else None,
        problems=(),
    )


def _problems(before: Shown, after: Shown) -> list[str]:
    out = []
    if not before.turning:
        out.append("No turning drum was found before the repair: there is nothing to hold this one against.")
    if not after.turning:
        out.append("No turning drum was found in the spin after it: record it again, from rest to rest.")
    if before.position != after.position and None not in (before.position, after.position):
        out.append(
            f"The first lay at {_words(before.position)}, this one at {_words(after.position)}: record it there."
        )
    if (before.load or "empty") != (after.load or "empty"):
        out.append(f"The first drum was {_words(before.load or 'empty')}: spin it so again.")
    return out


def _words(code: str | None) -> str:
    return (code or "").replace("_", " ")


def _changes(
    before: Sequence[Observation], after: Sequence[Observation], findings: Mapping[str, Finding]
) -> tuple[Change, ...]:
    later = {o.finding: o for o in after}
    out = []
    for first in before:
        second, finding = later.get(first.finding), findings.get(first.finding)
        if second is None or finding is None:
            continue
        sigma = float(np.hypot(first.sigma, second.sigma))
        out.append(
            Change(
                finding=finding.code,
                name=finding.name,
                unit=finding.unit,
                before=first.value,
                after=second.value,
                sigma=sigma,
                before_text=first.text,
                after_text=second.text,
                clear=abs(second.value - first.value) > CLEAR_SIGMAS * max(sigma, 1e-12),
                healthy_before=is_healthy(first, finding),
                healthy_after=is_healthy(second, finding),
                reason=finding.reason,
            )
        )
    return tuple(sorted(out, key=lambda c: (not c.mended, not c.spoilt, c.healthy_after, not c.clear)))


def is_healthy(observation: Observation, finding: Finding) -> bool:
    """Whether what was observed falls into a level that sound machines mostly show."""
    reading = observation.reading({finding.code: finding})
    if reading is None:
        return True
    level = int(np.argmax(reading.level_likelihood))
    return bool(finding.calm[level] >= HEALTHY_SHARE * finding.calm.max())


def _profiles_compared(
    before: SpinProfile | None, after: SpinProfile | None, problems: list[str]
) -> ProfileComparison | None:
    if before is None or after is None:
        return None
    try:
        return compare_profiles(after, [before])
    except NotMeasurable as problem:
        problems.append(f"{problem.reason[0].upper()}{problem.reason[1:]}")
        return None


def _bands(comparison: ProfileComparison) -> tuple[BandChange, ...]:
    """Runs of neighbouring bands that changed clearly the same way, the widest first."""
    runs: list[list[tuple[float, float, float]]] = []
    last = 0
    for hz, difference in comparison.bands:
        sign = int(np.sign(difference.db)) if difference.is_clear else 0
        if sign != 0 and sign == last:
            runs[-1].append((hz, difference.db, difference.sigma_db))
        elif sign != 0:
            runs.append([(hz, difference.db, difference.sigma_db)])
        last = sign
    third = 2 ** (1 / 6)
    found = [
        BandChange(
            low_hz=run[0][0] / third,
            high_hz=run[-1][0] * third,
            db=float(np.mean([db for _, db, _ in run])),
            sigma_db=float(np.sqrt(np.mean([s**2 for _, _, s in run]))),
        )
        for run in runs
    ]
    return tuple(sorted(found, key=lambda b: -abs(b.db) * np.log2(b.high_hz / b.low_hz))[:WIDEST_BANDS])


def _verdict(changes: Sequence[Change], after: Shown, findings: Mapping[str, Finding]) -> Verdict:
    if any(c.spoilt for c in changes):
        return "worse"
    before_known = {c.finding for c in changes}
    new = [
        o
        for o in after.observations
        if o.finding not in before_known and o.finding in findings and not is_healthy(o, findings[o.finding])
    ]
    if any(c.mended for c in changes):
        return "better"
    return "worse" if new and not changes else "alike"


def _says(changes: Sequence[Change], bands: Sequence[BandChange], verdict: Verdict) -> str:
    parts = [_sentence(f"{c.name}: gone") for c in changes if c.mended][:2]
    parts += [_sentence(f"{c.name}: new since the repair") for c in changes if c.spoilt][:2]
    quieter = [b for b in bands if b.db < 0][:1]
    parts += [f"{-b.db:.0f}\u00a0dB less between {_hz(b.low_hz)} and {_hz(b.high_hz)}." for b in quieter]
    still = [c for c in changes if not c.healthy_after and not c.healthy_before]
    if still:
        names = " and ".join(c.name.lower() for c in still[:2])
        parts.append(_sentence(f"Not healthy, as before: {names}. Look at that before you leave"))
    if not parts:
        parts = ["Nothing that was wrong has changed." if verdict == "alike" else "Nothing new is wrong."]
        if all(c.healthy_before and c.healthy_after for c in changes):
            parts = ["Healthy before and after, as far as these spins tell."]
    return " ".join(parts)


def _sentence(text: str) -> str:
    return f"{text}."


def _hz(value: float) -> str:
    return f"{value / 1000:.1f}\u00a0kHz" if value >= 1000 else f"{value:.0f}\u00a0Hz"
