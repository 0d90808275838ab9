"""The result in the open result format, as plain data."""

from __future__ import annotations

from typing import Any

from eager_ear.core.diagnosis import ACCESS_WORDS, Suspect
from eager_ear.core.signals.mechanics import BounceDecay, CornerComparison
from eager_ear.core.weigh import Weighed

RESULT_FORMAT = "eager-ear-result/1"
EVIDENCE_SHOWN = 24


def result_dict(weighed: Weighed) -> dict[str, Any]:
    """The result format; figures that could not be made are absent and named among the warnings."""
    warnings = [
        {"code": w.code, "message": w.message, **({"recording": w.recording} if w.recording else {})}
        for w in weighed.warnings
    ]
    lead = weighed.lead
    if lead is not None:
        warnings += [
            {"code": "not_measured", "message": f"{quantity.capitalize()} could not be measured: {reason}"}
            for quantity, reason in lead.absent.items()
        ]
    return {
        "format": RESULT_FORMAT,
        "suspects": [_suspect(s) for s in weighed.call.suspects],
        "measurements": dict(lead.figures) if lead is not None else {},
        **({"run": lead.key} if lead is not None and len(weighed.spins) > 1 else {}),
        **({"bounces": [_bounce(b) for b in weighed.bounces]} if weighed.bounces else {}),
        **({"corners": _corners(weighed.corners)} if weighed.corners is not None else {}),
        "others": [{"test": other.test, "run": other.key, "says": other.says} for other in weighed.others],
        "runs": [{"run": run.key, "measurements": dict(run.figures)} for run in weighed.spins],
        "next_checks": [
            {
                "check": c.check,
                "gain_bits": round(c.gain_bits, 3),
                "minutes": round(c.minutes, 1),
                "name": c.name,
                "how": c.how,
                "access": c.access,
                "access_words": ACCESS_WORDS[c.access],
                "outcomes": [
                    {
                        "level": o.level,
                        "chance": round(o.chance, 4),
                        "leader": o.leader,
                        "leader_probability": round(o.leader_probability, 4),
                    }
                    for o in c.outcomes
                ],
            }
            for c in weighed.call.next_checks
        ],
        "advice": weighed.call.advice,
        "headline": weighed.call.headline,
        "because": weighed.call.because,
        "warnings": warnings,
    }


def _bounce(bounce: BounceDecay) -> dict[str, float]:
    return {
        "critical_rpm": round(60 * bounce.rate_hz, 1),
        "suspension_damping_ratio": round(bounce.damping_ratio, 4),
        "suspension_damping_ratio_sigma": round(bounce.damping_sigma, 4),
        "friction_share": round(bounce.friction_share, 3),
    }


def _corners(comparison: CornerComparison) -> dict[str, Any]:
    return {
        "speed_rpm": [round(rpm) for rpm in comparison.speed_rpm],
        "levels": [
            {"corner": c.corner, "level_db": round(c.level_db, 2), "sigma_db": round(c.sigma_db, 2)}
            for c in comparison.corners
        ],
    }


def _suspect(suspect: Suspect) -> dict[str, Any]:
    out: dict[str, Any] = {
        "fault": suspect.fault,
        "name": suspect.name,
        "short": suspect.short,
        # Never 0 or 1: no evidence is that good, and odds must stay finite for whoever reads this.
        "probability": round(min(max(suspect.probability, 1e-6), 1.0 - 1e-6), 6),
        "prior_db": round(suspect.prior_db, 2),
        "posterior_db": round(suspect.prior_db + sum(p.decibans for p in suspect.pulls), 2),
    }
    if suspect.stage is not None:
        out["stage"] = suspect.stage
        out["stages"] = {stage: round(chance, 3) for stage, chance in suspect.stages.items()}
    out["evidence"] = [
        {
            "finding": p.reading.text,
            "weight_db": round(p.decibans, 2),
            "code": p.reading.finding.code,
            "name": p.reading.finding.name,
            "source": p.reading.source,
            "level": p.reading.level,
            "reason": p.reading.finding.reason,
            **({"value": round(p.reading.value, 4)} if p.reading.value is not None else {}),
            **({"sigma": round(p.reading.sigma, 4)} if p.reading.sigma is not None else {}),
            **({"unit": p.reading.finding.unit} if p.reading.finding.unit else {}),
        }
        for p in suspect.pulls[:EVIDENCE_SHOWN]
    ]
    return out
