"""What all commands share: their parsers and how one ends on bad input."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, TypeAlias

BAD_INPUT = 2

if TYPE_CHECKING:
    # The standard library names the type of what `add_subparsers` returns nowhere else.
    Commands: TypeAlias = argparse._SubParsersAction[argparse.ArgumentParser]
else:
    Commands = object
