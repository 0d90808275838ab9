"""How far a worn bearing has gone: whine, growl or collapsed, with the odds of each.

The stage is a cause of its own behind what hands and recordings show of a bearing that is worn: given the fault, Bayes'
rule over its stages, with what each finding shows at each of them.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

import numpy as np

from eager_ear.core.diagnosis.evidence import Reading
from eager_ear.core.diagnosis.knowledge import Stages
from eager_ear.core.units import FloatArray


def stages_of(table: Mapping[str, Any], *, levels: Mapping[str, int], symptoms: Collection[str]) -> Stages:
    """The stages from their file.

    Parameters
    ----------
    levels : how many levels each finding has

    Raises
    ------
    ValueError
        An unknown finding or symptom, a stage left out, or a column that is no distribution over the levels.
    """
    often = {code: float(row["often"]) for code, row in table["stage"].items()}
    measured = {code: tuple(float(v) for v in row["limits"]) for code, row in table["measured"].items()}
    sizes = {**levels, **{code: len(limits) + 1 for code, limits in measured.items()}}
    shows: dict[str, dict[str, FloatArray]] = {}
    for finding, row in table["shows"].items():
        columns = {stage: np.asarray(row.get(stage, ()), dtype=float) for stage in often}
        for stage, column in columns.items():
            if finding not in sizes or column.size != sizes[finding] or abs(column.sum() - 1.0) > 0.01:
                raise ValueError(f"{stage} is no distribution over the levels of {finding}")
        shows[finding] = columns
    for symptom, chances in table["told"].items():
        if symptom not in symptoms or set(chances) != set(often):
            raise ValueError(f"the symptom {symptom} is unknown, or not told of every stage")
    return Stages(faults=tuple(table["faults"]), often=often, shows=shows, measured=measured, told=dict(table["told"]))


def stage_chances(
    stages: Stages, *, readings: Sequence[Reading], symptoms: Collection[str], measured: Mapping[str, float | None]
) -> dict[str, float]:
    """Chance of each stage where the bearing is worn, by all that was read and told.

    Parameters
    ----------
    measured : quantities that tell nothing but the stage, None where they are not known
    """
    chances = {stage: often / sum(stages.often.values()) for stage, often in stages.often.items()}
    seen = {reading.finding.code: reading.level_likelihood for reading in readings}
    for code, limits in stages.measured.items():
        value = measured.get(code)
        if value is not None:
            seen[code] = np.eye(len(limits) + 1)[sum(value > limit for limit in limits)]
    for finding, columns in stages.shows.items():
        if finding in seen:
            chances = {stage: chance * float(seen[finding] @ columns[stage]) for stage, chance in chances.items()}
    for symptom in symptoms:
        if symptom in stages.told:
            chances = {stage: chance * stages.told[symptom][stage] for stage, chance in chances.items()}
    total = sum(chances.values())
    return {stage: chance / total for stage, chance in chances.items()}
