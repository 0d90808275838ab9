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

# No level is ruled out by a number.
LEAST_SHARE = 1e-4
# Where there is one limit alone, so many spreads are as wide as a level.
OPEN_SPREADS = 4.0
# A normal error in fifteen places (Gauss-Hermite).
ERROR_POINTS, ERROR_WEIGHTS = np.polynomial.hermite_e.hermegauss(15)
ERROR_WEIGHTS = ERROR_WEIGHTS / ERROR_WEIGHTS.sum()


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
    at = _placed(finding, value, sigma=sigma)
    above = scipy.special.ndtr((at.position - at.borders) / at.spread)
    edges = np.concatenate([[1.0], above, [0.0]])
    share = np.maximum(edges[:-1] - edges[1:], LEAST_SHARE)
    return _of_number(finding, share, value=value, sigma=sigma, text=text, source=source)


def read_density(finding: Finding, value: float, *, sigma: float, text: str, source: str) -> Reading:
    """A number read by hand or eye: the further it goes, the louder it speaks, with no step at the limits.

    Columns are joined by straight lines from the middle of one level over the limit, where both say as much, to the
    middle of the next (a frequency polygon; Scott, Journal of the American Statistical Association 80, 1985, pp.
    348-354), and widened by the error as in `read_number`. The outermost levels are as wide as their neighbours.
    """
    at = _placed(finding, value, sigma=sigma)
    width = np.diff(at.borders) if at.borders.size > 1 else np.array([OPEN_SPREADS * at.spread])
    width = np.concatenate([width[:1], width, width[-1:]]) if at.borders.size > 1 else np.repeat(width, 2)
    middle = np.concatenate([[at.borders[0] - width[0] / 2], at.borders + width[1:] / 2])
    knots = np.sort(np.concatenate([middle, at.borders]))
    share_at = np.zeros((middle.size, knots.size))
    for level in range(middle.size):
        share_at[level, 2 * level] = 1.0
        share_at[level, [k for k in (2 * level - 1, 2 * level + 1) if 0 <= k < knots.size]] = 0.5
    where = at.position + at.spread * ERROR_POINTS
    share = np.array([ERROR_WEIGHTS @ np.interp(where, knots, row) for row in share_at])
    share = np.maximum(share, LEAST_SHARE)
    return _of_number(finding, share, value=value, sigma=sigma, text=text, source=source)


@dataclass(frozen=True)
class _Placed:
    """A number among the limits, both on the finding's scale and rising with the level, with its whole error."""

    position: float
    borders: FloatArray
    spread: float


def _placed(finding: Finding, value: float, *, sigma: float) -> _Placed:
    limits = np.asarray(finding.limits)
    if finding.log_scale:
        safe = max(value, 1e-9)
        spread = float(np.hypot(sigma / safe, finding.spread))
        position, borders = float(np.log(safe)), np.log(limits)
    else:
        spread = float(np.hypot(sigma, finding.spread))
        position, borders = value, limits
    sign = -1.0 if limits.size > 1 and limits[1] < limits[0] else 1.0
    return _Placed(sign * position, sign * borders, max(spread, 1e-6))


def _of_number(finding: Finding, share: FloatArray, *, value: float, sigma: float, text: str, source: str) -> Reading:
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
