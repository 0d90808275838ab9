"""Commands on the running product and on what it keeps: demo, serve, stop, status, copies, papers."""

from __future__ import annotations

import argparse
import json
import os
import sys
from pathlib import Path
from typing import Literal

from eager_ear.cli.said import BAD_INPUT, Commands
from eager_ear.knowledge import load_knowledge


def add_to(commands: Commands) -> None:
    """Commands that start, stop, copy and ask the shop."""
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

    reweigh = commands.add_parser("reweigh", help="weigh all jobs again by the present knowledge, measuring nothing")
    reweigh.set_defaults(run=_reweigh)
    status = commands.add_parser("status", help="how it stands: what runs, what is kept, what waits, what went wrong")
    status.add_argument("--json", action="store_true")
    status.set_defaults(run=_status)
    commands.add_parser("openapi", help="print the OpenAPI schema").set_defaults(run=_openapi)


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


def _stop(_: argparse.Namespace) -> int:
    from eager_ear.host.running.run import stop_everything

    return stop_everything()


def _status(options: argparse.Namespace) -> int:
    from eager_ear.host.running.status import run_status

    return run_status(as_json=options.json)


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


def _reweigh(_: argparse.Namespace) -> int:
    from eager_ear.host.reweigh import run_reweigh

    return run_reweigh()


def _openapi(_: argparse.Namespace) -> int:
    from eager_ear.web.app import schema_only_app

    print(json.dumps(schema_only_app().openapi(), indent=1))
    return 0
