"""A code for a forgotten password, for whoever sits at the machine that serves."""

from __future__ import annotations

import sys

from eager_ear.core.errors import InputError
from eager_ear.host.running.at_hand import database_at_hand
from eager_ear.host.running.mariadb import MariaDbProblem
from eager_ear.store import StoreError
from eager_ear.use_cases.shop.people import recover_by_name

BAD_INPUT = 2


def run_recover(name: str) -> int:
    """Print the code; returns the exit status."""
    try:
        with database_at_hand() as database:
            code = recover_by_name(database, name=name)
    except InputError as exc:
        print(exc.sentence(), file=sys.stderr)
        return BAD_INPUT
    except (MariaDbProblem, StoreError) as exc:
        print(exc, file=sys.stderr)
        return 1
    print(f"{name} sets a password anew with this code, once, within three days: {code}")
    return 0
