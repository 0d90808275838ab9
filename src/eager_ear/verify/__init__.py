"""How well the measurements do on machines whose truth is known: draws, scores, report."""

from eager_ear.verify.draws import Draw, bearing_draw, mixed_draw
from eager_ear.verify.report import write_report
from eager_ear.verify.run import run_bearing_draws, run_mixed_draws
from eager_ear.verify.score import CaseScore, score_case

__all__ = [
    "CaseScore",
    "Draw",
    "bearing_draw",
    "mixed_draw",
    "run_bearing_draws",
    "run_mixed_draws",
    "score_case",
    "write_report",
]
