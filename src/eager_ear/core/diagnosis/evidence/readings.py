"""Evidence as readings: what was found, how certain, and how likely each level of the finding is.

A number read with an error does not fall into one level: the chance of each level given the reading is used as soft
evidence (Pearl, Probabilistic Reasoning in Intelligent Systems, section 2.3.3), so nothing jumps at a limit.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.diagnosis.knowledge import Finding, Knowledge
from eager_ear.core.errors import UnknownCode
from eager_ear.core.units import FloatArray


@dataclass(frozen=True, kw_only=True)
class Reading:
    """One answered finding.

    source : "sound", "hand" or "story"
    level_likelihood : array [shape=(levels,)], chance of the reading given each level, largest = 1
    text : what was found, in words with numbers
    weight : how much of an independent witness it is, at most 1
    """

    finding: Finding
    source: str
    text: str
    level_likelihood: FloatArray
    value: float | None = None
    sigma: float | None = None
    weight: float = 1.0

    @property
    def level(self) -> str:
        return self.finding.levels[int(np.argmax(self.level_likelihood))]


def read_number(finding: Finding, value: float, *, sigma: float, text: str, source: str) -> Reading:
    """A measured number against the finding's limits.

    Parameters
    ----------
    sigma : standard error of `value`, in its unit; the finding's own spread between machines is added
    """
    limits = np.asarray(finding.limits)
    if finding.log_scale:
        safe = max(value, 1e-9)
        spread = float(np.hypot(sigma / safe, finding.spread))
        position, borders = np.log(safe), np.log(limits)
    else:
        spread = float(np.hypot(sigma, finding.spread))
        position, borders = value, limits
    spread = max(spread, 1e-6)
    falling = limits.size > 1 and limits[1] < limits[0]
    sign = -1.0 if falling else 1.0
    above = scipy.special.ndtr(sign * (position - borders) / spread)
    edges = np.concatenate([[1.0], above, [0.0]])
    share = np.maximum(edges[:-1] - edges[1:], 1e-4)
    return Reading(
        finding=finding,
        source=source,
        text=text,
        level_likelihood=share / share.max(),
        value=value,
        sigma=sigma,
    )


def supposed(check: str, level: str, *, knowledge: Knowledge) -> Reading:
    """The reading that a check would give if it came out at that level.

    Raises
    ------
    UnknownCode
        A check that is none, or a level of none of its findings.
    """
    if check not in knowledge.checks:
        raise UnknownCode(field="check", value=check, known=tuple(knowledge.checks))
    findings = [knowledge.findings[code] for code in knowledge.checks[check].findings]
    for finding in findings:
        if level in finding.levels:
            return read_level(finding, level, text=f"supposed: {level.replace('_', ' ')}", source="hand")
    raise UnknownCode(field="level", value=level, known=tuple(name for f in findings for name in f.levels))


def read_level(finding: Finding, level: str, *, text: str, source: str, slip: float = 0.003) -> Reading:
    """A level that was seen; `slip` is the chance that it was misread for any other one."""
    likelihood = np.full(len(finding.levels), slip)
    likelihood[finding.levels.index(level)] = 1.0
    return Reading(finding=finding, source=source, text=text, level_likelihood=likelihood)
