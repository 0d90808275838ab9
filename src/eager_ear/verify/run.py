"""Many draws through the whole pipeline, one process a core."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Sequence
from functools import partial
from typing import TypeVar

from eager_ear.core.simulate import Physics
from eager_ear.core.simulate.scenario import OUR_PHYSICS
from eager_ear.knowledge import load_knowledge
from eager_ear.verify.calls import CallScore, Visit, drawn_truth, score_visit, visit
from eager_ear.verify.draws import bearing_draw, mixed_draw, stage_draw
from eager_ear.verify.gates import GateScore, score_gates
from eager_ear.verify.other_physics import OTHER_PHYSICS
from eager_ear.verify.score import CaseScore, score_case

OnDone = Callable[[CaseScore], None]
T = TypeVar("T")


def run_mixed_draws(seeds: Sequence[int], *, other: bool = False, on_done: OnDone = lambda _: None) -> list[CaseScore]:
    """Scores of the mixed draws, in the order of their seeds; by the other physics instead of our own."""
    return _pooled(partial(_score_mixed, other=other), seeds, on_done)


def run_bearing_draws(
    seeds: Sequence[int], *, stage: str | None, other: bool = False, on_done: OnDone = lambda _: None
) -> list[CaseScore]:
    """Scores of the bearing draws at one stage, or of sound machines."""
    return _pooled(partial(_score_bearing, stage=stage, other=other), seeds, on_done)


def run_stage_draws(seeds: Sequence[int], *, other: bool = False, on_done: OnDone = lambda _: None) -> list[CaseScore]:
    """Scores of bearings worn to any stage, as loud as they are."""
    return _pooled(partial(_score_stage, other=other), seeds, on_done)


def run_gates(seeds: Sequence[int], *, other: bool = False, on_done: Callable[[object], None]) -> list[GateScore]:
    """What the gates change in the mixed draws."""
    return _pooled(partial(_score_gates, other=other), seeds, on_done)


def run_visits(
    seeds: Sequence[int], *, only: str | None = None, on_done: Callable[[object], None] = lambda _: None
) -> list[CallScore]:
    """Whole visits, weighed in every way, or by hands or recordings only."""
    return _pooled(partial(_score_call, only=only), seeds, on_done)


def run_learning(seeds: Sequence[int], *, on_done: Callable[[object], None] = lambda _: None) -> list[Visit]:
    """Visits with one fault or none by our own physics, measured."""
    visits = _pooled(_learnt, seeds, on_done)
    return [v for v in visits if v is not None]


def _score_call(seed: int, only: str | None) -> CallScore:
    knowledge = load_knowledge()
    drawn = visit(seed, knowledge=knowledge, recorded=only != "hands")
    ways = {"hands": ("hands", "decisive"), "recordings": ("recordings",)}.get(only or "", ())
    return score_visit(drawn, knowledge=knowledge, ways=ways)


def _learnt(seed: int) -> Visit | None:
    knowledge = load_knowledge()
    if len(drawn_truth(seed, knowledge=knowledge).faults) > 1:
        return None
    return visit(seed, knowledge=knowledge, ours=True)


def _physics(other: bool) -> Physics:
    return OTHER_PHYSICS if other else OUR_PHYSICS


def _score_mixed(seed: int, other: bool) -> CaseScore:
    return score_case(mixed_draw(seed, physics=_physics(other)), knowledge=load_knowledge())


def _score_gates(seed: int, other: bool) -> GateScore:
    return score_gates(mixed_draw(seed, physics=_physics(other)), knowledge=load_knowledge())


def _score_bearing(seed: int, stage: str | None, other: bool) -> CaseScore:
    return score_case(bearing_draw(seed, stage=stage, physics=_physics(other)), knowledge=load_knowledge())


def _score_stage(seed: int, other: bool) -> CaseScore:
    return score_case(stage_draw(seed, physics=_physics(other)), knowledge=load_knowledge())


def _pooled(score: Callable[[int], T], seeds: Sequence[int], on_done: Callable[[T], None]) -> list[T]:
    # One thread a process: the transforms would otherwise fight for the cores.
    os.environ["OMP_NUM_THREADS"] = "1"
    out: list[T] = []
    with multiprocessing.get_context("spawn").Pool() as pool:
        for done in pool.imap(score, seeds):
            on_done(done)
            out.append(done)
    return out
