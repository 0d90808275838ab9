"""Readings from the customer's story: each symptom is reported or not."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from eager_ear.core.diagnosis.evidence.readings import Reading
from eager_ear.core.diagnosis.knowledge import Finding, Knowledge

# One customer tells all of it: who calls a growl a grinding says both of one noise (judgement).
TOLD_TOGETHER = 0.2


def story_readings(symptoms: Sequence[str], *, knowledge: Knowledge) -> list[Reading]:
    """One reading a symptom. An empty story says nothing: then nobody was asked."""
    if not symptoms:
        return []
    out: list[Reading] = []
    for symptom in knowledge.symptoms.values():
        reported = symptom.code in symptoms
        finding = Finding(
            code=f"symptom_{symptom.code}",
            name=symptom.name,
            unit="",
            levels=("not told", "told"),
            limits=(),
            log_scale=False,
            spread=0.0,
            group="story told" if reported else f"untold {symptom.code}",
            correlation=TOLD_TOGETHER,
            calm=np.array([1.0 - symptom.leak, symptom.leak]),
            given={f: np.array([1.0 - p, p]) for f, p in symptom.given.items()},
            reason="How often customers with that fault report it.",
        )
        said = "says" if reported else "does not report"
        text = f"the customer {said}: {symptom.name.lower()}"
        out.append(
            Reading(
                finding=finding,
                source="story",
                text=text,
                level_likelihood=np.array([0.0, 1.0]) if reported else np.array([1.0, 0.0]),
                weight=1.0 if reported else knowledge.silence_weight,
            )
        )
    return out
