"""The command line: diagnose, quote, plan, simulate, bench, verify, serve, demo, stop.

Results go to standard output, messages to standard error. Exit status 0 when a result was printed, 2 for input that
cannot be used.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Literal

from eager_ear import __version__
from eager_ear.casefile import read_case_folder, unpacked, write_case_folder
from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.case import Case
from eager_ear.core.cost import Question, Shop, leading_faults, make_offer, offer_dict, offer_text
from eager_ear.core.diagnosis import Knowledge, percent
from eager_ear.core.errors import BadField, InputError
from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.result import result_dict
from eager_ear.core.simulate import SIMULATED_FAULTS, faults_of_layout, simulate_case, with_clamp
from eager_ear.core.strip import find_paths, make_plan, plan_dict, plan_text, read_setting
from eager_ear.knowledge import load_knowledge

BAD_INPUT = 2
# Seeds of simulated machines from here on were never looked at while the measurements were made, but for these.
REPORT_SEED = 240_001
# Visits of `docs/diagnosis.md`, and machines that the columns of sound were counted on.
CALLS_SEED = 900_001
LEARN_SEED = 300_000
ALSO_LOOKED_AT = "310001 to 310900"


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    options = _parser().parse_args(arguments)
    try:
        return int(options.run(options))
    except InputError as exc:
        print(exc.sentence(), file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="eager-ear", description="Hears a washer's spin test and names what fails.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    diagnose = commands.add_parser("diagnose", help="diagnose a case folder or zip")
    diagnose.add_argument("case", type=Path)
    diagnose.add_argument("--json", action="store_true", help="print the whole result as JSON")
    diagnose.set_defaults(run=_diagnose)

    simulate = commands.add_parser("simulate", help="write a simulated case with its truth")
    simulate.add_argument("out", type=Path)
    simulate.add_argument("--layout", choices=LAYOUT_CODES, required=True)
    simulate.add_argument("--fault", action="append", choices=SIMULATED_FAULTS, default=[])
    simulate.add_argument("--strength", type=float, help="0 (just begun) to 1 (far gone)")
    simulate.add_argument("--seed", type=int, required=True)
    simulate.add_argument("--no-audio", action="store_true")
    simulate.add_argument("--no-acceleration", action="store_true")
    simulate.add_argument("--current", action="store_true", help="log the motor's current as well")
    simulate.set_defaults(run=_simulate)

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
    verify.add_argument("--only", choices=("hands", "recordings"), help="with --calls: weigh these alone")
    verify.set_defaults(run=_verify)

    learn = commands.add_parser("learn", help="count how each fault is heard on simulated machines, for the knowledge")
    learn.add_argument("--draws", type=int, default=1400)
    learn.add_argument("--first-seed", type=int, default=LEARN_SEED)
    learn.add_argument("--out", type=Path, required=True, help="the file of counts, heard.toml of the knowledge")
    learn.set_defaults(run=_learn)

    for name, text in (("demo", "start everything with demo data"), ("serve", "start everything without demo data")):
        start = commands.add_parser(name, help=text)
        start.add_argument("--port", type=int, default=8321)
        start.add_argument("--host", default="127.0.0.1", help="address to serve at; by default this machine alone")
        start.add_argument(
            "--lan", action="store_true", help="for the shop's network, over https by an authority of its own"
        )
        start.add_argument("--certificate", type=Path, help="PEM file: serve over https, as phones want for recording")
        start.add_argument("--key", type=Path, help="PEM file with the certificate's key")
        start.add_argument("--copies", type=Path, help="folder for a copy of everything every day, on another disk")
        start.add_argument("--keep", type=int, default=14, help="how many of these copies are kept")
        start.set_defaults(run=_start, with_demo=name == "demo")
    commands.add_parser("stop", help="stop what demo or serve started").set_defaults(run=_stop)
    report = commands.add_parser("report", help="write a job's report for the customer, or the label, as a PDF")
    report.add_argument("job", help="the job's id, as its address in the browser ends")
    report.add_argument("--out", type=Path, default=Path("report.pdf"))
    report.add_argument("--size", choices=("a4", "letter"), default="a4")
    report.add_argument("--label", action="store_true", help="the label for the inside of the cabinet")
    report.set_defaults(run=_report)
    for name, text in (
        ("backup", "copy everything into one file, while the server runs or not"),
        ("restore", "read such a file into an empty data folder"),
    ):
        copying = commands.add_parser(name, help=text)
        copying.add_argument("file", type=Path)
        copying.add_argument(
            "--passphrase-file", type=Path, help="file whose first line seals the copy; or EAGER_EAR_PASSPHRASE"
        )
        copying.set_defaults(run=_copying, name=name)
    check = commands.add_parser("check", help="hold every stored byte against its checksum")
    check.set_defaults(run=_check)
    recover = commands.add_parser("recover", help="print a code by which somebody sets their password anew")
    recover.add_argument("name")
    recover.set_defaults(run=_recover)
    past = commands.add_parser("past", help="make the ended jobs that the demo's village looks back on")
    past.add_argument("--out", type=Path, required=True, help="the file that ships with the demo")
    past.set_defaults(run=_past)
    plan = commands.add_parser("plan", help="print how one or several repairs open, fit and close")
    plan.add_argument("--layout", choices=LAYOUT_CODES, required=True)
    plan.add_argument("--path", action="append", required=True, help="a repair path; several share one plan")
    plan.add_argument("--posture", help="how the machine is to stand; stacked where a dryer stays on top")
    plan.add_argument("--people", type=int, default=1, choices=(1, 2, 3))
    plan.add_argument("--variant", action="append", default=[], help="such as exit_rear, tabs, panel_bolted")
    plan.add_argument("--factor", type=float, default=1.0, help="how long this person takes, 1 for practised hands")
    plan.add_argument("--json", action="store_true")
    plan.set_defaults(run=_plan)

    quote = commands.add_parser("quote", help="print what can be done about a case, each with its sum")
    quote.add_argument("case", type=Path)
    quote.add_argument("--json", action="store_true")
    quote.set_defaults(run=_quote)

    reweigh = commands.add_parser("reweigh", help="weigh all jobs again by the present knowledge, measuring nothing")
    reweigh.set_defaults(run=_reweigh)
    status = commands.add_parser("status", help="how it stands: what runs, what is kept, what waits, what went wrong")
    status.add_argument("--json", action="store_true")
    status.set_defaults(run=_status)
    commands.add_parser("openapi", help="print the OpenAPI schema").set_defaults(run=_openapi)
    return parser


@dataclass(eq=False, kw_only=True)
class NoSuchCase(InputError):
    """A path under which there is neither a folder nor a file."""

    path: str

    def sentence(self) -> str:
        return f"{self.path}: there is no such case."


def _analysed(path: Path, knowledge: Knowledge) -> tuple[Case, Analysis]:
    """A case folder or zip, measured and weighed. Raises InputError."""
    if path.is_dir():
        case, description = read_case_folder(path, knowledge=knowledge)
    elif path.is_file():
        with unpacked(path) as folder:
            case, description = read_case_folder(folder, knowledge=knowledge)
    else:
        raise NoSuchCase(path=str(path))
    for warning in description.warnings:
        print(f"case.json: {warning}", file=sys.stderr)
    return case, analyse(case, knowledge=knowledge)


def _diagnose(options: argparse.Namespace) -> int:
    _, analysis = _analysed(options.case, load_knowledge())
    print(json.dumps(result_dict(analysis.weighed), ensure_ascii=False) if options.json else _summary(analysis))
    return 0


def _summary(analysis: Analysis) -> str:
    lines = [analysis.call.headline, analysis.call.because, ""]
    for suspect in analysis.call.suspects[:5]:
        lines.append(f"{percent(suspect.probability):>10}  {suspect.name}")
        lines += [f"{p.decibans:+10.1f} dB  {p.reading.text}" for p in suspect.pulls[:3] if abs(p.decibans) > 1.0]
    lines += ["", *(f"! {w.message}" for w in analysis.warnings)]
    return "\n".join(lines).rstrip()


def _simulate(options: argparse.Namespace) -> int:
    possible = faults_of_layout(options.layout, knowledge=load_knowledge())
    for fault in options.fault:
        if fault not in ("none", *possible):
            raise BadField(field="fault", reason=f"“{fault}” does not occur in layout {options.layout}.")
    simulated = simulate_case(
        layout=options.layout,
        faults=options.fault or ["none"],
        seed=options.seed,
        strength=options.strength,
        with_audio=not options.no_audio,
        with_acceleration=not options.no_acceleration,
    )
    if options.current:
        simulated = with_clamp(simulated, seed=options.seed)
    write_case_folder(options.out, simulated.case, truth=simulated.truth())
    print(f"{options.out}: {simulated.case.id}", file=sys.stderr)
    return 0


def _plan(options: argparse.Namespace) -> int:
    repair = load_knowledge().repair
    setting = read_setting(
        layout=options.layout,
        people=options.people,
        posture=options.posture,
        variants=options.variant,
        repair=repair,
    )
    if not 0.1 <= options.factor <= 10.0:
        raise BadField(field="factor", reason=f"{options.factor:g} is outside 0.1 to 10.")
    paths = find_paths(options.path, layout=options.layout, repair=repair)
    plan = make_plan(paths, setting=setting, repair=repair, factor=options.factor)
    print(json.dumps(plan_dict(plan), ensure_ascii=False) if options.json else plan_text(plan))
    return 0


def _quote(options: argparse.Namespace) -> int:
    knowledge = load_knowledge()
    case, analysis = _analysed(options.case, knowledge)
    chances = {s.fault: s.probability for s in analysis.call.suspects}
    question = Question(
        machine=case.machine,
        faults=leading_faults(chances),
        chances=chances,
        stage=next((s.stage for s in analysis.call.suspects if s.stage), None),
        day=date.today(),
    )
    offer = make_offer(question, shop=Shop(), prices={}, repair=knowledge.repair)
    print(json.dumps(offer_dict(offer), ensure_ascii=False) if options.json else offer_text(offer))
    return 0


def _bench(options: argparse.Namespace) -> int:
    if options.archive:
        from eager_ear.host.benches.archive import run_archive

        run_archive(jobs=options.jobs)
        return 0
    from eager_ear.host.benches.bench import run_bench

    run_bench(seconds=options.seconds)
    return 0


def _told_now_and_then() -> Callable[[object], None]:
    done = 0

    def told(_: object) -> None:
        nonlocal done
        done += 1
        if done % 20 == 0:
            print(f"{done} draws", file=sys.stderr)

    return told


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


def _written(page: str, out: Path | None) -> int:
    if out is None:
        print(page)
    else:
        out.write_text(page, encoding="utf-8")
    return 0


def _verify(options: argparse.Namespace) -> int:
    from eager_ear.verify import run_bearing_draws, run_mixed_draws, write_report

    if options.calls:
        return _verify_calls(options)
    first = options.first_seed
    told = _told_now_and_then()
    mixed = run_mixed_draws(range(first, first + options.draws), on_done=told)
    seeds = range(first, first + options.bearing_draws)
    bearing = {stage: run_bearing_draws(seeds, stage=stage, on_done=told) for stage in ("growl", "whine", None)}
    page = write_report(
        mixed,
        bearing,
        development=f"1 to {REPORT_SEED - 1}, {ALSO_LOOKED_AT}",
        reported=f"{first} to {first + max(options.draws, options.bearing_draws) - 1}",
    )
    return _written(page, options.out)


def _start(options: argparse.Namespace) -> int:
    from eager_ear.host.keeping.daily_copies import DailyCopies
    from eager_ear.host.running.run import Address, run_everything

    address = Address(
        host=options.host, port=options.port, certificate=options.certificate, key=options.key, lan=options.lan
    )
    if options.keep < 1:
        print("At least one copy is kept: --keep 1 or more.", file=sys.stderr)
        return BAD_INPUT
    copies = DailyCopies(folder=options.copies, keep=options.keep) if options.copies is not None else None
    return run_everything(address, with_demo=options.with_demo, copies=copies)


def _report(options: argparse.Namespace) -> int:
    from eager_ear.host.report import run_report

    kind: Literal["report", "label"] = "label" if options.label else "report"
    return run_report(options.job, out=options.out, size=options.size, kind=kind)


def _copying(options: argparse.Namespace) -> int:
    from eager_ear.host.keeping.backup import run_backup, run_restore

    passphrase = os.environ.get("EAGER_EAR_PASSPHRASE") or None
    if options.passphrase_file is not None:
        try:
            passphrase = options.passphrase_file.read_text("utf-8").partition("\n")[0].rstrip("\r")
        except (OSError, UnicodeDecodeError) as exc:
            print(f"The passphrase cannot be read: {exc}", file=sys.stderr)
            return BAD_INPUT
        if not passphrase:
            print("The passphrase's file begins with an empty line.", file=sys.stderr)
            return BAD_INPUT
    run = run_backup if options.name == "backup" else run_restore
    return run(options.file, passphrase=passphrase)


def _check(_: argparse.Namespace) -> int:
    from eager_ear.host.keeping.backup import run_check

    return run_check()


def _recover(options: argparse.Namespace) -> int:
    from eager_ear.host.recover import run_recover

    return run_recover(options.name)


def _past(options: argparse.Namespace) -> int:
    from eager_ear.host.village.past import make_past, past_as_bytes

    options.out.write_bytes(past_as_bytes(make_past(load_knowledge())))
    return 0


def _stop(_: argparse.Namespace) -> int:
    from eager_ear.host.running.run import stop_everything

    return stop_everything()


def _reweigh(_: argparse.Namespace) -> int:
    from eager_ear.host.reweigh import run_reweigh

    return run_reweigh()


def _status(options: argparse.Namespace) -> int:
    from eager_ear.host.running.status import run_status

    return run_status(as_json=options.json)


def _openapi(_: argparse.Namespace) -> int:
    from eager_ear.web.app import schema_only_app

    print(json.dumps(schema_only_app().openapi(), indent=1))
    return 0


if __name__ == "__main__":
    sys.exit(main())
