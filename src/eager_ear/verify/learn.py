"""How often each level of a finding is heard with each fault, counted on our own simulator drawn wide.

`./ear learn` writes the counts as `knowledge/heard.toml`. What they are worth beside the judged columns, and the doubt
that remains about any simulator, stand in `knowledge/sound_findings.toml`; they were chosen on the other physics.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.counts import Counts
from eager_ear.core.diagnosis.evidence import Shown
from eager_ear.core.units import FloatArray
from eager_ear.verify.calls import Visit

HEAD = """# How many readings fell on each level of a finding, by the only fault of the machine: {count} machines of
# our own simulator ({seeds}), any layout, rough rooms and phones. Made by `./ear learn`; not written by hand.
"""


def heard_counts(visits: Iterable[Visit], *, knowledge: Knowledge) -> Counts:
    """Levels of every finding that a spin shows, by fault; visits with two faults are left out."""
    levels: dict[str, dict[str, FloatArray]] = {}
    for visit in visits:
        if len(visit.truth.faults) > 1:
            continue
        fault = visit.truth.faults[0] if visit.truth.faults else "none"
        for code, share in _levels(visit.shown, visit.truth.layout, knowledge).items():
            by_fault = levels.setdefault(code, {})
            by_fault[fault] = by_fault.get(fault, np.zeros(share.size)) + share
    return Counts(levels=levels)


def _levels(shown: Sequence[Shown], layout: str, knowledge: Knowledge) -> dict[str, FloatArray]:
    """The chance of each level given each reading alone, as shares of one case."""
    out: dict[str, FloatArray] = {}
    for run in shown:
        for reading in run.readings(knowledge.findings) if run.test == "spin" else ():
            if layout in reading.finding.layouts:
                likelihood = reading.level_likelihood
                out[reading.finding.code] = likelihood / float(likelihood.sum())
    return out


def counts_as_toml(counts: Counts, *, count: int, seeds: str) -> str:
    """The file."""
    lines = [HEAD.format(count=count, seeds=seeds)]
    for finding, by_fault in sorted(counts.levels.items()):
        lines.append(f"[levels.{finding}]")
        for fault, levels in sorted(by_fault.items()):
            lines.append(f"{fault} = [{', '.join(f'{v:.2f}' for v in levels)}]")
        lines.append("")
    return "\n".join(lines)
