"""How well measurements and calls do on machines whose truth is known: draws, scores, reports; what is learnt there."""

from eager_ear.verify.calls_report import write_calls_report
from eager_ear.verify.draws import Draw, bearing_draw, mixed_draw, stage_draw
from eager_ear.verify.gates import write_gates
from eager_ear.verify.learn import counts_as_toml, heard_counts
from eager_ear.verify.report import Scores, write_report
from eager_ear.verify.run import (
    run_bearing_draws,
    run_gates,
    run_learning,
    run_mixed_draws,
    run_stage_draws,
    run_visits,
)
from eager_ear.verify.score import CaseScore, score_case

__all__ = [
    "CaseScore",
    "Draw",
    "Scores",
    "bearing_draw",
    "counts_as_toml",
    "heard_counts",
    "mixed_draw",
    "run_bearing_draws",
    "run_gates",
    "run_learning",
    "run_mixed_draws",
    "run_stage_draws",
    "run_visits",
    "score_case",
    "stage_draw",
    "write_calls_report",
    "write_gates",
    "write_report",
]
