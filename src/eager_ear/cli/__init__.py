"""The command line: diagnose, quote, plan, simulate, bench, verify, serve, demo, stop.

Results go to standard output, messages to standard error. Exit status 0 when a result was printed, 2 for input that
cannot be used.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from eager_ear import __version__
from eager_ear.cli import cases, figures, house
from eager_ear.cli.said import BAD_INPUT
from eager_ear.core.errors import InputError


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit status."""
    parser = argparse.ArgumentParser(prog="eager-ear", description="Hears a washer's spin test and names what fails.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    for group in (cases, house, figures):
        group.add_to(commands)
    options = parser.parse_args(arguments)
    try:
        return int(options.run(options))
    except InputError as exc:
        print(exc.sentence(), file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        return 0
