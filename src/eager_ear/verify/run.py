"""Many draws through the whole pipeline, one process a core."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Sequence
from functools import partial

from eager_ear.knowledge import load_knowledge
from eager_ear.verify.draws import bearing_draw, mixed_draw
from eager_ear.verify.score import CaseScore, score_case

OnDone = Callable[[CaseScore], None]


def run_mixed_draws(seeds: Sequence[int], *, on_done: OnDone = lambda _: None) -> list[CaseScore]:
    """Scores of the mixed draws, in the order of their seeds."""
    return _pooled(_score_mixed, seeds, on_done)


def run_bearing_draws(seeds: Sequence[int], *, stage: str | None, on_done: OnDone = lambda _: None) -> list[CaseScore]:
    """Scores of the bearing draws at one stage, or of sound machines."""
    return _pooled(partial(_score_bearing, stage=stage), seeds, on_done)


def _score_mixed(seed: int) -> CaseScore:
    return score_case(mixed_draw(seed), knowledge=load_knowledge())


def _score_bearing(seed: int, stage: str | None) -> CaseScore:
    return score_case(bearing_draw(seed, stage=stage), knowledge=load_knowledge())


def _pooled(score: Callable[[int], CaseScore], seeds: Sequence[int], on_done: OnDone) -> list[CaseScore]:
    # One thread a process: the transforms would otherwise fight for the cores.
    os.environ["OMP_NUM_THREADS"] = "1"
    out: list[CaseScore] = []
    with multiprocessing.get_context("spawn").Pool() as pool:
        for done in pool.imap(score, seeds):
            on_done(done)
            out.append(done)
    return out
