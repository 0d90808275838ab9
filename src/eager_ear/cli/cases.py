"""Commands on one case, or on none: diagnose, quote, plan, simulate."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from eager_ear.casefile import read_case_folder, unpacked, write_case_folder
from eager_ear.cli.said import Commands
from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.case import Case
from eager_ear.core.cost import Question, Shop, leading_faults, make_offer, offer_dict, offer_text
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField, InputError
from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.result import result_dict
from eager_ear.core.simulate import SIMULATED_FAULTS, faults_of_layout, simulate_case, with_clamp
from eager_ear.core.strip import find_paths, make_plan, plan_dict, plan_text, read_setting
from eager_ear.core.units import percent
from eager_ear.knowledge import load_knowledge


def add_to(commands: Commands) -> None:
    """Commands that need no server and no database."""
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
