"""Commands that measure the product itself: bench, verify, learn."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from pathlib import Path

from eager_ear.cli.said import Commands
from eager_ear.knowledge import load_knowledge

# Seeds of simulated machines from here on were never looked at while the measurements were made, but for these.
REPORT_SEED = 240_001
# Visits of `docs/diagnosis.md`, and machines that the columns of sound were counted on.
CALLS_SEED = 900_001
LEARN_SEED = 300_000
ALSO_LOOKED_AT = "310001 to 310900, 700001 to 700150, 710001 to 760110, 910001 to 920200"


def add_to(commands: Commands) -> None:
    """Commands that take minutes and print figures."""
    bench = commands.add_parser("bench", help="time every stage against a bare transform and a plain baseline")
    bench.add_argument("--seconds", type=float, default=60.0)
    archive = "how fast the server answers with 100 000 jobs and a million recordings instead"
    bench.add_argument("--archive", action="store_true", help=archive)
    bench.add_argument("--jobs", type=int, default=100_000, help="how many jobs the archive holds")
    bench.set_defaults(run=_bench)

    verify = commands.add_parser("verify", help="measure simulated machines and report the errors against the truth")
    verify.add_argument("--draws", type=int, default=300, help="mixed draws")
    verify.add_argument("--bearing-draws", type=int, default=100, help="at each stage, and as many sound machines")
    verify.add_argument("--first-seed", type=int, default=REPORT_SEED, help="seeds below it are for development")
    verify.add_argument("--out", type=Path, help="write the page there instead of to standard output")
    verify.add_argument("--calls", action="store_true", help="how good the call is on whole visits instead")
    verify.add_argument("--gates", action="store_true", help="what each rule that holds back is worth instead")
    verify.add_argument("--only", choices=("hands", "recordings"), help="with --calls: weigh these alone")
    verify.set_defaults(run=_verify)

    learn = commands.add_parser("learn", help="count how each fault is heard on simulated machines, for the knowledge")
    learn.add_argument("--draws", type=int, default=1400)
    learn.add_argument("--first-seed", type=int, default=LEARN_SEED)
    learn.add_argument("--out", type=Path, required=True, help="the file of counts, heard.toml of the knowledge")
    learn.set_defaults(run=_learn)


def _bench(options: argparse.Namespace) -> int:
    if options.archive:
        from eager_ear.host.benches.archive import run_archive

        run_archive(jobs=options.jobs)
        return 0
    from eager_ear.host.benches.bench import run_bench

    run_bench(seconds=options.seconds)
    return 0


def _verify(options: argparse.Namespace) -> int:
    from eager_ear.verify import Scores, run_bearing_draws, run_mixed_draws, run_stage_draws, write_report

    if options.calls:
        return _verify_calls(options)
    if options.gates:
        return _verify_gates(options)
    first = options.first_seed
    told = _told_now_and_then()

    def drawn(other: bool) -> Scores:
        seeds = range(first, first + options.bearing_draws)
        return Scores(
            mixed=run_mixed_draws(range(first, first + options.draws), other=other, on_done=told),
            bearing={
                stage: run_bearing_draws(seeds, stage=stage, other=other, on_done=told)
                for stage in ("growl", "whine", None)
            },
            stages=run_stage_draws(seeds, other=other, on_done=told),
        )

    page = write_report(
        drawn(False),
        drawn(True),
        development=f"1 to {REPORT_SEED - 1}, {ALSO_LOOKED_AT}",
        reported=f"{first} to {first + max(options.draws, options.bearing_draws) - 1}",
    )
    return _written(page, options.out)


def _verify_gates(options: argparse.Namespace) -> int:
    from eager_ear.verify import run_gates, write_gates

    seeds = range(options.first_seed, options.first_seed + options.draws)
    ours, other = (run_gates(seeds, other=other, on_done=_told_now_and_then()) for other in (False, True))
    return _written(write_gates(ours, other, first_seed=options.first_seed), options.out)


def _verify_calls(options: argparse.Namespace) -> int:
    from eager_ear.verify import run_visits, write_calls_report

    first = options.first_seed if options.first_seed != REPORT_SEED else CALLS_SEED
    seeds = range(first, first + options.draws)
    scores = run_visits(seeds, only=options.only, on_done=_told_now_and_then())
    page = write_calls_report(scores, seeds=f"{seeds[0]} to {seeds[-1]}", knowledge=load_knowledge())
    return _written(page, options.out)


def _learn(options: argparse.Namespace) -> int:
    from eager_ear.verify import counts_as_toml, heard_counts, run_learning

    seeds = range(options.first_seed, options.first_seed + options.draws)
    visits = run_learning(seeds, on_done=_told_now_and_then())
    counts = heard_counts(visits, knowledge=load_knowledge())
    return _written(counts_as_toml(counts, count=len(visits), seeds=f"seeds {seeds[0]} to {seeds[-1]}"), options.out)


def _told_now_and_then() -> Callable[[object], None]:
    done = 0

    def told(_: object) -> None:
        nonlocal done
        done += 1
        if done % 20 == 0:
            print(f"{done} draws", file=sys.stderr)

    return told


def _written(page: str, out: Path | None) -> int:
    if out is None:
        print(page)
    else:
        out.write_text(page, encoding="utf-8")
    return 0
